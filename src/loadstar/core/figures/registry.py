"""The figures that can be explained, by family: what each is asked of, and the function that makes its working.

A family is entered beside the figure it explains. Asked for a figure that a plan does not have, it raises NoFigure, and
nothing else is taken for that: a mistake in a working comes out as itself.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import product
from typing import Any

from ..errors import NotFound
from ..parts.converter import Converter
from ..parts.flasher import Flasher
from ..parts.load import LoadPart
from ..parts.pack import Pack
from ..parts.port import Port
from ..parts.tap import Tap
from ..refs import FigureKey
from .figures import Figures
from .working import Working


class NoFigure(NotFound):
    """There is no such figure in this plan."""


@dataclass(frozen=True)
class Domain:
    """What a figure may be asked of: by its word in a key, the thing that the family's function is given."""

    every: Callable[[Figures], Mapping[str, Any]]


STATE = Domain(lambda f: {s: s for s in f.states})
RUNNING_STATE = Domain(lambda f: {s: s for s in f.states if f.plan.machine.rpm(s) > 0})
LOAD = Domain(lambda f: {p.id: p for p in f.plan.loads})
WIRE = Domain(lambda f: f.wires)
ELEMENT = Domain(lambda f: {k.element: k for k in f.topology.links})  # all that may carry a load's current
CARRIES = Domain(lambda f: {e: e for e in (*(k.element for k in f.topology.links), *(p.id for p in f.plan.loads))})
FUSE = Domain(lambda f: {p.id: p for p in f.plan.parts if p.protection and p.protection.kind == "fuse"})
TAP = Domain(lambda f: {p.id: p for p in f.plan.of(Tap)})
ACTUATOR = Domain(lambda f: {p: f.plan.part(p) for p in f.topology.actuators})
PACK = Domain(lambda f: {p.id: p for p in f.plan.of(Pack)})
CONVERTER = Domain(lambda f: {p.id: p for p in f.plan.of(Converter)})
PORT = Domain(lambda f: {p.id: p for p in f.plan.of(Port)})
FLASHER = Domain(lambda f: {p.id: p for p in f.plan.of(Flasher)})
LAMP = Domain(lambda f: {p.id: p for p in f.plan.of(LoadPart) if f.lamps and p.id in f.lamps.lamps})
BUNDLE = Domain(lambda f: f.loom.by_run if f.loom else {})
END = Domain(lambda f: f.ends.by_key if f.ends else {})
TOUCHED = Domain(lambda f: f.chafes)
UNFUSED = Domain(lambda f: f.unfused)
COURSED = Domain(lambda f: {w.id: w for w in f.wires.values() if w.judged_by and w.judged_by.courses})


@dataclass(frozen=True)
class Family:
    """One family: what it is asked of, and how it is explained."""

    name: str
    asked_of: tuple[Domain, ...]
    explain: Callable[..., Working]


FAMILIES: dict[str, Family] = {}
Explain = Callable[..., Working]


def figure(name: str, *asked_of: Domain) -> Callable[[Explain], Explain]:
    """Enter the function that explains a family."""
    def enter(explain: Explain) -> Explain:
        assert name not in FAMILIES, name
        FAMILIES[name] = Family(name, asked_of, explain)
        return explain
    return enter


def working(figures: Figures, key: str) -> Working:
    """The working of a figure; NoFigure when the plan has no such figure."""
    wanted = FigureKey(key)
    family = FAMILIES.get(wanted.family)
    if family is None or not figures.plan.supply or len(wanted.arguments) != len(family.asked_of):
        raise NoFigure(f"There is no figure {key[:60]}.")
    given = []
    for domain, word in zip(family.asked_of, wanted.arguments, strict=True):
        every = domain.every(figures)
        if word not in every:
            raise NoFigure(f"There is no figure {key[:60]}.")
        given.append(every[word])
    return family.explain(figures, *given)


def exists(figures: Figures, key: str) -> bool:
    """Whether the plan has such a figure."""
    try:
        working(figures, key)
    except NoFigure:
        return False
    return True


def every(figures: Figures) -> Iterator[tuple[FigureKey, Working]]:
    """Every figure that a plan has, with its key."""
    for family in FAMILIES.values():
        for words in product(*(domain.every(figures) for domain in family.asked_of)):
            key = FigureKey.of(family.name, *words)
            try:
                yield key, working(figures, key)
            except NoFigure:
                continue
