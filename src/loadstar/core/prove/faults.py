"""What may be wrong with a circuit that has just been built: every single fault as a change of the network.

How likely each is comes from one table: a joint of the day's work is likelier than a wire that breaks inside its
insulation. Faults that differ by their amount only are of one class, which is what is named.
"""

from collections.abc import Iterator, Mapping

from ..figures.figures import Figures
from ..parts.coupling import Coupling
from ..parts.tap import Tap
from ..physics.elements import FILAMENT
from ..refs import ElementRef
from ..wiring.circuit import STRAP
from .between import bridged, crossed, wire_ohm
from .fault import (
    ADDED_OHM,
    DRAWS_TIMES,
    HELD_HIGH,
    HELD_LOW,
    LEAK_OHM,
    NONE,
    PRIORS,
    SHORT_OHM,
    TRIGGER_OHM,
    WEAK_TIMES,
    WEAK_V,
    Fault,
    Ghost,
)

# What of a part the trouble is in, by how the part is drawn.
HOLDS = {"fuse": "the holder of ", "contact": "the contact of ", "plug": "the plug or wiring of "}


def scope(figures: Figures, load: str) -> frozenset[str]:
    """What a circuit hangs on: its way and back, through converters to the battery, and what pulls its relays in."""
    topology = figures.topology
    found: set[str] = {load}
    pulled: set[str] = set()
    ways = [topology.paths[load]]
    while ways:
        way = ways.pop()
        for link in way.links:
            if link.element in found:
                continue
            found.add(link.element)
            branch = topology.branches.get(link.element)
            if branch is not None and branch.follows in topology.actuators and branch.follows not in pulled:
                coil = topology.actuators[branch.follows]
                pulled.add(branch.follows)
                found.update((branch.follows, f"{branch.follows}.coil"))
                ways.append(topology.way_to(branch.follows, coil.plus, coil.minus))
        root = way.root.part
        if root in topology.inside and topology.inside[root].input and root not in found:
            found.add(root)
            ways.append(topology.converter_path(root))
    return frozenset(found)


def ghosts(figures: Figures, within: frozenset[str]) -> tuple[Ghost, ...]:
    """What faults of a circuit might join."""
    made = (_shorts(figures, within), _turned(figures, within), _swaps(figures, within), crossed(figures, within),
            bridged(figures, within))
    return tuple(ghost for found in made for _, some in found for ghost in some)


def candidates(figures: Figures, within: frozenset[str], weights: Mapping[str, float] | None = None,
               ) -> tuple[Fault, ...]:
    """Every single fault in some elements, and none. `weights`: how much likelier than usual something is, by element,
    as the log of the work says."""
    more = weights or {}
    found = [NONE, *_joints(figures, within), *_fuses(figures, within), *_relays(figures, within),
             *_loads(figures, within), *(fault for fault, _ in _turned(figures, within)),
             *(fault for fault, _ in _swaps(figures, within)), *_pins(figures, within), *_sources(figures, within),
             *(fault for fault, _ in crossed(figures, within)), *(fault for fault, _ in bridged(figures, within)),
             *_charging(figures)]
    return tuple(_weighted(f, max((more.get(t, 1.0) for t in f.touches), default=1.0)) for f in found)


def _weighted(fault: Fault, times: float) -> Fault:
    if times == 1.0:
        return fault
    return Fault(**{**vars(fault), "prior": fault.prior * times})


def _named(figures: Figures, element: str) -> str:
    """An element in words: where a hand would look."""
    ref = ElementRef(element)
    if element in figures.wires:
        wire = figures.plan.wire(element)
        ends = [figures.plan.part(end.part).name for end in (wire.a, wire.b)]
        return f"{element} or a crimp of it ({ends[0]} to {ends[1]})"
    if element == STRAP:
        return "the strap from battery negative to the frame"
    part = figures.plan.part(ref.part)
    if part.MATED:
        return f"way {ref.role[1:]} of {part.name}"
    return f"{HOLDS.get(part.SYMBOL, '')}{part.name}"


