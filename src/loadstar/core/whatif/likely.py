"""Which of a plan's unknown figures are worth trying first: those at whose ends a circuit would lose too much, a fuse
carry too much, or the budget turn.

Drops and fuses are judged from the solved states, straight around their solution: one set of equations for each state,
for all figures together, instead of the whole plan at either end of every figure; the budget's rules by themselves, as
they need no network. So it decides in what order figures are tried and names what may come, and nothing else is said
of them before they are tried.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..budget.ledger import break_even_rpm, ledger, parked
from ..doc.states import JUDGED_STATES, RUNNING
from ..edits.standing import set_figure
from ..errors import PlanError
from ..figures.figures import Figures
from ..findings import SEVERITIES
from ..materials import fuses
from ..physics.generator import GeneratorError
from ..physics.network import System
from ..plan.model import Plan
from ..plan.standing import Unknown
from ..rules import RULES
from ..sizing.drops import LEAST_A, LEAST_V, drop_limit_frac
from ..wiring.results import StateResult

Array = NDArray[np.float64]
BoolArray = NDArray[np.bool_]
MOST_ROWS = 500  # of a state's equations; more take longer than they save
STOPS = 100  # a stop counts as so many cautions
BUDGET = [rule.judge for rule in RULES.values() if rule.family == "budget"]


@dataclass(frozen=True)
class _Column:
    """What of the network one end of a figure changes, by shares: what a load draws, or the resistance of wires."""

    drawn: dict[str, float]
    ohm: dict[str, float]


def crossings(figures: Figures, unknowns: Sequence[Unknown]) -> dict[str, int] | None:
    """How many limits are crossed at the ends of the figures' bands (a stop counts as STOPS), by their addresses.
    Those left out cross none that is looked at. None where it cannot be seen beforehand."""
    every = (*figures.states.values(), *figures.sized.alternates) if figures.sized else ()
    rows = [r for r in every if r.solution is not None and r.state != "cranking"]
    if not rows or figures.source.key == "magneto" or rows[0].system.size > MOST_ROWS:
        return None
    ends = [(u, end / u.value - 1) for u in unknowns if u.value for end in (u.band.low, u.band.high)]
    columns = [_Column({}, {}), *(_column(figures, u, more) for u, more in ends)]
    over = np.zeros(len(columns), int)  # of a machine with no circuit yet nothing is looked at here
    for limits, weight in _over(figures, rows, columns):
        over += (limits != limits[0]) * weight
    found: dict[str, int] = {}
    for (unknown, _), crossed in zip(ends, over[1:].tolist(), strict=True):
        found[unknown.key] = found.get(unknown.key, 0) + crossed
    now = _turned(figures, figures.plan)
    for unknown, more in ends:
        if _may_turn(figures, unknown, more):
            then = _turned(figures, _at(figures.plan, unknown, unknown.value * (1 + more)))
            found[unknown.key] += sum(weight for key, weight in (now | then).items() if (key in now) != (key in then))
    return {key: n for key, n in found.items() if n}


# -- drops and fuses ---------------------------------------------------------------------------------------------------


def _column(figures: Figures, unknown: Unknown, more: float) -> _Column:
    if unknown.field == "amount":
        return _Column({unknown.element: more}, {})
    if unknown.field != "length_m":
        return _Column({}, {})
    longer = {wire: more * sum(s.length_m for s in way.segments if s.run == unknown.element) / way.length_m
              for wire, way in figures.topology.geometry.items() if way.length_m}
    return _Column({}, {wire: share for wire, share in longer.items() if share})


def _over(figures: Figures, rows: list[StateResult], columns: list[_Column]) -> Iterator[tuple[BoolArray, int]]:
    """What is over its limit in each column, row by row of limits, and what each counts."""
    moved = [(r, *_moved(r, columns)) for r in rows]
    system, judged = rows[0].system, [r for r in figures.volts.rows if r.state in JUDGED_STATES]
    yield from _over_drops(figures, system, [volts for r, volts, _ in moved if any(r is one for one in judged)])
    yield from _over_ratings(figures, system, [np.abs(amps) for _, _, amps in moved])


def _moved(row: StateResult, columns: list[_Column]) -> tuple[Array, Array]:
    """Potentials (nodes, columns) and resistors' currents, where each column changes what it says."""
    assert row.solution is not None
    system, batch, state = row.system, row.solution.batch, row.solution.state
    loads = {e.name: i for i, e in enumerate(system.network.loads)}
    wires = {r.name: i for i, r in enumerate(system.network.resistors)}
    right, less = np.zeros((system.size, len(columns))), np.zeros((len(wires), len(columns)))
    for n, column in enumerate(columns):
        for name, more in column.drawn.items():
            if (at := loads.get(name)) is not None:
                right[system.e[:, at], n] += (-batch.load[state, at] * more, batch.load[state, at] * more)
        for name, more in column.ohm.items():
            less[wires[name], n] = batch.branch[state, wires[name]] * more
    np.add.at(right, system.r[0], less)
    np.add.at(right, system.r[1], -less)
    volts = batch.potential[state][:, None] + np.linalg.solve(system.straightened(batch, state), right)[:system.n]
    return volts, (volts[system.r[0]] - volts[system.r[1]]) / batch.given.ohm[state][:, None] - less


