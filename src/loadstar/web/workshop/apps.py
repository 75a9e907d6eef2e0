"""The app's name."""

from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    """People, workshops, membership, sign-in."""

    name = "loadstar.web.workshop"
    label = "workshop"
