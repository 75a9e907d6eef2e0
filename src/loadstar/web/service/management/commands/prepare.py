"""`prepare [--demo]`: mend what an earlier version left wrong; load the demo workshop if it is not there, or see that
its sign-in is not to be had; print how to get in."""

import os
import secrets
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from ....records import store
from ....records.tasks import refresh_all
from ....workshop.models import Person
from ....workshop.signs import DEMO_PERSON
from ....workshop.views import nobody_yet
from ...demo import DEMO_PASSWORD, load_demo


class Command(BaseCommand):
    """Bring the database to where serving can begin."""

    help = "With --demo load the demonstration; else lock its sign-in and print the set-up code when nobody is set up."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: Any) -> None:
        """One switch."""
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        for row, was in store.mend_heads():
            self.stdout.write(f"Plan {row.pk} stood at revision {was} though {row.newest} was there, by a fault of an "
                              "earlier version: repaired. Nothing of it is lost.")
        refresh_all()
        if options["demo"]:
            name, password = load_demo()
            self.stdout.write(f"Demo workshop: press “Enter the demo workshop”, or sign in as {name}, password "
                              f"{password}")
            return
        for person in Person.objects.filter(username=DEMO_PERSON):
            if person.check_password(DEMO_PASSWORD):  # which is published
                person.set_unusable_password()
                person.save()
                self.stdout.write("The data hold the demonstration's workshop: its published sign-in has been locked.")
        if nobody_yet():
            self.stdout.write(f"Nobody is set up yet. Open the address below and enter this code: {self.setup_code()}")

    @staticmethod
    def setup_code() -> str:
        """The one-time code, kept in var/ until the first member is made: whole, or not there."""
        path = settings.SETUP_CODE_FILE
        code = path.read_text().strip() if path.exists() else ""
        if not code:
            code, new = "-".join(secrets.token_hex(2) for _ in range(5)), path.with_name(path.name + ".new")
            with os.fdopen(os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
                file.write(code)
                file.flush()
                os.fsync(file.fileno())
            new.replace(path)
        return code