def _over_drops(figures: Figures, system: System, states: list[Array]) -> Iterator[tuple[BoolArray, int]]:
    """By load, whether its circuit loses more than the house rule in any state."""
    topology, index = figures.topology, system.index
    for load in figures.plan.loads if states else ():
        root, limit = topology.paths[load.id].root, drop_limit_frac(figures.plan, load)
        pos, neg, plus, minus = (index[n] for n in (topology.node(load.at("pos")), topology.node(load.at("neg")),
                                                    root.positive, root.negative))
        lost = np.zeros(states[0].shape[1])
        for volts in states:
            across, begins = np.abs(volts[pos] - volts[neg]), np.abs(volts[plus] - volts[minus])
            lost = np.maximum(lost, np.where(across > LEAST_V, 1 - across / np.maximum(begins, LEAST_V), 0.0))
        yield lost > limit, 1


def _over_ratings(figures: Figures, system: System, states: list[Array]) -> Iterator[tuple[BoolArray, int]]:
    """By fuse and way, whether it carries more than its share, and whether it opens."""
    row = {r.name: i for i, r in enumerate(system.network.resistors)}
    for part in figures.plan.parts:
        if part.protection is None or part.id not in row:
            continue
        peak = np.max([amps[row[part.id]] for amps in states], axis=0)
        # What it is judged by is more where a converter's input may fall further than in any state.
        peak = peak * (figures.ratings.peak_a(part.id) / peak[0] if peak[0] > LEAST_A else 1.0)
        if part.protection.kind == "electronic":
            yield peak > figures.ratings.rating_a(part.id), STOPS
            continue
        carries = fuses.rerated_a(figures.ratings.rating_a(part.id), figures.plan.ambient_at(part.place))
        yield peak > figures.plan.rules.fuse_share_frac * carries, 1
        yield peak > fuses.STEADY_MULTIPLE * carries, STOPS


# -- the budget --------------------------------------------------------------------------------------------------------


def _may_turn(figures: Figures, unknown: Unknown, more: float) -> bool:
    """Whether the budget hangs on it: not on lengths; on what a load draws, only where that is more than is left."""
    if unknown.field != "amount":
        return unknown.field != "length_m"
    load = next(p for p in figures.plan.loads if p.id == unknown.element)
    return load.live == "always" or any(abs(figures.ledgers[s].margin_a) <= abs(more) * load.current_a
                                        for s in RUNNING if s in figures.ledgers)


def _at(plan: Plan, unknown: Unknown, value: float) -> Plan | None:
    try:
        return set_figure(plan, unknown.element, unknown.field, value, "typical")
    except PlanError:
        return None


def _turned(figures: Figures, plan: Plan | None) -> dict[tuple[str, str], int]:
    """The budget's stops and cautions, and what each counts; none where it cannot be computed."""
    if plan is None:
        return {}
    try:
        seen = replace(figures, plan=plan)
        account = seen.account
        seen = replace(seen, ledgers={s: ledger(account, s) for s in figures.ledgers},
                       break_even_rpm=break_even_rpm(account), parked=parked(account))
    except GeneratorError:
        return {}
    grave = [f for judge in BUDGET for f in judge(seen) if f.severity in SEVERITIES[:2]]
    return {f.key: STOPS if f.severity == "stop" else 1 for f in grave}
