"""The connectors that fewest pins go into: which pins share one, how many ways it has, and in which order they go."""

from collections.abc import Sequence
from dataclasses import dataclass

from .pins import Consolidation, Pin

HOUSINGS = (1, 2, 3, 4, 6, 8, 12, 14, 16, 24)  # ways that connectors are made with
POWER, HEAVY = "power, apart from 5 V signals", "heavy or high voltage, apart"


@dataclass(frozen=True)
class Joint:
    """A connector for some of the pins, in order: the ways that are wanted, and of the smallest that has them (None:
    none is made). `why` says what is kept apart in it, without ways to spare; "": nothing is."""

    pins: tuple[Pin, ...]
    wanted: int
    ways: int | None
    why: str


def joints(found: Consolidation, spare: int, *, together: bool = False) -> tuple[Joint, ...]:
    """The connectors: heavy and high-voltage pins in one of their own, power in another where 5 V signals are among the
    rest (unless all of it may be `together`), the rest with so many ways to spare."""
    signals = not together and any(lead.is_signal for p in found.pins for lead in p.leads)
    groups: dict[str, list[Pin]] = {"": [], POWER: [], HEAVY: []}
    for pin in found.pins:
        groups[HEAVY if pin.is_apart else POWER if signals and pin.is_power else ""].append(pin)
    made = []
    for why, pins in groups.items():
        if pins:
            wanted = len(pins) + (0 if why else spare)
            made.append(Joint(in_order(pins), wanted, housing(wanted), why))
    return tuple(made)


def housing(ways: int) -> int | None:
    """The smallest connector with so many ways; None where none is made."""
    return next((n for n in HOUSINGS if n >= ways), None)


def in_order(pins: Sequence[Pin]) -> tuple[Pin, ...]:
    """Pins as they go into a connector: twisted ones side by side, feeds first, grounds last, so that they are not
    beside one another."""
    left = sorted(pins, key=lambda p: (p.net.lower().startswith("ground"), -p.amps, p.net, p.leads[0].name))
    found: list[Pin] = []
    while left:
        pin = left.pop(0)
        found.append(pin)
        partners = {lead.twist for lead in pin.leads if lead.twist}
        for other in [p for p in left if partners & {lead.name for lead in p.leads}]:
            left.remove(other)
            found.append(other)
    return tuple(found)
