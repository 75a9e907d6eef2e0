"""Every plan of the sweep over supplies, feeds, loads, ways and air, wholly left to Loadstar: what it complains about
itself. With a number, so many plans with switches instead: what does not stand, balance, or is complained about. With
"bite", every wire, contact, fuse and way of the examples at half and at twice its size; with "makings", accessories,
intents and recipes on every begun machine, alone and in pairs (every so manieth of 16,000).

    PYTHONPATH=src:tests var/venv/bin/python tools/sweep.py [NUMBER|bite|makings [EVERY]]
"""

import sys
from collections import Counter
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[1] / d) for d in ("src", "tests")]
from judgement import own_makings
from judgement.bite import changes, cried, missed
from judgement.own_choices import COMPLAINTS, plans, stands
from reference.switched import MACHINES, switched

from loadstar.core.analysis import analyse
from loadstar.core.plan.document import from_json


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


def bite() -> int:
    """Print what is overloaded at half its size and not said, and what is cried at twice its size; exit 1 for any."""
    wrong = tried = 0
    for file in sorted((Path(__file__).resolve().parents[1] / "examples").glob("*.json")):
        plan = from_json(file.read_bytes())
        tried += sum(1 for factor in (0.5, 2.0) for _ in changes(plan, factor))
        for what, told in (("not said", missed(plan)), ("cried", cried(plan))):
            for line in told:
                print(f"{file.name}, {what}: {line}", flush=True)
                wrong += 1
    print(f"{tried} changes: {wrong or 'nothing'} wrong")
    return int(wrong > 0)


def makings(step: int) -> int:
    """Print what Loadstar complains of in what it made itself; exit 1 for any."""
    cases = list(own_makings.cases())[::step]
    told = [f"{case}: {line}" for case in cases for line in own_makings.wrong(own_makings.made(case))]
    print(*told, f"{len(cases)} plans: {len(told) or 'no'} complaints", sep="\n")
    return int(bool(told))


if __name__ == "__main__":
    match sys.argv[1:]:
        case ["bite"]:
            sys.exit(bite())
        case ["makings", *step]:
            sys.exit(makings(int(step[0]) if step else 1))
        case [number]:
            sys.exit(with_switches(int(number)))
        case _:
            sys.exit(main())
