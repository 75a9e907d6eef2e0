"""One side of `./loadstar bench --against`: does what it is told on its own checkout, and says how long it took.

Started with the checkout's `src` and `tests` on the path. Lines come in, each the name of a piece of work; for each one
goes out: seconds by the clock and of the processor. The first time a piece is asked for it is prepared before.
"""

import json
import sys
import time
from collections.abc import Callable
from functools import cache

from builders import wide_plan

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.materials.accessories import offered
from loadstar.core.plan.model import Plan
from loadstar.core.whatif.feeds import compare_feeds
from loadstar.core.whatif.unknown import Outlooks
from loadstar.demo import fit_out


def sixty_wires() -> Plan:
    """A plan as it is begun, with as many accessories as make sixty wires."""
    every = [u.key for group in offered("battery").values() for u in group]
    return begun(Plan(), Wish("touring motorcycle", "large", "", tuple(every[:26])))


def _analysis(plan: Plan) -> Callable[[], object]:
    return lambda: analyse(plan.model_copy())


def _ranking(plan: Plan) -> Callable[[], object]:
    analysis = analyse(plan)
    return lambda: Outlooks(analysis).outlook()


def _feeds(plan: Plan) -> Callable[[], object]:
    return lambda: compare_feeds(plan, plan.loads[0].id)


WORK: dict[str, Callable[[], Callable[[], object]]] = {
    "analysis, 22 wires": lambda: _analysis(fit_out()[0]),
    "analysis, 60 wires": lambda: _analysis(sixty_wires()),
    "analysis, 200 wires": lambda: _analysis(wide_plan()),
    "analysis, 2,000 wires": lambda: _analysis(wide_plan(970)),
    "what to measure next, 60 wires": lambda: _ranking(sixty_wires()),
    "feeds compared, 60 wires": lambda: _feeds(sixty_wires()),
}


@cache
def prepared(name: str) -> Callable[[], object]:
    """A piece of work with what it needs, done once so that everything is loaded."""
    act = WORK[name]()
    act()
    return act


def main() -> int:
    """Until the lines end."""
    print("ready", flush=True)
    for line in sys.stdin:
        act = prepared(line.strip())
        wall, processor = time.perf_counter(), time.process_time()
        act()
        print(json.dumps([time.perf_counter() - wall, time.process_time() - processor]), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
