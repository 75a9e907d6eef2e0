"""What every page knows."""

from django.conf import settings
from django.http import HttpRequest


def site(request: HttpRequest) -> dict[str, object]:
    """Theme and keys of the person, and whether this is the demonstration."""
    person = getattr(request, "user", None)
    known = person is not None and person.is_authenticated
    return {"demo": settings.DEMO, "theme": person.theme if known else "auto",
            "single_keys": person.single_keys if known else False}
