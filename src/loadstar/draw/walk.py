"""One circuit in a state as a walk: metres along its way, volts at every step."""

from dataclasses import dataclass

from loadstar.core.doc.states import States
from loadstar.core.figures.figures import Figures
from loadstar.core.figures.mains import LEAST_A
from loadstar.core.parts.base import Part
from loadstar.core.parts.can import as_accessory
from loadstar.core.refs import ElementRef
from loadstar.core.wiring.results import StateResult
from loadstar.core.wiring.topology import CircuitPath


@dataclass(frozen=True)
class Stride:
    """One element of the walk: where it begins and ends, in metres and volts."""

    element: ElementRef
    kind: str
    x0_m: float
    x1_m: float
    v0: float
    v1: float

    @property
    def drop_v(self) -> float:
        """Volts lost over it."""
        return self.v0 - self.v1


@dataclass(frozen=True)
class Walk:
    """A circuit in a state: the way out, the load's two sides, the way back."""

    load: Part
    path: CircuitPath
    state: States
    feed: tuple[Stride, ...]
    back: tuple[Stride, ...]
    length_m: float
    load_m: float
    row: StateResult  # with the switches so that it is on

    @property
    def across_v(self) -> float:
        """Volts across the load."""
        return self.feed[-1].v1 - self.back[0].v0

    @property
    def begins_v(self) -> float:
        """Volts between its two ends at the source."""
        return self.feed[0].v0 - self.back[-1].v1

    @property
    def amps(self) -> float:
        """What its load takes; of what is no accessory what comes to it."""
        last = self.path.feed[-1].element
        return abs(self.row.current(self.load.id if as_accessory(self.load) else last))


def walk(analysis: Figures, load_id: str, state: States) -> Walk | None:
    """The walk of an accessory's circuit in a state, or of one that no accessory has, by the part that it is of; None
    when nothing flows in it then."""
    if main := analysis.mains.get(load_id):
        result, path, load = analysis.states.get(state), main.path, main.to
        dead = result is None or main.amps(result) < LEAST_A
    else:
        result, path, load = analysis.volts.row(load_id, state), analysis.path(load_id), analysis.plan.part(load_id)
        dead = result is None or result.solution is None or not path.complete or (
            load_id in result.solution.on_floor or abs(result.current(load_id)) < 1e-6)
    if result is None or result.solution is None or dead:
        return None
    volts = result.solution.potential_v
    along = 0.0
    sides: list[tuple[Stride, ...]] = []
    load_m = 0.0
    for links in (path.feed, path.back):
        side = []
        for link in links:
            geometry = analysis.topology.geometry.get(link.element)
            far = along + (geometry.length_m if geometry else 0.0)
            part = analysis.topology.parts.get(link.element.part)
            side.append(Stride(link.element, "wire" if geometry else part.word if part else "joint", along, far,
                               volts[link.a], volts[link.b]))
            along = far
        sides.append(tuple(side))
        load_m = load_m or along
    return Walk(load, path, state, sides[0], sides[1], along, load_m, result)


def source_name(analysis: Figures, load: str) -> str:
    """Where a circuit begins, in words."""
    part = _begins(analysis, load)
    return "source" if part is analysis.plan.supply else part.name


def root_name(analysis: Figures, load: str) -> str:
    """Where a circuit ends, in words."""
    part = _begins(analysis, load)
    return part.BACK_WORDS or f"{part.name}, negative"


def _begins(analysis: Figures, load: str) -> Part:
    main = analysis.mains.get(load)
    if main is not None and main.part is not main.to:
        return main.part  # which gives the supply
    return analysis.topology.parts[(main.path if main else analysis.path(load)).root.part]
