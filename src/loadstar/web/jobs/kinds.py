"""What can be made beside the request; `settings.JOB_KINDS` names each kind and who makes it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Protocol, cast

from django.conf import settings
from django.utils.module_loading import import_string

from .models import Job


@dataclass(frozen=True)
class Piece:
    """A part of a job: what it is called among the job's parts, in words, and about how many pages it will have."""

    key: str
    words: str
    pages: int = 1


@dataclass(frozen=True)
class Made:
    """What came of a job: a file, or the address where it is to be seen."""

    content: bytes = b""
    content_type: str = ""
    name: str = ""
    link: str = ""


class Kind(Protocol):
    """How jobs of a kind are made. PlanError where what was sent will not do."""

    patience_s: float | None  # given up when nobody has looked for so long; None: never

    def pieces(self, job: Job) -> Sequence[Piece]:
        """The parts that are made each by itself; none: it is made whole."""

    def piece(self, job: Job, key: str) -> bytes:
        """One of them."""

    def whole(self, job: Job, made: Sequence[bytes]) -> Made:
        """All of it, from its parts in their order."""


@cache
def kind_of(name: str) -> Kind:
    """Who makes the jobs of a kind."""
    return cast(Kind, import_string(settings.JOB_KINDS[name])())
