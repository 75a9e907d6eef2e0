"""`./loadstar bench --growth`: how the parts of an analysis grow with the number of wires.

Each part's processor time at seven sizes from 50 to 3,000 wires (the least of some runs), and the exponent with which
it grows over the upper half of them: 1 is in proportion, 2 four times for twice as many. What is inside another part is
taken out of it.
"""

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from builders import wide_plan

from loadstar.core import analysis
from loadstar.core.ends.choose import Ends
from loadstar.core.figures import figures
from loadstar.core.sizing.areas import Areas
from loadstar.core.sizing.choose import _Sizing
from loadstar.core.sizing.drops import Drops
from loadstar.core.sizing.faults import FaultFinder
from loadstar.core.wiring.states import StateSolver
from loadstar.core.wiring.thermal import Thermal
from loadstar.core.wiring.topology import Topology

WIRES = (50, 100, 200, 400, 800, 1600, 3000)
RUNS = 3
LEAST_MS = 1.0  # a part that is no more at the largest size has no exponent worth telling
MOST = 1.2
PARTS: tuple[tuple[str, Any, str], ...] = (
    ("structure", Topology, "__init__"), ("wires' geometry", Thermal, "__init__"),
    ("network and heat", StateSolver, "solve"), ("network's layout", StateSolver, "__init__"),
    ("faults", FaultFinder, "find"), ("faults' places", FaultFinder, "__init__"),
    ("sizes by heat", Areas, "least"), ("sizes by drop", Drops, "meet"), ("drops' ways", Drops, "__init__"),
    ("ratings", _Sizing, "_rate"), ("wires' results", figures, "wire_results"),
    ("touches", figures, "chafes"), ("ways without a fuse", figures, "unfused_ways"), ("ledgers", figures, "ledger"),
    ("loom", figures, "loom"), ("ends", Ends, "_end"), ("rules", analysis, "judge"))


class _Watch:
    """Processor time spent in each part, without what is spent in other parts within it."""

    def __init__(self) -> None:
        self.spent_s = {name: 0.0 for name, _, _ in PARTS}
        self._within: list[float] = []

    def over(self, name: str, act: Callable[..., Any]) -> Callable[..., Any]:
        """A part that is timed."""
        def timed(*given: Any, **named: Any) -> Any:
            self._within.append(0.0)
            begun = time.process_time()
            try:
                return act(*given, **named)
            finally:
                whole = time.process_time() - begun
                self.spent_s[name] += whole - self._within.pop()
                if self._within:
                    self._within[-1] += whole
        return timed


def _times_ms(loads: int) -> tuple[int, dict[str, float]]:
    """How many wires, and the least of some runs of each part and of the whole."""
    plan = wide_plan(loads, 0)
    runs = []
    for _ in range(RUNS + 1):
        watch = _Watch()
        before = [(holder, name, getattr(holder, name)) for _, holder, name in PARTS]
        for part, holder, name in PARTS:
            setattr(holder, name, watch.over(part, getattr(holder, name)))
        begun = time.process_time()
        try:
            analysis.analyse(plan.model_copy())
        finally:
            for holder, name, act in before:
                setattr(holder, name, act)
        whole = time.process_time() - begun
        runs.append({**watch.spent_s, "else": whole - sum(watch.spent_s.values()), "whole": whole})
    return len(plan.wires), {part: min(run[part] for run in runs[1:]) * 1000 for part in runs[0]}


def main() -> int:
    """Print the table; 1 where a part grows with more than MOST."""
    measured = [_times_ms(_loads(wires)) for wires in WIRES]
    counts = [wires for wires, _ in measured]
    print(f"{'processor time, ms':22}" + "".join(f"{n:>9,}" for n in counts) + f"{'exponent':>10}")
    worst = 0.0
    for part in measured[0][1]:
        times = [found[part] for _, found in measured]
        upper = len(times) // 2
        line = f"{part:22}" + "".join(f"{ms:9.1f}" for ms in times)
        if times[-1] < LEAST_MS:
            print(f"{line}{'-':>10}")
            continue
        exponent = float(np.polyfit(np.log(counts[upper:]), np.log(times[upper:]), 1)[0])
        worst = max(worst, exponent)
        print(f"{line}{exponent:10.2f}")
    return int(worst > MOST)


def _loads(wires: int) -> int:
    """How many accessories make about so many wires in a wide plan: two each, and some of their own."""
    return max(1, (wires - 46) // 2)
