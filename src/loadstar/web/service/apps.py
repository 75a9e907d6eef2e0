"""The app's name."""

from django.apps import AppConfig


class ServiceConfig(AppConfig):
    """The commands."""

    name = "loadstar.web.service"
    label = "service"
