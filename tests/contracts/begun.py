"""What is made for people, as it was when it was last agreed: every machine as it is begun, and each accessory and
making alone on one of each kind.

`python -m contracts.begun` (with src, tools and tests on the path) writes it anew: only when it is meant to change.
"""

import gzip
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from judgement.own_makings import Case, cases, made

from loadstar.core.plan.model import Plan

KEPT = Path(__file__).parent / "begun.json.gz"


def alone() -> Iterator[Case]:
    """Every size bare; accessories and makings on the first size of each kind that they go on."""
    first: dict[str, str] = {}
    for case in cases(pairs=False):
        bare = not case.wanted and not case.chosen
        if bare or first.setdefault(case.kind, case.size) == case.size or case.size.startswith("magneto"):
            yield case


def of(case: Case) -> dict[str, Any]:
    """What the case has that the bare machine has not, without what every element has unless somebody says so."""
    there = _elements(made(Case(case.kind, case.size, (), ())))
    bare = not case.wanted and not case.chosen
    return {key: value for key, value in _elements(made(case)).items() if bare or there.get(key) != value}


def _elements(plan: Plan) -> dict[str, Any]:
    said = plan.model_dump(mode="json", exclude_defaults=True)
    listed = {one["id"]: one for name in ("places", "runs", "parts", "wires", "plugs") for one in said.get(name, ())}
    return {**listed, "machine": said.get("machine"), "joins": said.get("joins", [])}


def kept() -> dict[str, dict[str, Any]]:
    """By case, what is kept of it."""
    return dict(json.loads(gzip.decompress(KEPT.read_bytes())))


def main() -> int:
    """Write it anew."""
    text = json.dumps({str(case): of(case) for case in alone()}, sort_keys=True, separators=(",", ":"))
    KEPT.write_bytes(gzip.compress(text.encode(), mtime=0))
    print(f"- wrote {KEPT}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
