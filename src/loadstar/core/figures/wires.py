"""Every wire as chosen: its size, the current and temperature that judge it, and how it is guarded."""

import math
from dataclasses import dataclass
from typing import Literal

from ..doc.states import States
from ..sizing.areas import no_size_helps
from ..sizing.argument import Duty, Stands, stands
from ..sizing.choose import Sized
from ..sizing.openers import Guard
from ..wiring.conductor import conductor
from ..wiring.topology import Topology


@dataclass(frozen=True)
class WireResult:
    """One wire as chosen: its size, the current and temperature that judge it, and how it is guarded.

    `guard` lies before it; where nothing does, `behind` is what lets most through it from behind. `hottest_c` is with
    the most that it carries in any situation, `hottest_in` the situation that warms it most (NaN and "" where none
    could be solved); `ambient_c` is the air without its neighbours. `helpless` says that no size keeps the house
    margin; `unknown_fuse` is a plug whose factory fuse nobody has found and that it hangs on, and `origin` where the
    wire is from.
    """

    id: str
    area_mm2: float
    fixed: bool
    length_m: float
    peak_a: float
    hottest_c: float
    hottest_in: str
    hottest_state: States | None
    class_c: float
    ambient_c: float
    surround_c: float
    guard: Guard | None
    behind: Guard | None
    coordination: Stands
    fault_a: float
    helpless: bool
    unknown_fuse: str = ""
    origin: Literal["new", "found", "supplied"] = "new"

    @property
    def supplied(self) -> bool:
        """Whether it came with an accessory."""
        return self.origin == "supplied"

    @property
    def judged_by(self) -> Guard | None:
        """What decides how much a fault or an overload drives through it."""
        return self.coordination.duty.guard

    @property
    def strength(self) -> float | None:
        """What the wire stands over what its guard lets through for hours; None when nothing guards it."""
        return self.coordination.strength if self.guard else None


TOLD_K = 0.1


def wire_results(topology: Topology, sized: Sized) -> dict[str, WireResult]:
    """Every wire of a plan that has been sized."""
    plan, faults, areas = topology.plan, sized.faults, sized.choices.area_mm2
    judged = stands(
        [Duty(conductor(plan, w, areas[w.id]), sized.surround_c[w.id], sized.peak_a.get(w.id, 0.0), sized.guard(w.id))
                     for w in plan.wires])
    here = set(map(id, sized.states.values()))
    every = [r for r in (*sized.states.values(), *sized.alternates) if r.solution is not None]
    found = {}
    for wire, stand in zip(plan.wires, judged, strict=True):
        # A stand of the switches is named only where it makes the wire warmer than the state by itself.
        hottest = max(every, key=lambda r: r.wire_c[wire.id] - (TOLD_K if r.turned else 0.0), default=None)
        misses = bool(every) and not stand.keeps_cool(plan.rules)
        origin = topology.origin(wire)
        found[wire.id] = WireResult(
            id=wire.id, area_mm2=areas[wire.id], fixed=wire.area_mm2 is not None or origin != "new", origin=origin,
            length_m=topology.geometry[wire.id].length_m, peak_a=stand.duty.use_a,
            hottest_c=stand.use_c if hottest else math.nan, hottest_in=hottest.words if hottest else "",
            hottest_state=hottest.state if hottest and id(hottest) in here else None, class_c=stand.class_c,
            ambient_c=topology.geometry[wire.id].hottest_ambient_c, surround_c=sized.surround_c[wire.id],
            guard=faults.guards.get(wire.id) and stand.duty.guard,
            behind=faults.behind.get(wire.id) and stand.duty.guard,
            coordination=stand, fault_a=faults.fault_a.get(wire.id, 0.0),
            helpless=misses and no_size_helps(plan, topology, wire.id, stand.duty.use_a, sized.surround_c[wire.id]),
            unknown_fuse=faults.unknown.get(wire.id, ""))
    return found
