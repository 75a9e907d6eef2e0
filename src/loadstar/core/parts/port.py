"""A drive unit's light port."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import LIVE_STATES, Feeding, Live, States
from ..errors import refuse
from ..physics import elements as net
from ..refs import TerminalRef
from .asks import LIVE, Ask, name, place
from .base import Glance, Part
from .converter import SHORT_MULTIPLE
from .inside import RAIL_NEGATIVE, RAIL_POSITIVE, Inside, Limit, Point
from .terminals import PartTerminal, terminals
from .work import LIVE_WORDS, Ends, Wanted, Work

EFFICIENCY = 0.9  # of the step-down inside a drive unit, assumed


class Port(Part):
    """A drive unit's own light port: its volts and watt limit, and whether service software has enabled it."""

    kind: Literal["port"] = "port"
    out_v: Annotated[float, Field(ge=3, le=30)] = 12
    limit_w: Annotated[float, Field(gt=0, le=200)] = 17
    enabled: bool = False
    live: Feeding = "key"

    PREFIX: ClassVar[str] = "LP"
    TITLE: ClassVar[str] = "Light port"
    GROUP: ClassVar[str] = "Light ports"
    ADD_WORDS: ClassVar[str] = "Add a light port"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals("sealed small", "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name("Light port"), place(), Ask("out_v", "Gives"), Ask("limit_w", "Up to"),
        Ask("enabled", "Enabled by service software", kind="yes"), Ask("live", "Live", kind="choice", choices=LIVE))
    FEED_WORDS: ClassVar[str] = "light port"
    SYSTEMS: ClassVar[tuple[SystemKind, ...]] = ("pack",)
    OWN_ENDS: ClassVar[tuple[str, ...]] = ("pos", "neg")

    @property
    def most_a(self) -> float:
        """What it gives at the most."""
        return self.limit_w / self.out_v

    @property
    def most_w(self) -> float:
        """The most that it gives."""
        return self.limit_w

    @property
    def output_frac(self) -> float:
        """Watts given over watts taken."""
        return EFFICIENCY

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("enabled" if self.enabled else "not enabled", self.limit_w, "W")

    def inside(self, machine: Machine) -> Inside:
        """A second supply out of the rail; the two negatives are one."""
        made = net.Converter(self.id, RAIL_POSITIVE, RAIL_NEGATIVE, self.at("pos"), self.at("neg"), self.out_v,
                             self.most_a, EFFICIENCY)
        return Inside(
            branches=(), elements=(made,), shorted=(), touches=((self.at("neg"), RAIL_NEGATIVE),),
            points=(Point(self.at("neg"), "negative", f"{self.name}, output negative"),
                    Point(self.at("pos"), "output", f"{self.name}, output")),
            output=(self.at("pos"), self.at("neg")))

    def converts_in(self, state: States) -> bool:
        """While it lives, if service software has enabled it."""
        return self.enabled and state in LIVE_STATES[self.live]

    def limit(self, machine: Machine) -> Limit:
        """It gives little more than its rating into a short."""
        return Limit(self.most_a * SHORT_MULTIPLE, "behind")

    def gives(self, live: Live) -> bool:
        """What hangs on it lives as it does."""
        return live == self.live

    def takes_plug(self, work: Work, load: Wanted) -> Ends:
        """As it feeds anything."""
        return self.hang(work, load)

    def back(self, work: Work) -> TerminalRef:
        """Its own negative."""
        return self.at("neg")

    def hang(self, work: Work, load: Wanted) -> Ends:
        """Straight: it limits and switches by itself, so what hangs on it lives as it does."""
        if self.live != load.live:
            raise refuse(load.id, "live",
                         f"{self.name} is {LIVE_WORDS[self.live]}, so an accessory on it is too: choose that, or "
                                          "another feed.")
        return Ends(self.at("pos"), self.at("neg"))
