"""A load's or switch's circuit made anew by difference: what goes on existing keeps its id, its size and its measured
length.

The recipe makes the new circuit beside the old one; then each new part takes the place of an old one of its kind, and
each new wire that of an old one between the same terminals, or at the same end of the load or switch.
"""

from ..doc.wires import Wire
from ..parts.base import Part
from ..parts.load import LoadPart
from ..plan.model import Plan
from ..refs import TerminalRef
from .recipes import make_load, take_out, take_out_idle, without
from .workpiece import Workpiece

KEPT = ("area_mm2", "insulation", "wall", "voltage_class")  # of a wire, whatever its other end does


def remade(plan: Plan, load: LoadPart) -> Plan:
    """The plan with a load changed in feed, life or return, and its circuit as it then has to be."""
    bare = take_out(plan, load.id, idle=False)
    return _remade(plan, load, bare, make_load(bare, load))


def rehung(plan: Plan, part: Part) -> Plan:
    """The plan with a switch, flasher or shared lead changed in what feeds it, a second battery in what joins it; what
    hangs on it stays."""
    made = {p.id for p in plan.parts if p.made_for == part.id}
    bare = without(plan, made, part.id)
    bare = bare.model_copy(update={"parts": tuple(part if p.id == part.id else p for p in bare.parts)})
    work = Workpiece.of(bare)
    part.arrive(work)
    return _remade(plan, part, bare, work.plan())


def _remade(plan: Plan, load: Part, bare: Plan, fresh: Plan) -> Plan:
    mine = [p for p in plan.parts if p.made_for == load.id]
    before = {p.id for p in bare.parts}
    names: dict[str, str] = {}
    parts: list[Part] = []
    for part in fresh.parts:
        old = next((p for p in mine if p.kind == part.kind), None) if part.made_for == load.id else None
        if old is not None:
            mine.remove(old)
            names[part.id] = old.id
            part = old.model_copy(update=old.after_remaking(part))
        parts.append(part)
    plugged = [j.model_copy(update={"a": _renamed(j.a, names), "b": _renamed(j.b, names)}) for j in fresh.joins]
    kept = {w.id for w in bare.wires}
    wires = [w if w.id in kept else w.model_copy(update={"a": _renamed(w.a, names), "b": _renamed(w.b, names)})
             for w in fresh.wires]
    wires = _taken_over(plan, load, wires, kept, {p.id: p.place for p in (*plan.parts, *parts)})
    order = {p.id: i for i, p in enumerate(plan.parts)}
    parts.sort(key=lambda p: order.get(p.id, len(order)))
    assert before <= {p.id for p in parts}
    changed = fresh.model_copy(update={"parts": tuple(parts), "wires": tuple(wires), "joins": tuple(plugged)})
    return take_out_idle(changed)


def dropped(before: Plan, after: Plan, load: str) -> list[str]:
    """What was fixed or measured by hand on a load's circuit and is no longer there, in words."""
    now = {w.id: w for w in after.wires}
    found = []
    for wire in before.wires:
        if wire.made_for != load:
            continue
        left = now.get(wire.id)
        if wire.length_m is not None and (left is None or left.length_m != wire.length_m):
            found.append(f"the measured length of {wire.id}")
        if wire.area_mm2 is not None and (left is None or left.area_mm2 != wire.area_mm2):
            found.append(f"the size of {wire.id}")
    there = {p.id for p in after.parts}
    return found + [f"{p.name} ({p.id})" for p in before.parts if p.made_for == load and p.id not in there
                    and p.by_hand]


def _renamed(end: TerminalRef, names: dict[str, str]) -> TerminalRef:
    return end.on(names.get(end.part, end.part))


def _taken_over(plan: Plan, load: Part, wires: list[Wire], kept: set[str], place: dict[str, str]) -> list[Wire]:
    """New wires with the ids, sizes and lengths of the old ones that they go on being."""
    old = [w for w in plan.wires if w.made_for == load.id]
    made = [i for i, w in enumerate(wires) if w.id not in kept and w.made_for == load.id]
    found = list(wires)

    def take(i: int, was: Wire, length_m: float | None) -> None:
        new = found[i]
        if new.origin != "new":  # a lead that came as it is has a size and a length of its own
            found[i] = new.model_copy(update={"id": was.id})
            old.remove(was)
            made.remove(i)
            return
        found[i] = new.model_copy(update={"id": was.id, "length_m": length_m, **{f: getattr(was, f) for f in KEPT}})
        old.remove(was)
        made.remove(i)

    for i in list(made):
        was = next((w for w in old if {w.a, w.b} == {found[i].a, found[i].b}), None)
        if was:
            take(i, was, was.length_m)
    for end in map(load.at, load.ends):
        for i in list(made):
            was = next((w for w in old if end in (w.a, w.b)), None)
            if was and end in (found[i].a, found[i].b):
                same = {place[e.part] for e in (was.a, was.b)} == {place[e.part] for e in (found[i].a, found[i].b)}
                take(i, was, was.length_m if same else None)
    return found
