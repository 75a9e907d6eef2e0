"""Small faults put one at a time into a room: does the room's own suite see them?

    ./loadstar mutants [ROOM ...] [--number N] [--seed S]

The faults are cosmic-ray's (a comparison turned, an operator or a number changed, a `not` or a decorator left out, a
loop not entered, ...), drawn from a seed over the modules of the room (`tools/rooms.py`), but for those that change
nothing that runs: annotations, docstrings, caches, what is frozen. Each is tried in a process of its own in which
the module is replaced, nothing on the disk, by those tests that come by its line. A fault is seen when they fail, or no
longer end. Those that were not are printed for somebody to judge: a missing test, or a change that changes nothing.
"""

import argparse
import ast
import json
import os
import random
import subprocess
import sys
import tempfile
import threading
import time
from bisect import bisect_right
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import accumulate
from pathlib import Path

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names
from rooms import ROOMS, ROOT, Room

# What turns an equal into the same, or back: no change of words and small numbers, which are kept once.
SAME = ("Eq_Is", "NotEq_IsNot", "Is_Eq", "IsNot_NotEq")
LEFT_OUT = ("core/NoOp", "core/VariableReplacer", "core/VariableInserter", "core/ExceptionReplacer",
            *(f"core/ReplaceComparisonOperator_{turned}" for turned in SAME))
CACHES = {"lru_cache", "cache", "cached_property", "property"}
SPENT_S = 60.0  # on one fault: by the quickest tests that come by its line. A slower one might still see it
LONGEST_S = 900.0  # that a suite without a fault may take, watched line by line
TIMES = 3.0  # a suite that takes so much longer than without a fault no longer ends


@dataclass(frozen=True)
class Fault:
    """One change of a module: the module as it then is, the line that changed, and how."""

    path: Path
    source: str
    line: int
    told: str


class _Sense(ast.NodeTransformer):
    """A module without what changes nothing that runs."""

    def visit(self, node: ast.AST) -> ast.AST:
        """Annotations, docstrings, caches, and whether something is frozen, left out."""
        for name in ("annotation", "returns"):
            if hasattr(node, name):
                setattr(node, name, None)
        if isinstance(node, ast.AnnAssign):
            node.annotation = ast.Constant(None)
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            node.decorator_list = [d for d in node.decorator_list if _name(d) not in CACHES]
        if isinstance(node, ast.Call):
            node.keywords = [k for k in node.keywords if k.arg != "frozen"]
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str):
            node.value = ast.Constant("")
        return self.generic_visit(node)


def _name(decorator: ast.expr) -> str:
    node = decorator.func if isinstance(decorator, ast.Call) else decorator
    return node.attr if isinstance(node, ast.Attribute) else getattr(node, "id", "")


def sense(source: str) -> str:
    """What of a module runs."""
    return ast.dump(_Sense().visit(ast.parse(source)))


def places(room: Room) -> Iterator[tuple[Path, str, int]]:
    """Every place for a fault: module, operator, which of its occurrences."""
    for path in room.files():
        nodes = list(ast_nodes(get_ast(path.read_text())))
        for name in sorted(operator_names()):
            if name in LEFT_OUT:
                continue
            operator = get_operator(name)()
            yield from ((path, name, n) for n in range(sum(len(list(operator.mutation_positions(o))) for o in nodes)))


def drawn(room: Room, number: int, seed: int) -> list[Fault]:
    """So many faults that change something."""
    chance, found = random.Random(seed), []
    every = list(places(room))
    chance.shuffle(every)
    for path, name, n in every:
        if len(found) == number:
            break
        whole = path.read_text()
        changed = mutate_code(whole, get_operator(name)(), n)
        try:
            if changed is None or sense(changed) == sense(whole):
                continue
        except SyntaxError:
            continue
        pairs = enumerate(zip(whole.splitlines(), changed.splitlines(), strict=False), 1)
        line, (was, now) = next((n, pair) for n, pair in pairs if pair[0] != pair[1])
        told = f"{path.relative_to(ROOT)}:{line}: {was.strip()}\n    -> {now.strip()}"
        found.append(Fault(path, changed, line, told))
    return found


