"""What a plan's harness is made of, to be bought: counted from the plan, with what breaks and fails added.

Wire and what goes on it by the metre get a tenth more; terminals a tenth more, and at least two of each kind, since a
crimp may fail; of each fuse one more.
"""

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from .analysis import Analysis
from .ends.choose import End
from .materials.terminals import SEALED
from .parts.coupling import Coupling
from .parts.fuse import FusePart
from .parts.relay import Relay
from .plan.model import Plan
from .wiring.classes import of_600_v

LOCKS = " with locks"
MORE, LEAST_SPARE = 0.10, 2
Group = Literal["Wire", "Terminals", "Housings, seals and plugs", "Boots and shrink tube", "Covering and fixing",
                "Fuses and relays"]
OTHER_HALF = {"": " with locks", "tabs": " with receptacles and locks", "receptacles": " with tabs and locks"}
STEP_M, CUT_END_M = 0.1, 0.03  # what metres are ordered in; of shrink tube over a braid's cut end


@dataclass(frozen=True)
class Item:
    """One line: what, how much the plan needs, how much to order, in pieces (unit "") or metres ("m"). `why` says what
    it is for; of wire `pieces` are the wires as they are cut."""

    group: Group
    what: str
    need: float
    order: float
    unit: str = ""
    why: str = ""
    pieces: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Order:
    """The order list, and the ends of wires that nothing could be chosen for."""

    items: tuple[Item, ...]
    unknown: tuple[End, ...]


def order(analysis: Analysis) -> Order:
    """Everything that the harness needs; nothing before it has been sized."""
    if analysis.ends is None or analysis.loom is None:
        return Order((), ())
    items = (*_wire(analysis), *_terminals(analysis), *_housings(analysis), *_over_ends(analysis),
             *_covering(analysis), *_protection(analysis))
    return Order(items, tuple(e for e in analysis.ends.every if e.chosen is None and not e.kept))


def _metres(group: Group, what: str, need_m: float, why: str = "") -> Item:
    return Item(group, what, need_m, math.ceil(round(need_m * (1 + MORE) / STEP_M, 6)) * STEP_M, "m", why)


def _pieces(group: Group, what: str, need: int, why: str = "") -> Item:
    return Item(group, what, need, need + max(LEAST_SPARE, math.ceil(round(need * MORE, 6))), "", why)


def _wire(a: Analysis) -> Iterator[Item]:
    assert a.loom is not None
    metres: dict[tuple[float, str, str, str, bool], dict[str, float]] = {}
    high = of_600_v(a.topology)
    for wire in a.plan.wires:
        if a.wires[wire.id].origin != "new":
            continue  # it is there, or comes with the accessory
        key = a.wires[wire.id].area_mm2, wire.colour, wire.stripe, wire.wall, wire.id in high
        metres.setdefault(key, {})[wire.id] = a.loom.cut_m[wire.id]
    for (area, colour, stripe, wall, is_high), cut in sorted(metres.items()):
        kind = f"{', thick wall' if wall == 'thick' else ''}{', 600 V class' if is_high else ''}"
        line = _metres("Wire", f"{area:g} mm² {f'{colour}/{stripe}' if stripe else colour}{kind}", sum(cut.values()))
        yield replace(line, pieces=tuple(cut.items()))


def _joints(a: Analysis) -> list[End]:
    """Ends that take a terminal each: of wires that share a barrel one."""
    assert a.ends is not None
    found, shared = [], set()
    for end in a.ends.every:
        if end.beside and end.at in shared:
            continue
        if end.beside:
            shared.add(end.at)
        found.append(end)
    return found


def _on_own_lead(a: Analysis, end: End) -> bool:
    """Whether the other half goes on a lead of the part's own."""
    part = a.plan.part(end.at.part)
    return not part.MATED and part.ends_in(end.at.name) is None


def _terminals(a: Analysis) -> Iterator[Item]:
    count: Counter[str] = Counter()
    halves: dict[str, Counter[str]] = {}
    for end in _joints(a):
        if end.chosen is not None and not end.soldered:
            both = _on_own_lead(a, end) and end.chosen.shape in ("pin", "blade", "bullet")
            count[end.chosen.name] += 2 if both else 1
            mine = ("male", "female") if both else (half_of(a.plan, end),)
            halves.setdefault(end.chosen.name, Counter()).update(half for half in mine if half)
    for name, need in sorted(count.items()):
        yield _pieces("Terminals", name, need, ", ".join(f"{n} {half}" for half, n in sorted(halves[name].items())))


def half_of(plan: Plan, end: End) -> str:
    """Whether a terminal is the male or the female one, where that can be known: female on the side that stays live
    unless a connector says otherwise; towards a plug of the machine the other of what that has."""
    if coupling := plan.is_one(end.at.part, Coupling):
        return "male" if end.at.name[0] == (coupling.tabs or "b") else "female"
    plug = next((p for p in plan.plugs if p.id == plan.part(end.at.part).in_plug), None)
    return {"tabs": "female", "receptacles": "male"}.get(plug.half, "") if plug else ""


def connector_name(family: str | None, part: Coupling) -> str:
    """What a connector in the harness is called on order lists."""
    keyed = f", keying {part.keying}" if part.keying else ""
    return f"{family} connector, {part.ways}-way, both halves{LOCKS if family in SEALED else ''}{keyed}"


