"""What is done on the machine: what hides it taken off, supply off, pictures and marks first; then laid in, connected,
the supply last, tried, tied down, and covered again."""

from collections.abc import Mapping, Sequence

from ..doc.places import Place
from ..doc.wires import Wire
from ..harness.loom import Bundle
from ..parts.base import Part
from ..parts.drive import Drive
from .maker import How, Maker, On
from .operations import FIT, MACHINE

HAND_MM = 80.0  # the narrowest hole that fingers reach a lead through


OFF = "disconnect/supply"


def prepare(m: Maker) -> str:
    """What hides the supply off, then the supply; then what hides the rest, and pictures and maps of what is unplugged
    or cut. Where nothing is opened or cut the supply stays on: what is only plugged in needs none of it. "" where there
    is nothing to do before."""
    plan = m.a.plan
    opened = [plug for plug in plan.plugs
              if any(p.new_colour or any(not e.kept for e in m.ends_at(p.id)) for p in plan.pins(plug.id))]
    cut_in = bool(opened) or not all(map(m.a.topology.untouched, plan.wires))
    supply_at = {plan.supply.place} if cut_in and plan.supply is not None else set()
    hidden = _hidden(m, supply_at)
    before = [_taken_off(m, reach, off, ()) for reach, off in hidden.items() if supply_at & {p.id for p in off}]
    last = before[-1] if before else ""
    if cut_in:
        last = m.add("disconnect", "supply", m.a.source.handling.off, On("", where=MACHINE), tuple(before))
    for reach, off in hidden.items():
        if not supply_at & {p.id for p in off}:
            last = _taken_off(m, reach, off, (last,) if last else ())
    for plug in opened:
        last = m.add("photograph", plug.id, f"Photograph {plug.name} and check its pin map before it is unplugged",
                     On(plug.id, where=plug.place), (OFF, last))
    if not opened:
        return last
    return m.add("mark", "plugs", "Mark the wires of every plug that is to be opened", On("", where=MACHINE), (last,),
                 How(sitting="photograph"))


def _taken_off(m: Maker, reach: str, places: Sequence[Place], after: tuple[str, ...]) -> str:
    words = f"Remove, for {', '.join(p.name for p in places)}: {reach}"
    return m.add("bodywork", f"off.{places[0].id}", words, On(places[0].id, where=places[0].id), after,
                 How(sitting="take off"))


def fit(m: Maker, ready: str, closed: Mapping[str, list[str]], covered: Mapping[str, str]) -> None:
    """Laid in along the runs, connected, the supply last; tried, then tied down, and the bodywork last of all."""
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
    live = (_supply_on(m, connected, tuple(laid.values())),) if OFF in m.made else ()
    tested = _try(m, connected, live)
    where = {b.run.id: b.run.a for b in bundles}
    ties = [m.add("tie", about, words, On(about, FIT, where.get(about, MACHINE)), (*after, *tested, *live))
            for words, after, about in held]
    done = (*ties, *tested, *live, *connected.values())
    for off in [o for o in m.made.values() if o.sitting == "take off"]:
        words = off.words.replace("Remove, for", "Refit, at", 1)
        m.add("bodywork", off.element, words, On(off.element, FIT, off.where), done)


def _supply_on(m: Maker, connected: Mapping[str, str], laid: tuple[str, ...]) -> str:
    """On last, with every fuse out: what is wrong then shows at the first fuse that is put in. A battery whose posts
    new leads go to is on with these."""
    own = connected.get(m.a.plan.supply.id) if m.a.plan.supply is not None else None
    if own is not None and m.a.source.key == "battery":
        return own
    words = f"{'' if own else _fuses_out(m)}{m.a.source.handling.on}"
    return m.add("battery", "supply", words, On("", FIT, MACHINE), (*connected.values(), *laid))


def _fuses_out(m: Maker) -> str:
    return "Every fuse out. " if any(p.protection and p.protection.kind == "fuse" for p in m.a.plan.parts) else ""


def _by_rod(runs: Sequence[Bundle]) -> str:
    """How a lead gets through a hole or tube that no hand reaches through."""
    narrow = any(b.run.bore_mm is not None and b.run.bore_mm < HAND_MM for b in runs)
    return ": tape its end to a thin rod and push that through first" if narrow else ""


def _hidden(m: Maker, besides: set[str]) -> dict[str, list[Place]]:
    """By what has to be off to reach them, the places where something is connected or laid in, and some besides."""
    assert m.a.loom is not None
    here = {m.a.plan.part(p).place for p in _touched(m)} | besides
    here |= {place for b in m.a.loom.bundles if b.laid for place in (b.run.a, b.run.b)}
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
    return {joining.id: m.add("test", f"gate/{joining.id}", words, On(joining.id, FIT, joining.place), begun,
                              How(sitting="gate"))}