def suite(asked: dict[str, object], longest_s: float, *options: str) -> float | None:
    """Run a room's suite in a process of its own: how long it took; None where it failed, or did not end."""
    paths = ":".join(str(ROOT / d) for d in ("src", "tests", "tools"))
    environment = {**os.environ, "PYTHONPATH": paths, "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1",
                   "PYTHONDONTWRITEBYTECODE": "1"}
    if "LOADSTAR_DATABASE_URL" in environment:  # each of those that run beside one another has a database of its own
        environment["LOADSTAR_DATABASE_URL"] += f"_{threading.current_thread().name[-1]}"
    words = [sys.executable, str(Path(__file__).with_name("suite.py")), *options]
    begun = time.monotonic()
    try:
        done = subprocess.run(words, input=json.dumps(asked), text=True, capture_output=True, timeout=longest_s,
                              cwd=ROOT, env=environment, check=False)
    except subprocess.TimeoutExpired:
        return None
    return time.monotonic() - begun if done.returncode == 0 else None


class Guard:
    """A room's suite, and which of its tests run which lines: a fault is shown only to those that come by it."""

    def __init__(self, room: Room) -> None:
        self.asked = {"tests": room.suite, "web": room.web}
        with tempfile.NamedTemporaryFile(suffix=".json") as kept, ThreadPoolExecutor(2) as pool:
            modules = [str(path) for path in room.files()]
            watched = pool.submit(suite, self.asked, LONGEST_S, "--lines", kept.name, "--of", *modules)
            self.seconds = pool.submit(suite, self.asked, LONGEST_S).result()
            if watched.result() is None:
                self.seconds = None
            found = json.loads(Path(kept.name).read_text() or '{"ran": {}, "seconds": {}}')
        self.lines, self.times_s = found["ran"], found["seconds"]

    def tests_at(self, fault: Fault) -> list[str] | None:
        """The tests that run the statement, the quickest first; None where it runs while modules are imported or
        fixtures made."""
        ran, lines = self.lines.get(str(fault.path), {}), _statement(fault)
        found = {test for line in lines for test in ran.get(str(line), ())}
        return None if "" in found or not lines else sorted(found, key=lambda test: (self.times_s.get(test, 0.0), test))

    def affordable(self, tests: list[str]) -> list[str]:
        """The first of them that take no longer together than is spent on a fault; one at least."""
        ends = list(accumulate(self.times_s.get(test, 0.0) for test in tests))
        return tests[:max(1, bisect_right(ends, SPENT_S))]

    def sees(self, fault: Fault) -> bool:
        """Whether the suite fails, or no longer ends, with the fault in it."""
        tests = self.tests_at(fault)
        if tests == []:
            return False
        tests = self.affordable(tests or sorted(self.times_s, key=self.times_s.__getitem__))
        asked = {**self.asked, "only": tests, "path": str(fault.path), "source": fault.source}
        return suite(asked, TIMES * min(self.seconds or 0, SPENT_S) + 30) is None


def _statement(fault: Fault) -> range:
    """The lines of the innermost statement around a line, of one with a body those before it; none where the line
    stands between statements, as where a decorator is gone."""
    inside = [node for node in ast.walk(ast.parse(fault.path.read_text()))
              if isinstance(node, ast.stmt) and node.lineno <= fault.line <= (node.end_lineno or 0)]
    if not inside:
        return range(0)
    node = max(inside, key=lambda one: one.lineno)
    body = getattr(node, "body", None)
    return range(node.lineno, body[0].lineno if body else (node.end_lineno or node.lineno) + 1)


def tried(name: str, number: int, seed: int) -> str:
    """A room's line: seconds of its suite, and the share of faults that it sees."""
    guard = Guard(ROOMS[name])
    if guard.seconds is None:
        return f"{name}: its suite fails without any fault, or takes too long to be watched: mend that first"
    faults = drawn(ROOMS[name], number, seed)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        seen = list(pool.map(guard.sees, faults))
    for fault, was_seen in zip(faults, seen, strict=True):
        if not was_seen:
            print(fault.told, flush=True)
    share = sum(seen) / max(len(faults), 1)
    return f"{name}: {guard.seconds:.1f} s, {sum(seen)} of {len(faults)} seen ({share:.0%}), seed {seed}"


def main() -> int:
    """Every room that is named, or all."""
    parser = argparse.ArgumentParser(prog="./loadstar mutants")
    parser.add_argument("rooms", nargs="*", metavar="ROOM", help=", ".join(ROOMS))
    parser.add_argument("--number", type=int, default=40)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    if unknown := set(given.rooms) - ROOMS.keys():
        parser.error(f"no room {min(unknown)}; there are {', '.join(ROOMS)}")
    for name in given.rooms or ROOMS:
        print(tried(name, given.number, given.seed), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
