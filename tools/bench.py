"""`./loadstar bench`: what things take here and now, as milliseconds and as ratios within this one run; with `--against
REVISION` beside another checkout (`against.py`)."""

import argparse
import re
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).resolve().parents[1] / "tests")]
import django
import numpy as np
from bench_work import sixty_wires
from builders import wide_plan
from demo_server import browsing, served
from playwright.sync_api import Page
from scipy.sparse import coo_array
from scipy.sparse.linalg import splu

from loadstar.core.analysis import analyse
from loadstar.core.parts.load import LoadPart
from loadstar.core.plan.model import Plan
from loadstar.core.whatif.unknown import Outlooks
from loadstar.core.wiring.topology import Topology
from loadstar.demo import fit_out

LOOK_S = 1.5  # as the pages have it
W = "/w/saltmarsh-survey-workshop/"
PAGES = {"bench": W, **{s: f"{W}p/1/{s}/" for s in ("survey", "loads", "budget", "circuits", "handover")},
         "connectors": f"{W}p/6/survey/?view=plugs&sel=AP1", "probe": f"{W}p/6/survey/?view=probe"}


def median_ms(act: Callable[[], object], times: int) -> float:
    """Median of some runs, after one that is not counted."""
    act()
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        act()
        taken.append((time.perf_counter() - begun) * 1000)
    return statistics.median(taken)


def raw_solve_ms(plan: Plan) -> float:
    """One sparse factorisation and solution of the plan's network in one state, nothing else."""
    links = Topology(plan).links
    nodes = {n: i for i, n in enumerate(dict.fromkeys(n for k in links for n in (k.a, k.b)))}
    a, b = (np.array([nodes[getattr(k, end)] for k in links]) for end in ("a", "b"))
    g, here = np.full(len(links), 100.0), np.arange(len(nodes))
    rows, cols = np.concatenate([a, b, a, b, here]), np.concatenate([a, b, b, a, here])
    matrix = coo_array((np.concatenate([g, g, -g, -g, np.ones(len(nodes))]), (rows, cols))).tocsc()
    right = np.ones(len(nodes))
    return median_ms(lambda: splu(matrix).solve(right), 50)


def main() -> int:
    """This checkout by itself, or beside another."""
    parser = argparse.ArgumentParser(prog="./loadstar bench")
    parser.add_argument("--against", metavar="REVISION", help="the same work on another revision too, as ratios")
    parser.add_argument("--growth", action="store_true", help="how the parts of an analysis grow with its wires")
    given = parser.parse_args()
    if given.growth:
        import growth

        return growth.main()
    django.setup()
    if given.against:
        import against

        return against.main(given.against)
    return by_itself()
ANSWERS = {f"quick answer, {name}": query for name, query in (
    ("wire", "q=wire&amount=6.{0}&length_m=1.5"), ("is it enough", "q=wire&amount=6.{0}&length_m=3&area_mm2=1"),
    ("wire in a loom of 6", "q=wire&amount=6.{0}&in_loom=6"), ("48 V", "q=wire&system_v=48&amount=5.{0}"),
    ("fuse of a wire", "q=fuse&area_mm2=1&amps_a=6.{0}"), ("generator", "q=enough&listed=20+{0}"),
    ("end", "q=end&area_mm2=2.5&ambient_c=4{0}"))}


def by_itself() -> int:
    """Print the table."""
    print(f"{'what':44}{'ms':>10}{'ratio':>12}")
    for name, plan, times in (("demo plan", fit_out()[0], 7), ("200-wire plan", wide_plan(), 7),
                              ("2,000-wire plan", wide_plan(970), 1)):
        raw = raw_solve_ms(plan)
        whole = median_ms(lambda plan=plan: analyse(plan), times)  # type: ignore[misc]
        print(f"{'one raw sparse solve, ' + name:44}{raw:10.3f}{1:12.0f}")
        print(f"{f'analysis of all states, {name} ({len(plan.wires)} wires)':44}{whole:10.1f}{whole / raw:12.0f}")
    for name, plan in (("60 wires", sixty_wires()), ("200 wires", _unmeasured(wide_plan()))):
        analysis = analyse(plan)
        start = time.perf_counter()
        found = Outlooks(analysis).outlook()
        taken = time.perf_counter() - start
        print(f"{f'what to measure next, {name}, {len(found.ranked)} figures':44}{taken * 1000:10.0f}")
        start = time.perf_counter()
        likely = Outlooks(analysis).outlook(0.0).likely or ()
        print(f"{f'{len(likely)} of them named beforehand, {name}':44}{(time.perf_counter() - start) * 1000:10.0f}")
        first = Outlooks(analysis).outlook(LOOK_S)
        print(f"{f'of these in the first look of {LOOK_S} s':44}{len(first.ranked):10d}")
    with served() as server, browsing(server.address) as page:
        for name, path in PAGES.items():
            taken = [server_ms(page, path) for _ in range(9)]
            print(f"{'server time, ' + name:44}{statistics.median(taken):10.1f}")
        for name, query in ANSWERS.items():  # typed on: another figure each time, so that nothing is remembered
            taken = [server_ms(page, f"{W}pocket/?{query.format(n)}") for n in range(1, 16)]
            print(f"{'server time, ' + name:44}{statistics.median(taken):10.1f}")
        opened_for_edits(page)
        edits = [edited_ms(page, n) for n in range(20)]
        print(f"{'edit to redrawn in the browser, median of 20':44}{statistics.median(edits):10.0f}")
        print(f"{'edit to redrawn in the browser, worst of 20':44}{max(edits):10.0f}")
    return 0


def server_ms(page: Page, path: str) -> float:
    """What the server says that an answer took."""
    answer = page.request.get(path)
    return float(re.search(r"dur=([\d.]+)", answer.headers["server-timing"]).group(1))  # type: ignore[union-attr]


def _unmeasured(plan: Plan) -> Plan:
    """A plan of which nobody knows what its accessories draw."""
    return plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"marks": {"amount": "typical"}}) if isinstance(p, LoadPart) else p for p in plan.parts)})


# Measured within the page, from the press to the first paint of the new frame: waiting from outside polls too coarsely.
REDRAWN_MS = """() => new Promise((done) => {
  const begun = performance.now();
  new MutationObserver((_, watch) => {
    watch.disconnect();
    requestAnimationFrame(() => done(performance.now() - begun));
  }).observe(document.documentElement, { attributes: true, attributeFilter: ["data-redrawn"] });
  document.getElementById("form-send").click();
})"""


def opened_for_edits(page: Page) -> None:
    """A lamp's form."""
    page.goto(f"{W}p/1/loads/?sel=L2")
    page.wait_for_selector("html[data-redrawn]", state="attached")


def edited_ms(page: Page, n: int) -> float:
    """The lamp's watts changed: from pressing Change until the frame is redrawn."""
    page.locator("details.draws summary").click()
    page.get_by_label("Draws").fill(str(18.5 + n))
    return float(page.evaluate(REDRAWN_MS))


if __name__ == "__main__":
    sys.exit(main())
