"""The plan document: machine, places and runs, parts, wires, survey, house rules.

Every element has a short id from a counter per kind that never reuses a number. Parts are one tagged union; wires run
from terminal to terminal ("F2.b"); joins are terminals that touch without a wire. What people decided is stored; what
Loadstar chooses (a wire size, a fuse rating left to it) is null here and found by the analysis. All quantities carry
their unit in the name.
"""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Annotated, Any, Literal, Self, TypeVar, cast

from pydantic import Field

from ..doc.machine import JobKind, Machine
from ..doc.places import Place, Run
from ..doc.rules import HouseRules
from ..doc.states import LIVE_STATES, OCCASIONS, RUNNING, States
from ..doc.survey import Continuity, Plug, Reading, Removed
from ..doc.types import ONE_LINE, Doc, Name, NeverTapped
from ..doc.wires import Join, Wire
from ..materials import TABLES_EDITION
from ..parts.base import Part
from ..parts.battery import Battery
from ..parts.coil import Coil
from ..parts.combiner import Combiner
from ..parts.converter import Converter
from ..parts.fed import Fed
from ..parts.generator import Generator
from ..parts.load import LoadPart
from ..parts.pack import Pack
from ..parts.port import Port
from ..parts.registry import KINDS, AnyPart
from ..parts.selector import Selector
from ..parts.tap import Tap

FORMAT = "loadstar-plan"
# What stands in a list of its own in the document, by list: each has ids of its own.
LISTED: dict[str, type[Doc]] = {
    "places": Place, "runs": Run, "wires": Wire, "plugs": Plug, "readings": Reading, "tables": Continuity,
    "removed": Removed}
PREFIX: dict[str, str] = {
    **{name: kind.PREFIX for name, kind in KINDS.items()}, "wire": "W", "place": "P", "run": "R", "plug": "AP",
    "reading": "RD",
    "table": "CT", "removed": "X"}

Kind = TypeVar("Kind", bound=Part)


