"""What to measure next: which figure that nobody has found yet would change most if it were at an end of its band.

Each is set to its low and to its high end, one at a time, then the two strongest together. Sizes and ratings stay as
they stand on the plan: what is asked is whether what would be built holds. Only what hangs on the figure is computed
again.
"""

import time
from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property
from itertools import product
from math import inf, isfinite

from .. import limits
from ..analysis import Analysis, analyse, judged
from ..doc.states import States
from ..edits.standing import marked, set_figure
from ..errors import PlanError
from ..figures.figures import compute
from ..headline import Head
from ..plan.integrity import faults
from ..plan.model import Plan
from ..plan.standing import Unknown, kind_of, unknowns
from ..survey.measures import MEASURES
from .likely import crossings
from .outlook import GRAVE, MOST_MOVEMENT, Flip, Hangs, Outlook, Seen, Span

# Figures that no current in a wire hangs on: with these the network need not be solved again.
AFTER_SOLVING = {("battery", "capacity_ah"), ("pack", "cell_ah"), ("machine", "range_km"), ("pack", "bms_continuous_a")}
# What is tried first: a supply moves everything, an accessory its own circuit, a way or a plug little.
WEIGHTS = {"generator": 2.0, "coil": 2.0, "pack": 1.5, "drive": 1.5, "load": 1.0, "own": 0.8, "battery": 2.0,
           "machine": 0.7, "port": 0.7}
LEAST_WEIGHT, MOST_STRETCH = 0.4, 3.0
NEARER = (1.0, 0.5, 0.25)  # an end at which nothing of the kind can be built is taken so much nearer
NEAR_SHARE = 0.05  # of a figure: nearer to its limit than this counts as this near
HALVINGS = 4
Ends = dict[str, Seen]  # by which end of a band a figure was at


def held(analysis: Analysis) -> Plan:
    """The plan with every size and rating fixed as it stands."""
    plan = analysis.whole_plan
    if analysis.sized is None:
        return plan
    chosen = {**analysis.sized.contact_a, **analysis.ratings.rated}
    return plan.model_copy(update={
        "wires": tuple(w if w.area_mm2 is not None else w.model_copy(
            update={"area_mm2": analysis.wires[w.id].area_mm2}) if w.id in analysis.wires else w for w in plan.wires),
        "parts": tuple(p.model_copy(update={p.CHOSEN: chosen[p.id]})
                       if p.CHOSEN and not p.by_hand and p.id in chosen and isfinite(chosen[p.id]) else p
                       for p in plan.parts)})


def measurable(plan: Plan) -> tuple[Unknown, ...]:
    """The unknown figures of a plan of which it is known how to measure them."""
    return tuple(u for u in unknowns(plan) if (kind_of(marked(plan, u.element)), u.field) in MEASURES)


def _first(plan: Plan, unknown: Unknown) -> tuple[float, str]:
    """In which order they are tried that cross no limit for all that is seen beforehand: how far a figure's band
    stretches, and how much of a plan hangs on such a figure as a rule."""
    value, band = unknown.value, unknown.band
    stretch = max(band.high / value, value / max(band.low, 1e-9)) if value else 1.0
    weight = WEIGHTS.get(kind_of(marked(plan, unknown.element)), LEAST_WEIGHT)
    return -weight * min(stretch, MOST_STRETCH), unknown.key


