"""The app's name."""

from django.apps import AppConfig


class StationsConfig(AppConfig):
    """See the package."""

    name = "loadstar.web.stations"
    label = "stations"
