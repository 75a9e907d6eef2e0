"""A part as what it can be asked as: the one place that says which kinds can.

Each gives the part back with the type that its askers need, or None where it cannot be asked so.
"""

from .base import Part
from .coupling import Coupling
from .fed import Fed
from .load import LoadPart
from .pack import Pack
from .tap import Tap


def as_accessory(part: Part) -> LoadPart | None:
    """Something that is wanted, hangs on a feed, and draws."""
    return part if isinstance(part, LoadPart) else None


def as_between(part: Part) -> Fed | None:
    """Something that hangs on a feed and feeds others: a switch, a flasher, a block, a converter."""
    return part if isinstance(part, Fed) else None


def as_found_wire(part: Part) -> Tap | None:
    """A wire or pin of the machine, as somebody found it."""
    return part if isinstance(part, Tap) else None


def as_mated(part: Part) -> Coupling | None:
    """Two halves that come apart, wires on both sides of their ways."""
    return part if isinstance(part, Coupling) else None


def as_pack(part: Part) -> Pack | None:
    """A store with limits of its own, of which several may lie on one rail."""
    return part if isinstance(part, Pack) else None