def _touched(m: Maker) -> dict[str, tuple[dict[str, Wire], dict[str, Wire]]]:
    """Every part at which wires are connected: those that are made, and those that came with something, as it is. What
    is plugged together, or made as one at the bench, is none of them."""
    plan, found = m.a.plan, {}
    for part in plan.parts:
        every = m.ends_at(part.id)
        made = {e.wire: plan.wire(e.wire) for e in every if not e.kept}
        came = {e.wire: w for e in every if e.kept and (w := plan.wire(e.wire)).origin == "supplied"
                and part.id not in (w.made_for, None) and part.made_for != w.made_for}
        if (made or came) and not part.MATED and not part.one_barrel:
            found[part.id] = made, came
    return found


def _connect(m: Maker, closed: Mapping[str, list[str]], laid: Mapping[str, str],
             first: Mapping[str, str]) -> dict[str, str]:
    """Every part that wires end at connected, once they are laid in; the keys by part, the supply's last. What came as
    it is is plugged in, and what is there already stays."""
    plan, connected, supply = m.a.plan, dict[str, str](), m.a.plan.supply
    touched = _touched(m)
    for part in sorted(map(plan.part, touched), key=lambda p: p is supply):
        made, came = touched[part.id]
        mine = {**made, **came}
        ways = {laid[s.run] for w in mine for s in m.a.topology.geometry[w].segments
                if s.run is not None and s.run in laid}
        spec = " ".join(sorted(f"{w.id} {e.name}" for w in mine.values() for e in (w.a, w.b) if e.part == part.id))
        clean = "clean its contacts, a little grease on them, " if part.AS_FOUND else ""
        plugged = [f"{clean}plug the lead of {plan.part(owner).name} into {part.name}"
                   for owner in dict.fromkeys(w.made_for for w in came.values()) if owner]
        words = "; ".join([*([_joined(m, part, made)] if made else []), *plugged])
        before = (*connected.values(), *laid.values()) if part is supply else ()
        at = plan.place(part.place).name
        connected[part.id] = m.add(
            "connect", part.id, f"{words[:1].upper()}{words[1:]}", On(part.id, FIT, part.place),
            (*ways, *(k for w in mine for k in closed[w]), *([first[part.id]] if part.id in first else ()), *before),
            How(spec, "" if made else "hand", sitting="supply on" if part is supply else f"connect {at}"))
    return connected


def _joined(m: Maker, part: Part, made: Mapping[str, Wire]) -> str:
    """What is connected to a part, in words; at a supply that has one, the negative after the rest."""
    if part is m.a.plan.supply:
        last = {w.id for w in made.values() if part.at("neg") in (w.a, w.b)}
        wires = ", ".join(sorted(made, key=lambda wire: (wire in last, list(made).index(wire))))
        own = " with its own leads" if m.a.source.key == "battery" else ""
        out = _fuses_out(m)
        return f"{out}{'C' if out else 'c'}onnect {part.name}: {wires}{own}, the negative last"
    to = [f"{wire} to {own}" if (own := m.polarity(made[wire])) and part.CONSUMES else wire for wire in made]
    return f"connect {part.name}: {', '.join(to)}"


def _try(m: Maker, connected: Mapping[str, str], live: tuple[str, ...]) -> list[str]:
    """Every accessory tried by itself once the supply is on: its fuse put in, and measured."""
    plan, tested = m.a.plan, []
    for load in plan.loads:
        mine = [plan.wire_by_id[k.element] for k in m.a.path(load.id).links if k.element in plan.wire_by_id]
        parts = {e.part for w in mine for e in (w.a, w.b)} | {load.id}
        if after := tuple(connected[p] for p in sorted(parts) if p in connected):
            fuses = " and ".join(_fuses_of(m, load.id)) if live else ""
            words = f"{fuses}{' in: ' if fuses else ''}try {load.name}, measure it under Prove"
            tested.append(m.add("test", load.id, f"{words[:1].upper()}{words[1:]}", On(load.id, FIT, load.place),
                                (*after, *live)))
    return [*tested, *_driven(m, connected, live)]


def _fuses_of(m: Maker, load: str) -> list[str]:
    """The fuses on the way to an accessory, from the supply on: all of them are out before it is tried."""
    on_way = (m.a.topology.parts.get(k.element) for k in m.a.path(load).feed)
    return [p.name for p in on_way if p is not None and p.protection and p.protection.kind == "fuse"]


def _driven(m: Maker, connected: Mapping[str, str], live: tuple[str, ...]) -> list[str]:
    """What carries the drive's current was opened or joined: tried with the wheel off the ground before it is closed
    up."""
    drive = m.a.plan.one(Drive)
    if drive is None:
        return []
    heavy = {p.id for p in m.a.plan.packs} | {drive.id}
    if m.a.plan.combiner is not None:
        heavy.add(m.a.plan.combiner.id)
    after = tuple(key for part, key in connected.items() if part in heavy)
    words = "Wheel off the ground, clear of everything: drive gently, then at full power, each brake lever in turn"
    return [m.add("test", drive.id, words, On(drive.id, FIT, drive.place), (*after, *live))] if after else []
