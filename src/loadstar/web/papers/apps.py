"""The app's name."""

from django.apps import AppConfig


class PapersConfig(AppConfig):
    """See the package."""

    name = "loadstar.web.papers"
    label = "papers"
