"""The leads that come to a place, as a plan has them: what may share pins there, and the way their returns share now.

A net is what copper joins without fuse, switch or relay between: wires, junctions and connectors.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain, count

from .edits import Several
from .edits.builder import Builder
from .edits.joint import LEADS, MOST_TOGETHER, ON, MakeJoint
from .ends.joints import Joint
from .ends.pins import Contact, Lead, Pin
from .figures.figures import Figures
from .parts.can import as_accessory
from .parts.device import MOST_LETTERS, MOST_LINES
from .physics.batch import Conditions
from .physics.joined import islands
from .physics.network import System
from .plan.model import Plan
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


def put_in(plan: Plan, joints: Sequence[Joint], contact: Contact, at: str, place: str, unit: str) -> Several:
    """Leads that were typed, put into a plan with their connectors, as one edit: at the place `at` each device with the
    leads that it came with, at `place` the connectors, and behind them the leads of the `unit` that all of them go to.
    PlanError where the plan has no such place."""
    b = Builder(plan.name, plan)
    ends = _devices(b, [lead for joint in joints for pin in joint.pins for lead in pin.leads], at)
    for n, joint in enumerate(joints, 1):
        name = f"joint connector {n}" + (f", {joint.why.partition(',')[0]}" if joint.why else "")
        coupling = b.add("coupling", alone=True, name=name, place=place, ways=joint.ways, rated_a=contact.most_a)
        host = b.add("device", name=f"{unit}, leads to connector {n}", place=place,
                     lines=", ".join(f"w{way}" for way in range(1, len(joint.pins) + 1)))
        for way, pin in enumerate(joint.pins, 1):
            come = _brought_together(b, pin, [ends[lead.name] for lead in pin.leads], place)
            for begin, amps, values in come:
                b.lay(begin, f"{coupling}.{LEADS}{way}", **{"carries_a": amps, "colour": _colour(pin.net), **values})
            b.lay(f"{coupling}.{ON}{way}", f"{host}.w{way}", carries_a=pin.amps, colour=_colour(pin.net),
                  origin="supplied", made="a", area_mm2=max(lead.area_mm2 for lead in pin.leads))
    return Several(edits=tuple(b.steps[1:]), words=f"{len(ends)} leads with their connectors")


def _devices(b: Builder, leads: Sequence[Lead], at: str) -> dict[str, str]:
    """A device for the leads whose names begin alike ("throttle feed", "throttle ground"), with a line for each; where
    each lead ends at it, by its name."""
    owners: dict[str, list[Lead]] = {}
    for lead in leads:
        first, _, last = lead.name.rpartition(" ")
        owners.setdefault(first if first and last else lead.name, []).append(lead)
    ends: dict[str, str] = {}
    for owner, mine in owners.items():
        lines: dict[str, Lead] = {}
        for lead in mine:
            word = lead.name.rpartition(" ")[2] if lead.name != owner else lead.net
            short = "".join(c for c in word.lower() if c.isalnum() and c.isascii())[:MOST_LETTERS] or "lead"
            alike = (f"{short[:MOST_LETTERS - len(str(n))]}{n}" for n in count(2))
            lines[next(name for name in chain([short], alike) if name not in lines)] = lead
        for start in range(0, len(lines), MOST_LINES):
            some = list(lines)[start:start + MOST_LINES]
            device = b.add("device", name=owner, place=at, lines=", ".join(some))
            ends |= {lines[line].name: f"{device}.{line}" for line in some}
    return ends


def _brought_together(b: Builder, pin: Pin, ends: Sequence[str],
                      place: str) -> list[tuple[str, float, dict[str, object]]]:
    """What comes to a way of a connector: one lead as it is, several by splices, a few in each; where each begins, its
    amps, and what else its wire is."""
    come: list[tuple[str, float, dict[str, object]]] = [
        (end, lead.amps, {"origin": "supplied", "made": "b", "area_mm2": lead.area_mm2})
        for end, lead in zip(ends, pin.leads, strict=True)]
    while len(come) > 1:
        several, come = come[:MOST_TOGETHER], come[MOST_TOGETHER:]
        splice = b.add("junction", alone=True, name=f"splice of {pin.net}", place=place, form="splice")
        for begin, amps, values in several:
            b.lay(begin, f"{splice}.t", **{"carries_a": amps, "colour": _colour(pin.net), **values})
        come.insert(0, (f"{splice}.t", sum(amps for _, amps, _ in several), {"colour": _colour(pin.net) or "WH"}))
    return come


def _colour(net: str) -> str:
    """What is known of a lead's colour by its net: black for ground, else nothing."""
    return "BK" if net.lower().startswith(GROUND) else ""
