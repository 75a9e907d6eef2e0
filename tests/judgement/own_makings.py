"""Begun machines with what Loadstar makes on them: accessories, intents and recipes, alone and in pairs.

A begun machine is whole by itself, and nothing here is fixed by hand; so a stop about it is about Loadstar's own
making, unless it says that the machine cannot do what is asked (too little current, too hot for any size).
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import Any

from intents import answered

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.edits import apply
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.intents import Intent, carried_out
from loadstar.core.intents import offered as intents_for
from loadstar.core.intents.base import suits
from loadstar.core.materials.accessories import offered
from loadstar.core.materials.typical import SIZES
from loadstar.core.parts.coil import Coil
from loadstar.core.plan.bodies import BODY_KINDS
from loadstar.core.plan.model import Plan

# Stops that tell what the machine itself cannot do, whatever is made how.
BEYOND = frozenset({
    "budget.idle", "budget.ride", "budget.shortfall", "budget.crank", "wire.class-too-low", "feed.too-weak",
    "feed.overloaded", "converter.window-low", "port.overloaded", "pack.bms", "pack.unlike", "pack.joined",
    "lamp.over-volts"})
# What is there is somebody else's making.
AS_FOUND = ("fuse_a", "fuse_kind", "size_mm2", "colour", "lead_mm2", "terminals", "family")
Making = Callable[[Builder], None]


@dataclass(frozen=True)
class Case:
    """A kind and size of machine, the accessories that it is begun with, and what is made on it then."""

    kind: str
    size: str
    wanted: tuple[str, ...]
    chosen: tuple[str, ...]

    def __str__(self) -> str:
        return " + ".join((f"{self.kind}, {self.size}", *self.wanted, *self.chosen))


def makings(kind: str, size: str) -> dict[str, Making]:
    """What can be made on a begun machine, by name: intents with each of their choices, and recipes."""
    bare = begun(Plan(), Wish(kind, size))
    found: dict[str, Making] = {}
    for intent in intents_for(bare):
        for name, values in _choices(intent):
            found[f"{intent.KEY}{name}"] = _wanted(intent, values)
    system = bare.machine.system
    if system == "battery":
        for by in ("isolator", "diode"):
            for chemistry in ("agm", "lfp"):
                found[f"second battery {chemistry} by {by}"] = _part(
                    "second_battery", name="camp battery", at="seat", joined_by=by, chemistry=chemistry)
        for feed in ("block", "module", "junction"):
            found[feed] = _part(feed, name=feed, at="block")
    if system == "pack":
        for way in ("changeover", "diode", "parallel"):
            for series in (0, -3):
                found[f"second pack {series} by {way}"] = _second_pack(way, series)
        found["brake cut-off, another converter"] = _part(
            "converter", name="box", at="converter", window_low_v=20, window_high_v=90, rated_a=10)
    return found


def cases(*, pairs: bool = True) -> Iterator[Case]:
    """Every accessory and making on every begun machine, alone, and with `pairs` in twos; each making with an accessory
    too."""
    for kind, sizes in SIZES.items():
        for size in sizes:
            keys = [u.key for group in offered(size.system).values() for u in group if not u.own]
            names = list(makings(kind, size.key))
            yield from (Case(kind, size.key, wanted, ()) for wanted in _ones_and_twos(keys, pairs))
            yield from (Case(kind, size.key, (), chosen) for chosen in _ones_and_twos(names, pairs) if chosen)
            if pairs:
                yield from (Case(kind, size.key, (keys[n % len(keys)],), (name,)) for n, name in enumerate(names))


def wrong(plan: Plan) -> list[str]:
    """What Loadstar complains of in what it made itself, and the ends that it left without a terminal."""
    a = analyse(plan)
    rules = {f.rule for f in a.findings}
    packs = {p.series for p in plan.packs}
    told = [f"{f.rule}: {f.sentence}" for f in a.findings if f.severity == "stop" and f.rule not in BEYOND
            and "pack.joined" not in rules  # unlike packs joined by a plain lead: somebody's own wish
            and not (len(packs) > 1 and f.rule == "converter.window-high")  # a pack of more volts: so too
            and not (plan.one(Coil) and "below" in f.sentence)]  # a coil for lamps of 15 W feeds none of 60 W
    told += [f"{row.words}: {row.failure}" for row in a.volts.rows if row.solution is None and row.failure]
    return [*told, *_bare_ends(a)]


def _bare_ends(a: Analysis) -> Iterator[str]:
    for end in a.ends.every if a.ends else ():
        # Where nobody has said what is there (a found plug, a usual relay) the finding asks for it or offers another.
        if end.chosen is None and end.family is not None and not end.usual:
            yield f"end without a terminal: {end.at} of {end.wire}"


def _ones_and_twos(names: list[str], pairs: bool) -> Iterator[tuple[str, ...]]:
    yield ()
    yield from ((name,) for name in names)
    if pairs:
        yield from combinations(names, 2)


def made(case: Case) -> Plan:
    """The plan of a case. What does not go is refused in a whole sentence, and the plan is without it."""
    b = Builder("begun", begun(Plan(), Wish(case.kind, case.size, wanted=case.wanted)))
    every = makings(case.kind, case.size)
    for name in case.chosen:
        try:
            every[name](b)
        except PlanError as refused:
            assert all(f.sentence.endswith(".") for f in refused.faults), refused.faults
    return b.plan


def _choices(intent: type[Intent]) -> Iterator[tuple[str, dict[str, Any]]]:
    """An intent as it is proposed, and with each of its other choices."""
    yield "", {}
    for ask in intent.ASKS:
        for value, _ in ask.choices if ask.name not in AS_FOUND else ():
            if value != str(intent.model_fields[ask.name].default):
                yield f" {ask.name}={value}", {ask.name: int(value) if ask.kind == "whole" else value}


def _wanted(intent: type[Intent], values: dict[str, Any]) -> Making:
    def make(b: Builder) -> None:
        asked = answered(b.plan, intent, lambda keys: next(iter(keys))) | intent.usual(b.plan) | values
        for ask in intent.ASKS:
            if ask.name in asked:
                continue
            if ask.name.endswith("_at"):
                asked[ask.name] = _place(b.plan, intent.PLACES[ask.name])
            elif ask.kind == "choice" and not ask.choices and not ask.optional:
                asked[ask.name] = _feed(b.plan, ask.name, intent.KEY)
        b.plan = apply(b.plan, carried_out(b.plan, intent.model_validate(asked)))
    return make


def _part(kind: str, *, at: str, **values: Any) -> Making:
    def make(b: Builder) -> None:
        b.add(kind, place=_place(b.plan, at), **values)
    return make


def _second_pack(way: str, more: int) -> Making:
    def make(b: Builder) -> None:
        first = b.plan.packs[0]
        b.add("pack", name="second pack", place=first.place, series=first.series + more, parallel=first.parallel,
              bms_continuous_a=first.bms_continuous_a, bms_peak_a=first.bms_peak_a)
        b.add("combiner", name="joining", place=first.place, way=way, rated_a=100)
    return make


def _place(plan: Plan, use: str) -> str:
    name = BODY_KINDS[plan.machine.kind].goes.get(use)
    return next((p.id for p in plan.places if p.name == name), plan.places[0].id)


def _feed(plan: Plan, ask: str, key: str) -> str:
    found = next((p for kind in suits(key, ask) for p in plan.of_kind(kind) if p.can_feed), None)
    if found is None:
        raise PlanError()
    return found.id
