"""The network that a plan's parts and wires form.

Terminals that touch (joins) are one node. Every part says itself what it puts between its terminals (core/parts); here
that is put together. Node names are terminal names; the machine's frame is one node, "frame".
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

from ..doc.states import States
from ..doc.wires import SIDES, Side, Wire
from ..materials import fuses
from ..parts.coil import Coil
from ..parts.inside import ASSUMED, FRAME, RAIL_NEGATIVE, RAIL_POSITIVE, Actuator, Branch, Element, Inside, Point
from ..parts.load import LoadPart
from ..parts.starter import FLOOR_V as CRANK_FLOOR_V
from ..parts.starter import Starter
from ..parts.tap import Tap
from ..physics import elements as net
from ..plan.model import Plan
from ..plan.stands import Stands, usual_stands
from ..refs import ElementRef
from ..supply.choose import supply_of
from .geometry import WireGeometry, geometries

STRAP = ElementRef("strap")
STRAP_OHM = 0.001  # the machine's own strap from battery negative to its frame, assumed
LEAD_NEAR_M = 0.01  # a lead that much too short still reaches
CRANK = "starter"  # draws the cranking current at the rail where no starter is drawn


@dataclass(frozen=True)
class Link:
    """One conducting element between two nodes, in the order source to load where that is known."""

    element: ElementRef
    a: str
    b: str


@dataclass(frozen=True)
class Root:
    """Where circuits begin: the main supply, or the output of a converter or light port."""

    part: str
    positive: str
    negative: str


class Circuit:
    """What does not change with sizes: nodes, what lies between them, and the network of it all."""

    def __init__(self, plan: Plan) -> None:
        self.plan, self.machine = plan, plan.machine
        self.geometry: dict[str, WireGeometry] = geometries(plan)
        self.wires, self.parts = plan.wire_by_id, plan.part_by_id
        self.loads, self.source = plan.loads, supply_of(plan)
        self.supply = self.source.part
        self.inside: dict[str, Inside] = {p.id: p.inside(plan.machine) for p in plan.parts}
        self._stands: dict[States, Stands] = {}
        self._parent: dict[str, str] = {t: t for p in plan.parts for t in map(p.at, p.ends)}
        self._parent |= {end: end for end in (FRAME, RAIL_POSITIVE, RAIL_NEGATIVE)}
        for join in plan.joins:
            self._join(join.b, join.a)
        self.wired = frozenset((*(e for w in plan.wires for e in (w.a, w.b)),
                                *(e for j in plan.joins for e in (j.a, j.b))))
        self._join_what_touches()
        self._node = {terminal: self._root(terminal) for terminal in self._parent}
        self.positive, self.negative = (self.node(RAIL_POSITIVE), self.node(RAIL_NEGATIVE)) if self.supply else ("", "")

    def _join_what_touches(self) -> None:
        if self.supply:
            for rail, end in zip((RAIL_POSITIVE, RAIL_NEGATIVE), self.source.ends, strict=True):
                self._join(rail, end)
        for inside in self.inside.values():
            for mine, other in inside.touches:
                if self.supply or other not in (RAIL_POSITIVE, RAIL_NEGATIVE):
                    self._join(mine, other)
            if self.supply and not any(mine in self.wired for mine, _ in inside.on_rail):
                for mine, rail in inside.on_rail:
                    self._join(mine, rail)

    def _join(self, terminal: str, other: str) -> None:
        self._parent[self._root(terminal)] = self._root(other)

    def _root(self, terminal: str) -> str:
        while self._parent[terminal] != terminal:
            terminal = self._parent[terminal]
        return terminal

    def node(self, terminal: str) -> str:
        """The node a terminal belongs to."""
        return self._node[terminal]

    # -- what lies between ----------------------------------------------------------------------------------------

    @cached_property
    def branches(self) -> dict[str, Branch]:
        """What conducts besides wires, by element: contacts, fuses, joints, coils, the machine's own wiring and
        strap."""
        rails = (RAIL_POSITIVE, RAIL_NEGATIVE)
        found: dict[str, Branch] = {
            b.ref: b for inside in self.inside.values() for b in inside.branches if self.supply
            or not (b.a in rails or b.b in rails)}
        if self.uses_frame and self.supply and self.machine.chassis == "negative" and self.node(FRAME) != self.negative:
            found[STRAP] = Branch(STRAP, FRAME, RAIL_NEGATIVE, STRAP_OHM, "joint to the frame", ASSUMED,
                                  joint="the strap from battery negative")
        return found

    @cached_property
    def uses_frame(self) -> bool:
        """Whether anything of the plan touches the frame, beyond the machine's own strap."""
        return any(FRAME in (*(b.b for b in i.branches), *(other for _, other in i.touches))
                   for i in self.inside.values())

    @cached_property
    def links(self) -> tuple[Link, ...]:
        """Every element that can carry load current, contacts taken as closed: wires first. Coils are not among
        them."""
        wires = [Link(ElementRef(w.id), self.node(w.a), self.node(w.b)) for w in self.plan.wires]
        return (*wires, *(self._link(b) for b in self.branches.values() if not b.control))

    @cached_property
    def coils(self) -> tuple[Link, ...]:
        """Coils, named "K1.coil"."""
        return tuple(self._link(b) for b in self.branches.values() if b.control)

    def _link(self, branch: Branch) -> Link:
        return Link(branch.ref, self.node(branch.a), self.node(branch.b))

    @cached_property
    def actuators(self) -> dict[str, Actuator]:
        """What pulls in and lets go, by part."""
        return {part: inside.actuator for part, inside in self.inside.items() if inside.actuator}

    @property
    def points(self) -> list[tuple[str, Point]]:
        """What says what its copper is referred to, by part: the supplies first."""
        every = [(part, point) for part, inside in self.inside.items() for point in inside.points]
        return sorted(every, key=lambda one: not one[1].first)

    def conducts(self, element: str, state: States, pulled: Mapping[str, bool], stands: Stands | None = None) -> bool:
        """Whether an element does in a state, with these parts pulled in and everything that is moved where it is taken
        to stand, or at `stands`."""
        branch = self.branches.get(element)
        return branch is None or branch.conducts(state, pulled, self.stands(state) if stands is None else stands)

    def stands(self, state: States) -> Stands:
        """Where everything that is moved is taken to stand in a state."""
        if state not in self._stands:
            self._stands[state] = usual_stands(self.plan, state)
        return self._stands[state]

    def contact_ohm(self, element: str, rating_a: Mapping[str, float]) -> float:
        """Resistance of a fuse, contact, plug, joint or coil."""
        branch = self.branches[element]
        if branch.ohm is not None:
            return branch.ohm
        protects = self.parts[branch.ref.part].protection
        assert protects is not None  # what has no resistance of its own has that of its fuse
        return fuses.KINDS[protects.pattern].by_rating[rating_a[branch.ref.part]].hot_ohm

    def takes(self, load: str, state: States) -> float | None:
        """What a load of the network takes in a state; None: always the same."""
        part = self.parts.get(load)
        if part is not None:
            return part.takes(state, self.machine)
        return self.machine.cranking_a if state == "cranking" else 0.0

    @cached_property
    def taps_unknown(self) -> tuple[Tap, ...]:
        """Found wires and pins whose factory fuse nobody has found yet."""
        return tuple(t for t in self.plan.of(Tap) if t.fused_a is None and not t.unfused)

    @cached_property
    def elements(self) -> net.Network:
        """Everything that may ever conduct, as one network; a state says what does. Wires and fuses stand at 1 ohm."""
        resistors = tuple(net.Resistor(k.element, k.a, k.b, self._ohm_or_1(k.element))
                          for k in (*self.links, *self.coils))
        found: list[Element] = [e for inside in self.inside.values() for e in inside.elements]
        if self.plan.one(Starter) is None:
            found.append(net.Load(CRANK, RAIL_POSITIVE, RAIL_NEGATIVE, net.CONSTANT_CURRENT, 0.0, CRANK_FLOOR_V))
        placed = [self._placed(e) for e in found]
        return net.Network(
            self.negative, resistors, tuple(e for e in placed if isinstance(e, net.Source)),
            tuple(e for e in placed if isinstance(e, net.Load)), tuple(e for e in placed if isinstance(e, net.Diode)),
            tuple(e for e in placed if isinstance(e, net.Converter)))

    @property
    def side_coil(self) -> Coil | None:
        """A lighting coil beside what the machine hangs on, with lamps of its own."""
        coil = self.plan.one(Coil)
        return coil if coil is not self.supply else None

    def origin(self, wire: Wire) -> Literal["new", "found", "supplied"]:
        """Where a wire is from: as the plan says, or as the lead of an accessory that reaches."""
        return "supplied" if wire.origin == "new" and self.supplied_mm2(wire) is not None else wire.origin

    def keeps(self, wire: Wire, side: Side) -> bool:
        """Whether it stays as it is at an end: as the plan says; of a lead that reaches, at its accessory."""
        if wire.origin != "new":
            return wire.keeps(side)
        return self.supplied_mm2(wire) is not None and self.plan.is_one(wire.end(side).part, LoadPart) is not None

    def untouched(self, wire: Wire) -> bool:
        """Whether it stays as it is at both ends."""
        return all(self.keeps(wire, side) for side in SIDES)

    def supplied_mm2(self, wire: Wire) -> float | None:
        """The size of an accessory's own lead where a wire at it is that lead: no longer than what it comes with. None
        where it is not, nobody has said, or somebody has fixed its size."""
        if wire.area_mm2 is not None:
            return None
        for load in (load for end in (wire.a, wire.b) if (load := self.plan.is_one(end.part, LoadPart))):
            reaches_m = load.own_lead_m
            if load.lead_mm2 and reaches_m and self.geometry[wire.id].length_m <= reaches_m + LEAD_NEAR_M:
                return load.lead_mm2
        return None

    def _placed(self, element: Element) -> Element:
        """An element between nodes in place of terminals."""
        n = self.node
        if isinstance(element, net.Diode):
            return replace(element, a=n(element.a), b=n(element.b))
        if isinstance(element, net.Converter):
            return replace(element, in_plus=n(element.in_plus), in_minus=n(element.in_minus),
                           out_plus=n(element.out_plus), out_minus=n(element.out_minus))
        return replace(element, plus=n(element.plus), minus=n(element.minus))

    def _ohm_or_1(self, element: str) -> float:
        branch = self.branches.get(element)
        return 1.0 if branch is None or branch.ohm is None else branch.ohm

    @cached_property
    def roots(self) -> tuple[Root, ...]:
        """The main supply, then everything else that something hangs on: converters, light ports, a second battery, a
        lighting coil beside the battery."""
        found = [Root(self.supply.id, self.positive, self.negative)] if self.supply else []
        return (*found,
                *(Root(part, *map(self.node, inside.output)) for part, inside in self.inside.items()
                  if inside.output and self.parts[part] is not self.supply))
