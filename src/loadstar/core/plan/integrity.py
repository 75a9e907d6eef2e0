"""Does a document hang together: unique ids, existing ends, sensible pairs of values?"""

from ..doc.survey import Reading
from ..errors import Fault
from ..parts.base import Part
from ..parts.registry import KINDS
from ..parts.tap import Tap
from .model import Plan

MAX_PARTS, MAX_WIRES, MAX_PLACES, MAX_READINGS = 3000, 3000, 400, 3000
DC_MOST, AC_MOST = 2.5, 8.0  # times the nominal voltage that a meter can show; a magneto without its lamps runs far up
MOST_A, MOST_S = 600, 7200
PACK_ONLY = ("pack",)


def faults(plan: Plan) -> list[Fault]:
    """Every fault of a document, in document order; empty when it hangs together."""
    too_many = _sizes(plan)
    if too_many:
        return too_many
    return [*_ids(plan), *_places(plan), *_ends(plan), *_parts(plan), *_survey(plan)]


def _sizes(plan: Plan) -> list[Fault]:
    return [
        Fault("", what, f"The plan has {count:,} {what}; Loadstar takes up to {limit:,}.")
        for what, count, limit in (
            ("parts", len(plan.parts), MAX_PARTS), ("wires", len(plan.wires), MAX_WIRES),
            ("places", len(plan.places), MAX_PLACES), ("runs", len(plan.runs), MAX_PLACES),
            ("joins", len(plan.joins), MAX_PARTS), ("plugs", len(plan.plugs), MAX_PLACES),
            ("readings", len(plan.readings), MAX_READINGS), ("tables", len(plan.tables), MAX_PLACES),
            ("removed", len(plan.removed), MAX_PLACES),
        ) if count > limit
    ]


def _ids(plan: Plan) -> list[Fault]:
    found, seen = [], set()
    for element in plan.elements():
        if element.id in seen:
            found.append(Fault(element.id, "id", f"The id {element.id} is used twice."))
        seen.add(element.id)
        prefix = element.id.rstrip("0123456789")
        if int(element.id[len(prefix):]) > plan.counters.get(prefix, 0):
            found.append(Fault(element.id, "id", f"{element.id} is beyond its counter: the document lost count."))
    return found


def _places(plan: Plan) -> list[Fault]:
    places = {p.id for p in plan.places}
    found = []
    for run in plan.runs:
        for end in (run.a, run.b):
            if end not in places:
                found.append(Fault(run.id, "a", f"Run {run.id} ends at {end}, which is no place of this plan."))
        if run.a == run.b:
            found.append(Fault(run.id, "b", f"Run {run.id} begins and ends at {run.a}: a run joins two places."))
    for part in plan.parts:
        if part.place not in places:
            found.append(Fault(part.id, "place", f"{part.id} ({part.name}) sits at {part.place}, which is no place "
                                                 "of this plan."))
    return found


def _ends(plan: Plan) -> list[Fault]:
    terminals = {p.at(t) for p in plan.parts for t in p.ends}
    parts = {p.id for p in plan.parts}
    found = []
    for wire in plan.wires:
        for end in (wire.a, wire.b):
            if end not in terminals:
                what = "part" if end.part not in parts else "terminal"
                found.append(Fault(wire.id, "a", f"Wire {wire.id} ends at {end}, a {what} that does not exist."))
        if wire.origin != "new" and wire.area_mm2 is None:
            whose = "there already" if wire.origin == "found" else "part of a lead that came with something"
            found.append(Fault(wire.id, "area_mm2", f"{wire.id} is {whose}: say what size it is."))
        if wire.a == wire.b:
            found.append(Fault(wire.id, "b", f"Wire {wire.id} begins and ends at the same terminal {wire.a}."))
    for join in plan.joins:
        for end in (join.a, join.b):
            if end not in terminals:
                found.append(Fault(end.part, "joins", f"A join ends at {end}, which does not exist."))
    made = [*((p.id, p.made_for) for p in plan.parts), *((w.id, w.made_for) for w in plan.wires)]
    return found + [Fault(element, "made_for", f"{element} was made for {owner}, which does not exist.")
                    for element, owner in made if owner and owner not in parts]


