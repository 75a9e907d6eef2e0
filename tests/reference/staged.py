"""Small networks of fuses in rows, side by side and in rings, made from a seed, with a fault in them."""

import random
from dataclasses import dataclass

import numpy as np

from loadstar.core.edits.builder import Builder
from loadstar.core.parts.fuse import FusePart
from loadstar.core.plan.model import Plan
from loadstar.core.sizing.courses import Legs
from loadstar.core.sizing.faults import FaultFinder
from loadstar.core.sizing.flows import FaultCase
from loadstar.core.sizing.openers import Opener
from loadstar.core.wiring.conductor import ConductorAt, conductor
from loadstar.core.wiring.results import Choices
from loadstar.core.wiring.states import StateSolver
from loadstar.core.wiring.thermal import Thermal
from loadstar.core.wiring.topology import Topology


def staged(seed: int) -> Plan:
    """A battery, sometimes two, a few splices, and 1 to 4 fuses in the wires that join them; sometimes one of
    them so weak that it limits."""
    dice = random.Random(f"staged/{seed}")
    b = Builder(f"staged {seed}")
    b.machine(system="total_loss")
    place = b.add("place", name="box", ambient_c=dice.choice((25, 40, 60)))
    battery = b.add("battery", name="battery", place=place, capacity_ah=12, internal_mohm=dice.uniform(10, 60))
    heads = [f"{battery}.pos"]
    if dice.random() < 0.4:
        second = b.add("second_battery", name="second", place=place, joined_by="nothing", capacity_ah=12,
                       internal_mohm=dice.choice((dice.uniform(10, 60), 400)))  # the last gives little into a short
        heads.append(f"{second}.pos")
        if not any(f"{second}.neg" in (w.a, w.b) for w in b.plan.wires):
            lay(b, dice, f"{second}.neg", f"{battery}.neg")
    splices = [f"{b.add('junction', name=f'splice {n}', place=place, form='splice')}.t"
               for n in range(dice.randint(1, 4))]
    fuses = dice.randint(1, 4)
    joints = [(dice.choice(heads), splices[0])]
    joints += [(dice.choice(splices[:n]), splices[n]) for n in range(1, len(splices))]
    joints += [(head, dice.choice(splices)) for head in heads[1:]]
    joints += [tuple(dice.sample([*heads, *splices], 2)) for _ in range(dice.randint(0, 3))]
    joints = [j for j in joints if set(j) - set(heads)]  # two batteries are never joined straight
    with_fuse = set(dice.sample(range(len(joints)), min(fuses, len(joints))))
    for n, (a, z) in enumerate(joints):
        if n in with_fuse:
            fuse = b.add("fuse", name=f"fuse {n}", place=place, rating_a=dice.choice((5, 7.5, 10, 15, 20, 30, 40)))
            lay(b, dice, a, f"{fuse}.a")
            lay(b, dice, f"{fuse}.b", z)
        else:
            lay(b, dice, a, z)
    return b.plan


def lay(b: Builder, dice: random.Random, a: str, z: str) -> str:
    """A wire of a random size and length."""
    return b.lay(a, z, area_mm2=dice.choice((0.5, 1.0, 2.5, 6.0)), length_m=round(dice.uniform(0.2, 3.0), 2),
                 colour="RD")


@dataclass(frozen=True)
class Fault:
    """A fault of a plan at the far end of a wire: its legs for one wire, the openers, and the network by elements."""

    plan: Plan
    legs: Legs
    openers: list[Opener]
    wire: str
    metal: ConductorAt
    plus: str
    minus: str
    resistors: list[tuple[str, str, str, float]]  # element, its two nodes, ohm
    sources: list[tuple[str, str, float, float]]  # its two nodes, V, ohm
    air_c: float


def fault_of(plan: Plan, seed: int) -> Fault:
    """A random fault of a plan, told for a random wire that carries some of it."""
    dice = random.Random(f"fault/{seed}")
    topology = Topology(plan)
    thermal = Thermal(topology)
    choices = Choices({w.id: w.area_mm2 or 0.5 for w in plan.wires},
                      {p.id: p.rating_a for p in plan.of(FusePart)})
    finder = FaultFinder(topology, thermal, StateSolver(topology, thermal).system)
    ambient = np.array([topology.geometry[w].hottest_ambient_c for w in thermal.wires])
    worst = finder.worst(choices, ambient)
    case = FaultCase(~finder.coil)
    touches = [f for f in range(finder.touches) if not topology.plan.wires[f % len(finder.wires)].a.endswith(".neg")]
    fault = dice.choice(touches)
    _, flows = worst.solve(case)
    way = finder.way(case.closed)
    share = flows.shares_of(finder.system, way, fault, np.arange(len(finder.wires)))
    wire = dice.choice(np.flatnonzero(share > 0.02).tolist() or [fault % len(finder.wires)])
    name, nodes = finder.wires[wire], finder.system.nodes
    resistors = []
    for w, geometry in ((w, topology.geometry[w.id]) for w in plan.wires):
        metal = conductor(plan, w, choices.area_mm2[w.id])
        resistors.append((w.id, topology.node(w.a), topology.node(w.b),
                          metal.ohm(geometry.length_m, geometry.hottest_ambient_c)))
    for fuse in plan.of(FusePart):
        resistors.append((fuse.id, topology.node(fuse.at("a")), topology.node(fuse.at("b")),
                          topology.contact_ohm(fuse.id, choices.rating_a)))
    sources = []
    for part in topology.parts.values():
        if part.STORES:
            drives = part.drives_fault(topology.machine, strong=True, alone=False)
            sources.append((topology.node(part.at("pos")), topology.node(part.at("neg")), drives.drive, -drives.series))
    return Fault(plan, worst.legs(case, fault, wire), worst.loops.openers, name,
                 conductor(plan, topology.wires[name], choices.area_mm2[name]), nodes[finder.plus[fault]],
                 nodes[finder.minus[fault]], resistors, sources, topology.geometry[name].hottest_ambient_c)
