"""Sleeves over several wires: from which side they go on, while the ends there are still open."""

from itertools import pairwise

from ..analysis import Analysis
from ..doc.places import Run
from ..doc.wires import Side
from ..harness.loom import Bundle
from ..materials.coverings import SLEEVED
from .maker import How, Maker, On


def sleeves(m: Maker, ready: str) -> dict[str, tuple[str, ...]]:
    """Every sleeve slid over all its wires together, from one of its two sides, where their ends are still open then:
    what the ends wait for, by end."""
    assert m.a.loom is not None
    found: dict[str, tuple[str, ...]] = {}
    for b in m.a.loom.bundles:
        if b.covering not in SLEEVED or len(b.made) < 2:
            continue
        size = f"{b.covering} {b.sleeve.nominal_mm}" if b.sleeve else b.covering
        places = " to ".join(m.a.plan.place(p).name for p in (b.run.a, b.run.b))
        side = next((place for place in (b.run.b, b.run.a) if _is_open(m, b, place)), None)
        how = f"from {m.a.plan.place(side).name}" if side else (
            "which are closed at both of its sides: take one that opens along its length, or tape them")
        key = m.add("thread", b.run.id, f"Slide the {size} for {places} over {', '.join(b.made)}, {how}",
                    On(b.run.id, m.group_of(m.a.plan.wire(b.made[-1]))), (ready,), How(size, uses=(size,)))
        for end in (f"{wire}.{end_towards(m.a, wire, b.run, side)}" for wire in b.made) if side else ():
            found[end] = (*found.get(end, ()), key)
    for end, keys in found.items():
        _farthest_first(m, end, keys)
    return found


def _farthest_first(m: Maker, end: str, keys: tuple[str, ...]) -> None:
    """Of several sleeves that come on over one end the one goes on first that lies farthest from it."""
    wire, _, side = end.partition(".")
    runs = m.a.topology.geometry[wire].runs
    away = [f"thread/{run}" for run in (runs if side == "b" else reversed(runs))]
    for first, then in pairwise(sorted(keys, key=away.index)):
        if then not in m.edges[first]:
            m.edges[then].add(first)


def end_towards(a: Analysis, wire: str, run: Run, place: str) -> Side:
    """The end of a wire that lies beyond one of the two places of a run on its way."""
    made = a.plan.wire(wire)
    here = a.plan.part(made.a.part).place
    for name in a.topology.geometry[wire].runs:
        passed = a.plan.run(name)
        there = passed.b if passed.a == here else passed.a
        if name == run.id:
            return "b" if there == place else "a"
        here = there
    raise AssertionError(f"{wire} does not lie in {run.id}")


def _is_open(m: Maker, b: Bundle, place: str) -> bool:
    """Whether every wire of a sleeve has its end beyond a place made anew: over what is closed already none goes."""
    assert m.a.ends is not None
    return not any(m.a.ends.by_key[f"{wire}.{end_towards(m.a, wire, b.run, place)}"].kept for wire in b.made)
