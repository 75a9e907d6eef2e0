"""`work`: make what is asked for beside the requests, one job after the other, within a process\'s own limits. It ends
after a while, and whoever started it starts it again."""

import os
import resource
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

NICER = 15  # than the processes that answer pages
LOOKS_S = 0.2
MOST_TASKS = 200


class Command(BaseCommand):
    """A worker."""

    help = "Make what is asked for beside the requests."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        os.nice(NICER)
        resource.setrlimit(resource.RLIMIT_DATA, (settings.JOB_MOST_BYTES, settings.JOB_MOST_BYTES))
        call_command("db_worker", queue_name="*", interval=LOOKS_S, max_tasks=MOST_TASKS, startup_delay=False,
                     reload=False, verbosity=0)
