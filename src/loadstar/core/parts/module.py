"""A solid-state distribution module."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..refs import TerminalRef
from .asks import Ask, name, place, whole
from .base import Glance, Part
from .block import lead_in
from .inside import NOTHING_INSIDE, Inside
from .terminals import PartTerminal, terminals
from .work import TRIGGER_COLOUR, Ends, Wanted, Work


class Module(Part):
    """A solid-state distribution module with a return bar: its ways limit and switch by themselves, without relays.

    `total_a` is what all its ways together may carry; its key and engine inputs only sense.
    """

    kind: Literal["module"] = "module"
    ways: Annotated[int, Field(ge=1, le=24)] = 6
    total_a: Annotated[float, Field(gt=0, le=200)] = 40
    way_most_a: Annotated[float, Field(gt=0, le=60)] = 15
    way_mohm: Annotated[float, Field(ge=0.5, le=100)] = 8

    PREFIX: ClassVar[str] = "DM"
    HOUSING: ClassVar[bool] = True
    MOVABLE: ClassVar[bool] = True
    TITLE: ClassVar[str] = "Distribution module"
    GROUP: ClassVar[str] = "Distribution modules"
    ADD_WORDS: ClassVar[str] = "Add a module"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "total_loss", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = (
        *terminals("ring M5", "in"), *terminals("sealed small", "key", "engine"), *terminals("ring M5", "ret"))
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name("Distribution module"), place(), whole("ways", "Ways", (4, 6, 8, 10, 12)),
        Ask("total_a", "All ways together"),
        Ask("way_most_a", "Most of one way"), Ask("way_mohm", "Resistance of a way"))
    FEED_WORDS: ClassVar[str] = "limited way"

    @property
    def plug_in_ways(self) -> int:
        """Its ways."""
        return self.ways

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("ways", float(self.ways), "")

    def inside(self, machine: Machine) -> Inside:
        """Bars, each one node; its ways are parts of their own. Its inputs only sense: they draw too little to
        count."""
        return NOTHING_INSIDE

    def arrive(self, work: Work) -> None:
        """Its main fuse at the source, feed wire and return wire."""
        lead_in(work, self)

    def back(self, work: Work) -> TerminalRef:
        """Its return bar."""
        return self.at("ret")

    def hang(self, work: Work, load: Wanted) -> Ends:
        """One of its ways, and the sense wire that tells it when."""
        if load.live != "always" and not any(w.b == self.at(load.live) for w in work.wires):
            work.wire(work.trigger(load.live), self.at(load.live), TRIGGER_COLOUR, self.id)
        way = work.make("way", name=f"{load.name} way", place=self.place, made_for=load.id, live=load.live,
                        contact_mohm=self.way_mohm)
        work.join(self.at("in"), way.at("a"))
        return Ends(way.at("b"), self.at("ret"))
