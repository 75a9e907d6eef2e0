"""What is done on the machine: supply off, pictures and marks first; then laid in, connected, tried, tied down, covered
again, and the supply on last."""

from collections.abc import Mapping, Sequence

from ..doc.places import Place, Run
from ..harness.loom import Bundle
from ..parts.drive import Drive
from .maker import How, Maker, On
from .operations import FIT, MACHINE

HAND_MM = 80.0  # the narrowest hole that fingers reach a lead through


def prepare(m: Maker) -> str:
    """The supply off first; then pictures and maps of what is unplugged or cut. "" where nothing is opened or cut:
    what is only plugged in needs none of it."""
    plan = m.a.plan
    opened = [plug for plug in plan.plugs
              if any(p.new_colour or any(not e.kept for e in m.ends_at(p.id)) for p in plan.pins(plug.id))]
    if not opened and all(map(m.a.topology.untouched, plan.wires)):
        return ""
    off = last = m.add("disconnect", "supply", m.a.source.handling.off, On("", where=MACHINE))
    for plug in opened:
        last = m.add("photograph", plug.id, f"Photograph {plug.name} and check its pin map before it is unplugged",
                     On(plug.id, where=plug.place), (off,))
    if last == off:
        return off
    return m.add("mark", "plugs", "Mark the wires of every plug that is to be opened", On("", where=MACHINE), (last,))


def fit(m: Maker, ready: str, closed: Mapping[str, list[str]], covered: Mapping[str, str]) -> None:
    """Laid in along the runs, connected, tried, then tied down, then the bodywork, the supply last."""
    plan = m.a.plan
    assert m.a.loom is not None
    begun = (ready,) if ready else ()
    laid: dict[str, str] = {}
    held: list[tuple[str, tuple[str, ...], str]] = []  # what is tied down, after what
    bundles = [b for b in m.a.loom.bundles if b.laid]
    for lead, runs in _as_they_came(m, bundles).items():
        name, places = plan.part(lead).name, _places(m, runs)
        key = m.add("lay in", lead, f"Lay in the lead of {name}, {places}, tied loosely{_by_rod(runs)}",
                    On(lead, FIT, runs[0].run.a), begun)
        laid |= {b.run.id: key for b in runs}
        held.append((f"Tie down the lead of {name}, {places}", (key,), lead))
    for b in bundles:
        if b.run.id not in laid:
            after = (covered[b.run.id],) if b.run.id in covered else tuple(k for w in b.wires for k in closed[w])
            laid[b.run.id] = m.add("lay in", b.run.id, f"Lay in {_places(m, [b])}, tied loosely{_by_rod([b])}",
                                   On(b.run.id, FIT, b.run.a), (*after, *begun))
            held.append((f"Tie down {_places(m, [b])}", (laid[b.run.id],), b.run.id))
    connected = _connect(m, closed, laid, _near_together(m, begun))
    tested = _try(m, connected, supply_off=bool(ready))
    where = {b.run.id: b.run.a for b in bundles}
    ties = [m.add("tie", about, words, On(about, FIT, where.get(about, MACHINE)), (*after, *tested))
            for words, after, about in held]
    done = [*ties, *tested, *connected.values()]
    for reach, off in _opened(m, [b.run for b in bundles], connected).items():
        done.append(m.add("bodywork", off[0].id, f"Refit at {', '.join(p.name for p in off)}: {reach}",
                          On(off[0].id, FIT, off[0].id), tuple(done)))
    if ready:
        m.add("battery", "supply", f"{m.a.source.handling.on}, now that everything is measured", On("", FIT, MACHINE),
              tuple(done))


def _by_rod(runs: Sequence[Bundle]) -> str:
    """How a lead gets through a hole or tube that no hand reaches through."""
    narrow = any(b.run.bore_mm is not None and b.run.bore_mm < HAND_MM for b in runs)
    return ": tape its end to a thin rod and push that through first" if narrow else ""


def _opened(m: Maker, laid: Sequence[Run], connected: Mapping[str, str]) -> dict[str, list[Place]]:
    """By what has to be off to reach them, the places where something is connected or laid in."""
    here = {m.a.plan.part(p).place for p in connected} | {place for run in laid for place in (run.a, run.b)}
    found: dict[str, list[Place]] = {}
    for place in m.a.plan.places:
        if place.reach and place.id in here:
            found.setdefault(place.reach, []).append(place)
    return found


def _places(m: Maker, runs: Sequence[Bundle]) -> str:
    """From where to where, in words."""
    stops = [runs[0].run.a, runs[0].run.b]
    for b in runs[1:]:
        here, there = b.run.a, b.run.b
        if len(stops) == 2 and stops[0] in (here, there):
            stops.reverse()
        stops.append(there if stops[-1] == here else here)
    return " to ".join(m.a.plan.place(p).name for p in stops)


