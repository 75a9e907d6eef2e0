"""The leads that come to a place, as a plan has them: what may share pins there, and the way their returns share now.

A net is what copper joins without fuse, switch or relay between: wires, junctions and connectors.
"""

from dataclasses import dataclass

from .ends.pins import Lead
from .figures.figures import Figures
from .parts.coupling import Coupling
from .parts.cutoff import Cutoff
from .parts.junction import Junction
from .parts.load import LoadPart
from .physics.batch import Conditions
from .physics.network import System
from .wiring.references import Groups

GROUND, POSITIVE = "ground", "battery +"


@dataclass(frozen=True)
class Gathered:
    """Leads that come to a place, and the resistance of the way that their returns share now, by the solved network
    (Ω; None: no return comes there)."""

    leads: tuple[Lead, ...]
    shared_ohm: float | None


def gather(figures: Figures, place: str) -> Gathered:
    """Every wire between a part at the place and one elsewhere, as a lead of the part at the place."""
    plan, nets = figures.plan, _nets(figures)
    leads: dict[str, Lead] = {}
    grounds: list[str] = []
    for wire in plan.wires:
        here = [end for end in (wire.a, wire.b) if plan.part(end.part).place == place]
        if len(here) != 1 or wire.id not in figures.wires:
            continue
        part, node = plan.part(here[0].part), figures.topology.node(here[0])
        if nets[node] == GROUND:
            grounds.append(node)
        load = part if isinstance(part, LoadPart) else None
        made = plan.second_supply(plan.hangs_on(load)) if load else None
        name = f"{part.name[:40]} {here[0].name}"
        name = name if name not in leads else f"{name} {wire.id}"
        leads[name] = Lead(
            name, nets[node], plan.part(made.id).name if made else "", round(figures.peak_a(wire.id), 3),
            figures.wires[wire.id].area_mm2, volts=load.at_v if load else 12.0, apart=isinstance(part, Cutoff))
    return Gathered(tuple(leads.values()), _shared_ohm(figures, grounds))


def _nets(figures: Figures) -> dict[str, str]:
    """By node the net that it is on, named by the first of the plan's terminals there."""
    topology, plan = figures.topology, figures.plan
    apart = frozenset(e for e, b in topology.branches.items()
                      if not isinstance(plan.part_by_id.get(b.ref.part), Junction | Coupling))
    joined = Groups(topology, None, without=apart)
    names: dict[str, str] = {}
    if topology.positive:
        names = {joined.of(topology.negative): GROUND, joined.of(topology.positive): POSITIVE}
    found: dict[str, str] = {}
    for terminal in (part.at(end) for part in plan.parts for end in part.ends):
        node = topology.node(terminal)
        found[node] = names.setdefault(joined.of(node), f"net of {terminal}")
    return found


def _shared_ohm(figures: Figures, grounds: list[str]) -> float | None:
    """The most that any of these nodes is lifted by for an ampere that returns there, loads left aside."""
    row = next((r for r in figures.rows if r.solution is not None), None)
    if not grounds or row is None or row.solution is None:
        return None
    batch, state = row.solution.batch, row.solution.state
    given = Conditions(*(v[state:state + 1] for v in vars(batch.given).values()))
    system = System(figures.topology.elements)
    at, negative = [system.index[node] for node in dict.fromkeys(grounds)], system.index[figures.topology.negative]
    falls, _ = system.impedances(given, at)
    return float(max(abs(falls[node, n] - falls[negative, n]) for n, node in enumerate(at)))
