"""For every rule a plan in which it speaks: `speaking.jsonl.gz`, a line for each.

`python -m contracts.speaking RULE PLAN.json` (with src and tests on the path) adds one or puts it in another's place.
"""

import gzip
import json
import sys
from pathlib import Path
from typing import Any

from loadstar.core.plan.document import from_data
from loadstar.core.plan.model import Plan

KEPT = Path(__file__).parent / "speaking.jsonl.gz"


def kept() -> dict[str, dict[str, Any]]:
    """The plans as documents, by rule."""
    lines = gzip.decompress(KEPT.read_bytes()).decode().splitlines()
    return {one["rule"]: one["plan"] for one in map(json.loads, lines)}


def plan_for(rule: str) -> Plan:
    """The plan in which a rule speaks."""
    return from_data(kept()[rule])


def write(plans: dict[str, dict[str, Any]]) -> None:
    """All of them, in order; the same bytes each time."""
    lines = [json.dumps({"rule": rule, "plan": plans[rule]}, separators=(",", ":"), ensure_ascii=False)
             for rule in sorted(plans)]
    KEPT.write_bytes(gzip.compress("".join(f"{line}\n" for line in lines).encode(), mtime=0))


if __name__ == "__main__":
    write({**kept(), sys.argv[1]: json.loads(Path(sys.argv[2]).read_text())})
