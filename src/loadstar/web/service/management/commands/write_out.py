"""`write_out FILE [--whole]`: everything that is kept into one new file; its figures as JSON. For `./loadstar
backup`."""

import json
import os
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection

from ....keeping.backup import LEFT_OUT, write


class Command(BaseCommand):
    """Write a backup of the database as it is."""

    help = "Write everything that is kept into a new file; with --whole sessions and the like too."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: Any) -> None:
        """Where to."""
        parser.add_argument("file")
        parser.add_argument("--whole", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        connection.ensure_connection()
        descriptor = os.open(options["file"], os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(descriptor, "w+b") as file:
            sums = write(connection, file, () if options["whole"] else LEFT_OUT)
        self.stdout.write(json.dumps({"tables": len(sums), "rows": sum(s.rows for s in sums.values())}))
