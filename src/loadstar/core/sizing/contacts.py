"""Contacts of relays and switches: what they must be rated for, and the usual rating that is."""

from collections.abc import Mapping

from ..wiring.topology import Topology
from .inrush import highest_inrush

# Share of a contact's resistive rating that a kind of load may use (ISO 7588-kind relays, usual data).
CONTACT_SHARE = {"lamp": 0.5, "motor": 0.45}
INRUSH_MULTIPLE = 6  # times its rating a switch makes without welding; usual


def of_kind_a(topology: Topology, contact: str, kind: str, peak_a: Mapping[str, float]) -> float:
    """What the loads of a kind behind a contact draw together at the most."""
    return sum(peak_a.get(p.id, 0.0) for p in topology.loads_fed_through.get(contact, ()) if p.category == kind)


def least_contact_a(topology: Topology, contact: str, peak_a: Mapping[str, float]) -> float:
    """The resistive rating that a contact needs: for its current, for each kind of load, and a switch for what comes on
    together."""
    needs = [peak_a.get(contact, 0.0)]
    needs += [of_kind_a(topology, contact, kind, peak_a) / share for kind, share in CONTACT_SHARE.items()]
    inrush = highest_inrush(topology, contact)
    rated = topology.parts[contact].contact
    if inrush and rated and rated.makes_inrush:
        needs.append(inrush.peak_a / INRUSH_MULTIPLE)
    return max(needs)


def contact_ratings(topology: Topology, peak_a: Mapping[str, float]) -> dict[str, float]:
    """The rating of every contact: its own, or the least usual one that does, or the largest there is."""
    found = {}
    for part in topology.plan.parts:
        if (contact := part.contact) is not None:
            needs = least_contact_a(topology, part.id, peak_a)
            found[part.id] = contact.stated_a or next((a for a in contact.steps_a if a >= needs), contact.steps_a[-1])
    return found