def _joints(figures: Figures, within: frozenset[str]) -> Iterator[Fault]:
    """Too much resistance in a wire, joint or contact, and one that is open."""
    topology = figures.topology
    for element in (e for e in figures.wires if e in within):
        yield from _weak(figures, element, PRIORS["wire"])
        yield Fault(f"open {element}", f"open {element}", f"open: {_named(figures, element)}", PRIORS["wire open"],
                    (element,), opens=frozenset((element,)))
    for element, branch in topology.branches.items():
        if element not in within or branch.control:
            continue
        part = topology.parts.get(branch.ref.part)
        held_by = part.HELD_BY if part is not None else "contact"
        if held_by == "contact" and branch.joint:
            held_by = "frame joint"
        prior = PRIORS["fuse contact" if branch.ohm is None else held_by]
        yield from _weak(figures, element, prior)
        if branch.ohm is not None:  # a fuse that is open has blown
            yield Fault(f"open {element}", f"open {element}", f"open: {_named(figures, element)}",
                        PRIORS["contact open"], (element, branch.ref.part), opens=frozenset((element,)))


def _weak(figures: Figures, element: str, prior: float) -> Iterator[Fault]:
    words = f"too much resistance: {_named(figures, element)}"
    for ohm in ADDED_OHM:
        yield Fault(f"{element} +{ohm:g}", f"high {element}", words, prior / len(ADDED_OHM),
                    (element, ElementRef(element).part), adds={element: ohm}, amount=ohm)


def _shorts(figures: Figures, within: frozenset[str]) -> list[tuple[str, tuple[Ghost, ...]]]:
    """Behind each fuse, a touch to the return."""
    topology = figures.topology
    return [(e, (Ghost(f"short.{e}", topology.node(b.b), topology.negative),))
            for e, b in topology.branches.items() if e in within and b.ohm is None]


def _fuses(figures: Figures, within: frozenset[str]) -> Iterator[Fault]:
    """Blown, with what blew it gone or still there."""
    for element, (ghost,) in _shorts(figures, within):
        name = figures.plan.part(ElementRef(element).part).name
        yield Fault(f"blown {element}", f"blown {element}", f"{name} has blown", PRIORS["fuse blown"], (element,),
                    opens=frozenset((element,)))
        yield Fault(f"short {element}", f"short {element}", f"{name} has blown, and what is behind it still touches "
                    "the return", PRIORS["fuse blown, short"], (element,), opens=frozenset((element,)),
                    joins={ghost.name: SHORT_OHM})
        for ohm in LEAK_OHM:
            yield Fault(f"leak {element} {ohm:g}", f"leak {element}", f"something behind {name} leaks to the return",
                        PRIORS["leak"] / len(LEAK_OHM), (element,), joins={ghost.name: ohm}, amount=ohm)


def _relays(figures: Figures, within: frozenset[str]) -> Iterator[Fault]:
    for part in figures.topology.actuators:
        if part not in within:
            continue
        name, coil = figures.plan.part(part).name, f"{part}.coil"
        yield Fault(f"out {part}", f"out {part}", f"{name} does not pull in", PRIORS["stays out"], (part,),
                    stuck={part: False})
        yield Fault(f"in {part}", f"in {part}", f"{name} stays in", PRIORS["stays in"], (part,), stuck={part: True})
        ends = figures.topology.actuators[part]
        way = figures.topology.way_to(part, ends.plus, ends.minus)
        switched_by = next((k.element for k in reversed(way.feed) if k.element not in figures.wires), "")
        for ohm in TRIGGER_OHM if switched_by else ():  # what is nearest to the coil: not what feeds other circuits too
            yield Fault(f"trigger {part} {ohm:g}", f"trigger {part}", f"what switches {name} is too weak for its coil",
                        PRIORS["trigger"] / len(TRIGGER_OHM), (part, switched_by), adds={switched_by: ohm}, amount=ohm)
        if coil in figures.topology.branches:
            yield Fault(f"coil {part}", f"coil {part}", f"the coil of {name} is open", PRIORS["coil open"], (part,),
                        opens=frozenset((coil,)), stuck={part: False})


def _loads(figures: Figures, within: frozenset[str]) -> Iterator[Fault]:
    for load in figures.plan.loads:
        if load.id in within:
            lamp = load.behaviour == FILAMENT or load.category == "lamp"
            yield Fault(f"dead {load.id}", f"dead {load.id}", f"{load.name}: open circuit inside",
                        PRIORS["lamp" if lamp else "load"], (load.id,), dead=frozenset((load.id,)))
            words = f"{load.name} draws far more than planned"
            for times in DRAWS_TIMES:
                yield Fault(f"draws {load.id} {times:g}", f"draws {load.id}", words,
                            PRIORS["draws"] / len(DRAWS_TIMES), (load.id,), draws={load.id: times},
                            amount=times)
    for element in figures.topology.elements.converters:
        if element.name in within:
            name = figures.plan.part(element.name).name
            yield Fault(f"off {element.name}", f"off {element.name}", f"{name} gives nothing", PRIORS["converter"],
                        (element.name,), off=frozenset((element.name,)))


