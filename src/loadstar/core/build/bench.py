"""What is made at the bench: every wire cut and labelled, its two ends made, spliced, pushed into their connectors,
tried, and its run covered."""

from collections import Counter
from collections.abc import Mapping

from ..doc.wires import SIDES, Wire
from ..ends.choose import End
from ..harness.loom import Bundle
from ..materials.coverings import ORIGINAL
from ..refs import TerminalRef
from ..wiring.classes import of_600_v
from .maker import How, Maker, On
from .operations import PREPARE
from .sleeves import sleeves

Barrel = list[tuple[End, str, str]]  # ends that share one: each with the key it is finished with, and its group


def made_wires(m: Maker, ready: str) -> dict[str, list[str]]:
    """Every wire cut, its ends made; by wire the keys that its two ends are finished with."""
    ends = m.a.ends
    assert ends is not None
    finished: dict[str, list[str]] = {}
    high, sleeved = of_600_v(m.a.topology), sleeves(m, ready)
    barrels: dict[TerminalRef, Barrel] = {}
    inserted: dict[str, list[str]] = {}  # by half of a connector
    for wire in m.a.plan.wires:
        finished.setdefault(wire.id, [])
        if m.a.topology.untouched(wire):
            continue
        cut = _cut(m, wire, ready, wire.id in high)
        for side in ("a", "b"):
            end = ends.by_key[f"{wire.id}.{side}"]
            key = _end(m, wire, end, (cut, *sleeved.get(end.key, ())))
            if end.beside:
                barrels.setdefault(end.at, []).append((end, key, m.group_of(wire)))
            else:
                finished[wire.id].append(_inserted(m, end, key, m.group_of(wire), inserted))
        for run in m.a.topology.geometry[wire.id].runs:
            if (sleeve := f"thread/{run}") in m.made:
                m.edges[sleeve].add(cut)
    for at, several in barrels.items():
        done = _inserted(m, several[0][0], _splice(m, at, several), several[-1][2], inserted)
        for end, _, _ in several:
            finished[end.wire].append(done)
    _lock(m, inserted, finished)
    return {wire.id: _beeped(m, wire, finished[wire.id]) if finished[wire.id] else [] for wire in m.a.plan.wires}


def _cut(m: Maker, wire: Wire, ready: str, of_high_class: bool) -> str:
    """A wire cut and labelled; one that is there, or came with something, is marked, and loses the ends that are made
    anew."""
    loom, area, origin = m.a.loom, m.a.wires[wire.id].area_mm2, m.a.topology.origin(wire)
    assert loom is not None
    if origin != "new":
        whose = "as the accessory's maker supplies it" if origin == "supplied" else "the machine's own"
        which = f"{own}, " if (own := m.polarity(wire)) else ""
        row = f"{wire.id}, {which}{whose}"
        mark = m.add("mark", wire.id, f"Mark {row}", m.on(wire), (ready,), How(f"{area:g} mm²", row=row))
        for side in (s for s in SIDES if s in wire.made):
            mark = m.add("cut", f"{wire.id}.{side}", f"Cut the old end off {wire.id} at "
                         f"{m.a.plan.part(wire.end(side).part).name}", m.on(wire), (mark,), How(row=row))
        return mark
    kind = f"{area:g} mm² {wire.colours}{', 600 V class' if of_high_class else ''}"
    length = f"{loom.cut_m[wire.id]:.2f} m"
    row = f"{wire.id}: {kind}, {length}"
    cut = m.add("cut", wire.id, f"Cut {row}", m.on(wire), (ready,), How(f"{kind} {length}", uses=(kind,), row=row))
    return m.add("mark", wire.id, f"Label {wire.id} at both ends", m.on(wire), (cut,), How(row=row))


def _lock(m: Maker, inserted: Mapping[str, list[str]], finished: dict[str, list[str]]) -> None:
    """The locks of connectors closed once all their ways are in; wires that end there are finished with that."""
    for half, keys in inserted.items():
        part, _, side = half.partition("/")
        lock = m.add("lock", half, f"Close the lock of {m.a.plan.part(part).name}, side {side}",
                     On(part, m.made[keys[-1]].group), tuple(keys))
        for wire, last in finished.items():
            finished[wire] = [lock if one in keys else one for one in last]


def _beeped(m: Maker, wire: Wire, finished: list[str]) -> list[str]:
    """A wire tried from end to end; what is shrunk over an end is shrunk once it is known to be right."""
    done = m.add("beep", wire.id, f"Test continuity of {wire.id}, and that no neighbour is joined to it", m.on(wire),
                 tuple(finished))
    heats = [h for side in ("a", "b") if (h := f"heat/{wire.id}.{side}") in m.made]
    for heat in heats:
        m.edges[heat].add(done)
    return [done, *heats]


