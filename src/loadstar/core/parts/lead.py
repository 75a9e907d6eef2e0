"""A lead that several accessories share."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..physics import elements as net
from ..refs import TerminalRef
from .asks import LIVE, Ask, name, place
from .base import Glance, Part
from .fed import Fed
from .inside import ABSENT, ASSUMED, Branch, Drives, Inside
from .terminals import OWN_LEAD, PartTerminal, terminals
from .work import Ends, Wanted, Work

SPLICE_MOHM = 0.3
CLIP_OHM = 0.005
CHARGING = "a charger plugged in"
CHARGER_SHARE, BATTERY_SHARE = 14.4 / 12, 13.2 / 12  # of its nominal voltage: a charger's limit, a battery charging


class Lead(Fed):
    """A feed and return that end in one place for whatever is put there: a Y lead with splices, or a connector that is
    plugged and unplugged, a mated pair with its contacts' resistance and rating. A charging lead is fed from outside
    while the machine is parked, with up to `charger_a`. `covered` says that its end has a cap."""

    kind: Literal["lead"] = "lead"
    end: Literal["spliced", "connector"] = "connector"
    use: Literal["outlet", "charging"] = "outlet"
    charger_a: Annotated[float, Field(gt=0, le=100)] = 4
    covered: bool = False
    rated_a: Annotated[float, Field(gt=0, le=200)] = 10
    contact_mohm: Annotated[float, Field(ge=0.1, le=200)] = 5

    PREFIX: ClassVar[str] = "LD"
    TITLE: ClassVar[str] = "Shared lead or outlet"
    SHORT: ClassVar[str] = "shared lead"
    GROUP: ClassVar[str] = "Shared leads and outlets"
    ADD_WORDS: ClassVar[str] = "Add a shared lead or outlet"
    FITS: ClassVar[tuple[SystemKind, ...]] = Part.SYSTEMS
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "in", "ret", "pos", "neg", "ext")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place("Where it ends"), Ask("feed", "Fed from", "Empty: you add its wires.", kind="choice",
                                            optional=True),
        Ask("live", "Its feed lives", kind="choice", choices=LIVE),
        Ask("end", "Ends in", kind="choice", choices=(("connector", "a connector that is unplugged"),
                                                      ("spliced", "splices, a Y lead"))),
        Ask("use", "It is there for", kind="choice", choices=(("outlet", "what is plugged in"),
                                                              ("charging", "charging the battery"))),
        Ask("charger_a", "For charging: up to"), Ask("covered", "Its end has a cap", kind="yes"),
        Ask("rated_a", "Connector rated, each contact"), Ask("contact_mohm", "Each contact"))
    FEED_WORDS: ClassVar[str] = "on the shared lead"
    SYMBOL: ClassVar[str] = "plug"
    PROBED: ClassVar[str] = "one side to the other"

    def glance(self, machine: Machine, where: str) -> Glance:
        return ("rated", self.rated_a, "A") if self.end == "connector" else (where, 0.0, "")

    def inside(self, machine: Machine) -> Inside:
        """A contact, or a splice, in its feed and one in its return; whatever is put there may short it. For charging,
        a charger that is plugged in now and then."""
        ohm = (self.contact_mohm if self.end == "connector" else SPLICE_MOHM) / 1000
        what = "contact of a connector" if self.end == "connector" else "splice"
        branches = [Branch(self.element(), self.at("in"), self.at("pos"), ohm, what),
                    Branch(self.element("ret"), self.at("neg"), self.at("ret"), ohm, what)]
        elements: list[net.Source] = []
        if self.use == "charging":
            branches.append(Branch(self.element("ext"), self.at("ext"), self.at("pos"), CLIP_OHM, "the charger's clip",
                                   ASSUMED, moved_by=self.id, positions=(CHARGING,), opens=True))
            elements.append(net.Source(self.id, self.at("ext"), self.at("neg"), 1.0, 1.0))
        return Inside(elements=tuple(elements), shorted=((self.at("pos"), self.at("neg")),), branches=tuple(branches))

    def stands_in(self, state: States) -> tuple[str, ...]:
        """A charger is plugged in now and then while the machine is parked."""
        return () if self.use != "charging" else ("nothing plugged in", CHARGING) if state == "parked" else (
            "nothing plugged in",)

    @property
    def taken_at(self) -> str:
        """Usually it is not."""
        return "nothing plugged in"

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """Its charger's limit voltage behind what lets its stated current into a battery that wants it."""
        limit_v, wants_v = (share * machine.system_v for share in (CHARGER_SHARE, BATTERY_SHARE))
        return Drives(1.0, -(limit_v - wants_v) / self.charger_a, limit_v)

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """A charger limits; the battery decides what flows into a short."""
        return ABSENT

    @property
    def fed_at(self) -> tuple[str, str]:
        """Feed and return."""
        return "in", "ret"

    def hang(self, work: Work, load: Wanted) -> Ends:
        """At its end, beside whatever else is there."""
        return Ends(self.at("pos"), self.back(work))

    def takes_plug(self, work: Work, load: Wanted) -> Ends | None:
        """In its connector; a Y lead of splices has none."""
        return self.hang(work, load) if self.end == "connector" else None

    def back(self, work: Work) -> TerminalRef:
        """Its own."""
        return self.at("neg")
