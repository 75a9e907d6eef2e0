"""The leads that come to a place, as a plan has them: what may share pins there, and the way their returns share now.

A net is what copper joins without fuse, switch or relay between: wires, junctions and connectors.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from .edits.joint import MakeJoint
from .ends.pins import Contact, Joint, Lead
from .figures.figures import Figures
from .parts.can import as_accessory
from .physics.batch import Conditions
from .physics.joined import islands
from .physics.network import System
from .wiring.references import Groups

GROUND, POSITIVE = "ground", "battery +"


@dataclass(frozen=True)
class Gathered:
    """Leads that come to a place, each one's wire by its name, and the resistance of the way that their returns share
    now, by the solved network (Ω; None: no return comes there)."""

    leads: tuple[Lead, ...]
    wires: dict[str, str]
    shared_ohm: float | None


def gather(figures: Figures, place: str) -> Gathered:
    """Every wire between a part at the place and one elsewhere, as a lead of the part at the place."""
    plan, net_of, most_v = figures.plan, _nets(figures), _most_v(figures)
    leads: dict[str, Lead] = {}
    wires: dict[str, str] = {}
    named: dict[str, str] = {}  # nets that nothing names are named by their first lead
    grounds: list[str] = []
    for wire in plan.wires:
        here = [end for end in (wire.a, wire.b) if plan.part(end.part).place == place]
        if len(here) != 1 or wire.id not in figures.wires:
            continue
        part, node = plan.part(here[0].part), figures.topology.node(here[0])
        name = f"{part.name[:40]} {here[0].name}".replace(";", ",")  # leads are handed on as a table's cells
        name = name if name not in leads else f"{name} {wire.id}"
        group, known = net_of[node]
        net = known or named.setdefault(group, name)
        if net == GROUND:
            grounds.append(node)
        accessory = as_accessory(part)
        made = plan.second_supply(plan.hangs_on(accessory)) if accessory and net != GROUND else None
        wires[name] = wire.id
        leads[name] = Lead(
            name, net, plan.part(made.id).name if made else "", round(figures.ratings.peak_a(wire.id), 3),
            figures.wires[wire.id].area_mm2, volts=most_v.get(node), apart=part.KEPT_APART)
    return Gathered(tuple(leads.values()), wires, _shared_ohm(figures, grounds))


def led_through(gathered: Gathered, joints: Sequence[Joint], contact: Contact, of: str,
                place: str) -> tuple[MakeJoint, ...]:
    """The connectors that were found for gathered leads, as edits that put them in at a place and lead every wire
    through. Raises KeyError with a lead's name where it is none of the plan's."""
    return tuple(MakeJoint(
        of=of, place=place, ways=joint.ways, rated_a=contact.most_a, name=f"joint connector {n}",
        through=tuple(tuple(gathered.wires[lead.name] for lead in pin.leads) for pin in joint.pins))
        for n, joint in enumerate(joints, 1) if joint.ways)


def _nets(figures: Figures) -> dict[str, tuple[str, str]]:
    """By node the net that it is on, and what that is called: ground, the battery's or a second supply's positive ("":
    nothing of these)."""
    topology, plan = figures.topology, figures.plan
    through = {part.id for part in plan.parts if part.JOINS or part.MATED}
    apart = frozenset(e for e, b in topology.branches.items() if b.ref.part not in through)
    joined = Groups(topology, None, without=apart)
    names: dict[str, str] = {}
    for root in topology.roots[1:]:
        names[joined.of(root.positive)] = f"{plan.part(root.part).name[:40]} +".replace(";", ",")
    if topology.positive:
        names |= {joined.of(topology.negative): GROUND, joined.of(topology.positive): POSITIVE}
    nodes = {topology.node(part.at(end)) for part in plan.parts for end in part.ends}
    return {node: (joined.of(node), names.get(joined.of(node), "")) for node in nodes}


def _most_v(figures: Figures) -> dict[str, float]:
    """By node the most volts against the supply's negative in any state, to a tenth; none of what is never joined to
    it."""
    found: dict[str, float] = {}
    for row in figures.volts.rows:
        if row.solution is not None and figures.topology.negative:
            at, adrift = row.solution.potential_v, {n for group in islands(row.solution) for n in group}
            zero = at[figures.topology.negative]
            for node in at.keys() - adrift:
                found[node] = max(found.get(node, 0.0), round(abs(at[node] - zero), 1))
    return found


def _shared_ohm(figures: Figures, grounds: list[str]) -> float | None:
    """The most that any of these nodes is lifted by for an ampere that returns there, loads left aside."""
    row = next((r for r in figures.volts.rows if r.solution is not None), None)
    if not grounds or row is None or row.solution is None:
        return None
    batch, state = row.solution.batch, row.solution.state
    given = Conditions(*(v[state:state + 1] for v in vars(batch.given).values()))
    system = System(figures.topology.elements)
    at, negative = [system.index[node] for node in dict.fromkeys(grounds)], system.index[figures.topology.negative]
    falls, _ = system.impedances(given, at)
    return float(max(abs(falls[node, n] - falls[negative, n]) for n, node in enumerate(at)))
