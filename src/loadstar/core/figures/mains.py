"""Circuits that no accessory has: starting, charging, traction, a second store, what a converter is fed by."""

from dataclasses import dataclass

from ..doc.states import States
from ..parts.base import Part
from ..plan.model import Plan
from ..wiring.circuit import Link
from ..wiring.results import StateResult
from ..wiring.topology import CircuitPath, Topology

LEAST_A = 0.005  # below it nothing flows that anybody would measure there


@dataclass(frozen=True)
class Main:
    """A circuit between a part and the main supply. `path` goes the way that its current goes: to what is fed, and
    back. `to` is where it goes: the part, or of one that gives the supply."""

    part: Part
    path: CircuitPath
    to: Part

    @property
    def words(self) -> str:
        """What it is for."""
        return self.part.MAIN_WORDS

    def amps(self, result: StateResult) -> float:
        """What flows in it: the most of its links, as something else may branch off."""
        return max(abs(result.current(link.element)) for link in self.path.links)


def mains_of(plan: Plan, topology: Topology) -> dict[str, Main]:
    """Every such circuit with a wire in it, by its part, in the plan's order."""
    found = {}
    for part in plan.parts:
        if not part.MAIN_WORDS or part is topology.supply or topology.supply is None:
            continue
        plus, minus = part.POLES or ("pos", "neg")
        path = topology.way_to(part.id, part.at(plus), part.at(minus))
        if not path.complete or not any(link.element in topology.wires for link in path.links):
            continue
        found[part.id] = Main(part, _from(path), topology.supply) if part.GIVES else Main(part, path, part)
    return found


def _from(path: CircuitPath) -> CircuitPath:
    """A way walked from its far end: out to the supply, and back."""
    feed, back = (tuple(Link(k.element, k.b, k.a) for k in reversed(links)) for links in (path.feed, path.back))
    return CircuitPath(path.load, path.root, feed, back)


def busiest(main: Main, states: dict[States, StateResult]) -> States | None:
    """The state in which most flows in it; None where nothing does in any."""
    solved = {state: main.amps(result) for state, result in states.items() if result.solution is not None}
    state = max(solved, key=lambda s: solved[s], default=None)
    return state if state is not None and solved[state] > LEAST_A else None