class Outlooks:
    """The tries of one plan, each made once. `seen` are those made so far, by the figure's address; they may be kept
    and handed to another."""

    def __init__(self, analysis: Analysis, seen: dict[str, Ends] | None = None) -> None:
        self.plan = held(analysis)
        self.seen: dict[str, Ends] = seen if seen is not None else {}

    @cached_property
    def base(self) -> Analysis:
        """The plan as it stands, with its sizes held."""
        return analyse(self.plan)

    @cached_property
    def crossed(self) -> dict[str, int] | None:
        """What each crosses, as far as that is seen beforehand; None where it cannot be."""
        return crossings(self.base, measurable(self.plan))

    @cached_property
    def in_turn(self) -> tuple[Unknown, ...]:
        """All of them, in the order in which they are tried: there may not be the time for all."""
        every, crossed = measurable(self.plan), self.crossed or {}
        return tuple(sorted(every, key=lambda u: (-crossed.get(u.key, 0), *_first(self.plan, u))))

    def _computed(self, plan: Plan, only: Unknown | None) -> Analysis:
        """A try. Where only figures changed that no current hangs on, what was solved stands."""
        if only is not None and (kind_of(marked(plan, only.element)), only.field) in AFTER_SOLVING:
            return judged(compute(plan, solved=self.base.sized))
        return analyse(plan)

    def at(self, *settings: tuple[Unknown, str]) -> Analysis | None:
        """The plan with some figures at an end of their bands, or as near to it as such a thing can be; None where
        nothing else can be at all."""
        for share in NEARER:
            try:
                plan = self.plan
                for unknown, end in settings:
                    value = unknown.value + share * (getattr(unknown.band, end) - unknown.value)
                    plan = set_figure(plan, unknown.element, unknown.field, value, "typical")
                if faults(plan):
                    continue
            except PlanError:
                continue
            found = self._computed(plan, settings[0][0] if len(settings) == 1 else None)
            if found.generator_fault is None or self.base.generator_fault is not None:
                return found
        return None

    def outlook(self, seconds: float = inf) -> Outlook:
        """What can be said after so many seconds: all of it, or with figures that are still to be tried."""
        until = time.monotonic() + seconds
        base = self._as_it_stands()
        every = self.in_turn
        for unknown in every:
            if unknown.key not in self.seen and time.monotonic() < until:
                self._ends(unknown)
        tried = [u for u in every if self.seen.get(u.key)]
        state = self.base.source.usual_state
        ranked = sorted((self._hangs(base, u, self.seen[u.key], state) for u in tried),
                        key=lambda h: (*(-w for w in h.weight), h.unknown.key))
        untried = tuple(u for u in every if u.key not in self.seen)
        likely = None if self.crossed is None else tuple(u for u in untried if u.key in self.crossed)
        looks = [base, *(seen for u in tried for seen in self.seen[u.key].values())]
        if not untried and len(ranked) > 1:
            looks += self._together(ranked[0].unknown, ranked[1].unknown)
        in_vain = tuple(u for u in every if self.seen.get(u.key) == {})
        return Outlook(tuple(ranked), {s: _spans(looks, s) for s in base.heads}, untried, likely, in_vain)

    def _as_it_stands(self) -> Seen:
        """What the plan itself shows."""
        if "" not in self.seen:
            self.seen[""] = {"": Seen.of(self.base)}
        return self.seen[""][""]

    def _ends(self, unknown: Unknown) -> None:
        """See both ends of a band; nothing is seen where a try is too large to compute."""
        base = self._as_it_stands()
        ends: Ends = {}
        self.seen[unknown.key] = {}
        for end in ("low", "high"):
            try:
                limits.check()
                found = self.at((unknown, end))
            except limits.TooLarge:
                return
            if found is not None and found.left_out and not self.base.left_out:
                return
            ends[end] = base if found is None else Seen.of(found)
        self.seen[unknown.key] = ends

    def _together(self, one: Unknown, other: Unknown) -> list[Seen]:
        """The two strongest at their ends together."""
        found = (self.at((one, first), (other, second)) for first, second in product(("low", "high"), repeat=2))
        return [Seen.of(both) for both in found if both is not None and not both.left_out]

    def _hangs(self, base: Seen, unknown: Unknown, ends: Ends, state: States) -> Hangs:
        flips = tuple(flip for end, seen in ends.items() for flip in _flips(base, seen, end))
        heads = [seen.heads.get(state, ()) for seen in (base, *ends.values())]
        movements = tuple(movement_of([h[i] for h in heads if len(h) > i]) for i in range(len(heads[0])))
        return Hangs(unknown, kind_of(marked(self.plan, unknown.element)), flips, movements)

    def threshold(self, hangs: Hangs, flip: Flip) -> float:
        """Where within the band the finding comes or goes: the last value, of some halvings, at which it is as it is
        now."""
        now, then = hangs.unknown.value, float(getattr(hangs.unknown.band, flip.end))
        there = not flip.appears
        for _ in range(HALVINGS):
            middle = (now + then) / 2
            found = self.at((replace(hangs.unknown, band=replace(hangs.unknown.band, **{flip.end: middle})), flip.end))
            if found is not None and (flip.finding.key in {f.key for f in found.findings
                                                           if f.severity in GRAVE}) == there:
                now = middle
            else:
                then = middle
        return now


def _flips(base: Seen, seen: Seen, end: str) -> Iterator[Flip]:
    for key, finding in seen.grave.items():
        if key not in base.grave:
            yield Flip(finding, True, end)
    for key, finding in base.grave.items():
        if key not in seen.grave:
            yield Flip(finding, False, end)


def movement_of(heads: list[Head]) -> float:
    """How far a headline figure moves, as a multiple of what is between it and its limit (its own amount, where it has
    none)."""
    now = heads[0]
    values = [h.value for h in heads if h.value is not None]
    if now.value is None or len(values) < 2:
        return 0.0
    moved = max(values) - min(v for v in values)
    if not isfinite(moved):
        return MOST_MOVEMENT if min(values) < inf else 0.0
    room = abs(now.value - now.limit) if now.limit is not None else abs(now.value)
    near = NEAR_SHARE * max(abs(now.value), abs(now.limit or 0.0), 1e-9)
    return min(moved / max(room, near), MOST_MOVEMENT)


def _spans(every: list[Seen], state: States) -> tuple[Span | None, ...]:
    heads = [seen.heads.get(state, ()) for seen in every]
    found: list[Span | None] = []
    for i in range(len(heads[0])):
        values = [h[i].value for h in heads if len(h) > i]
        known = [v for v in values if v is not None]
        found.append(Span(min(known), max(known)) if known and heads[0][i].value is not None else None)
    return tuple(found)