def _housings(a: Analysis) -> Iterator[Item]:
    """Connectors as pairs with their locks, a seal for each of their wires, and a plug for each way left open."""
    assert a.ends is not None
    pairs: Counter[str] = Counter()
    blanks: Counter[str] = Counter()
    for part in a.plan.of(Coupling):
        here = a.ends.at(part.id)
        if here and all(e.kept for e in here):
            continue  # it is there with its wires
        family = a.ends.family(part.at("a1"))
        pairs[connector_name(family, part)] += 1
        taken = {end for w in a.plan.wires for end in (w.a, w.b)}
        free = sum(part.at(f"{side}{n}") not in taken for n in range(1, part.ways + 1) for side in "ab")
        if free and family in SEALED:
            blanks[f"plug for an unused way, {family}"] += free
    for plug in a.plan.plugs:
        pins = a.plan.pins(plug.id)
        if pins and pins[0].termination and any(not e.kept for p in pins for e in a.ends.at(p.id)):
            half = OTHER_HALF[plug.half]
            pairs[f"{pins[0].termination} connector, {plug.ways}-way, one half{half}: fits {plug.name}"] += 1
            wired = sum(any(not e.kept for e in a.ends.at(p.id)) for p in pins)
            if pins[0].termination in SEALED and wired < plug.ways:
                blanks[f"plug for an unused way, {pins[0].termination}"] += plug.ways - wired
    sealed: dict[str, list[End]] = {}
    for end in a.ends.every:
        at = a.plan.part(end.at.part)
        if end.family in SEALED and not (at.MATED or at.AS_FOUND):
            sealed.setdefault(end.at.part, []).append(end)
    for ends in sealed.values():  # an accessory that is sold with a plug brings its own half
        halves = "both halves" if _on_own_lead(a, ends[0]) else "one half"
        pairs[f"{ends[0].family} connector, {len(ends)}-way, {halves}"] += 1
    seals: Counter[str] = Counter()
    for end in a.ends.every:
        if end.chosen is not None and end.chosen.sealed:
            least, most = end.chosen.od_mm
            seals[f"seal, {end.chosen.family}, wires {least:g} to {most:g} mm"] += 2 if _on_own_lead(a, end) else 1
    for name, need in sorted(pairs.items()):
        yield Item("Housings, seals and plugs", name, need, need)
    for name, need in sorted((seals + blanks).items()):
        yield _pieces("Housings, seals and plugs", name, need)


def _over_ends(a: Analysis) -> Iterator[Item]:
    boots: Counter[str] = Counter()
    tubes: dict[str, float] = {}
    for end in _joints(a):
        if "slip-on boot" in end.on_first and end.chosen is not None:
            boots[f"slip-on boot, {end.chosen.family}"] += 1
        if end.shrink is not None:
            name = f"shrink tube with lining {end.shrink.supplied_mm:g}/{end.shrink.recovered_mm:g}"
            tubes[name] = tubes.get(name, 0.0) + end.shrink_mm / 1000
    for name, need in sorted(boots.items()):
        yield _pieces("Boots and shrink tube", name, need)
    assert a.loom is not None
    for b in a.loom.bundles:  # both cut ends of a braid fray
        if b.sleeve and b.shrink:
            name = f"shrink tube with lining {b.shrink.supplied_mm:g}/{b.shrink.recovered_mm:g}"
            tubes[name] = tubes.get(name, 0.0) + 2 * CUT_END_M
    for name, metres in sorted(tubes.items()):
        yield _metres("Boots and shrink tube", name, metres)


def _covering(a: Analysis) -> Iterator[Item]:
    loom = a.loom
    assert loom is not None
    for size, metres in sorted(loom.sleeve_m.items()):
        yield _metres("Covering and fixing", f"braided sleeve {size}", metres)
    for kind in ("loom tape", "PVC tape"):
        metres = sum(b.tape_m for b in loom.bundles if b.covering == kind)
        if metres:
            yield _metres("Covering and fixing", f"{kind}, 19 mm", metres)
    if loom.ties:
        yield _pieces("Covering and fixing", "tie, 2.5 mm", loom.ties)
    for guard in loom.guards:
        if guard.length_m:
            yield _metres("Covering and fixing", guard.what, guard.length_m, guard.run)
        else:
            yield Item("Covering and fixing", guard.what, guard.pieces, guard.pieces, "", guard.run)


def _protection(a: Analysis) -> Iterator[Item]:
    fuses: Counter[tuple[float, str]] = Counter()
    holders: Counter[str] = Counter()
    joined = {j.b.part for j in a.plan.joins} | {j.a.part for j in a.plan.joins}
    for part in (f for f in a.plan.of(FusePart) if not f.supplied):
        if part.id not in joined:
            holders[part.of_kind.words] += 1
        fuses[a.ratings.rating_a(part.id), part.words(a.ratings.rating_a(part.id))] += 1
    for (_, words), need in sorted(fuses.items()):
        yield Item("Fuses and relays", words, need, need + 1)
    for words, need in sorted(holders.items()):
        yield Item("Fuses and relays", f"holder for {words}, in line", need, need)
    relays = sum(not relay.built_in for relay in a.plan.of(Relay))
    if relays:
        yield Item("Fuses and relays", "relay with its socket, ISO 7588 pattern", relays, relays)
