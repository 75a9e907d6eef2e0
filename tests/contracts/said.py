"""What is said and chosen of many plans, word for word, as it was when it was last read and agreed.

`python -m contracts.said` (with src, tools and tests on the path) writes it anew and prints every line that changed:
only when words or choices are meant to change, and each of the lines is to be read.
"""

import math
import sys
from functools import cache
from pathlib import Path
from typing import Any

from contracts.kept import NAMES, plan_of
from contracts.net import Net
from contracts.speaking import kept as speaking
from contracts.speaking import plan_for

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.parts.tap import Tap
from loadstar.core.survey.continuity import understand
from loadstar.core.survey.health import judged
from loadstar.core.survey.pins import classify, next_probe

PLANS = (*(f"rule {rule}" for rule in sorted(speaking())), *(n for n in NAMES if n != "200 wires"))


@cache
def analysis_of(name: str) -> Analysis:
    """A plan's analysis, made once in a run."""
    kind, _, rest = name.partition(" ")
    return analyse(plan_for(rest) if kind == "rule" else plan_of(name))


def said(name: str) -> list[str]:
    """A plan's findings in full; then wires, contacts and fuses as chosen and judged; then what its survey shows."""
    a = analysis_of(name)
    plan = a.plan
    lines = [f"{f.severity} {f.rule} [{' '.join(f.elements)}] {f.sentence} ({f.subject}; {f.working})"
             + "".join(f" / {p.label}" for p in f.proposals) for f in a.findings]
    for w in a.wires.values():
        lines.append(plain(w))
        if touch := a.chafes.get(w.id):
            lines.append(f"{w.id}: a touch opens in {_told(touch.opens_s)} s, damages in {_told(touch.damage_s)} s")
    if a.sized:
        lines += [f"{part}: {_told(rating)} A" for part, rating in sorted(a.sized.contact_a.items())]
    lines += [f"{pin.id}: {plain(classify(plan, pin))}" for pin in plan.of(Tap)]
    lines.append(f"next probe: {plain(next_probe(plan))}")
    lines += [f"{table.id}: {plain(understand(table))}" for table in plan.tables]
    return lines + [f"survey: {plain(one)}" for one in judged(plan)]


def _told(value: float | None) -> str:
    """A figure to four digits: more may hang on the machine that computes."""
    return "none" if value is None else f"{value:.4g}" if math.isfinite(value) else str(value)


def plain(value: Any) -> str:
    """What a verdict says, in an order that does not change."""
    if isinstance(value, float):
        return _told(value)
    if hasattr(value, "__dataclass_fields__"):
        return "; ".join(f"{name} {plain(getattr(value, name))}" for name in value.__dataclass_fields__)
    if isinstance(value, dict):
        return ", ".join(f"{key}: {plain(one)}" for key, one in value.items())
    if isinstance(value, set | frozenset):
        return plain(sorted(value))
    if isinstance(value, tuple | list):
        return ", ".join(plain(one) for one in value)
    return getattr(value, "id", None) or str(value)


NET = Net(Path(__file__).parent / "said.json.gz", PLANS, said)

if __name__ == "__main__":
    sys.exit(NET.write())
