"""The figures of many plans as they were when they were last agreed: examples, one of every generated kind twice, and
200 wires.

`python -m contracts.kept` (with src, tools and tests on the path) writes them anew: only when figures are meant to
change.
"""

import gzip
import json
import math
import sys
from pathlib import Path
from typing import Any

from builders import wide_plan
from reference.generated import EVERY_KIND, generated

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.plan.document import from_json
from loadstar.core.plan.model import Plan
from loadstar.core.wiring import states

HERE = Path(__file__).parent
KEPT = HERE / "kept.json.gz"
EXAMPLES = HERE.parents[1] / "examples"
NAMES = (*(f"examples/{path.name}" for path in sorted(EXAMPLES.glob("*.json"))),
         *(f"{kind}/{seed}" for kind in EVERY_KIND for seed in (3, 14)), "200 wires")


def plan_of(name: str) -> Plan:
    """One of the plans by its name."""
    if name == "200 wires":
        return wide_plan()
    kind, _, rest = name.partition("/")
    return from_json((EXAMPLES / rest).read_text()) if kind == "examples" else generated(kind, int(rest))


def settle_fully() -> None:
    """Let wire temperatures and currents agree to a nanokelvin, so that no figure hangs on where the rounds were
    left."""
    states.TEMPERATURE_ROUNDS, states.TEMPERATURE_SETTLED_K = 80, 1e-9


def figures(analysis: Analysis) -> dict[str, Any]:
    """What is kept of a plan: volts of loads, amps and temperatures of wires in every situation; choices; budget;
    findings."""
    plan, kept = analysis.plan, {}
    rows = [*analysis.states.values(), *(analysis.sized.alternates if analysis.sized else ())]
    node = analysis.topology.node
    for number, row in enumerate(rows):
        one: dict[str, Any] = {"source": row.source, "failure": row.failure, "closed": row.closed}
        if row.solution is not None:
            across = row.solution.across_v
            one["load_v"] = {p.id: across(node(p.at("pos")), node(p.at("neg"))) for p in plan.loads}
            one["wire_a"] = {w.id: row.current(w.id) for w in plan.wires}
            one["wire_c"] = row.wire_c
        kept[f"{number} {row.state}"] = one
    return _plain({
        "states": kept, "area_mm2": {w.id: w.area_mm2 for w in analysis.wires.values()},
        "rating_a": analysis.ratings.rated,
        "fault_a": {w.id: w.fault_a for w in analysis.wires.values()},
        "guard": {w.id: w.guard and w.guard.fuse for w in analysis.wires.values()},
        "margin_a": {state: ledger.margin_a for state, ledger in analysis.ledgers.items()},
        "break_even_rpm": analysis.break_even_rpm, "days": analysis.parked and analysis.parked.days,
        "findings": [[f.severity, f.rule, *f.elements] for f in analysis.findings],
    })


def _plain(value: Any) -> Any:
    """Plain data; infinities and what is no number as words, figures to twelve places."""
    if isinstance(value, dict):
        return {str(key): _plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(one) for one in value]
    if isinstance(value, float) or hasattr(value, "dtype"):
        return round(float(value), 12) if math.isfinite(value) else str(float(value))
    return value


def kept() -> dict[str, Any]:
    """The figures as agreed, by plan."""
    with gzip.open(KEPT, "rt") as file:
        found: dict[str, Any] = json.load(file)
    return found


def main() -> int:
    """Add the figures of plans that are new; with --all write those of today for every plan."""
    settle_fully()
    before = {} if "--all" in sys.argv else kept()
    found = {name: before.get(name) or figures(analyse(plan_of(name))) for name in NAMES}
    with gzip.GzipFile(KEPT, "wb", mtime=0) as file:
        file.write(json.dumps(found, sort_keys=True).encode())
    print(f"{len(found)} plans, {KEPT.stat().st_size / 1000:.0f} kB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
