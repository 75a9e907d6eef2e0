"""Every plan of the sweep over supplies, feeds, loads, ways and air, wholly left to Loadstar: what it complains about
itself. With a number, so many plans with switches instead: what does not stand, balance, or is complained about.

    PYTHONPATH=src:tests var/venv/bin/python tools/sweep.py [NUMBER]
"""

import sys
from collections import Counter
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[1] / d) for d in ("src", "tests")]
from judgement.own_choices import COMPLAINTS, plans, stands
from reference.switched import MACHINES, switched

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


def with_switches(number: int) -> int:
    """Print what is wrong with so many plans with switches; exit 1 when anything is."""
    wrong = 0
    for n in range(number):
        machine, seed = MACHINES[n % len(MACHINES)], n // len(MACHINES)
        for told in stands(switched(machine, seed)):
            print(f"{machine} {seed}: {told}")
            wrong += 1
    print(f"{number} plans with switches: {wrong or 'nothing'} wrong")
    return int(wrong > 0)


if __name__ == "__main__":
    sys.exit(with_switches(int(sys.argv[1])) if len(sys.argv) > 1 else main())
