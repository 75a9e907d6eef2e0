"""One circuit in a state as a walk: metres along its way, volts at every step."""

from dataclasses import dataclass

from loadstar.core.doc.states import States
from loadstar.core.figures.figures import Figures
from loadstar.core.parts.load import LoadPart
from loadstar.core.refs import ElementRef
from loadstar.core.wiring.results import StateResult


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

    load: LoadPart
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


def walk(analysis: Figures, load_id: str, state: States) -> Walk | None:
    """The walk of a load's circuit in a state; None when it is not fed then."""
    load = analysis.plan.is_one(load_id, LoadPart)
    result = analysis.volts.row(load_id, state)
    path = analysis.path(load_id)
    if (load is None or result is None or result.solution is None or not path.complete
            or load_id in result.solution.on_floor or abs(result.current(load_id)) < 1e-6):
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
    return Walk(load, state, sides[0], sides[1], along, load_m, result)


def source_name(analysis: Figures, load: str) -> str:
    """Where a circuit begins, in words."""
    root = analysis.path(load).root.part
    part = analysis.topology.parts[root]
    return "source" if part is analysis.plan.supply else part.name


def root_name(analysis: Figures, load: str) -> str:
    """Where a circuit ends, in words."""
    part = analysis.topology.parts[analysis.path(load).root.part]
    return part.BACK_WORDS or f"{part.name}, negative"
