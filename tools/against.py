"""`./loadstar bench --against REVISION`: the same work on two checkouts in one run, one after the other in turn.

Printed are the least and the median of each, by the clock and of the processor, as ratios of this checkout to the
other: under 1 it has become faster. Both run in the environment of this one, on the same database server.
"""

import json
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from bench import PAGES, edited_ms, opened_for_edits
from bench_work import WORK
from demo_server import browser, served, signed_in
from django.db import connection

ROOT = Path(__file__).resolve().parents[1]
ROUNDS = {"analysis, 2,000 wires": 3, "what to measure next, 60 wires": 2}
USUAL_ROUNDS, PAGE_ROUNDS, EDIT_ROUNDS, STARTS = 9, 9, 20, 5
Taken = dict[str, list[float]]


@dataclass
class Side:
    """A checkout, the environment that its code runs in, and what it took, by what was done."""

    name: str
    root: Path
    environment: dict[str, str]
    wall_s: Taken = field(default_factory=dict)
    processor_s: Taken = field(default_factory=dict)

    def took(self, what: str, wall_s: float, processor_s: float | None = None) -> None:
        """One more time."""
        self.wall_s.setdefault(what, []).append(wall_s)
        if processor_s is not None:
            self.processor_s.setdefault(what, []).append(processor_s)


def side(name: str, root: Path, database: str) -> Side:
    """A checkout with a database of its own, by a name that the database's user may take."""
    paths = os.pathsep.join(str(root / part) for part in ("src", "tests", "tools"))
    url = f"{os.environ['LOADSTAR_DATABASE_URL'].rpartition('/')[0]}/{database}"
    return Side(name, root, {**os.environ, "PYTHONPATH": paths, "LOADSTAR_DATABASE_URL": url})


@contextmanager
def checked_out(revision: str) -> Iterator[Path]:
    """The files of a revision, for as long as the context lasts."""
    with tempfile.TemporaryDirectory(prefix="loadstar-against-") as folder:
        packed = subprocess.run(["git", "archive", revision], cwd=ROOT, capture_output=True, check=True).stdout
        subprocess.run(["tar", "-x", "-C", folder], input=packed, check=True)
        yield Path(folder)


@contextmanager
def worker(one: Side) -> Iterator[Callable[[str], list[float]]]:
    """A process of that checkout that does pieces of work."""
    words = [sys.executable, str(ROOT / "tools" / "bench_work.py")]
    with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=one.environment) as ran:
        assert ran.stdin is not None and ran.stdout is not None
        ran.stdout.readline()

        def act(name: str) -> list[float]:
            print(name, file=ran.stdin, flush=True)
            return list(json.loads(ran.stdout.readline()))  # type: ignore[union-attr]
        yield act
        ran.stdin.close()


def computed(sides: list[Side]) -> None:
    """Pieces of work, in turn."""
    with ExitStack() as stack:
        acts = [(one, stack.enter_context(worker(one))) for one in sides]
        for name in WORK:
            for n in range(ROUNDS.get(name, USUAL_ROUNDS)):
                for one, act in acts if n % 2 else acts[::-1]:
                    one.took(name, *act(name))


def prepare(one: Side) -> None:
    """A database with the demonstration."""
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE DATABASE IF NOT EXISTS `{one.environment['LOADSTAR_DATABASE_URL'].rpartition('/')[2]}`")
    for words in (["migrate", "--verbosity=0", "--no-input"], ["prepare", "--demo"]):
        subprocess.run([sys.executable, "-m", "django", *words], env=one.environment, check=True, capture_output=True)


def started(sides: list[Side]) -> None:
    """From nothing to the first page, and what the worker holds then, MB."""
    for _ in range(STARTS):
        for one in sides:
            begun = time.perf_counter()
            with served(one.environment) as server:
                server.first_page()
                one.took("start to first page", time.perf_counter() - begun)
                one.took("memory of a worker at rest, MB", server.worker_mb())


def shown(sides: list[Side]) -> None:
    """Pages and edits, in turn; what the workers hold after that."""
    with ExitStack() as stack:
        servers = [(one, stack.enter_context(served(one.environment))) for one in sides]
        opened = stack.enter_context(browser())
        browsers = [(one, signed_in(opened, server.address)) for one, server in servers]
        for name, path in PAGES.items():
            for _ in range(PAGE_ROUNDS):
                for one, page in browsers:
                    answer = page.request.get(path)
                    told = re.search(r"dur=([\d.]+)", answer.headers["server-timing"])
                    assert told is not None
                    one.took(f"page, {name}", float(told[1]) / 1000)
        for _, page in browsers:
            opened_for_edits(page)
        for n in range(EDIT_ROUNDS):
            for one, page in browsers:
                one.took("edit to redrawn", edited_ms(page, n) / 1000)
        for one, server in servers:
            one.took("memory of a worker after all that, MB", server.worker_mb())


def main(revision: str) -> int:
    """Print the table, each part once it is measured."""
    with checked_out(revision) as other:
        sides = [side("here", ROOT, "test_loadstar_here"), side(revision, other, "test_loadstar_there")]
        print(f"{'what':40}{'here, ms':>10}{revision[:9]:>10}{'ratio of':>10}{'ratio of':>10}{'of the':>11}")
        print(f"{'':40}{'median':>10}{'median':>10}{'medians':>10}{'leasts':>10}{'processor':>11}", flush=True)
        for one in sides:
            prepare(one)
        told: set[str] = set()
        for measure in (started, shown, computed):
            measure(sides)
            tell(sides[0], sides[1], told)
    return 0


def tell(here: Side, there: Side, told: set[str]) -> None:
    """A line for each thing that has not been told yet."""
    for what in [what for what in here.wall_s if what not in told]:
        mine, theirs = here.wall_s[what], there.wall_s[what]
        line = f"{what:40}{_shown(what, mine):10.1f}{_shown(what, theirs):10.1f}"
        line += f"{statistics.median(mine) / statistics.median(theirs):10.2f}{min(mine) / min(theirs):10.2f}"
        if what in here.processor_s:
            line += f"{min(here.processor_s[what]) / min(there.processor_s[what]):11.2f}"
        print(line, flush=True)
        told.add(what)


def _shown(what: str, taken: list[float]) -> float:
    return statistics.median(taken) * (1 if what.endswith("MB") else 1000)
