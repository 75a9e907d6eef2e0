"""`schema`: which migrations this version has, and which the database has had, as JSON. Changes nothing."""

import json
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    """Compare the program's migrations with the database's."""

    help = "Say which migrations are missing from the database and which are unknown to this version, as JSON."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        loader = MigrationLoader(connection)
        applied, ours = set(loader.applied_migrations), set(loader.disk_migrations)
        known = applied & set(loader.graph.nodes) | {key for key in applied if key in loader.replacements}
        apps = {app for app, _ in ours}
        self.stdout.write(json.dumps({
            "missing": sorted(".".join(key) for key in ours - applied),
            "unknown": sorted(".".join(key) for key in applied - known if key[0] in apps),
            "applied": sorted(applied)}))
