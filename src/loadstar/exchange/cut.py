"""The cut list as a table, one line for each wire that is made: RFC 4180, UTF-8."""

import csv
import io

from loadstar.core.analysis import Analysis
from loadstar.core.doc.wires import SIDES
from loadstar.core.ends.choose import End

from .survey import harmless

COLUMNS = ("wire", "from", "to", "size_mm2", "colour", "cut_m", "strip_from_mm", "end_from", "strip_to_mm", "end_to",
           "lies_in")


def to_csv(analysis: Analysis) -> str:
    """Longest first, as it is cut; nothing of a wire that stays as it is."""
    text = io.StringIO()
    table = csv.writer(text, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for row in sorted(_rows(analysis), key=lambda r: (-float(r[5] or 0), r[0])):
        table.writerow([harmless(cell) for cell in row])
    return text.getvalue()


def _rows(analysis: Analysis) -> list[tuple[str, ...]]:
    plan, topology = analysis.plan, analysis.topology
    cut_m = analysis.loom.cut_m if analysis.loom else {}
    found = []
    for wire in plan.wires:
        if topology.untouched(wire) or wire.id not in analysis.wires:
            continue
        ends: list[str] = []
        for side in SIDES:
            ends += _end(analysis.ends.by_key.get(f"{wire.id}.{side}") if analysis.ends else None)
        at = [f"{plan.part(end.part).name} ({end})" for end in (wire.a, wire.b)]
        metres = cut_m.get(wire.id)
        found.append((wire.id, *at, f"{analysis.wires[wire.id].area_mm2:g}", wire.colours,
                      f"{metres:.2f}" if metres is not None else "", *ends,
                      " ".join(topology.geometry[wire.id].runs)))
    return found


def _end(end: End | None) -> tuple[str, str]:
    """How far an end is stripped, and what it gets."""
    if end is not None and end.kept:
        return "", "stays as it is"
    if end is None or end.chosen is None:
        return "", "not said"
    return f"{end.chosen.strip_mm:g}", end.chosen.name
