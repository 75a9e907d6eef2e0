"""The app's name."""

from django.apps import AppConfig


class RecordsConfig(AppConfig):
    """See the package."""

    name = "loadstar.web.records"
    label = "records"
