"""The app's name."""

from django.apps import AppConfig


class PlansConfig(AppConfig):
    """See the package."""

    name = "loadstar.web.plans"
    label = "plans"