def _one_too_many(plan: Plan) -> list[Fault]:
    found = []
    for name, kind in KINDS.items():
        if len(every := plan.of(kind)) > kind.MOST:
            words = f"one {name}; this is a second" if kind.MOST == 1 else f"at most two {name}s; this is a third"
            found.append(Fault(every[kind.MOST].id, "kind", f"A plan has {words}."))
    return found


def _parts(plan: Plan) -> list[Fault]:
    found = _one_too_many(plan)
    for part in plan.parts:
        if plan.machine.system not in part.SYSTEMS:
            found.append(Fault(part.id, "kind",
                               f"{part.name} belongs on a machine that runs from a pack: set the machine's "
                                                "system to that first."))
        elif part.SYSTEMS == PACK_ONLY and plan.battery:
            found.append(Fault(plan.battery.id, "kind", "A plan has a battery or packs, not both."))
    for part in plan.parts:
        found += [Fault(part.id, field, sentence) for field, sentence in part.contradictions()]
    found += [fault for load in plan.loads for fault in fed_wrong(plan, load, load.feed)]
    found += [fault for part in plan.parts for fault in returns_wrong(plan, part)]
    found += _unknown_others(plan)
    for part in plan.parts:
        found += hangs_wrong(plan, part)
    if not plan.machine.idle_rpm < plan.machine.town_rpm < plan.machine.cruise_rpm:
        found.append(Fault("", "town_rpm", "Idle, town and cruise must be rising engine speeds."))
    if plan.machine.rev_rpm is not None and plan.machine.rev_rpm <= plan.machine.cruise_rpm:
        found.append(Fault("", "rev_rpm", "The engine is over-revved above its cruising speed."))
    return found


def returns_wrong(plan: Plan, part: Part) -> list[Fault]:
    """What is wrong with where a part's return goes."""
    if part.own_return is None:
        return []
    to = plan.part_by_id.get(part.own_return)
    return [] if to is not None and to.RETURN_END else [
        Fault(part.id, "return_to", f"{part.name} returns to {part.own_return}, which is no post, star point, splice "
                                    "or frame joint of this plan.")]


def _unknown_others(plan: Plan) -> list[Fault]:
    """A winding at no place, and beliefs about accessories that are not there."""
    found = []
    generator = plan.generator
    if generator is not None and generator.winding_at is not None and generator.winding_at not in plan.place_by_id:
        found.append(Fault(generator.id, "winding_at", f"{generator.winding_at} is no place of this plan."))
    accessories = {p.id for p in plan.loads}
    for load in plan.loads:
        found += [Fault(load.id, "never_with", f"{other} is no other accessory of this plan.")
                  for other in load.never_with if other not in accessories - {load.id}]
    return found


def fed_wrong(plan: Plan, load: Part, by: str) -> list[Fault]:
    """An accessory that hangs on nothing that feeds."""
    feed = plan.part_by_id.get(by)
    if feed is None:
        return [Fault(load.id, "feed", f"There is no feed {by} in this plan: {load.name} is fed from {by}.")]
    if feed.FEED_WORDS:
        return []
    return [Fault(load.id, "feed", f"{load.name} is fed from {by}, which is no battery, pack, block, plug or "
                                   "other feed of this plan.")]


