"""The stations are found in the folders beside this file, and entered where pages look for them."""

from importlib import import_module
from pathlib import Path

from django.apps import AppConfig


class StationsConfig(AppConfig):
    """All of them."""

    name = "loadstar.web.stations"
    label = "stations"

    def ready(self) -> None:
        """Enter them, by their numbers."""
        from ..frame import registry  # which reads models, so not before all apps are there

        folders = sorted(folder.parent.name for folder in Path(__file__).parent.glob("*/__init__.py"))
        registry.enter(import_module(f"{self.name}.{folder}").STATION for folder in folders)
