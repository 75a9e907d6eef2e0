"""Registers the app."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Work beside the request."""

    name = "loadstar.web.jobs"
    label = "jobs"
    default_auto_field = "django.db.models.BigAutoField"
