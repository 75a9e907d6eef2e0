"""Room on the disk that holds the data: said before there is none, and nothing taken that could not be kept."""

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from .errors import no_room

SCARCE_BYTES, LEAST_BYTES = 500 * 1024**2, 48 * 1024**2
SIGNING = ("/sign-in/", "/sign-out/", "/enter-demo/")  # rows of a few bytes, and without them nobody can look


@dataclass(frozen=True)
class Left:
    """What is left on the disk of the data folder."""

    free_bytes: int
    where: Path

    @property
    def scarce(self) -> bool:
        """Whether it is time to see to it."""
        return self.free_bytes < SCARCE_BYTES

    @property
    def none(self) -> bool:
        """Whether nothing more is taken."""
        return self.free_bytes < LEAST_BYTES

    @property
    def words(self) -> str:
        """A sentence of it."""
        free = f"{self.free_bytes / 1024**2:.0f} MB free at {self.where}"
        if self.none:
            return f"the disk is full: {free}, so that nothing is taken in"
        return f"the disk is nearly full: {free}"


def left() -> Left | None:
    """What is left; None where the data are not on a disk of ours."""
    if settings.DATA is None:
        return None
    return Left(shutil.disk_usage(settings.DATA).free, settings.DATA)


class Room:
    """Middleware: what is sent while there is no room is not taken, and comes back with the figure, to be sent
    again."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer one request."""
        if request.method not in ("GET", "HEAD", "OPTIONS") and request.path not in SIGNING:
            now = left()
            if now is not None and now.none:
                return no_room(request, now.words)
        return self.get_response(request)
