"""Documents made from the code: the plan's JSON Schema, the pages of findings, tables and kinds. `./loadstar build`
writes them; a test compares what is committed."""

import json
import sys
from pathlib import Path

from loadstar.core.plan.model import Plan
from loadstar.core.rules import RULES
from loadstar.exchange.kinds import kinds_page
from loadstar.exchange.tables import tables_page

ROOT = Path(__file__).resolve().parents[3]


def schema() -> str:
    """The JSON Schema of a plan file."""
    return json.dumps(Plan.model_json_schema(), indent=2, sort_keys=True, ensure_ascii=False) + "\n"


def findings_page() -> str:
    """One section per rule."""
    lines = ["# Findings", "",
             "Made from the rules in `src/loadstar/core/rules` by `./loadstar build`. A finding's severity is stop",
             "(fire, injury, lost protection, or a circuit that cannot work), caution, advice or note.", ""]
    for rule in sorted(RULES.values(), key=lambda r: r.id):
        lines += [f"## `{rule.id}`", "", f"**Means.** {rule.meaning}", "", f"**Cure.** {rule.cure}", "",
                  f"**Source.** {rule.source}", ""]
    return "\n".join(lines)


DOCUMENTS = {"docs/format/plan.schema.json": schema, "docs/format/kinds.md": kinds_page,
             "docs/findings.md": findings_page, "docs/tables.md": tables_page}


def main() -> int:
    """Write them all."""
    for name, make in DOCUMENTS.items():
        path = ROOT / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(make(), encoding="utf-8")
        print(f"- wrote {name}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
