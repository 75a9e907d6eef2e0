"""What is on while something is read, said by whoever reads: the same reading with some of what a state has on switched
off, solved for just that, sources and all.

Everything as it is ridden is not how a bench measures: with the inflator off a sound machine's regulator holds the
posts where the plan's own state has the battery help out.
"""

from collections.abc import Collection
from dataclasses import replace

from ..figures.figures import Figures
from ..figures.mains import LEAST_A
from ..parts.load import LoadPart
from ..wiring.results import StateResult
from ..wiring.states import StateSolver
from ..wiring.thermal import Thermal
from .measure import Step
from .predict import Predictor
from .readings import row_of


def on_then(figures: Figures, step: Step) -> tuple[LoadPart, ...]:
    """What is on in the state of a reading, and could be switched off for it: not what it proves, whose own current is
    what proves it. Nothing of one that is taken with nothing powered, or with something unplugged."""
    row = row_of(figures.volts.rows, step.row)
    if row is None or step.apart or step.quantity != "V":
        return ()
    return tuple(p for p in figures.plan.loads if abs(row.current(p.id)) > LEAST_A and p.id not in step.proves)


def with_off(figures: Figures, step: Step, off: Collection[str]) -> Step:
    """A reading with some of what is on then switched off; as it was where that has no solution."""
    dead = frozenset(p.id for p in on_then(figures, step)) & set(off)
    row = row_with(figures, step.row, dead) if dead else None
    if row is None:
        return step
    return replace(step, expects=Predictor(figures).volts(row, step.red, step.black), off=tuple(sorted(dead)))


def row_with(figures: Figures, key: str, off: Collection[str]) -> StateResult | None:
    """A state's row solved with some loads off; None where there is no such row, or no solution."""
    was, sized = row_of(figures.volts.rows, key), figures.sized
    if was is None or sized is None:
        return None
    solver = StateSolver(figures.topology, Thermal(figures.topology))
    solver.without(off)
    solved = solver.solve(sized.choices)
    every = (*solved.results().values(), *solved.alternates())
    return next((r for r in every if (r.state, r.stands, r.turned) == (was.state, was.stands, was.turned)
                 and r.solution is not None), None)
