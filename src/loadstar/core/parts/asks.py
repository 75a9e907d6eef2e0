"""What a form asks of a part: one question a field."""

from dataclasses import dataclass
from typing import Literal

from ..doc.states import LIVES_WITH
from ..materials.fuses import KINDS


@dataclass(frozen=True)
class Ask:
    """One question: the field that it fills, its words, a hint, and how it is asked. `unit` None: the one in the
    field's name."""

    name: str
    label: str
    help: str = ""
    kind: Literal["quantity", "text", "note", "choice", "several", "whole", "yes"] = "quantity"
    choices: tuple[tuple[str, str], ...] = ()
    unit: str | None = None
    optional: bool = False


BEHAVES = (("power", "constant power"), ("resistor", "resistor"), ("filament", "filament lamp"),
           ("current", "constant current"))
CHEMISTRIES = (("agm", "AGM"), ("flooded", "flooded"), ("lfp", "LiFePO4"))  # of 12 V batteries
PATTERNS = tuple((key, kind.words) for key, kind in KINDS.items())  # of fuses
COLOURS = (("BK", "black"), ("BN", "brown"), ("RD", "red"), ("OG", "orange"), ("YE", "yellow"), ("GN", "green"),
           ("BU", "blue"), ("VT", "violet"), ("GY", "grey"), ("WH", "white"), ("PK", "pink"), ("TQ", "turquoise"))
LIVES: tuple[tuple[str, str], ...] = tuple(LIVES_WITH.items())
LIVE = LIVES[:3]  # of what is fed by the machine's own supply alone
FOUND_LIVE = tuple(one for one in LIVES if one[0] != "switch")
NEVER = (("", "nothing that is never tapped"), *((k, k) for k in ("airbag", "ABS", "throttle", "CAN")))

BREAKS = Ask("breaks_v", "Breaks up to", "DC. Empty: not said. 28 V is usual; a pack has more.", optional=True)


def name(label: str = "Name") -> Ask:
    """What it is called."""
    return Ask("name", label, kind="text")


def place(label: str = "Where it sits") -> Ask:
    """Which place it is at."""
    return Ask("place", label, kind="choice")


def whole(field: str, label: str, values: tuple[int, ...] | range, words: str = "{}") -> Ask:
    """One of some whole numbers."""
    return Ask(field, label, kind="whole", choices=tuple((str(v), words.format(v)) for v in values))


def same(field: str, label: str, values: tuple[str, ...]) -> Ask:
    """One of some values that are words already."""
    return Ask(field, label, kind="choice", choices=tuple((v, v) for v in values))