def _end(m: Maker, wire: Wire, end: End, ready: tuple[str, ...]) -> str:
    """One end up to its crimp: what has to be on the wire, strip, both crimps, the pull; the key it ends with."""
    at, on = f"{wire.id} at {m.a.plan.part(end.at.part).name}", m.on(wire)
    before, sitting, row = ready, _sitting(end), _row(m, end)
    # the tube of a splice goes over several wires at once
    own = [i for i in end.on_first if not i.startswith("sleeve") and not (end.beside and "shrink" in i)]
    for n, item in enumerate(own):
        before = (m.add("thread", f"{end.key}/{n}", f"Slide on: {item} ({at})", on, before,
                        How(item, uses=(item,), sitting=sitting, row=row)),)
    if end.chosen is None:
        return before[0]
    strip = m.add("strip", end.key, f"Strip {at}: {end.chosen.strip_mm:g} mm, {end.chosen.strip_off_mm:g} more or less",
                  on, before, How(f"{end.chosen.strip_mm:g} mm", sitting=sitting, row=row))
    if end.beside:
        return strip
    done = _soldered(m, end, at, on, strip) if end.how.startswith("solder") else _crimped(m, end, at, on, strip)
    if end.shrink is not None:
        m.add("heat", end.key, f"Shrink the tube over {at}", on, (done,))
    return done


def _row(m: Maker, end: End) -> str:
    """An end in words, or all that share its barrel."""
    return f"{', '.join(sorted({end.wire, *end.beside}))} at {m.a.plan.part(end.at.part).name}"


def _sitting(end: End) -> str:
    """Ends of one terminal are made together, those of one kind of splice too."""
    return f"{'splice' if end.beside else 'end'} {end.name}"


def _soldered(m: Maker, end: End, at: str, on: On, strip: str) -> str:
    assert end.chosen is not None
    return m.add("solder", end.key, f"Solder {end.name} ({at})", on, (strip,),
                 How(f"{end.name}, {end.area_mm2:g} mm²", uses=(end.chosen.name,), sitting=_sitting(end), row=at))


def _crimped(m: Maker, end: End, at: str, on: On, strip: str) -> str:
    """Both crimps of an end, pulled at, and solder let in where the house does; the key it ends with."""
    chosen, spec, sitting = end.chosen, f"{end.name}, {end.area_mm2:g} mm²", _sitting(end)
    assert chosen is not None
    nest = f"crimp tool, {end.dies.core_mm:g} mm" if end.dies else f"crimp tool for {chosen.name.split(',')[0]}"
    first = "Press the wings parallel, then crimp" if chosen.stages == 2 else "Crimp"
    done = m.add("crimp core", end.key, f"{first} the core: {end.name} ({at})", on, (strip,),
                 How(spec, nest, uses=(chosen.name,), sitting=sitting, row=at))
    if chosen.stages == 2:
        wings = f"crimp tool, {end.dies.wings_mm:g} mm" if end.dies else nest
        over = "the seal" if chosen.sealed else "the insulation, lightly"
        done = m.add("crimp insulation", end.key, f"Crimp over {over} ({at})", on, (done,),
                     How(spec, wings, sitting=sitting, row=at))
    if end.pull_n:
        done = m.add("pull", end.key, f"Pull {at} with {end.pull_n} N", on, (done,),
                     How(spec, pull_n=end.pull_n, sitting=sitting, row=at))
    if "solder" in end.how:
        done = m.add("solder", end.key, f"Let solder into the crimp ({at})", on, (done,),
                     How(spec, sitting=sitting, row=at))
    return done


def _inserted(m: Maker, end: End, key: str, group: str, halves: dict[str, list[str]]) -> str:
    """An end that goes into a connector: pushed in until it clicks, its seal pushed home."""
    part = m.a.plan.part(end.at.part)
    cavity = part.cavity(end.at.name)
    if end.chosen is None or cavity is None:
        return key
    side, way = cavity
    on = On(end.wire, group)
    old = m.a.plan.wire(end.wire).origin == "found"
    there = "Bend the lance up again and clean the cavity; push" if old else "Push"
    row = f"{end.wire} into way {way} of {part.name}"
    done = m.add("insert", end.key, f"{there} {row} until it clicks; pull back on it", on, (key,),
                 How(f"way {way}", row=row))
    if end.chosen.sealed:
        done = m.add("seal home", end.key, f"Push the seal of {end.wire} home", on, (done,), How(row=row))
    halves.setdefault(f"{part.id}/{side}", []).append(done)
    return done


