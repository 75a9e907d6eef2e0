"""A switch with positions: what is joined in each of them.

Written as it is read off a continuity table: "off; dip: in+dip; main: in+main". The first position is where it rests,
the first terminal where it is fed. A position named after an occasion (dip, main, brake, horn, left, right, start,
hot, park) says what lives by it; any other is "by its own switch".
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import LIVES_WITH, OCCASIONS, RUNNING, WITH_KEY, Live, States
from ..doc.types import ONE_LINE, Id
from ..errors import refuse
from .asks import BREAKS, LIVE, Ask, name, place, same
from .base import Glance, Part
from .fed import Fed
from .inside import Branch, ContactRating, Inside
from .terminals import PartTerminal
from .work import LIVE_COLOUR, Ends, Wanted, Work

STEPS_A = (3.0, 5.0, 10.0, 16.0, 20.0, 30.0)  # resistive ratings of lamp, horn and brake switches that are usual
MOST_POSITIONS, MOST_TERMINALS = 8, 12
_NAME, _TERMINAL = re.compile(r"^[a-z0-9][a-z0-9 -]{0,23}$"), re.compile(r"^[a-z0-9]{1,8}$")
SPRUNG = ("button", "brake switch", "thermostat")  # let go, they are where they rest


@dataclass(frozen=True)
class Position:
    """One position, and the groups of terminals that are joined in it."""

    name: str
    joined: tuple[tuple[str, ...], ...]


def read_positions(text: str) -> tuple[Position, ...]:
    """The positions that "off; dip: in+dip; main: in+main" says; ValueError, with a sentence, where it says none."""
    found: list[Position] = []
    for part in filter(None, (p.strip() for p in text.lower().split(";"))):
        called, _, rest = (p.strip() for p in part.partition(":"))
        groups = [tuple(t.strip() for t in group.split("+")) for group in rest.split(",") if group.strip()]
        if not _NAME.match(called):
            raise ValueError(f"“{called}” cannot be the name of a position: letters and digits, up to 24.")
        if called in {p.name for p in found}:
            raise ValueError(f"Position {called} is there twice.")
        for group in groups:
            if wrong := next((t for t in group if not _TERMINAL.match(t)), None):
                raise ValueError(f"“{wrong}” cannot be the name of a terminal: letters and digits, up to 8.")
            if len(set(group)) < 2:
                raise ValueError(f"In {called}, {'+'.join(group)} joins nothing: at least two terminals, as in in+out.")
        every = [t for group in groups for t in group]
        if again := next((t for t in every if every.count(t) > 1), None):
            raise ValueError(f"In {called}, {again} is joined twice: put all that meet there into one group.")
        found.append(Position(called, tuple(groups)))
    if not 2 <= len(found) <= MOST_POSITIONS:
        raise ValueError(f"A switch has 2 to {MOST_POSITIONS} positions; these are {len(found)}. "
                         "Like this: off; on: in+out")
    if not any(p.joined for p in found):
        raise ValueError("No position joins anything. Like this: off; on: in+out")
    if len({t for p in found for group in p.joined for t in group}) > MOST_TERMINALS:
        raise ValueError(f"A switch has at most {MOST_TERMINALS} terminals.")
    return tuple(found)


class Selector(Fed):
    """A switch with positions, worked by hand or foot, or by itself.

    `positions` are read by `read_positions`; its feed comes to its first terminal. `beside` is another switch that it
    is wired beside, terminal by terminal. `usual` is where it is taken to stand ("" : where most is on); the other
    positions are looked at besides.
    """

    kind: Literal["selector"] = "selector"
    use: Literal["switch", "button", "brake switch", "thermostat", "safety switch", "pressure switch"] = "switch"
    positions: Annotated[str, Field(min_length=3, max_length=400), ONE_LINE] = "off; on: in+out"
    usual: Annotated[str, Field(max_length=24), ONE_LINE] = ""
    beside: Id | None = None
    contact_a: Annotated[float, Field(gt=0, le=200)] | None = None
    breaks_v: Annotated[float, Field(ge=1, le=1000)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=1000)] = 15

    PREFIX: ClassVar[str] = "SW"
    TITLE: ClassVar[str] = "Switch with positions"
    SHORT: ClassVar[str] = "switch"
    GROUP: ClassVar[str] = "Switches and buttons"
    ADD_WORDS: ClassVar[str] = "Add a switch or button"
    FITS: ClassVar[tuple[SystemKind, ...]] = Part.SYSTEMS
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = ()
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place(), same("use", "Kind", (
            "switch", "button", "brake switch", "thermostat", "safety switch", "pressure switch")),
        Ask("positions", "Positions, and what each joins",
            "At rest first, the feed's terminal first: off; dip: in+dip; main: in+main", kind="note"),
        Ask("feed", "Fed from", "Empty: you add its wires.", kind="choice", optional=True),
        Ask("live", "Its feed lives", kind="choice", choices=LIVE),
        Ask("beside", "Works beside", "A second switch for the same thing, as brake lever and pedal.", kind="choice",
            optional=True),
        Ask("usual", "Usually stands at", "Empty: where most is on. The others are looked at too.", kind="text",
            optional=True),
        Ask("contact_a", "Contact rating", "Empty: Loadstar chooses.", optional=True), BREAKS,
        Ask("contact_mohm", "Contact resistance"))
    TELLS_WHEN: ClassVar[bool] = True
    FEED_WORDS: ClassVar[str] = "by this switch"
    SYMBOL: ClassVar[str] = "contact"
    PROBED: ClassVar[str] = "contact"
    CHOSEN: ClassVar[str] = "contact_a"

    # -- what it says of itself -----------------------------------------------------------------------------------

    @property
    def beside_of(self) -> str | None:
        """As told."""
        return self.beside

    @cached_property
    def table(self) -> tuple[Position, ...]:
        """Its positions; none where they cannot be read."""
        try:
            return read_positions(self.positions)
        except ValueError:
            return ()

    @cached_property
    def ends(self) -> tuple[str, ...]:
        """Its terminals, in the order in which they are named."""
        return tuple(dict.fromkeys(t for p in self.table for group in p.joined for t in group))

    def outputs(self, position: Position) -> tuple[str, ...]:
        """What a position joins to its first terminal."""
        common = self.ends[0]
        return next((tuple(t for t in group if t != common) for group in position.joined if common in group), ())

    def output(self, live: Live) -> str | None:
        """The terminal that lives by an occasion: the one with its name; else of the position with its name the one
        that no other has before it; None where it has none. A single output is given to what lives with the key or by
        its own switch, and to any occasion where no position says for which it is."""
        if live in self.ends[1:]:
            return live
        named = next((p for p in self.table if p.name == live), None)
        if named is not None:
            mine = self.outputs(named)
            elsewhere = {t for p in self.table if p is not named for t in self.outputs(p)}
            return next((t for t in mine if t not in elsewhere), mine[0] if mine else None)
        every = tuple(dict.fromkeys(t for p in self.table for t in self.outputs(p)))
        says = any(p.name in OCCASIONS for p in self.table)
        fits = live in ("key", "switch") or (live in OCCASIONS and not says)
        return every[0] if len(every) == 1 and fits else None

    def gives(self, live: Live) -> bool:
        """Whether a position of it does."""
        return self.output(live) is not None

    def glance(self, machine: Machine, where: str) -> Glance:
        return (", ".join(p.name for p in self.table), 0.0, "")

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """Positions that can be read, and a usual one that is among them."""
        try:
            read_positions(self.positions)
        except ValueError as error:
            yield "positions", str(error)
            return
        if self.usual and self.usual not in {p.name for p in self.table}:
            yield "usual", f"{self.name} has no position {self.usual}; it has {', '.join(p.name for p in self.table)}."
        if self.beside == self.id or self.feed == self.id:
            yield "feed", f"{self.name} cannot be fed from itself."

    def inside(self, machine: Machine) -> Inside:
        """A contact from the first terminal of what a position joins to each other of it."""
        pairs: dict[tuple[str, str], list[str]] = {}
        for position in self.table:
            for group in position.joined:
                # In the order of all terminals, so that the same two meet by the same contact in every position.
                common, *others = sorted(group, key=self.ends.index)
                for other in others:
                    pairs.setdefault((common, other), []).append(position.name)
        branches = tuple(
            Branch(self.element(f"c{i}"), self.at(a), self.at(b), self.contact_mohm / 1000, "contact",
                   moved_by=self.id, positions=tuple(where), opens=True)
            for i, ((a, b), where) in enumerate(pairs.items(), 1))
        return Inside(branches=branches, elements=(), shorted=())

    @property
    def contact(self) -> ContactRating:
        """Its contacts': what they feed comes on with them."""
        return ContactRating(self.contact_a, STEPS_A, makes_inrush=True, breaks_v=self.breaks_v)

    # -- where it stands ------------------------------------------------------------------------------------------

    def stands_in(self, state: States) -> tuple[str, ...]:
        """At rest while nobody is there; a button for the starter is pressed while cranking, and only then. A pressure
        switch moves while the engine runs."""
        rest, *others = (p.name for p in self.table)
        if self.use == "pressure switch":
            return (others[0] if state in RUNNING else rest,)
        if state not in WITH_KEY:
            return (rest,)
        if state == "cranking":
            return ("start",) if "start" in others else (rest,) if self.use in SPRUNG else (rest, *others)
        return (rest, *(p for p in others if p != "start"))

    @property
    def taken_at(self) -> str:
        """The usual position."""
        return self.usual

    @property
    def springs_back(self) -> bool:
        """What is pressed, or warm, does."""
        return self.use in SPRUNG

    def is_lit(self, live: Live, stand: str) -> bool:
        """Whether what lives so is on while it stands there."""
        position = next((p for p in self.table if p.name == stand), None)
        return position is not None and self.output(live) in self.outputs(position)

    def joined_at(self, stand: str) -> int:
        """Of its contacts, those that this position closes."""
        return sum(len(group) - 1 for p in self.table if p.name == stand for group in p.joined)

    # -- a feed ---------------------------------------------------------------------------------------------------

    @property
    def own_switch(self) -> bool:
        """It is one."""
        return True

    @property
    def above(self) -> str | None:
        """The switch that it works beside, or its feed."""
        return self.beside or self.feed

    @property
    def hangs_by(self) -> tuple[Any, ...]:
        """Its feed, the switch beside it, and its terminals."""
        return (*super().hangs_by, self.beside, self.ends)

    @property
    def fed_at(self) -> tuple[str, None]:
        """Its first terminal."""
        return self.ends[0], None

    def arrive(self, work: Work) -> None:
        """Its feed with its fuse, or its wires to the switch that it works beside."""
        if self.beside is None:
            super().arrive(work)
            return
        for end in self.ends:
            work.wire(work.part(self.beside).at(end), self.at(end), LIVE_COLOUR[self.live], self.id)

    def hang(self, work: Work, load: Wanted) -> Ends:
        """At the terminal that lives as the load is to."""
        out = self.output(load.live)
        if out is None:
            there = [LIVES_WITH[p] for p in OCCASIONS if self.gives(p) and p != "switch"]
            raise refuse(load.id, "live", f"{self.name} has no position for that: what it feeds lives "
                                          f"{' or '.join(there) or 'by its own switch'}.")
        return Ends(self.at(out), self.back(work))
