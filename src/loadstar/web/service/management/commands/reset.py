"""`reset NAME`: a one-time address by which somebody sets a new password, for whoever runs the server."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.urls import reverse

from ....workshop.models import Person, Trail
from ....workshop.signs import new_reset_code
from ....workshop.trail import note


class Command(BaseCommand):
    """Help an owner who forgot the password."""

    help = "Print a one-time address by which a person sets a new password."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: Any) -> None:
        """Whom."""
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        person = Person.named(options["name"])
        if person is None:
            raise CommandError(f"There is nobody named {options['name']}.")
        note(Trail.What.RESET, None, about=person.shown_name)
        address = reverse("reset", args=[new_reset_code(person)])
        self.stdout.write(f"For {person.shown_name}, once, within a day: {address}")
