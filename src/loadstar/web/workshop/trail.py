"""Adds to the trail of who did what."""

from .models import Person, Trail, Workshop


def note(what: Trail.What, person: Person | None, workshop: Workshop | None = None, about: str = "") -> None:
    """One line: who, what, about what; None as the person is Loadstar itself."""
    Trail.objects.create(workshop=workshop, person=person, name=person.shown_name if person else "Loadstar", what=what,
                         about=about[:200])
