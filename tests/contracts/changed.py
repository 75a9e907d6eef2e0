"""What edits do to plans, and what plans and their figures say of themselves, as last read and agreed.

`python -m contracts.changed` (with src, tools and tests on the path) writes it anew and prints every line that changed:
only when it is meant to change, and each of the lines is to be read.
"""

import inspect
import random
import sys
from collections.abc import Callable, Iterator
from contextlib import suppress
from functools import cached_property
from hashlib import sha256
from pathlib import Path
from typing import Any

from contracts.kept import plan_of
from contracts.net import Net
from contracts.said import analysis_of, plain
from contracts.speaking import kept as speaking

from loadstar.core.analysis import analyse
from loadstar.core.edits import apply, parse_edit
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import every
from loadstar.core.plan.compare import differences, take_back
from loadstar.core.plan.model import Plan

NAMES = ("survey-season", "ferry-runner", "mud-hopper", "tide-hauler", "as-found-in-spring", "f-second-pack")
EDITS = 260
INITIALS = ("ab", "c", "de", "f", "ghijkl", "mno", "p", "qrs", "tuv", "wxyz")  # rules are in parts by these
NUMBERS = (-0.5, 0, 1, 1.5, 2, 7.5, 60, 2000)
WORDS = ("", "red", "a name that is rather long, so that it is cut where there is no room for all of it", "idle")


class Dice:
    """Edits at random: most of them would be refused, or do something odd."""

    def __init__(self, plan: Plan, seed: str) -> None:
        self.plan, self.dice = plan, random.Random(seed)

    def one(self, of: tuple[Any, ...], *fallback: str) -> str:
        """The id of one of several."""
        return self.dice.choice([*(x.id for x in of), *fallback]) if of or fallback else "X99"

    def terminal(self) -> str:
        """A terminal of some part."""
        part = self.dice.choice(self.plan.parts)
        return f"{part.id}.{self.dice.choice((*part.ends, 'none'))}"

    def value(self, was: Any) -> Any:
        """Another value, as a rule of the same kind."""
        if isinstance(was, bool):
            return not was
        if isinstance(was, int | float):
            return self.dice.choice((*NUMBERS, was * 1.1, was * 0.9))
        if isinstance(was, str):
            return self.dice.choice((*WORDS, *(p.id for p in self.plan.places[:3])))
        return self.dice.choice((None, 1.0, "x"))

    def fields(self, of: Any) -> dict[str, Any]:
        """One of the fields of something, changed."""
        data = {k: v for k, v in of.model_dump(mode="json").items() if k not in ("id", "kind", "marks", "notes")}
        return {name: self.value(data[name]) for name in self.dice.sample(sorted(data), min(len(data), 1))}

    def coming_to(self, place: str) -> list[list[str]]:
        """The wires that come to a place: most of them on one way, the last on another."""
        coming = [w.id for w in self.plan.wires
                  if {self.plan.part(ref.part).place for ref in (w.a, w.b)} - {place} and place in {
                      self.plan.part(ref.part).place for ref in (w.a, w.b)}]
        return [way for way in (coming[:-1], coming[-1:]) if way] or [["W1"]]

    def edit(self) -> dict[str, Any]:
        """One edit, as data."""
        return self.dice.choice((*self._wiring(), *self._surveying()))()

    def _wiring(self) -> tuple[Callable[[], dict[str, Any]], ...]:
        plan, dice = self.plan, self.dice
        elements = (*plan.parts, *plan.places, *plan.runs)
        wire, place = self.one(plan.wires), self.one(plan.places)
        return (
            lambda: {"kind": "remove", "id": self.one(elements)},
            lambda: {"kind": "change", "id": (it := dice.choice(elements)).id, "values": self.fields(it)},
            lambda: {"kind": "change", "id": (it := dice.choice(plan.parts)).id, "values": self.fields(it)},
            lambda: {"kind": "change", "id": self.one(plan.loads), "values": {"feed": self.one(plan.parts)}},
            lambda: {"kind": "copy_load", "id": self.one((*plan.loads, *plan.parts[:2]))},
            lambda: {"kind": "add_wire", "a": self.terminal(), "b": self.terminal(),
                     "values": dice.choice(({}, {"length_m": 0.4}, {"area_mm2": 1.0}))},
            lambda: {"kind": "remove_wire", "id": wire},
            lambda: {"kind": "move_end", "id": wire, "end": dice.choice("ab"), "to": self.terminal()},
            lambda: {"kind": "set_wire", "id": wire, "values": self.fields(dice.choice(plan.wires))},
            lambda: {"kind": "cut_wire", "id": wire, "place": place, "form": dice.choice(("connector", "splice"))},
            lambda: {"kind": "cut_wire", "id": wire, "place": place, "into": self.one(plan.of_kind("coupling"), "")},
            lambda: {"kind": "make_bus_bar", "post": self.terminal(), "keep": wire},
            lambda: {"kind": "make_joint", "of": place, "place": self.one(plan.places), "ways": dice.choice((1, 2, 4)),
                     "through": [[one] for one in dict.fromkeys((self.one(plan.wires), wire))]},
            lambda: {"kind": "make_joint", "of": place, "place": self.one(plan.places), "ways": 3,
                     "through": self.coming_to(place)})

    def _surveying(self) -> tuple[Callable[[], dict[str, Any]], ...]:
        plan, dice, ways = self.plan, self.dice, [*range(3), 5]
        elements = (*plan.parts, *plan.places, *plan.runs)
        wire, place, run = self.one(plan.wires), self.one(plan.places), self.one(plan.runs)
        return (
            lambda: {"kind": "put_plug", "id": self.one(plan.plugs, ""),
                     "values": {"name": dice.choice(("tail plug", "")), "place": place, "ways": dice.choice((2, 3))},
                     "pins": [{"way": way, "colour": "red"} for way in ways[:dice.randint(0, 4)]]},
            lambda: {"kind": "put_pins", "pins": {self.one(plan.plugs): [{"way": dice.choice(ways), "colour": "BK"}]}},
            lambda: {"kind": "vouch", "id": (it := dice.choice(elements)).id, "fields": list(self.fields(it))},
            lambda: {"kind": "set_scale", **dice.choice((
                {"wheelbase_mm": 1400}, {"a": place, "b": self.one(plan.places), "length_mm": 300}))},
            lambda: {"kind": "move_place", "id": place, "dx_mm": 30, "dy_mm": dice.choice((-40, 0))},
            lambda: {"kind": "confirm", "ids": [self.one((*plan.parts, *plan.runs)), run]},
            lambda: {"kind": "put_point", "id": run, "at": dice.choice(ways), "x_mm": 200, "y_mm": 300,
                     "new": dice.random() < 0.7},
            lambda: {"kind": "drop_point", "id": run, "at": dice.choice(ways)},
            lambda: {"kind": "tell_way", "ids": [wire], "way": dice.sample([r.id for r in plan.runs] or ["R9"], 1)},
            lambda: {"kind": "rename", "name": dice.choice(WORDS)},
            lambda: {"kind": "set_machine", "values": self.fields(plan.machine)},
            lambda: {"kind": "set_rules", "values": self.fields(plan.rules)},
            lambda: {"kind": "body_places"})


