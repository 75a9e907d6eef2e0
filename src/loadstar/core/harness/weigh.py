"""What a harness weighs against another: branch by branch, with metres; and what was taken off the machine."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..doc.survey import Removed
from .loom import TIE_G, Bundle, Loom


@dataclass(frozen=True)
class Weight:
    """Grams and metres of wire of a branch; all nought where it is not there."""

    grams: float = 0.0
    wire_m: float = 0.0
    wires: int = 0

    def __sub__(self, other: "Weight") -> "Weight":
        return Weight(self.grams - other.grams, self.wire_m - other.wire_m, self.wires - other.wires)


@dataclass(frozen=True)
class Branch:
    """A branch by the names of its two places, in this harness and in the other."""

    name: str
    here: Weight
    there: Weight

    @property
    def more(self) -> Weight:
        """What it has more than the other."""
        return self.here - self.there


@dataclass(frozen=True)
class Weighed:
    """A harness against another: branches in this one's order, wires within places, and the whole."""

    branches: tuple[Branch, ...]
    within: Branch
    whole: Branch


@dataclass(frozen=True)
class TakenOff:
    """What was taken off: grams that were weighed, grams that were estimated, and how many parts nobody weighed."""

    weighed_g: float
    estimated_g: float
    unknown: int


def weigh(here: Loom, there: Loom) -> Weighed:
    """One harness against another, of the same machine or not: branches are the same where their places' names are."""
    ours, theirs = _branches(here), _branches(there)
    names = [*ours, *(name for name in theirs if name not in ours)]
    branches = tuple(Branch(name, ours.get(name, Weight()), theirs.get(name, Weight())) for name in names)
    whole = Branch("the whole harness", _whole(here), _whole(there))
    return Weighed(branches, Branch("within places", _rest(whole.here, ours.values()),
                                    _rest(whole.there, theirs.values())), whole)


def taken_off(removed: Iterable[Removed]) -> TakenOff:
    """What the parts taken off weighed together."""
    every = tuple(removed)
    return TakenOff(sum(r.mass_g for r in every if r.mass_g is not None and not r.estimated),
                    sum(r.mass_g for r in every if r.mass_g is not None and r.estimated),
                    sum(r.mass_g is None for r in every))


def _branches(loom: Loom) -> dict[str, Weight]:
    names = {p.id: p.name for p in loom.plan.places}
    found: dict[str, Weight] = {}
    for b in loom.bundles:
        name = " to ".join(sorted((names[b.run.a], names[b.run.b])))
        before = found.get(name, Weight())
        one = _weight(loom, b)
        found[name] = Weight(before.grams + one.grams, before.wire_m + one.wire_m, before.wires + one.wires)
    return found


def _weight(loom: Loom, b: Bundle) -> Weight:
    return Weight(b.wires_g + b.covering_g + TIE_G * len(loom.ties_mm(b.run.id)), b.wires_m, len(b.wires))


def _whole(loom: Loom) -> Weight:
    return Weight(loom.total_g, loom.wires_m, len(loom.cut_m))


def _rest(whole: Weight, parts: Iterable[Weight]) -> Weight:
    """What of the whole is in no branch; a wire in several branches is counted in none of that."""
    grams, metres = whole.grams, whole.wire_m
    for one in parts:
        grams, metres = grams - one.grams, metres - one.wire_m
    return Weight(grams, metres)
