"""Every plan of the sweep over supplies, feeds, loads, ways and air, wholly left to Loadstar: what it complains about
itself.

    PYTHONPATH=src:tests var/venv/bin/python tools/sweep.py
"""

import sys
from collections import Counter
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[1] / d) for d in ("src", "tests")]
from judgement.own_choices import COMPLAINTS, plans

from loadstar.core.analysis import analyse


def main() -> int:
    """Print each complaint; exit 1 when there is one that does not say that nothing helps."""
    found: Counter[str] = Counter()
    every = plans()
    for name, plan in every:
        for f in analyse(plan).findings:
            if f.rule in COMPLAINTS or f.rule in ("wire.class-too-low", "feed.too-weak", "fuse.breaking"):
                helpless = "No " in f.sentence or f.rule not in COMPLAINTS
                found[f"{f.rule}{', and what would help' if helpless else ''}"] += 1
                if not helpless:
                    print(f"{name}: {f.sentence}")
    print(f"{len(every)} plans: {dict(found) or 'no complaint'}")
    return int(any("help" not in key for key in found))


if __name__ == "__main__":
    sys.exit(main())
