"""Fewest pins: which leads can share a contact of a connector, and why not fewer.

Leads of different nets never share, nor those behind different regulators, however alike they look. Leads of one net
may share a pin while their amps together are no more than the contact carries, none is shifted by the others through
the shared path by more than it tolerates, and none is kept apart for safety. A part of a set that may share may share
too, so the fewest sets are found exactly: is it possible with as few as the bound, with one more, and so on.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

from .. import limits

MOST_EXACT = 14
HEAVY_A, HIGH_V = 10.0, 60.0  # a pin with more goes into a connector of its own
# What sensors and data have at the most, and at the least; what is more never shares their connector unasked.
SIGNAL_A, SIGNAL_V, LEAST_V = 1.0, 5.5, 1.0
NEAR = 1e-9
Key = tuple[str, str, bool]  # net, regulator, whether it is power kept apart


@dataclass(frozen=True)
class Lead:
    """One lead: its device, the net that it was proved to be on, the regulator it comes from (""; the battery), amps,
    mm², by how many volts its end may be shifted (infinite: does not matter), the most volts against the return (None:
    nobody knows), which lead it is twisted with (""; none), and whether it is kept apart (throttle, brake cut-off)."""

    name: str
    net: str
    regulator: str = ""
    amps: float = 0.0
    area_mm2: float = 0.5
    tolerates_v: float = math.inf
    volts: float | None = None
    twist: str = ""
    apart: bool = False

    @property
    def is_signal(self) -> bool:
        """Whether it is known to be a sensor's or a data line's: of so few amps and volts, and no ground."""
        return self.amps <= SIGNAL_A and self.volts is not None and LEAST_V <= self.volts <= SIGNAL_V

    @property
    def is_power(self) -> bool:
        """Whether it is known to be more than that."""
        return self.amps > SIGNAL_A or (self.volts or 0.0) > SIGNAL_V


@dataclass(frozen=True)
class Contact:
    """What a contact carries (derated), what its barrel takes, and the resistance that leads on it share, Ω."""

    most_a: float
    barrel_mm2: float
    shared_ohm: float


@dataclass(frozen=True)
class Pin:
    """Leads on one contact: their amps together, the largest share of what one tolerates that it is shifted by, and
    whether they have to be spliced before it, as its barrel does not take them all."""

    net: str
    leads: tuple[Lead, ...]
    amps: float
    shift_v: float
    splice_first: bool

    @property
    def is_apart(self) -> bool:
        """Whether it goes into a connector of its own: heavy, or of high voltage."""
        return self.amps > HEAVY_A or any((lead.volts or 0.0) > HIGH_V for lead in self.leads)

    @property
    def is_power(self) -> bool:
        """Whether any of its leads is power."""
        return any(lead.is_power for lead in self.leads)


@dataclass(frozen=True)
class Net:
    """The pins of one net behind one regulator. `bound` is what no way of sharing goes below; `proven` says that no
    fewer pins do; `why` says why not fewer."""

    net: str
    regulator: str
    pins: tuple[Pin, ...]
    bound: int
    proven: bool
    why: str


@dataclass(frozen=True)
class Alike:
    """Two nets that look alike and were kept apart, and by which rule."""

    one: str
    two: str
    rule: str


@dataclass(frozen=True)
class Consolidation:
    """All pins, net by net, and look-alikes that were kept apart."""

    nets: tuple[Net, ...]
    alike: tuple[Alike, ...]

    @property
    def pins(self) -> tuple[Pin, ...]:
        """Every pin."""
        return tuple(pin for net in self.nets for pin in net.pins)

    @property
    def leads(self) -> int:
        """How many leads are on them."""
        return sum(len(pin.leads) for pin in self.pins)

    @property
    def proven(self) -> bool:
        """Whether no fewer pins are possible."""
        return all(net.proven for net in self.nets)


def consolidate(leads: Sequence[Lead], contact: Contact, *, together: bool = False) -> Consolidation:
    """The fewest pins for some leads; power shares none with 5 V signals, unless all of it may be `together`. Raises
    ValueError where one lead alone is more than a contact carries."""
    for lead in leads:
        if lead.amps > contact.most_a + NEAR:
            raise ValueError(f"{lead.name} carries {lead.amps:g} A, and a contact {contact.most_a:g} A: take a larger "
                             "contact, or part the lead.")
    groups: dict[Key, list[Lead]] = {}
    parted = not together and any(lead.is_signal for lead in leads)
    for lead in leads:
        groups.setdefault((lead.net, lead.regulator, parted and lead.is_power), []).append(lead)
    nets = tuple(_net(net, regulator, members, contact) for (net, regulator, _), members in groups.items())
    return Consolidation(nets, tuple(_alike(groups)))


def fits(leads: Sequence[Lead], contact: Contact) -> bool:
    """Whether leads of one net may share a contact."""
    return not _why_not(leads, contact)


def _why_not(leads: Sequence[Lead], contact: Contact) -> str:
    if len(leads) < 2:
        return ""
    total = sum(lead.amps for lead in leads)
    if kept := next((lead for lead in leads if lead.apart), None):
        return f"{kept.name} is kept apart for safety"
    if total > contact.most_a + NEAR:
        return f"together {total:.1f} A, the contact carries {contact.most_a:g} A"
    for lead in leads:
        shift = (total - lead.amps) * contact.shared_ohm
        if shift > lead.tolerates_v + NEAR:
            return (f"the others shift {lead.name} by {shift * 1000:.0f} mV, and it tolerates "
                    f"{lead.tolerates_v * 1000:.0f} mV")
    return ""


def _net(net: str, regulator: str, leads: list[Lead], contact: Contact) -> Net:
    clash = _clash(leads, contact)
    bound = max(1, _by_amps(leads, contact), len(clash))
    exact = _exact(leads, contact, bound) if len(leads) <= MOST_EXACT else None
    sets = exact or _best_fit(leads, contact)
    proven = exact is not None or len(sets) == bound
    return Net(net, regulator, tuple(_pin(net, members, contact) for members in sets), bound, proven,
               _why(len(sets), bound, clash, leads, contact, proven))


def _pin(net: str, leads: Sequence[Lead], contact: Contact) -> Pin:
    total = sum(lead.amps for lead in leads)
    shift = max(((total - lead.amps) * contact.shared_ohm for lead in leads), default=0.0)
    return Pin(net, tuple(leads), total, shift, sum(lead.area_mm2 for lead in leads) > contact.barrel_mm2 + NEAR
               and len(leads) > 1)


def _clash(leads: Sequence[Lead], contact: Contact) -> tuple[Lead, ...]:
    """A largest set of leads of which no two may share; of many leads a large one, found one after the other."""
    bad = {(i, j) for i, j in combinations(range(len(leads)), 2) if not fits((leads[i], leads[j]), contact)}
    if len(leads) > MOST_EXACT:
        chosen: list[int] = []
        for i in sorted(range(len(leads)), key=lambda i: -sum(i in pair for pair in bad)):
            if all((min(i, j), max(i, j)) in bad for j in chosen):
                chosen.append(i)
        return tuple(leads[i] for i in sorted(chosen))
    for count in range(len(leads), 1, -1):
        for members in combinations(range(len(leads)), count):
            if all(pair in bad for pair in combinations(members, 2)):
                return tuple(leads[i] for i in members)
    return tuple(leads[:1])


def _exact(leads: list[Lead], contact: Contact, bound: int) -> list[list[Lead]]:
    """As few sets as can be: tried with as many as the bound, then one more."""
    order = sorted(leads, key=lambda lead: (-lead.amps, lead.tolerates_v, lead.name))
    for count in range(bound, len(order) + 1):
        dead: set[tuple[int, frozenset[frozenset[int]]]] = set()
        if found := _placed(order, 0, [[] for _ in range(count)], contact, dead):
            return found
    raise AssertionError("each lead alone has a contact")


def _placed(order: list[Lead], at: int, sets: list[list[Lead]], contact: Contact,
            dead: set[tuple[int, frozenset[frozenset[int]]]]) -> list[list[Lead]] | None:
    """The leads from one on put into the sets, where they go; None where they do not."""
    if at == len(order):
        return [s for s in sets if s]
    key = at, frozenset(frozenset(id(lead) for lead in s) for s in sets)
    if key in dead:
        return None
    limits.check()
    empty_tried = False
    for one in sets:
        if not one:
            if empty_tried:
                continue
            empty_tried = True
        one.append(order[at])
        if fits(one, contact) and (found := _placed(order, at + 1, sets, contact, dead)):
            return found
        one.pop()
    dead.add(key)
    return None


def _best_fit(leads: list[Lead], contact: Contact) -> list[list[Lead]]:
    """Largest first, each where least is left over."""
    sets: list[list[Lead]] = []
    for lead in sorted(leads, key=lambda lead: (-lead.amps, lead.tolerates_v, lead.name)):
        open_to = [s for s in sets if fits([*s, lead], contact)]
        if open_to:
            max(open_to, key=lambda s: sum(one.amps for one in s)).append(lead)
        else:
            sets.append([lead])
    return sets


def _by_amps(leads: list[Lead], contact: Contact) -> int:
    """How many contacts their amps together take."""
    return math.ceil(round(sum(lead.amps for lead in leads) / contact.most_a, 9))


def _why(count: int, bound: int, clash: tuple[Lead, ...], leads: list[Lead], contact: Contact, proven: bool) -> str:
    """Why there are not fewer."""
    if count == 1:
        return "All on one."
    if count == bound == _by_amps(leads, contact):
        total = sum(lead.amps for lead in leads)
        return f"Fewer is impossible: {total:.1f} A together, {contact.most_a:g} A on each contact."
    if count == bound:
        two = clash[:2]
        return (f"Fewer is impossible: of {_listed(clash)} no two may share; {two[0].name} and {two[1].name}: "
                f"{_why_not(two, contact)}.")
    if proven:
        return f"Every way with {count - 1} was tried, and none holds."
    return f"Not proven: no fewer than {bound} could do; each lead was put where least is left over."


def _listed(leads: Sequence[Lead]) -> str:
    names = [lead.name for lead in leads]
    return f"{', '.join(names[:-1])} and {names[-1]}"


def _alike(groups: dict[Key, list[Lead]]) -> list[Alike]:
    """Groups of one net behind different regulators, or parted into power and signals; and of different nets at the
    same volts that are no battery's."""
    found = []
    for (net, one, power), (other, two, powered) in combinations(groups, 2):
        if net == other and one == two:
            found.append(Alike(net, f"{net} of {'power' if powered else 'signals'}",
                               "power stays out of the connector of 5 V signals"))
            continue
        if net == other:
            found.append(Alike(f"{net} of {one or 'the battery'}", f"{net} of {two or 'the battery'}",
                               "each comes from a regulator of its own: joined, one would feed the other"))
            continue
        volts = {lead.volts for key in ((net, one, power), (other, two, powered)) for lead in groups[key]}
        if len(volts) == 1 and net.split()[:1] == other.split()[:1]:
            found.append(Alike(net, other, "proved to be different nets"))
    return found
