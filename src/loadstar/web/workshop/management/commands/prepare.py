"""`prepare [--demo]`: migrate, load the demo workshop if it is not there, print how to get in."""

import secrets
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from ....plans.demo import load_demo
from ...models import Person


class Command(BaseCommand):
    """Bring the database to where serving can begin."""

    help = "Migrate; with --demo load the demonstration; print the set-up code of an empty database."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: Any) -> None:
        """One switch."""
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        call_command("migrate", verbosity=0, interactive=False)
        if options["demo"]:
            name, password = load_demo()
            self.stdout.write(f"Demo workshop: press “Enter the demo workshop”, or sign in as {name}, password "
                              f"{password}")
        elif not Person.objects.exists():
            self.stdout.write(f"Nobody is set up yet. Open the address below and enter this code: {self.setup_code()}")

    @staticmethod
    def setup_code() -> str:
        """The one-time code, kept in var/ until the first member is made."""
        path = settings.SETUP_CODE_FILE
        if not path.exists():
            path.touch(mode=0o600)
            path.write_text(secrets.token_hex(4))
        return path.read_text().strip()