def hangs_wrong(plan: Plan, switch: Part) -> list[Fault]:
    """What is wrong with what a switch, flasher or shared lead hangs on or works beside."""
    found = []
    if switch.hangs_on is not None:
        feed = plan.part_by_id.get(switch.hangs_on)
        if feed is None or not feed.FEED_WORDS:
            found.append(Fault(switch.id, "feed", f"{switch.name} is fed from {switch.hangs_on}, which is no battery, "
                                                  "pack, block, plug or other feed of this plan."))
    if switch.beside_of is not None:
        other = plan.part_by_id.get(switch.beside_of)
        if other is None or other.kind != switch.kind:
            found.append(Fault(switch.id, "beside", f"{switch.name} works beside {switch.beside_of}, which is no "
                                                    "switch of this plan."))
        elif missing := [end for end in switch.ends if end not in other.ends]:
            found.append(Fault(switch.id, "beside", f"{other.name} has no terminal {missing[0]}: two switches beside "
                                                    "one another have the same terminals."))
    above, seen = switch, {switch.id}
    while (next_up := plan.part_by_id.get(above.above or "")) is not None:
        if next_up.id in seen:
            found.append(Fault(switch.id, "feed", f"{switch.name} is fed in a circle, by way of {next_up.name}."))
            break
        seen.add(next_up.id)
        above = next_up
    return found


def _survey(plan: Plan) -> list[Fault]:
    places = {p.id for p in plan.places}
    found = [Fault(plug.id, "place", f"{plug.id} ({plug.name}) sits at {plug.place}, which is no place of this plan.")
             for plug in plan.plugs if plug.place not in places]
    return [*found, *_pins(plan), *_records(plan)]


def _pins(plan: Plan) -> list[Fault]:
    found: list[Fault] = []
    plugs = {p.id: p for p in plan.plugs}
    taken: set[tuple[str, int]] = set()
    for part in plan.of(Tap):
        if part.plug is None:
            continue
        plug = plugs.get(part.plug)
        if plug is None or part.way is None:
            found.append(Fault(part.id, "plug", f"{part.id} ({part.name}) is a pin of {part.plug}, which is no "
                                                "connector of this plan, or has no number there."))
        elif part.way > plug.ways:
            found.append(Fault(part.id, "way", f"{plug.name} has {plug.ways} ways: there is no pin {part.way}."))
        elif (part.plug, part.way) in taken:
            found.append(Fault(part.id, "way", f"Pin {part.way} of {plug.name} is written down twice."))
        else:
            taken.add((part.plug, part.way))
            if part.phase and plug.use != "generator":
                found.append(Fault(part.id, "phase", f"Pin {part.way} of {plug.name}: only the phases between a "
                                                     "generator and its rectifier may be joined in any order; a driven "
                                                     "motor would run wrong or burn."))
    return found


def _records(plan: Plan) -> list[Fault]:
    """Readings of what is there, and continuity tables of terminals and positions that they have."""
    found: list[Fault] = []
    known = {"machine", *(e.id for listed in (plan.parts, plan.plugs, plan.runs) for e in listed)}
    for reading in plan.readings:
        if reading.element not in known:
            found.append(Fault(reading.id, "element",
                               f"Reading {reading.id} was taken at {reading.element}, which is not in this plan."))
        if why := _impossible(plan, reading):
            found.append(Fault(reading.id, "value", why))
    for table in plan.tables:
        for beep in table.beeps:
            if max(beep.a, beep.b) >= len(table.terminals) or beep.position >= len(table.positions) or beep.a == beep.b:
                found.append(Fault(table.id, "beeps",
                                   f"{table.name} has a test of a terminal or position that it has not."))
    return found


def _impossible(plan: Plan, reading: Reading) -> str:
    """Why a reading cannot be, in words; "" when it can."""
    value, most_v = reading.value, plan.machine.system_v * (AC_MOST
        if plan.machine.system in ("magneto", "ignition_only") else DC_MOST)
    if reading.quantity == "V" and abs(value) > most_v:
        return (f"{value:g} V cannot be on a {plan.machine.system_v} V machine: was the meter on another range, or "
                "millivolts?")
    if reading.quantity == "ohm" and value < 0:
        return f"{value:g} Ω cannot be: the wire was live while it was measured."
    if reading.quantity == "A" and abs(value) > MOST_A:
        return f"{value:g} A cannot have gone through a meter: was it milliamps?"
    if reading.quantity == "s" and not 0 <= value <= MOST_S:
        return f"{value:g} s is outside what is accepted: 0 to {MOST_S} s."
    return "" if reading.quantity != "beep" or value in (0, 1) else "A beep is 1 (it beeps) or 0 (it is silent)."
