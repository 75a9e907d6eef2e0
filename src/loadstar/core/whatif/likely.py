"""Which of a plan's unknown figures are worth trying first: those at whose ends circuits would lose too much, or fuses
carry too much.

It is judged from the solved states, straight around their solution: one set of equations for each state, for all loads
together, instead of the whole plan at either end of every figure. So it decides in what order figures are tried, never
what is said of them.
"""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ..doc.states import JUDGED_STATES
from ..figures.figures import Figures
from ..materials import fuses
from ..physics.network import System
from ..plan.standing import Unknown
from ..sizing.drops import LEAST_V, drop_limit_frac
from ..wiring.results import StateResult

Array = NDArray[np.float64]
BoolArray = NDArray[np.bool_]
MOST_ROWS = 500  # of a state's equations; more take longer than they save
STOPS = 100  # a fuse that opens counts as so many limits


def crossings(figures: Figures, unknowns: Sequence[Unknown]) -> dict[str, int] | None:
    """How many limits of drops and fuses are crossed at the ends of what loads draw, by the figures' addresses: those
    left out cross none. None where it cannot be seen beforehand."""
    rows = [r for r in figures.rows if r.solution is not None and r.state != "cranking"]
    if not rows or figures.source.key == "magneto":
        return None
    system = rows[0].system
    at = {e.name: i for i, e in enumerate(system.network.loads)}
    drawn = [u for u in unknowns if u.field == "amount" and u.value and u.element in at]
    if system.size > MOST_ROWS:
        return None
    if not drawn:
        return {}
    # A column for the plan as it stands, then two for each figure, at the low and at the high end of its band.
    which = np.array([0, *(at[u.element] for u in drawn for _ in range(2))])
    more = np.array([0.0, *(end / u.value - 1 for u in drawn for end in (u.band.low, u.band.high))])
    moved = [(r.state, *_moved(system, r, which, more)) for r in rows]
    over = [*_over_drops(figures, system, [volts for state, volts, _ in moved if state in JUDGED_STATES]),
            *_over_ratings(figures, system, [np.abs(amps) for _, _, amps in moved])]
    crossed = sum((o != o[0]) * weight for o, weight in over)
    return {u.key: int(n) for u, n in zip(drawn, np.reshape(crossed, -1)[1:].reshape(-1, 2).sum(axis=1), strict=True)
            if n}


def _moved(system: System, row: StateResult, which: Array, more: Array) -> tuple[Array, Array]:
    """Potentials (nodes, columns) and resistors' currents, where in each column a load draws so much `more` of its
    current."""
    assert row.solution is not None
    batch, state = row.solution.batch, row.solution.state
    columns = np.arange(len(which))
    drawn = batch.load[state][which] * more
    right = np.zeros((system.size, len(which)))
    right[system.e[0][which], columns] -= drawn
    right[system.e[1][which], columns] += drawn
    volts = batch.potential[state][:, None] + np.linalg.solve(system.straightened(batch, state), right)[:system.n]
    return volts, (volts[system.r[0]] - volts[system.r[1]]) / batch.given.ohm[state][:, None]


def _over_drops(figures: Figures, system: System, states: list[Array]) -> Iterator[tuple[BoolArray, int]]:
    """By load and column, whether its circuit loses more than the house rule in any state; with its weight."""
    topology, index = figures.topology, system.index
    for load in figures.plan.loads:
        root, limit = topology.paths[load.id].root, drop_limit_frac(figures.plan, load)
        pos, neg, plus, minus = (index[n] for n in (topology.node(load.at("pos")), topology.node(load.at("neg")),
                                                    root.positive, root.negative))
        lost = np.zeros(len(states[0][0]) if states else 1)
        for volts in states:
            across, begins = np.abs(volts[pos] - volts[neg]), np.abs(volts[plus] - volts[minus])
            fed = across > LEAST_V
            lost = np.maximum(lost, np.where(fed, 1 - across / np.maximum(begins, LEAST_V), 0.0))
        yield lost > limit, 1


def _over_ratings(figures: Figures, system: System, states: list[Array]) -> Iterator[tuple[BoolArray, int]]:
    """By fuse and column, whether it carries more than its share, and whether it opens."""
    row = {r.name: i for i, r in enumerate(system.network.resistors)}
    for part in figures.plan.parts:
        if part.protection is None or part.id not in row:
            continue
        peak = np.max([amps[row[part.id]] for amps in states], axis=0)
        if part.protection.kind == "electronic":
            yield peak > figures.rating_a(part.id), STOPS
            continue
        carries = fuses.rerated_a(figures.rating_a(part.id), figures.plan.ambient_at(part.place))
        yield peak > figures.plan.rules.fuse_share_frac * carries, 1
        yield peak > fuses.STEADY_MULTIPLE * carries, STOPS