class Plan(Doc):
    """One whole plan. `job` is what the work is; `workshop_rules` are the workshop's house rules as they were when the
    plan was begun."""

    format: Literal["loadstar-plan"] = "loadstar-plan"
    version: Literal[13] = 13
    tables_edition: Annotated[str, Field(max_length=20), ONE_LINE] = TABLES_EDITION
    name: Name = "New plan"
    job: JobKind = "fit"
    machine: Machine = Machine()
    places: tuple[Place, ...] = ()
    runs: tuple[Run, ...] = ()
    parts: tuple[AnyPart, ...] = ()
    wires: tuple[Wire, ...] = ()
    joins: tuple[Join, ...] = ()
    plugs: tuple[Plug, ...] = ()
    readings: tuple[Reading, ...] = ()
    tables: tuple[Continuity, ...] = ()
    removed: tuple[Removed, ...] = ()
    rules: HouseRules = HouseRules()
    workshop_rules: HouseRules = HouseRules()
    counters: dict[Annotated[str, Field(pattern=r"^[A-Z]{1,2}$")], Annotated[int, Field(ge=0, le=999_999)]] = {}

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with some fields changed; the indexes of the old one do not go with it."""
        copied = super().model_copy(update=update, deep=deep)
        for index in _INDEXES:
            copied.__dict__.pop(index, None)
        return copied

    # -- by id ----------------------------------------------------------------------------------------------------

    @cached_property
    def part_by_id(self) -> dict[str, Part]:
        """Every part by its id."""
        return {p.id: p for p in self.parts}

    @cached_property
    def wire_by_id(self) -> dict[str, Wire]:
        """Every wire by its id."""
        return {w.id: w for w in self.wires}

    @cached_property
    def place_by_id(self) -> dict[str, Place]:
        """Every place by its id."""
        return {p.id: p for p in self.places}

    def part(self, part_id: str) -> Part:
        """The part with this id; KeyError when there is none."""
        return self.part_by_id[part_id]

    def wire(self, wire_id: str) -> Wire:
        """The wire with this id; KeyError when there is none."""
        return self.wire_by_id[wire_id]

    def place(self, place_id: str) -> Place:
        """The place with this id; KeyError when there is none."""
        return self.place_by_id[place_id]

    def run(self, run_id: str) -> Run:
        """The run with this id; KeyError when there is none."""
        return {r.id: r for r in self.runs}[run_id]

    def plug(self, plug_id: str) -> Plug:
        """The connector with this id; KeyError when there is none."""
        return {p.id: p for p in self.plugs}[plug_id]

    def elements(self) -> Iterator[Part | Place | Run | Wire | Plug | Reading | Continuity | Removed]:
        """Everything that has an id."""
        for listed in (self.places, self.runs, self.parts, self.wires, self.plugs, self.readings, self.tables,
                       self.removed):
            yield from listed

    # -- by kind --------------------------------------------------------------------------------------------------

    @cached_property
    def _by_kind(self) -> dict[type[Part], tuple[Part, ...]]:
        found: dict[type[Part], list[Part]] = {}
        for part in self.parts:
            found.setdefault(type(part), []).append(part)
        return {kind: tuple(parts) for kind, parts in found.items()}

    def of(self, kind: type[Kind]) -> tuple[Kind, ...]:
        """The parts of a kind, in document order."""
        return cast(tuple[Kind, ...], self._by_kind.get(kind, ()))  # sorted by their own type

    def one(self, kind: type[Kind]) -> Kind | None:
        """The only, or first, part of a kind; None where there is none."""
        return next(iter(self.of(kind)), None)

    def is_one(self, part_id: str, kind: type[Kind]) -> Kind | None:
        """The part with this id if it is of a kind; None for another and for none."""
        part = self.part_by_id.get(part_id)
        return part if type(part) is kind else None

    def of_kind(self, kind: str) -> tuple[Part, ...]:
        """The parts of a kind by its name in documents, in document order."""
        return self.of(KINDS[kind])

    def hangs_on(self, load: LoadPart) -> str:
        """What a load is fed from at last, past the switches, flashers and shared leads that it hangs on."""
        return self._chain(load)[-1]

    def by_coil(self, load: LoadPart) -> bool:
        """Whether a lighting coil beside the battery feeds a load, so that neither battery nor generator pays."""
        coil = self.one(Coil)
        return coil is not None and coil is not self.supply and self.hangs_on(load) == coil.id

    @cached_property
    def _chains(self) -> dict[str, list[str]]:
        """What was found of feeds, and what those are fed from; filled as it is asked for."""
        return {}

    def _chain(self, load: LoadPart) -> list[str]:
        """What a load is fed from, and that from, to the last."""
        if (known := self._chains.get(load.feed)) is not None:
            return known
        chain = self._chains[load.feed] = [load.feed]
        while isinstance(between := self.part_by_id.get(chain[-1]), Fed) and between.PASSES and (
                between.above not in (None, *chain)):
            chain.append(between.above or "")
        return chain

    def lives_in(self, load: LoadPart) -> tuple[States, ...]:
        """The states in which a load is to live: those of key, engine or occasion, as far as the switches live that it
        hangs on, or the one that pulls its relay in."""
        return self._lives_in[load.id]

    @cached_property
    def _lives_in(self) -> dict[str, tuple[States, ...]]:
        found = {load.id: LIVE_STATES[load.live] for load in self.loads}
        for load in self.loads if self.of(Selector) else ():
            deciding = [part for feed in self._chain(load) if (part := self.is_one(feed, Selector))]
            if load.live in OCCASIONS and not deciding:
                deciding = [s for s in self.of(Selector) if any(at.name == load.live for at in s.table)][:1]
            found[load.id] = tuple(state for state in found[load.id] if all(
                state in LIVE_STATES[switch.live] for switch in deciding))
        for load in self.loads if self.one(Coil) else ():
            if self.by_coil(load):
                found[load.id] = tuple(state for state in found[load.id] if state in RUNNING)
        return found

    def fed_from(self, feed: str) -> tuple[LoadPart, ...]:
        """The loads that are fed from a part, straight or past what they hang on."""
        return tuple(p for p in self.loads if p.feed == feed or self.hangs_on(p) == feed)

    def fed_through(self, part: str) -> tuple[LoadPart, ...]:
        """The loads whose feed leads through a switch, flasher or shared lead, straight or past another."""
        return tuple(p for p in self.loads if part in self._chain(p))

    def second_supply(self, part_id: str) -> Converter | Port | None:
        """The part with this id if it makes a supply of its own out of the main one."""
        return self.is_one(part_id, Converter) or self.is_one(part_id, Port)

    @cached_property
    def wired(self) -> frozenset[str]:
        """The parts that a wire comes to."""
        return frozenset(end.part for w in self.wires for end in (w.a, w.b))

    @property
    def loads(self) -> tuple[LoadPart, ...]:
        """The accessories."""
        return self.of(LoadPart)

    @property
    def taps(self) -> tuple[Tap, ...]:
        """Found wires and pins that something could be fed or triggered from."""
        return tuple(t for t in self.of(Tap) if t.can_feed)

    def pins(self, plug: str) -> tuple[Tap, ...]:
        """The pins of a connector that have been written down, by their numbers."""
        return tuple(sorted((t for t in self.of(Tap) if t.plug == plug), key=lambda t: t.way or 0))

    def never(self, tap: Tap) -> NeverTapped:
        """The system a pin belongs to that is never tapped: its own mark, or its connector's."""
        return tap.never or next((p.never for p in self.plugs if p.id == tap.plug), "")

    @property
    def battery(self) -> Battery | None:
        """The machine's battery, if it has been entered."""
        return self.one(Battery)

    @property
    def generator(self) -> Generator | None:
        """The machine's generator, if it has been entered."""
        return self.one(Generator)

    @property
    def packs(self) -> tuple[Pack, ...]:
        """The traction packs."""
        return self.of(Pack)

    @property
    def combiner(self) -> Combiner | None:
        """What joins two packs, if anything is wired to it."""
        found = self.one(Combiner)
        return found if found is not None and found.id in self.wired else None

    @property
    def supply(self) -> Battery | Pack | Coil | None:
        """What the plan's circuits hang on: the battery, else the first pack, else the lighting coil."""
        return self.battery or self.one(Pack) or self.one(Coil)

    def ambient_at(self, place_id: str) -> float:
        """The air around the wires at a place: its zone's by the house rules, or its own."""
        place = self.place(place_id)
        zones = {"open": self.rules.ambient_open_c, "under the tank": self.rules.ambient_tank_c,
                 "near the engine": self.rules.ambient_engine_c}
        return zones.get(place.zone, place.ambient_c)


# What a plan finds of itself once, and a copy with other fields has to find anew.
_INDEXES = tuple(name for name, value in vars(Plan).items() if isinstance(value, cached_property))

VERSION: int = Plan.model_fields["version"].default
