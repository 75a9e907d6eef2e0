"""Contacts of relays and switches: what they must be rated for, and the usual rating that is."""

from collections.abc import Mapping

from ..plan.stands import never_together
from ..wiring.topology import Topology
from .inrush import Inrush, highest_inrush
from .short import CRANK_MULTIPLE

# Share of a contact's resistive rating that a kind of load may use (ISO 7588-kind relays, usual data).
CONTACT_SHARE = {"lamp": 0.5, "motor": 0.45}
INRUSH_MULTIPLE = 6  # times its rating a switch makes without welding; usual


def contacts(topology: Topology, part: str) -> tuple[str, ...]:
    """The contacts of a part, as elements of the network."""
    return tuple(b.ref for b in topology.inside[part].branches if b.opens)


def most_a(topology: Topology, part: str, peak_a: Mapping[str, float]) -> tuple[str, float]:
    """Of a part's contacts the one that carries most, and how much."""
    return max(((c, peak_a.get(c, 0.0)) for c in contacts(topology, part)), key=lambda one: one[1])


def of_kind_a(topology: Topology, contact: str, kind: str, peak_a: Mapping[str, float]) -> float:
    """What the loads of a kind behind a contact draw together at the most: of left and right, dip and main the more."""
    mine = {p.id: peak_a.get(p.id, 0.0) for p in topology.loads_fed_through.get(contact, ()) if p.category == kind}
    off = never_together(topology.plan, mine)
    return sum(amps for load, amps in mine.items() if load not in off)


def most_of_kind_a(topology: Topology, part: str, kind: str, peak_a: Mapping[str, float]) -> float:
    """What the loads of a kind draw together at the most behind any one of a part's contacts."""
    return max(of_kind_a(topology, contact, kind, peak_a) for contact in contacts(topology, part))


def highest_made(topology: Topology, part: str) -> Inrush | None:
    """The inrush with the highest peak that any one of a part's contacts has to make; None where there is none."""
    every = [found for contact in contacts(topology, part) if (found := highest_inrush(topology, contact))]
    return max(every, key=lambda one: one.peak_a, default=None)


def least_contact_a(topology: Topology, part: str, peak_a: Mapping[str, float], short_a: Mapping[str, float]) -> float:
    """The resistive rating that a part's contacts need: for their current, for what they carry while the starter turns,
    for each kind of load, and a switch's for what comes on together."""
    needs = [most_a(topology, part, peak_a)[1], most_a(topology, part, short_a)[1] / CRANK_MULTIPLE]
    needs += [most_of_kind_a(topology, part, kind, peak_a) / share for kind, share in CONTACT_SHARE.items()]
    inrush = highest_made(topology, part)
    rated = topology.parts[part].contact
    if inrush and rated and rated.makes_inrush:
        needs.append(inrush.peak_a / INRUSH_MULTIPLE)
    return max(needs)


def contact_ratings(topology: Topology, peak_a: Mapping[str, float], short_a: Mapping[str, float]) -> dict[str, float]:
    """The rating of every contact: its own, or the least usual one that does, or the largest there is."""
    found = {}
    for part in topology.plan.parts:
        if (contact := part.contact) is not None:
            needs = least_contact_a(topology, part.id, peak_a, short_a)
            found[part.id] = contact.stated_a or next((a for a in contact.steps_a if a >= needs), contact.steps_a[-1])
    return found
