"""Which way round parts with poles are joined to the main supply, as copper and closed contacts have it."""

from dataclasses import dataclass
from typing import Literal

from ..parts.base import Part
from .topology import Topology

Stand = Literal["reversed", "open"]


@dataclass(frozen=True)
class Turned:
    """A part that stands the wrong way round, or has only one of its poles joined (open); `lacks` is the pole that is
    not."""

    part: str
    how: Stand
    lacks: str = ""


def turned(topology: Topology) -> tuple[Turned, ...]:
    """Every part with wired poles that does not lie between the supply's positive and negative as it should. Where all
    others are reversed and nothing is right, it is the supply itself that is."""
    if not topology.supply:
        return ()
    above, below = _sides(topology)
    found, right = [], 0
    for part in topology.plan.parts:
        if part is topology.supply or not part.POLES or not _wired(topology, part):
            continue
        plus, minus = (topology.node(part.at(end)) for end in part.POLES)
        if _turned(above, below, plus, minus):
            found.append(Turned(part.id, "reversed"))
        elif plus in above and minus in below:
            right += 1
        elif part.GIVES and (plus in above) != (minus in below):
            found.append(Turned(part.id, "open", part.POLES[1] if plus in above else part.POLES[0]))
    wrong = [t for t in found if t.how == "reversed"]
    if (len(wrong) > 1 and not right) or (not wrong and _against_another(topology)):
        return (Turned(topology.supply.id, "reversed"), *(t for t in found if t.how == "open"))
    return tuple(found)


def is_turned(topology: Topology, plus: str, minus: str) -> bool:
    """Whether of two terminals the one for the positive lies on the negative only, and the other is fed only."""
    return topology.supply is not None and _turned(*_sides(topology), topology.node(plus), topology.node(minus))


def _sides(topology: Topology) -> tuple[set[str], set[str]]:
    """The nodes on the positive, and those on the negative."""
    return (_reached(topology, topology.positive, topology.negative),
            _reached(topology, topology.negative, topology.positive))


def _turned(above: set[str], below: set[str], plus: str, minus: str) -> bool:
    return plus in below and minus in above and plus not in above and minus not in below


def _against_another(topology: Topology) -> bool:
    """Whether the supply's poles are joined to the other poles of another store that itself stands right."""
    supply = topology.supply
    assert supply
    if not supply.POLES:
        return False
    mine = [topology.node(supply.at(end)) for end in supply.POLES]
    for other in topology.plan.parts:
        if other.STORES and other is not supply:
            plus, minus = (topology.node(other.at(end)) for end in other.POLES)
            if mine[1] in _reached(topology, plus, minus) and mine[0] in _reached(topology, minus, plus):
                return True
    return False


def _wired(topology: Topology, part: Part) -> bool:
    return any(part.at(end) in topology.wired for end in part.POLES)


def _reached(topology: Topology, start: str, stop: str) -> set[str]:
    """The nodes that are joined to one rail without passing the other."""
    return topology.reached([start], lambda link: link.b != stop)
