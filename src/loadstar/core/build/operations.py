"""What has to be done to make and fit a plan's harness, and what must come before what.

Each operation is known by a key that stays while the plan changes elsewhere, so that what has been done stays done;
`spec` says what it was done to, so that a plan that changed afterwards shows it.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from ..analysis import Analysis
from ..doc.wires import Wire
from ..ends.choose import End
from ..parts.coupling import Coupling
from ..parts.load import LoadPart
from ..parts.tap import Tap
from ..refs import TerminalRef
from ..wiring.classes import of_600_v

Kind = Literal["disconnect", "photograph", "mark", "cut", "thread", "strip", "crimp core", "crimp insulation", "pull",
               "insert", "lock", "seal home", "splice", "solder", "heat", "beep", "cover", "lay in", "connect", "test",
               "tie", "bodywork", "battery"]
BENCH, MACHINE = "bench", "machine"
# Minutes that one usually takes a practised hand; overridden by what the workshop's own log shows.
MINUTES: dict[Kind, float] = {
    "disconnect": 3, "photograph": 2, "mark": 0.5, "cut": 1, "thread": 0.5, "strip": 0.5, "crimp core": 1,
    "crimp insulation": 0.5, "pull": 0.5, "insert": 0.5, "lock": 0.5, "seal home": 0.3, "splice": 2, "solder": 3,
    "heat": 1, "beep": 1, "cover": 6, "lay in": 5, "connect": 2, "test": 4, "tie": 4, "bodywork": 8, "battery": 3}
TOOLS: dict[Kind, str] = {
    "disconnect": "spanner", "photograph": "camera", "mark": "label", "cut": "side cutter", "thread": "hand",
    "strip": "stripper", "pull": "pull gauge", "insert": "hand", "lock": "hand", "seal home": "hand",
    "solder": "soldering iron", "heat": "hot air", "beep": "meter", "cover": "hand", "lay in": "hand",
    "connect": "spanner", "test": "meter", "tie": "tie cutter", "bodywork": "screwdriver", "battery": "spanner"}
MOST_KEY = 80


@dataclass(frozen=True)
class Operation:
    """One thing to do: its key, kind, the element it is done to, in words, where (the bench, or a place), with which
    tool and die, minutes, what it is done to exactly, N to pull with, and what has to be there (stock by its name)."""

    key: str
    kind: Kind
    element: str
    words: str
    where: str
    tool: str
    minutes: float
    spec: str
    group: str
    pull_n: int | None = None
    uses: tuple[str, ...] = ()


@dataclass(frozen=True)
class Work:
    """All operations by key, and for each what must be done before it."""

    operations: dict[str, Operation]
    before: dict[str, frozenset[str]]
    groups: tuple[str, ...]  # in the order they are made: preparation, sub-harnesses, the machine

    def of(self, group: str) -> list[Operation]:
        """The operations of a group, by key."""
        return [o for o in self.operations.values() if o.group == group]


PREPARE, FIT = "before anything", "on the machine"


@dataclass
class _Maker:
    """What is put together: operations and edges."""

    a: Analysis
    made: dict[str, Operation] = field(default_factory=dict)
    edges: dict[str, set[str]] = field(default_factory=dict)

    def add(self, kind: Kind, about: str, words: str, *, element: str, after: tuple[str, ...] = (), where: str = BENCH,
            tool: str = "", spec: str = "", group: str = PREPARE, pull_n: int | None = None,
            uses: tuple[str, ...] = ()) -> str:
        """Put one in; its key."""
        key = f"{kind}/{about}"[:MOST_KEY]
        minutes = self.a.plan.rules.work_pace_frac * MINUTES[kind]
        self.made[key] = Operation(key, kind, element, words, where, tool or TOOLS[kind], minutes, spec, group, pull_n,
                                   uses)
        self.edges.setdefault(key, set()).update(after)
        return key


def work(a: Analysis) -> Work:
    """Every operation of a plan; none before it has been sized."""
    if a.ends is None or a.loom is None or not a.plan.wires:
        return Work({}, {}, ())
    m = _Maker(a)
    ready = _prepare(m)
    closed = _wires(m, ready)
    covered = _covers(m, closed)
    _fit(m, ready, closed, covered)
    return _grouped(m)


def _prepare(m: _Maker) -> str:
    """The supply off first; then pictures and maps of what is unplugged or cut."""
    plan = m.a.plan
    off = m.add("disconnect", "supply", m.a.source.handling.off, element="", where=MACHINE)
    last = off
    for plug in plan.plugs:
        pins = plan.pins(plug.id)
        if any(p.id in plan.wired or p.new_colour for p in pins):
            last = m.add("photograph", plug.id, f"Photograph {plug.name} and check its pin map before it is unplugged",
                         element=plug.id, after=(off,), where=plug.place)
    if last == off:
        return off
    return m.add("mark", "plugs", "Mark the wires of every plug that is to be opened", element="", after=(last,),
                 where=MACHINE)


def _striped(wire: Wire) -> str:
    return f"{wire.colour}/{wire.stripe}" if wire.stripe else wire.colour


def _group_of(m: _Maker, wire: Wire) -> str:
    """The sub-harness a wire belongs to: that of the accessory it was made for, or of what feeds them all."""
    made_for = wire.made_for or ""
    part = m.a.plan.part_by_id.get(made_for)
    return part.name if part is not None else "feeds and returns"


def _wires(m: _Maker, ready: str) -> dict[str, list[str]]:
    """Every wire cut, its ends made; by wire the keys that its two ends are finished with."""
    plan, ends, loom = m.a.plan, m.a.ends, m.a.loom
    assert ends is not None and loom is not None
    finished: dict[str, list[str]] = {}
    high = of_600_v(m.a.topology)
    sleeved = _sleeves(m, ready)
    crimped: dict[TerminalRef, list[tuple[End, str, str]]] = {}  # of ends that share a barrel, by where
    inserted: dict[str, list[str]] = {}  # by half of a connector
    for wire in plan.wires:
        group, area = _group_of(m, wire), m.a.wires[wire.id].area_mm2
        if m.a.wires[wire.id].supplied:
            cut = m.add("mark", wire.id, f"Mark {wire.id}, as the accessory's maker supplies it", element=wire.id,
                        after=(ready,), group=group, spec=f"{area:g} mm²")
        else:
            length_m = loom.cut_m[wire.id]
            mark = m.add("mark", wire.id, f"Label {wire.id} twice", element=wire.id, after=(ready,), group=group)
            kind = f"{area:g} mm² {_striped(wire)}{', 600 V class' if wire.id in high else ''}"
            cut = m.add("cut", wire.id, f"Cut {wire.id}: {kind}, {length_m:.2f} m", element=wire.id, after=(mark,),
                        group=group, spec=f"{kind} {length_m:.2f} m", uses=(kind,))
        for side in ("a", "b"):
            end = ends.by_key[f"{wire.id}.{side}"]
            key = _end(m, wire, end, (cut, *sleeved.get(end.key, ())), group)
            if end.beside:
                crimped.setdefault(end.at, []).append((end, key, group))
                continue
            finished.setdefault(wire.id, []).append(_inserted(m, end, key, group, inserted))
        for run in m.a.topology.geometry[wire.id].runs:
            if (sleeve := f"thread/{run}") in m.made:
                m.edges[sleeve].add(cut)
    for at, several in crimped.items():
        done = _inserted(m, several[0][0], _splice(m, at, several), several[-1][2], inserted)
        for end, _, _ in several:
            finished.setdefault(end.wire, []).append(done)
    for half, keys in inserted.items():
        part = half.partition("/")[0]
        lock = m.add("lock", half, f"Close the lock of {plan.part(part).name}, side {half.partition('/')[2]}",
                     element=part, after=tuple(keys), group=m.made[keys[-1]].group)
        for wire_id, last in finished.items():
            finished[wire_id] = [lock if one in keys else one for one in last]
    for wire in plan.wires:
        done = m.add("beep", wire.id, f"Beep {wire.id} end to end, and against its neighbours", element=wire.id,
                     after=tuple(finished[wire.id]), group=_group_of(m, wire))
        heats = [h for side in ("a", "b") if (h := f"heat/{wire.id}.{side}") in m.made]
        for heat in heats:  # what is shrunk over an end is shrunk once it is known to be right
            m.edges[heat].add(done)
        finished[wire.id] = [done, *heats]
    return finished


def _sleeves(m: _Maker, ready: str) -> dict[str, tuple[str, ...]]:
    """Every braided sleeve slid over all its wires together, from their far ends, which are still open then: what the
    ends wait for, by end."""
    assert m.a.loom is not None
    found: dict[str, tuple[str, ...]] = {}
    for b in m.a.loom.bundles:
        if b.covering != "braided sleeve" or len(b.wires) < 2:
            continue
        size = f"braided sleeve {b.sleeve.nominal_mm}" if b.sleeve else "braided sleeve"
        places = " to ".join(m.a.plan.place(p).name for p in (b.run.a, b.run.b))
        key = m.add("thread", b.run.id, f"Slide the {size} for {places} over {', '.join(b.wires)}", element=b.run.id,
                    after=(ready,), group=_group_of(m, m.a.plan.wire(b.wires[-1])), spec=size, uses=(size,))
        for wire in map(m.a.plan.wire, b.wires):
            far = "a" if isinstance(m.a.plan.part(wire.a.part), LoadPart) else "b"
            found[f"{wire.id}.{far}"] = (*found.get(f"{wire.id}.{far}", ()), key)
    return found


def _end(m: _Maker, wire: Wire, end: End, ready: tuple[str, ...], group: str) -> str:
    """One end up to its crimp: what has to be on the wire, strip, both crimps, the pull; the key it ends with."""
    plan, about = m.a.plan, end.key
    at = f"{wire.id} at {plan.part(end.at.part).name}"
    before = ready
    one_tube = end.beside and wire.id > min(end.beside)  # a splice has one tube over it, on its first wire
    own = [i for i in end.on_first if not i.startswith("sleeve") and not (one_tube and "shrink" in i)]
    for n, item in enumerate(own):
        before = (m.add("thread", f"{about}/{n}", f"Slide on: {item} ({at})", element=wire.id, after=before,
                        group=group, spec=item, uses=(item,)),)
    if end.chosen is None:
        return before[0]
    strip = m.add("strip", about, f"Strip {at}: {end.chosen.strip_mm:g} mm, {end.chosen.strip_off_mm:g} more or less",
                  element=wire.id, after=before, group=group, spec=f"{end.chosen.strip_mm:g} mm")
    if end.beside:
        return strip
    spec = f"{end.name}, {end.area_mm2:g} mm²"
    if end.how.startswith("solder"):
        done = m.add("solder", about, f"Solder {end.name} ({at})", element=wire.id, after=(strip,), group=group,
                     spec=spec, uses=(end.chosen.name,))
    else:
        nest = f"crimp tool, {end.dies.core_mm:g} mm" if end.dies else f"crimp tool for {end.chosen.name.split(',')[0]}"
        done = m.add("crimp core", about, f"Crimp the core: {end.name} ({at})", element=wire.id, after=(strip,),
                     group=group, tool=nest, spec=spec, uses=(end.chosen.name,))
        if end.chosen.stages == 2:
            wings = f"crimp tool, {end.dies.wings_mm:g} mm" if end.dies else nest
            over = "the seal" if end.chosen.sealed else "the insulation, lightly"
            done = m.add("crimp insulation", about, f"Crimp over {over} ({at})", element=wire.id, after=(done,),
                         group=group, tool=wings, spec=spec)
        if end.pull_n:
            done = m.add("pull", about, f"Pull {at} with {end.pull_n} N", element=wire.id, after=(done,), group=group,
                         spec=spec, pull_n=end.pull_n)
        if "solder" in end.how:
            done = m.add("solder", about, f"Let solder into the crimp ({at})", element=wire.id, after=(done,),
                         group=group, spec=spec)
    if end.shrink is not None:
        m.add("heat", about, f"Shrink the tube over {at}", element=wire.id, after=(done,), group=group)
    return done


def _inserted(m: _Maker, end: End, key: str, group: str, halves: dict[str, list[str]]) -> str:
    """An end that goes into a connector: pushed in until it clicks, its seal pushed home."""
    part = m.a.plan.part(end.at.part)
    if end.chosen is None or not (isinstance(part, Coupling) or (isinstance(part, Tap) and part.plug)):
        return key
    side = end.at.name[0] if isinstance(part, Coupling) else "machine"
    way = end.at.name[1:] if isinstance(part, Coupling) else str(part.way or "")
    done = m.add("insert", end.key, f"Push {end.wire} into way {way} of {part.name} until it clicks; pull back on it",
                 element=end.wire, after=(key,), group=group, spec=f"way {way}")
    if end.chosen.sealed:
        done = m.add("seal home", end.key, f"Push the seal of {end.wire} home", element=end.wire, after=(done,),
                     group=group)
    halves.setdefault(f"{part.id}/{side}", []).append(done)
    return done


def _splice(m: _Maker, at: TerminalRef, several: list[tuple[End, str, str]]) -> str:
    """All wires of a barrel together: crimped, then soldered if the house does, then shrunk."""
    first, part, name = several[0][0], at.part, m.a.plan.part(at.part).name
    about = part if at.name == "t" else str(at)
    wires = sorted({e.wire for e, _, _ in several})
    spec = f"{first.name}, {first.area_mm2:g} mm² together"
    group = several[-1][2]
    after = tuple(key for _, key, _ in several)
    if first.soldered:
        done = m.add("solder", about, f"Solder {', '.join(wires)} together at {name}", element=part, after=after,
                     group=group, spec=spec)
    else:
        done = m.add("splice", about, f"Crimp {', '.join(wires)} into one barrel at {name}", element=part, after=after,
                     group=group, spec=spec, tool=f"crimp tool for {first.name.split(',')[0]}",
                     uses=(first.chosen.name,) if first.chosen else ())
        if "solder" in first.how:
            done = m.add("solder", about, f"Let solder into the splice at {name}", element=part, after=(done,),
                         group=group, spec=spec)
    if first.shrink is not None:
        done = m.add("heat", about, f"Shrink the tube over the splice at {name}", element=part, after=(done,),
                     group=group)
    return done


def _covers(m: _Maker, closed: Mapping[str, list[str]]) -> dict[str, str]:
    """Each run taped once its wires are made, or its sleeve drawn into place and its cut ends shrunk."""
    assert m.a.loom is not None
    found = {}
    for b in m.a.loom.bundles:
        if b.covering and b.wires:
            group = max((_group_of(m, m.a.plan.wire(w)) for w in b.wires), default=PREPARE)
            words = "Draw the sleeve into place and shrink its cut ends" if b.covering == "braided sleeve" else (
                f"Wind {b.covering} at half overlap")
            places = " to ".join(m.a.plan.place(p).name for p in (b.run.a, b.run.b))
            found[b.run.id] = m.add("cover", b.run.id, f"{words}: {places}", element=b.run.id,
                                    after=tuple(k for w in b.wires for k in closed[w]), group=group,
                                    spec=f"{b.covering}, {len(b.wires)} wires", tool="hot air" if b.covering ==
                                    "braided sleeve" else "")
    return found


def _fit(m: _Maker, ready: str, closed: Mapping[str, list[str]], covered: Mapping[str, str]) -> None:
    """Laid in along the runs, connected, tried, then tied down, then the bodywork, the supply last."""
    plan, topology = m.a.plan, m.a.topology
    laid: dict[str, str] = {}
    assert m.a.loom is not None
    for b in m.a.loom.bundles:
        places = " to ".join(plan.place(p).name for p in (b.run.a, b.run.b))
        after = (covered[b.run.id],) if b.run.id in covered else tuple(k for w in b.wires for k in closed[w])
        laid[b.run.id] = m.add("lay in", b.run.id, f"Lay in {places}, tied loosely", element=b.run.id,
                               after=(*after, ready), where=b.run.a, group=FIT)
    connected: dict[str, str] = {}
    on: dict[str, list[Wire]] = {}
    for wire in plan.wires:
        for end in dict.fromkeys((wire.a.part, wire.b.part)):
            on.setdefault(end, []).append(wire)
    for part in plan.parts:
        mine = on.get(part.id, [])
        if mine and not isinstance(part, Coupling):
            runs = {s.run for w in mine for s in topology.geometry[w.id].segments if s.run in laid}
            connected[part.id] = m.add(
                "connect", part.id, f"Connect {part.name}: {', '.join(w.id for w in mine)}", element=part.id,
                after=(*(laid[r] for r in runs), *(k for w in mine for k in closed[w.id])), where=part.place, group=FIT,
                spec=" ".join(sorted(f"{w.id} {e.name}" for w in mine for e in (w.a, w.b) if e.part == part.id)))
    tested = []
    for load in plan.loads:
        mine = [plan.wire_by_id[k.element] for k in m.a.path(load.id).links if k.element in plan.wire_by_id]
        parts = {e.part for w in mine for e in (w.a, w.b)} | {load.id}
        after = tuple(connected[p] for p in sorted(parts) if p in connected)
        if after:
            words = f"Supply on: try {load.name}, measure it under Prove; supply off again"
            tested.append(m.add("test", load.id, words, element=load.id, after=after, where=load.place, group=FIT))
    ties = [m.add("tie", b.run.id, f"Tie down {plan.place(b.run.a).name} to {plan.place(b.run.b).name}",
                  element=b.run.id, after=(laid[b.run.id], *tested), where=b.run.a, group=FIT)
            for b in m.a.loom.bundles]
    done = [*ties, *tested, *connected.values()]
    for place in plan.places:
        if place.reach:
            done.append(m.add("bodywork", place.id, f"Refit at {place.name}: {place.reach}", element=place.id,
                              after=tuple(done), where=place.id, group=FIT))
    m.add("battery", "supply", f"{m.a.source.handling.on}, now that everything is measured", element="",
          after=tuple(done), where=MACHINE, group=FIT)


def _grouped(m: _Maker) -> Work:
    """Sub-harnesses by stage, then in the order of the plan; an operation that waits for another's goes into the later
    one."""
    first: dict[str, str] = {}
    for wire in m.a.plan.wires:
        part = m.a.plan.part_by_id.get(wire.made_for or "")
        stage = part.stage if part is not None else ""
        name = _group_of(m, wire)
        first[name] = min(first.get(name, stage), stage)
    names = [PREPARE, *sorted(first, key=lambda name: first[name]), FIT]
    rank = {name: n for n, name in enumerate(names)}
    level: dict[str, int] = {}

    def of(key: str) -> int:
        if key not in level:
            level[key] = rank[m.made[key].group]  # so that a circle ends
            level[key] = max(level[key], *(of(k) for k in m.edges[key]), 0)
        return level[key]

    made = {key: replace(o, group=names[of(key)]) for key, o in m.made.items()}
    return Work(made, {k: frozenset(v) for k, v in m.edges.items()}, tuple(n for n in names if any(
        o.group == n for o in made.values())))


def circle(before: Mapping[str, frozenset[str]]) -> tuple[str, ...]:
    """Operations that wait for one another in a circle; none where there is an order."""
    left = dict(before)
    while left:
        free = [k for k, waits in left.items() if not waits & left.keys()]
        if not free:
            return tuple(sorted(left))
        for key in free:
            del left[key]
    return ()