def _splice(m: Maker, at: TerminalRef, several: Barrel) -> str:
    """All wires of a barrel together: crimped, then soldered if the house does, then shrunk."""
    first, name = several[0][0], m.a.plan.part(at.part).name
    about = at.part if at.name == "t" else str(at)
    wires = ", ".join(sorted({e.wire for e, _, _ in several}))
    spec, on = f"{first.name}, {first.area_mm2:g} mm² together", On(at.part, several[-1][2])
    sitting, row = _sitting(first), _row(m, first)
    after = tuple(key for _, key, _ in several)
    if tube := next((i for i in first.on_first if "shrink" in i), None):
        side = _one_side(m, at, sorted({e.wire for e, _, _ in several}))
        slid = m.add("thread", about, f"Slide on: {tube}, over {', '.join(side)} ({name})", on,
                     tuple(f"mark/{w}" for w in side), How(tube, uses=(tube,), sitting=sitting, row=row))
        after = (*after, slid)
    if first.soldered:
        done = m.add("solder", about, f"Solder {wires} together at {name}", on, after,
                     How(spec, sitting=sitting, row=row))
    else:
        done = m.add("splice", about, f"Crimp {wires} into one barrel at {name}", on, after,
                     How(spec, f"crimp tool for {first.name.split(',')[0]}",
                         uses=(first.chosen.name,) if first.chosen else (), sitting=sitting, row=row))
        if "solder" in first.how:
            done = m.add("solder", about, f"Let solder into the splice at {name}", on, (done,),
                         How(spec, sitting=sitting, row=row))
    if first.shrink is not None:
        done = m.add("heat", about, f"Shrink the tube over the splice at {name}", on, (done,))
    return done


def _one_side(m: Maker, at: TerminalRef, wires: list[str]) -> list[str]:
    """The wires of a splice that leave it together, the fewest of any way: its tube is slid over those."""
    ways: dict[str, list[str]] = {}
    for wire in wires:
        runs = m.a.topology.geometry[wire].runs
        first = "" if not runs else runs[0] if m.a.plan.wire(wire).a == at else runs[-1]
        ways.setdefault(first, []).append(wire)
    return min(ways.values(), key=lambda side: (len(side), side))


def covers(m: Maker, closed: Mapping[str, list[str]]) -> dict[str, str]:
    """Each run taped once its wires are made, or its sleeve drawn into place and its cut ends shrunk; before that the
    wires taped together where they branch, so that they keep their shape when they are taken off."""
    assert m.a.loom is not None
    found, shaped = {}, _shaped(m, closed)
    for b in m.a.loom.bundles:
        if b.covering:
            group = _group(m, b)
            braided = b.covering == "braided sleeve"
            words = ("Draw the sleeve into place and shrink its cut ends" if braided else
                     "Draw the machine's own sleeve into place" if b.covering == ORIGINAL else
                     f"Wind {b.covering} at half overlap")
            places = " to ".join(m.a.plan.place(p).name for p in (b.run.a, b.run.b))
            found[b.run.id] = m.add("cover", b.run.id, f"{words}: {places}", On(b.run.id, group),
                                    (*(k for w in b.made for k in closed[w]),
                                     *([shaped[group]] if group in shaped else [])),
                                    How(f"{b.covering}, {len(b.made)} wires", "hot air" if braided else ""))
    return found


def _group(m: Maker, bundle: Bundle) -> str:
    """The sub-harness that a run's wires are made with."""
    return max((m.group_of(m.a.plan.wire(w)) for w in bundle.made), default=PREPARE)


def _shaped(m: Maker, closed: Mapping[str, list[str]]) -> dict[str, str]:
    """By group, once its wires are made: taped at a few points; only where it branches or bends into another run."""
    assert m.a.loom is not None
    groups: dict[str, list[Bundle]] = {}
    for b in m.a.loom.bundles:
        if b.covering and b.made:
            groups.setdefault(_group(m, b), []).append(b)
    found = {}
    for group, bundles in groups.items():
        ends = Counter(place for b in bundles for place in (b.run.a, b.run.b))
        points = [m.a.plan.place(place).name for place, runs in ends.items() if runs > 1]
        if points:
            wires = dict.fromkeys(w for b in bundles for w in b.made)
            found[group] = m.add(
                "cover", f"shape.{bundles[0].run.id}", f"Tape the wires together at {', '.join(points)}, so that they "
                "keep their shape when they are taken off", On(bundles[0].run.id, group),
                tuple(k for w in wires for k in closed[w]), How(f"{len(points)} points"))
    return found
