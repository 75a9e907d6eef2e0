"""Pictures of the demonstrations as they were when they were last looked at.

`python -m contracts.drawn` (with src, tools and tests on the path) writes them anew: only after they were looked at.
"""

import gzip
import json
import sys
from collections.abc import Iterator
from pathlib import Path

from loadstar import demo
from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import CutWire, apply
from loadstar.core.order import half_of
from loadstar.draw import (
    bars,
    bikemap,
    board,
    circuit,
    coordination,
    crimp,
    descent,
    lamps,
    mouth,
    packs,
    section,
    waterline,
)
from loadstar.draw.svg import Look

KEPT = Path(__file__).parent / "drawn.json.gz"
MAKES = {make.__name__: make for make in (demo.fit_out, demo.as_found, demo.ferry_runner, demo.tide_hauler)}


def pictures(name: str) -> Iterator[tuple[str, str]]:
    """Every picture of a demonstration: which, and its text."""
    plan = MAKES[name]()[0]
    if name == "fit_out":
        plan = apply(plan, CutWire(id="W10", place="P3"))
    a = analyse(plan)
    yield from _circuits(a)
    yield from _machine(a)
    yield from _ends(a)
    yield "bars", bars.bars([("a cause with rather many words, so that they go on in another line", 0.7), ("b", 0.004)])


def _circuits(a: Analysis) -> Iterator[tuple[str, str]]:
    usual = a.source.usual_state
    for load in a.plan.loads:
        yield f"descent {load.id}", descent.draw(a, load.id, usual)
    yield "descent on paper", descent.draw(a, a.plan.loads[0].id, usual, Look(paper=True)) if a.plan.loads else ""
    sheets = circuit.sheets(a)
    for sheet in sheets:
        yield f"drawing {sheet.number}", circuit.draw(a, sheet, len(sheets), Look("/{}"), live={"W1", "F1"})
        yield f"drawing {sheet.number} on paper", circuit.draw(a, sheet, len(sheets), Look(paper=True))
    for wire in a.wires.values():
        if wire.judged_by is not None:
            name = a.topology.parts[wire.judged_by.fuse].name
            curves = coordination.Curves(wire.coordination, wire.judged_by.fault_a)
            yield f"fuse against {wire.id}", coordination.draw(curves, wire.id, name)


def _machine(a: Analysis) -> Iterator[tuple[str, str]]:
    for side in ("left", "right"):
        yield f"map from the {side}", bikemap.draw(a, Look("/{}", a.plan.places[0].id), side=side)
    if a.loom is not None and a.loom.bundles:
        yield "board", board.draw(a, selected=a.loom.bundles[0].run.id, link="/{}")
        for bundle in a.loom.bundles:
            yield f"section {bundle.run.id}", section.draw(a, bundle.run.id)
    yield "lamps", lamps.draw(a)
    yield "packs", packs.draw(a)
    if a.source.key == "battery":
        yield "water", waterline.draw(a, "idle")


def _ends(a: Analysis) -> Iterator[tuple[str, str]]:
    seen = set()
    for end in a.ends.every if a.ends else ():
        if end.chosen is not None and (end.chosen.key, end.area_mm2) not in seen:
            seen.add((end.chosen.key, end.area_mm2))
            yield f"end {end.key}", crimp.draw(end, a.plan.wire(end.wire).colour, half_of(a.plan, end))
    for plug in a.plan.plugs:
        for side in ("mouth", "wires"):
            yield f"{plug.name}, {side}", mouth.draw(a.plan, plug, side, Look("/{}"))
    for part in a.plan.of_kind("coupling"):
        yield f"half of {part.id}", mouth.half(a.plan, part, "a", "mouth")


def kept() -> dict[str, dict[str, str]]:
    """By demonstration and picture, its text."""
    return dict(json.loads(gzip.decompress(KEPT.read_bytes())))


def main() -> int:
    """Write them anew."""
    text = json.dumps({name: dict(pictures(name)) for name in MAKES}, sort_keys=True, separators=(",", ":"))
    KEPT.write_bytes(gzip.compress(text.encode(), mtime=0))
    print(f"- wrote {KEPT}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