def _turned(figures: Figures, within: frozenset[str]) -> list[tuple[Fault, tuple[Ghost, ...]]]:
    """Loads with their two wires the other way round."""
    topology, plan = figures.topology, figures.plan
    found: list[tuple[Fault, tuple[Ghost, ...]]] = []
    for load in plan.loads:
        at = {end: [w for w in plan.wires if load.at(end) in (w.a, w.b)] for end in ("pos", "neg")}
        if load.id not in within or any(len(wires) != 1 for wires in at.values()):
            continue
        feed, back = at["pos"][0], at["neg"][0]
        far = {w.id: topology.node(w.a if w.b.part == load.id else w.b) for w in (feed, back)}
        pair = (Ghost(f"turned.{load.id}.pos", far[feed.id], topology.node(load.at("neg"))),
                Ghost(f"turned.{load.id}.neg", far[back.id], topology.node(load.at("pos"))))
        ohm = {g.name: wire_ohm(figures, w.id) for g, w in zip(pair, (feed, back), strict=True)}
        found.append((Fault(f"turned {load.id}", f"turned {load.id}", f"the two wires at {load.name} are swapped",
                            PRIORS["polarity"], (load.id, feed.id, back.id),
                            opens=frozenset((feed.id, back.id)), joins=ohm), pair))
    return found


def _swaps(figures: Figures, within: frozenset[str]) -> list[tuple[Fault, tuple[Ghost, ...]]]:
    """Connectors with two of their wires in one another's cavity."""
    topology, plan = figures.topology, figures.plan
    found: list[tuple[Fault, tuple[Ghost, ...]]] = []
    for part in plan.of(Coupling):
        used = [n for n in range(1, part.ways + 1)
                if all(any(part.at(f"{side}{n}") in (w.a, w.b) for w in plan.wires) for side in "ab")]
        for i, one in enumerate(used):
            for other in used[i + 1:]:
                ways = tuple(part.element(f"w{n}") for n in (one, other))
                if not within & set(ways):
                    continue
                pair = (Ghost(f"swap.{part.id}.{one}.{other}", topology.node(part.at(f"a{one}")),
                              topology.node(part.at(f"b{other}"))),
                        Ghost(f"swap.{part.id}.{other}.{one}", topology.node(part.at(f"a{other}")),
                              topology.node(part.at(f"b{one}"))))
                key = f"swapped {part.id} {one} {other}"
                found.append((Fault(key, key, f"ways {one} and {other} of {part.name} are swapped", PRIORS["swapped"],
                                    (part.id, *ways), opens=frozenset(ways),
                                    joins={g.name: part.contact_mohm / 1000 for g in pair}), pair))
    return found


def _pins(figures: Figures, within: frozenset[str]) -> Iterator[Fault]:
    """The wrong pin or wire of the machine: dead when it should live, or always live."""
    for tap in figures.plan.of(Tap):
        if tap.id in within and tap.can_feed:
            for lives, words in ((True, "it is always live"), (False, "it is dead")):
                if lives and tap.live == "always":
                    continue
                key = f"pin {tap.id} {'live' if lives else 'dead'}"
                yield Fault(key, key, f"wrong pin: {tap.name}, {words}", PRIORS["wrong pin"],
                            (tap.id,), conducts={tap.element(): lives})


def _sources(figures: Figures, within: frozenset[str]) -> Iterator[Fault]:
    for share in WEAK_V if figures.plan.supply is not None else ():
        yield Fault(f"battery -{share:g}", "battery", "the battery or pack is low", PRIORS["battery"] / len(WEAK_V),
                    (figures.plan.supply.id,) if figures.plan.supply else (), emf_times=1 - share,
                    ohm_times=WEAK_TIMES, amount=share)


def _charging(figures: Figures) -> Iterator[Fault]:
    """A generator that gives nothing, a regulator that holds another voltage."""
    generator = figures.plan.generator
    if generator is None or not figures.plan.battery:
        return
    yield Fault("generator dead", "generator dead", "the generator, its rectifier or regulator gives nothing",
                PRIORS["generator"], (generator.id,), held_times=0.0)
    for about, words, held in (("regulator low", "low", HELD_LOW), ("regulator high", "high", HELD_HIGH)):
        for times in held:
            yield Fault(f"{about} {times:g}", about, f"the regulator's voltage is too {words}",
                        PRIORS["regulator"] / len((*HELD_LOW, *HELD_HIGH)), (generator.id,), held_times=times,
                        amount=times)
