"""Volts of every load: in every state, at every stand of the switches that is looked at."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from ..doc.states import JUDGED_STATES, States
from ..parts.load import LoadPart
from ..plan.model import Plan
from ..sizing.drops import LEAST_A, LEAST_V, drop_frac
from ..wiring.results import StateResult
from ..wiring.topology import Topology


@dataclass(frozen=True)
class Volts:
    """What the solved states say of loads. `states` are those of the plan, its switches as they are taken to stand;
    `alternates` other stands of them."""

    plan: Plan
    topology: Topology
    states: dict[States, StateResult]
    alternates: Sequence[StateResult]

    @cached_property
    def rows(self) -> tuple[StateResult, ...]:
        """Every state of the plan, each followed by itself with its switches otherwise than they are taken to stand."""
        other = [r for r in self.alternates if r.turned]
        return tuple(row for state, result in self.states.items()
                     for row in (result, *(r for r in other if r.state == state)))

    def turns(self, state: States) -> tuple[StateResult, ...]:
        """A state as its switches are taken to stand, then at every other stand that is looked at; none, where the plan
        has no such state."""
        return tuple(r for r in self.rows if r.state == state)

    def ridden(self, state: States) -> StateResult:
        """A state as the machine is ridden: with nothing pressed."""
        return next((r for r in self.rows if r.state == state and r.is_ridden), self.states[state])

    def row(self, load: str, state: States) -> StateResult | None:
        """A state as it is looked at for a load: with the switches so that it is on and gets the least volts; where it
        never is then, as the state stands."""
        return self._row_of.get((state, load), self.states.get(state))

    def row_through(self, element: str, state: States) -> StateResult:
        """A state with its switches so that an element carries most."""
        return max((r for r in self.rows if r.state == state), key=lambda r: abs(r.current(element)))

    @cached_property
    def _row_of(self) -> dict[tuple[States, str], StateResult]:
        least: dict[tuple[States, str], tuple[float, StateResult]] = {}
        for row, volts in self._row_volts:
            for load, v in volts.items():
                key = (row.state, load)
                if key not in least or abs(v) < least[key][0]:
                    least[key] = (abs(v), row)
        return {key: row for key, (_, row) in least.items()}

    @cached_property
    def _row_volts(self) -> list[tuple[StateResult, dict[str, float]]]:
        """By solved row the volts across every load that carries current, negative where it is reversed (AC: its
        amount)."""
        return [(row, row.solution.load_volts(LEAST_A)) for row in self.rows if row.solution is not None]

    def across_v(self, load: str, state: States) -> float | None:
        """Volts across a load in a state, the least of any stand of the switches in which it is on; None when it never
        is then, or nothing of the state has a solution."""
        found = self._load_v.get(state, {}).get(load)
        return min(map(abs, found)) if found else None

    def most_v(self, load: str, state: States) -> float | None:
        """The most volts across a load in a state, by any stand of the switches; None when it is never on then."""
        found = self._load_v.get(state, {}).get(load)
        return max(map(abs, found)) if found else None

    @cached_property
    def _load_v(self) -> dict[States, dict[str, list[float]]]:
        """By state the volts across every load that is on, at each stand of the switches at which it is."""
        found: dict[States, dict[str, list[float]]] = {}
        for row, volts in self._row_volts:
            here = found.setdefault(row.state, {})
            for load, v in volts.items():
                here.setdefault(load, []).append(v)
        return found

    def drop_frac(self, load: LoadPart, state: States) -> float | None:
        """Share of the posts' voltage lost on the way to a load and back."""
        result = self.row(load.id, state)
        return drop_frac(self.topology, result, load) if result else None

    def is_reversed(self, load: str, state: States) -> bool:
        """Whether a load's positive lies below its negative in a state (of DC)."""
        least = min(self._load_v.get(state, {}).get(load, ()), default=0.0)
        return self.topology.source.key != "magneto" and least < -LEAST_V

    def reversed_in(self, load: str) -> States | None:
        """The first state in which a load is reversed; None where it never is."""
        return next((s for s in self.states if self.plan.is_one(load, LoadPart) and self.is_reversed(load, s)), None)

    def lives_beyond(self, load: LoadPart) -> tuple[States, ...]:
        """States in which a load has voltage though it is not meant to live then."""
        meant = self.plan.lives_in(load)
        return tuple(s for s in self.states if s not in meant and (self.across_v(load.id, s) or 0.0) > LEAST_V)

    def begins_v(self, load: str, state: States) -> float:
        """Voltage at which a load's circuit begins: at the posts, or at its converter's output."""
        result, root = self.row(load, state), self.topology.paths[load].root
        assert result is not None, state
        return abs(result.solution.across_v(root.positive, root.negative)) if result.solution else float("nan")

    def worst_drop(self, load: LoadPart) -> tuple[States | None, float]:
        """The judged state that loses most, and the share lost."""
        return self._worst_drops[load.id]

    def lives(self, load: LoadPart, state: States) -> bool:
        """Whether a load is meant to live in a state of this machine."""
        return state in self.topology.source.states and state in self.plan.lives_in(load)

    @cached_property
    def _worst_drops(self) -> dict[str, tuple[States | None, float]]:
        return {p.id: self._worst_drop_of(p) for p in self.plan.loads}

    def _worst_drop_of(self, load: LoadPart) -> tuple[States | None, float]:
        lost = [(self.drop_frac(load, s) or 0.0, s) for s in self.states if s in JUDGED_STATES]
        most = max(lost, key=lambda one: one[0], default=(0.0, None))
        return (most[1], most[0]) if most[0] > 0 else (None, 0.0)

    def lowest_load(self, states: Sequence[States] = JUDGED_STATES) -> tuple[LoadPart, States, float] | None:
        """The load with the lowest voltage over some states, that state and the volts."""
        found = [(v, load, s) for load in self.plan.loads for s in states
                 if (v := self.across_v(load.id, s)) is not None]
        if not found:
            return None
        volts, load, state = min(found, key=lambda one: one[0])
        return load, state, volts