def editing(name: str) -> Iterator[str]:
    """Edits at random, one on the other: what each is called and does, or why it is refused; and it taken back."""
    plan = plan_of(f"examples/{name}.json")
    for n in range(EDITS):
        data = Dice(plan, f"{name} {n}").edit()
        try:
            edit = parse_edit(data)
            after = apply(plan, edit)
        except PlanError as error:
            yield f"{data}: {'; '.join(plain(fault) for fault in error.faults[:3])}"
            continue
        yield f"{data}: {edit.label(plan)}: {'; '.join(plain(one)[:400] for one in differences(plan, after)[:12])}"
        try:
            yield f"back: {plain(differences(plan, take_back(plan, after, after)))[:200]}"
        except PlanError as error:
            yield f"not back: {error}"
        # so that there is something left of it
        plan = after if len(after.wires) >= len(plan.wires) - 2 and n % 3 else plan


def saying(name: str) -> Iterator[str]:
    """What a plan, its parts, and its topology say when they are asked for nothing further."""
    analysis = analyse(plan_of(f"examples/{name}.json"))
    for thing in (analysis.plan, *analysis.plan.parts, *analysis.plan.wires, *analysis.plan.places, analysis.topology,
                  *analysis.wires.values()):
        for word, value in _answers(thing):
            yield f"{getattr(thing, 'id', type(thing).__name__)} {word}: {_short(value)}"


def figuring(name: str) -> Iterator[str]:
    """Every figure with its working."""
    for key, working in every(analyse(plan_of(f"examples/{name}.json"))):
        yield f"{key}: {plain(working)}"


def shortly(part: str) -> Iterator[str]:
    """The same of every plan in which a rule speaks: of each family how many, and what they come to together."""
    for rule in sorted(rule for rule in speaking() if rule[0] in INITIALS[int(part)]):
        families: dict[str, list[str]] = {}
        for key, working in every(analysis_of(f"rule {rule}")):
            families.setdefault(key.family, []).append(f"{key}: {plain(working)}")
        yield f"{rule}: " + ", ".join(f"{family} {len(all_)} {sha256('; '.join(all_).encode()).hexdigest()[:8]}"
                                      for family, all_ in families.items())


def _answers(thing: Any) -> Iterator[tuple[str, Any]]:
    """Its own properties, and what of it may be called with nothing."""
    for word in sorted(w for kind in type(thing).__mro__ if kind.__module__.startswith("loadstar") for w in vars(kind)):
        held = inspect.getattr_static(type(thing), word)
        if word.startswith(("_", "model_")):
            continue
        if isinstance(held, property | cached_property):
            with suppress(AssertionError):  # of what has none
                yield word, getattr(thing, word)
        elif inspect.isfunction(held) and len(inspect.signature(held).parameters) == 1:
            yield word, getattr(thing, word)()


def _short(value: Any) -> str:
    """Of what is many, all of it by name; of what has no words of its own, what it is."""
    value = list(value) if inspect.isgenerator(value) else value
    text = plain(sorted(map(str, value)) if isinstance(value, set | frozenset) else value)
    return type(value).__name__ if " at 0x" in text else text[:1500]


SECTIONS = {make.__name__: make for make in (editing, saying, figuring, shortly)}
OF = {shortly.__name__: tuple(map(str, range(len(INITIALS))))}
NET = Net(Path(__file__).parent / "changed.json.gz", tuple(f"{s} {n}" for s in SECTIONS for n in OF.get(s, NAMES)),
          lambda key: SECTIONS[key.partition(" ")[0]](key.partition(" ")[2]))

if __name__ == "__main__":
    sys.exit(NET.write())
