"""What relays and solenoids have in common: a coil that works a contact."""

from typing import Protocol

from ..refs import ElementRef, TerminalRef
from .asks import Ask
from .inside import Actuator, Branch, Inside

USUAL_HOLD_SHARE = 0.4  # of its pull-in voltage a coil still holds at; usual (it must let go below a tenth of nominal)
COIL_ASKS = (
    Ask("coil_ohm", "Coil"), Ask("pull_in_v", "Pulls in at, 20 °C"),
    Ask("hold_v", "Holds down to", "Empty: two fifths of its pull-in voltage.", optional=True),
    Ask("contact_mohm", "Contact resistance"),
    Ask("suppression", "Across the coil", kind="choice",
        choices=(("resistor", "resistor"), ("diode", "diode"), ("none", "nothing"))))


class Worked(Protocol):
    """What is asked of a part with such a coil and contact."""

    @property
    def id(self) -> str:
        """Its id."""

    @property
    def contact_mohm(self) -> float:
        """Its contact, closed."""

    @property
    def coil_ohm(self) -> float:
        """Its coil."""

    @property
    def pull_in_v(self) -> float:
        """At which its coil pulls in, 20 C."""

    @property
    def hold_v(self) -> float | None:
        """The least that keeps it closed; None: the usual share."""

    @property
    def suppression(self) -> str:
        """What lies across its coil."""

    def at(self, terminal: str) -> TerminalRef:
        """One of its terminals."""

    def element(self, role: str = "") -> ElementRef:
        """What it puts between its terminals."""


def holds_v(part: Worked) -> float:
    """Below this a closed contact opens."""
    return part.hold_v if part.hold_v is not None else USUAL_HOLD_SHARE * part.pull_in_v


def worked(part: Worked, *, contact: tuple[str, str], coil: tuple[str, str]) -> Inside:
    """Its contact between two terminals, closed while its coil between two others has pulled in."""
    (a, b), (plus, minus) = map(part.at, contact), map(part.at, coil)
    branches = (
        Branch(part.element(), a, b, part.contact_mohm / 1000, "contact", follows=part.id, opens=True),
        Branch(part.element("coil"), plus, minus, part.coil_ohm, "coil", control=True))
    pull = Actuator(plus, minus, part.coil_ohm, part.pull_in_v, holds_v(part), part.suppression)
    return Inside(branches=branches, elements=(), shorted=((plus, minus),), actuator=pull)