def _as_they_came(m: Maker, bundles: Sequence[Bundle]) -> dict[str, list[Bundle]]:
    """Accessories whose own lead lies in runs by itself, as it came, with those runs in turn: one thing to lay in."""
    found: dict[str, list[Bundle]] = {}
    by_run = {b.run.id: b for b in bundles}
    for load in m.a.plan.loads if m.a.loom else ():
        mine = {w.id for w in m.a.plan.wires if w.made_for == load.id and w.origin == "supplied"
                and m.a.topology.untouched(w)}
        feed = next((w.id for w in m.a.plan.wires if w.id in mine and w.b == load.at("pos")), None)
        runs = m.a.topology.geometry[feed].runs if feed else ()
        if runs and all(mine.issuperset(by_run[r].wires) for r in runs):
            found[load.id] = [by_run[r] for r in runs]
    return found


def _near_together(m: Maker, begun: tuple[str, ...]) -> dict[str, str]:
    """Before two packs are joined by a plain lead, both are read at rest: the reading's key, by what joins them."""
    joining, found = m.a.plan.combiner, m.a.pack.joining if m.a.pack else None
    if joining is None or joining.way != "parallel" or found is None:
        return {}
    packs = " and ".join(pack.name for pack in m.a.plan.packs)
    words = (f"Read {packs} at rest, both near full: join them only within {found.may_join_v:.2f} V of each other, and "
             "write both readings into the log")
    return {joining.id: m.add("test", f"gate/{joining.id}", words, On(joining.id, FIT, joining.place), begun)}


def _connect(m: Maker, closed: Mapping[str, list[str]], laid: Mapping[str, str],
             first: Mapping[str, str]) -> dict[str, str]:
    """Every part that wires end at connected, once they are laid in; the keys by part. What came as it is is plugged
    in, and what is there already stays."""
    plan, connected = m.a.plan, {}
    for part in plan.parts:
        every = m.ends_at(part.id)
        made = {e.wire: plan.wire(e.wire) for e in every if not e.kept}
        came = {e.wire: w for e in every if e.kept and (w := plan.wire(e.wire)).origin == "supplied"
                and part.id not in (w.made_for, None) and part.made_for != w.made_for}
        mine = {**made, **came}
        if not mine or part.MATED:
            continue
        ways = {laid[s.run] for w in mine for s in m.a.topology.geometry[w].segments
                if s.run is not None and s.run in laid}
        spec = " ".join(sorted(f"{w.id} {e.name}" for w in mine.values() for e in (w.a, w.b) if e.part == part.id))
        clean = "clean its contacts, a little grease on them, " if part.AS_FOUND else ""
        plugged = [f"{clean}plug the lead of {plan.part(owner).name} into {part.name}"
                   for owner in dict.fromkeys(w.made_for for w in came.values()) if owner]
        to = [f"{wire} to {own}" if (own := m.polarity(plan.wire(wire))) and part.CONSUMES else wire for wire in made]
        words = "; ".join([*([f"connect {part.name}: {', '.join(to)}"] if made else []), *plugged])
        connected[part.id] = m.add(
            "connect", part.id, f"{words[:1].upper()}{words[1:]}", On(part.id, FIT, part.place),
            (*ways, *(k for w in mine for k in closed[w]), *([first[part.id]] if part.id in first else ())),
            How(spec, "" if made else "hand"))
    return connected


def _try(m: Maker, connected: Mapping[str, str], *, supply_off: bool) -> list[str]:
    """Every accessory tried once all on its way is connected."""
    plan, tested = m.a.plan, []
    for load in plan.loads:
        mine = [plan.wire_by_id[k.element] for k in m.a.path(load.id).links if k.element in plan.wire_by_id]
        parts = {e.part for w in mine for e in (w.a, w.b)} | {load.id}
        if after := tuple(connected[p] for p in sorted(parts) if p in connected):
            words = f"Supply on: try {load.name}, measure it under Prove; supply off again" if supply_off else (
                f"Try {load.name}, measure it under Prove")
            tested.append(m.add("test", load.id, words, On(load.id, FIT, load.place), after))
    return [*tested, *_driven(m, connected)]


def _driven(m: Maker, connected: Mapping[str, str]) -> list[str]:
    """What carries the drive's current was opened or joined: tried with the wheel off the ground before it is closed
    up."""
    drive = m.a.plan.one(Drive)
    if drive is None:
        return []
    heavy = {p.id for p in m.a.plan.packs} | {drive.id}
    if m.a.plan.combiner is not None:
        heavy.add(m.a.plan.combiner.id)
    after = tuple(key for part, key in connected.items() if part in heavy)
    words = ("Wheel off the ground, clear of everything: supply on, drive gently, then at full power, each brake lever "
             "in turn; supply off again")
    return [m.add("test", drive.id, words, On(drive.id, FIT, drive.place), after)] if after else []
