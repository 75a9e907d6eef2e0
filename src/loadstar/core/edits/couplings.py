"""Connectors put into wires that are there, and taken out of them again."""

from collections.abc import Sequence

from ..doc.wires import Wire
from ..errors import refuse
from ..parts.coupling import Coupling
from ..plan.model import Plan
from ..refs import TerminalRef
from .ways import parted
from .workpiece import Workpiece


def cut(plan: Plan, wire: Wire, place: str, into: str) -> Plan:
    """A wire cut and led through a connector: `into` one of the plan, or a new one at `place`. PlanError where there is
    none or it is full."""
    work = Workpiece.of(plan)
    if into:
        coupling = plan.is_one(into, Coupling)
        if coupling is None:
            raise refuse(wire.id, "into", f"There is no connector {into} in this plan.")
    else:
        if place not in plan.place_by_id:
            raise refuse(wire.id, "place", "Choose the place where the connector sits.")
        coupling = Coupling(id=work.new_id("coupling"), name=f"connector in {wire.id}", place=place,
                            made_for=wire.made_for)
        work.parts.append(coupling)
    way = free_way(plan, coupling)
    if way is None:
        raise refuse(wire.id, "into", f"{coupling.name} has {coupling.ways} ways and all are taken.")
    ways = parted(plan, wire.way, plan.part(wire.a.part).place, coupling.place)
    work.replace(wire, _halves(work, wire, coupling.at(f"a{way}"), coupling.at(f"b{way}"), ways))
    return work.plan()


def _halves(work: Workpiece, wire: Wire, to: TerminalRef, on: TerminalRef,
            ways: Sequence[tuple[str, ...]]) -> list[Wire]:
    """A wire in two: what comes to a terminal, and what goes on from another; both are made up there."""
    return [wire.model_copy(update={"b": to, "length_m": None, "way": ways[0], "made": wire.also_made("b")}),
            wire.model_copy(update={"id": work.new_id("wire"), "a": on, "length_m": None, "way": ways[1],
                                    "made": wire.also_made("a")})]


def spliced(plan: Plan, wire: Wire, place: str) -> Plan:
    """A wire cut at a place, and both pieces in one splice."""
    if place not in plan.place_by_id:
        raise refuse(wire.id, "place", "Choose the place where the splice sits.")
    work = Workpiece.of(plan)
    splice = work.make("junction", name=f"splice in {wire.id}", place=place, made_for=wire.made_for, form="splice")
    ways = parted(plan, wire.way, plan.part(wire.a.part).place, place)
    work.replace(wire, _halves(work, wire, splice.at("t"), splice.at("t"), ways))
    return work.plan()


def free_way(plan: Plan, coupling: Coupling) -> int | None:
    """The first way that no wire comes to; None where all are taken."""
    taken = {end for w in plan.wires for end in (w.a, w.b)}
    return next((way for way in range(1, coupling.ways + 1)
                 if not {coupling.at(f"a{way}"), coupling.at(f"b{way}")} & taken), None)


def taken_out(plan: Plan, coupling: Coupling) -> Plan:
    """The plan without a connector: what came to a way and went on from it is one wire again. PlanError where several
    wires come to one contact."""
    wires = list(plan.wires)
    for way in range(1, coupling.ways + 1):
        one, other = coupling.at(f"a{way}"), coupling.at(f"b{way}")
        here, there = ([w for w in wires if end in (w.a, w.b)] for end in (one, other))
        if len(here) > 1 or len(there) > 1:
            raise refuse(coupling.id, "id",
                         f"Several wires come to way {way} of {coupling.name}: take those out first.")
        for gone in (*here, *there):
            wires.remove(gone)
        if here and there:
            a, to = (here[0].a, here[0].way) if here[0].b == one else (here[0].b, here[0].way[::-1])
            b, on = (there[0].b, there[0].way) if there[0].a == other else (there[0].a, there[0].way[::-1])
            at, way_told = plan.wires.index(here[0]), (*to, *on) if to and on else ()
            made = "".join(side for side, of, inner in (("a", here[0], one), ("b", there[0], other))
                           if ("a" if of.b == inner else "b") in of.made)
            wires.insert(min(at, len(wires)), here[0].model_copy(update={"a": a, "b": b, "length_m": None,
                                                                         "way": way_told, "made": made}))
    return plan.model_copy(update={"parts": tuple(p for p in plan.parts if p.id != coupling.id),
                                   "wires": tuple(wires)})
