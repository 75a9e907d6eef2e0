"""Kinds of connectors compared for one in the harness: which take all its wires, how near to their amps they come."""

from dataclasses import dataclass

from ..materials.terminals import SEALED, Family, Terminal
from ..parts.coupling import Coupling
from .choose import Ends, of_family

CONNECTORS: tuple[Family, ...] = (*SEALED, "blade 2.8", "blade 4.8", "blade 6.3", "blade 9.5", "bullet 3.9",
                                  "high current")
MOST_WAYS: dict[Family, int] = {"sealed small": 3, "bullet 3.9": 1, "high current": 2, "blade 9.5": 4, "blade 6.3": 8}


@dataclass(frozen=True)
class Option:
    """One kind: why it is not for this connector (""; it would do), the largest share of a contact's amps that a wire
    brings, its contact's resistance new and aged (mΩ), and the terminals that its wires would take."""

    family: Family
    why_not: str
    share: float
    mohm: tuple[float, float]
    terminals: tuple[Terminal, ...]

    @property
    def is_sealed(self) -> bool:
        """Whether it keeps water out."""
        return self.family in SEALED


def compare(ends: Ends, part: Coupling) -> tuple[Option, ...]:
    """Every kind, those that do first, of those the one that keeps water out and is least loaded."""
    wet = ends.plan.place(part.place).water != "dry"
    found = [_option(ends, part, family) for family in CONNECTORS]
    return tuple(sorted(found, key=lambda o: (bool(o.why_not), wet and not o.is_sealed, round(o.share, 2))))


def _option(ends: Ends, part: Coupling, family: Family) -> Option:
    air, share = ends.plan.ambient_at(part.place), 0.0
    most = MOST_WAYS.get(family, part.ways)
    why_not = f"made with up to {most} way{'s' * (most > 1)}" if part.ways > most else ""
    taken: list[Terminal] = []
    for wire in ends.on(part.id):
        tried = ends.candidates(family, wire.id, air)
        fits = [c for c in tried if not c.why_not or c.weak]
        if not fits:
            near = min(tried, key=lambda c: abs(c.terminal.area_mm2[1] - ends.area_mm2[wire.id]))
            why_not = why_not or f"{wire.id} does not go in: {near.why_not}"
            continue
        best = max(fits, key=lambda c: c.terminal.rated_a(ends.area_mm2[wire.id], air))
        rated, peak = best.terminal.rated_a(ends.area_mm2[wire.id], air), ends.peak_a.get(wire.id, 0.0)
        share = max(share, peak / rated if rated > 0 else float("inf"))
        if best.weak:
            why_not = why_not or f"{wire.id} brings {peak:.1f} A, it carries {rated:.1f} A"
        taken.append(best.terminal)
    return Option(family, why_not, share, of_family(family)[0].mohm, tuple(taken))
