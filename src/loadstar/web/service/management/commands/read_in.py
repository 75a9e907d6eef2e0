"""`read_in DESCRIPTOR [--whole]`: a backup, open under a number, into the empty database; what came as JSON.

The process is bounded in memory, whatever the file is made of.
"""

import json
import os
import resource
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from ....keeping.backup import LEFT_OUT
from ....keeping.faults import Damaged
from ....keeping.reading import Backup
from ....keeping.restoring import read_in

SENTENCE = 4  # the exit code with which a command ends that has said all in one sentence
MOST_BYTES = 1024**3


class Command(BaseCommand):
    """Read a backup."""

    help = "Read a backup into the empty database."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: Any) -> None:
        """Which."""
        parser.add_argument("descriptor", type=int)
        parser.add_argument("--whole", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
        try:
            with os.fdopen(options["descriptor"], "rb") as file:
                backup = Backup(file)
                found = read_in(connection, backup, () if options["whole"] else LEFT_OUT)
        except Damaged as fault:
            raise CommandError(str(fault), returncode=SENTENCE) from fault
        except MemoryError as error:
            raise CommandError("is made to take all memory: not read", returncode=SENTENCE) from error
        self.stdout.write(json.dumps({"made": backup.made, "tables": len(backup.told),
                                      "rows": sum(s.rows for s in found.values())}))
