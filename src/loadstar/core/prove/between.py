"""What may be wrong between a circuit and another one: their live wires at one another's accessory, or touching."""

from collections.abc import Iterator

from ..doc.wires import Wire
from ..figures.figures import Figures
from ..parts.load import LoadPart
from .fault import PRIORS, SHORT_OHM, Fault, Ghost

MOST_NEIGHBOURS = 4  # the accessories whose wires lie nearest


def crossed(figures: Figures, within: frozenset[str]) -> Iterator[tuple[Fault, tuple[Ghost, ...]]]:
    """Accessories with their live wires at one another."""
    for load, other in _neighbours(figures, within):
        own, far = _live_wire(figures, load), _live_wire(figures, other)
        if own is None or far is None:
            continue
        pair = (_across(figures, own, load, other), _across(figures, far, other, load))
        if pair[0].a == pair[1].a:  # off one point: nobody would see it
            continue
        ohm = {ghost.name: wire_ohm(figures, wire.id) for ghost, wire in zip(pair, (own, far), strict=True)}
        key = f"crossed {load.id} {other.id}"
        yield Fault(key, key, f"the live wires of {load.name} and {other.name} are crossed", PRIORS["crossed"],
                    (load.id, other.id, own.id, far.id), opens=frozenset((own.id, far.id)), joins=ohm), pair


def bridged(figures: Figures, within: frozenset[str]) -> Iterator[tuple[Fault, tuple[Ghost, ...]]]:
    """Live wires of two accessories that touch: each then lives when the other does."""
    topology = figures.topology
    for load, other in _neighbours(figures, within):
        ends = topology.node(load.at("pos")), topology.node(other.at("pos"))
        if ends[0] != ends[1]:
            ghost = Ghost(f"bridged.{load.id}.{other.id}", *ends)
            key = f"bridged {load.id} {other.id}"
            yield Fault(key, key, f"the live wires of {load.name} and {other.name} touch", PRIORS["bridged"],
                        (load.id, other.id), joins={ghost.name: SHORT_OHM}), (ghost,)


def _neighbours(figures: Figures, within: frozenset[str]) -> Iterator[tuple[LoadPart, LoadPart]]:
    """Each accessory of a circuit with those of others that are wired nearest to it: at its place first, then along the
    same runs."""
    plan = figures.plan
    runs = {load.id: _runs(figures, load) for load in plan.loads}
    for load in (one for one in plan.loads if one.id in within and _drawn(figures, one)):
        others = [one for one in plan.loads if one.id not in within and _drawn(figures, one)]
        near = [one for one in others if one.place == load.place or runs[one.id] & runs[load.id]]
        ranked = sorted(near, key=lambda one: (one.place != load.place, -len(runs[one.id] & runs[load.id]), one.id))
        yield from ((load, other) for other in ranked[:MOST_NEIGHBOURS])


def _drawn(figures: Figures, load: LoadPart) -> bool:
    return figures.path(load.id).complete


def _runs(figures: Figures, load: LoadPart) -> set[str]:
    wire = _live_wire(figures, load)
    return set(figures.topology.geometry[wire.id].runs) if wire is not None else set()


def _live_wire(figures: Figures, load: LoadPart) -> Wire | None:
    """The only wire at an accessory's live end; None where there are several, or none."""
    wires = [w for w in figures.plan.wires if load.at("pos") in (w.a, w.b)]
    return wires[0] if len(wires) == 1 else None


def _across(figures: Figures, wire: Wire, load: LoadPart, other: LoadPart) -> Ghost:
    """A wire's far end, at another accessory than its own."""
    topology = figures.topology
    far = wire.a if wire.b.part == load.id else wire.b
    return Ghost(f"crossed.{load.id}.{other.id}", topology.node(far), topology.node(other.at("pos")))


def wire_ohm(figures: Figures, wire: str) -> float:
    """A wire's resistance at the temperature of the usual state."""
    row = figures.states[figures.source.usual_state]
    found = figures.wires[wire]
    return found.coordination.duty.wire.ohm(found.length_m, row.wire_mean_c.get(wire, 40.0))
