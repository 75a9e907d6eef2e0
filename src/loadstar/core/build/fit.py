"""What is done on the machine: supply off, pictures and marks first; then laid in, connected, tried, tied down, covered
again, and the supply on last."""

from collections.abc import Mapping

from ..doc.wires import Wire
from .maker import How, Maker, On
from .operations import FIT, MACHINE


def prepare(m: Maker) -> str:
    """The supply off first; then pictures and maps of what is unplugged or cut."""
    plan = m.a.plan
    off = m.add("disconnect", "supply", m.a.source.handling.off, On("", where=MACHINE))
    last = off
    for plug in plan.plugs:
        pins = plan.pins(plug.id)
        if any(p.id in plan.wired or p.new_colour for p in pins):
            last = m.add("photograph", plug.id, f"Photograph {plug.name} and check its pin map before it is unplugged",
                         On(plug.id, where=plug.place), (off,))
    if last == off:
        return off
    return m.add("mark", "plugs", "Mark the wires of every plug that is to be opened", On("", where=MACHINE), (last,))


def fit(m: Maker, ready: str, closed: Mapping[str, list[str]], covered: Mapping[str, str]) -> None:
    """Laid in along the runs, connected, tried, then tied down, then the bodywork, the supply last."""
    plan = m.a.plan
    assert m.a.loom is not None
    laid: dict[str, str] = {}
    for b in m.a.loom.bundles:
        places = " to ".join(plan.place(p).name for p in (b.run.a, b.run.b))
        after = (covered[b.run.id],) if b.run.id in covered else tuple(k for w in b.wires for k in closed[w])
        laid[b.run.id] = m.add("lay in", b.run.id, f"Lay in {places}, tied loosely", On(b.run.id, FIT, b.run.a),
                               (*after, ready))
    connected = _connect(m, closed, laid)
    tested = _try(m, connected)
    ties = [m.add("tie", b.run.id, f"Tie down {plan.place(b.run.a).name} to {plan.place(b.run.b).name}",
                  On(b.run.id, FIT, b.run.a), (laid[b.run.id], *tested))
            for b in m.a.loom.bundles]
    done = [*ties, *tested, *connected.values()]
    for place in plan.places:
        if place.reach:
            done.append(m.add("bodywork", place.id, f"Refit at {place.name}: {place.reach}",
                              On(place.id, FIT, place.id), tuple(done)))
    m.add("battery", "supply", f"{m.a.source.handling.on}, now that everything is measured", On("", FIT, MACHINE),
          tuple(done))


def _connect(m: Maker, closed: Mapping[str, list[str]], laid: Mapping[str, str]) -> dict[str, str]:
    """Every part that wires end at connected, once they are laid in; the keys by part."""
    plan, connected = m.a.plan, {}
    on: dict[str, list[Wire]] = {}
    for wire in plan.wires:
        for end in dict.fromkeys((wire.a.part, wire.b.part)):
            on.setdefault(end, []).append(wire)
    for part in plan.parts:
        mine = on.get(part.id, [])
        if mine and not part.MATED:
            ways = {laid[s.run] for w in mine for s in m.a.topology.geometry[w.id].segments
                    if s.run is not None and s.run in laid}
            spec = " ".join(sorted(f"{w.id} {e.name}" for w in mine for e in (w.a, w.b) if e.part == part.id))
            connected[part.id] = m.add(
                "connect", part.id, f"Connect {part.name}: {', '.join(w.id for w in mine)}",
                On(part.id, FIT, part.place),
                (*ways, *(k for w in mine for k in closed[w.id])), How(spec))
    return connected


def _try(m: Maker, connected: Mapping[str, str]) -> list[str]:
    """Every accessory tried once all on its way is connected."""
    plan, tested = m.a.plan, []
    for load in plan.loads:
        mine = [plan.wire_by_id[k.element] for k in m.a.path(load.id).links if k.element in plan.wire_by_id]
        parts = {e.part for w in mine for e in (w.a, w.b)} | {load.id}
        if after := tuple(connected[p] for p in sorted(parts) if p in connected):
            words = f"Supply on: try {load.name}, measure it under Prove; supply off again"
            tested.append(m.add("test", load.id, words, On(load.id, FIT, load.place), after))
    return tested
