"""Small faults put one at a time into rules, sizing and survey: do the tests see them?

    ./loadstar mutants [--number N] [--seed S]

Each fault is a change of one token of sense: a comparison turned or moved by its edge, `and` for `or`, plus for minus,
a figure half as large again (but for those that only allow for the last digits of arithmetic), a `not` left out. They
are drawn evenly over the modules from a seed, so that a run can be repeated. A fault is seen when the core's tests
fail, or no longer end; the sweeps over generated plans are left out, so the share is what the plain tests see. Faults
not seen are listed for someone to judge: a missing test, or a change that changes nothing.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "src" / "loadstar" / "core"
FOLDERS = ("rules", "sizing", "survey")
TESTS = ("tests/contracts", "tests/core", "tests/judgement")  # in the order in which most faults are seen soonest
LONGEST_S = 900

TURNED: dict[type, str] = {
    ast.Lt: ">=", ast.LtE: "<", ast.Gt: "<=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==", ast.Is: "is not",
    ast.IsNot: "is", ast.In: "not in", ast.NotIn: "in", ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*"}


@dataclass(frozen=True)
class Mutant:
    """One change of a module: the characters from `start` to `end` become `text`."""

    path: Path
    start: int
    end: int
    text: str

    def source(self) -> str:
        """The module with the fault in it."""
        whole = self.path.read_text()
        return whole[:self.start] + self.text + whole[self.end:]

    def __str__(self) -> str:
        whole = self.path.read_text()
        number = whole.count("\n", 0, self.start)
        was = " ".join(whole[self.start:self.end].split()) or whole[self.start:self.end]
        return (f"{self.path.relative_to(ROOT)}:{number + 1}: {was!r} -> {self.text.strip()!r}\n"
                f"    {whole.splitlines()[number].strip()}")


def mutants(path: Path) -> Iterator[Mutant]:
    """Every small fault that a module can have, outside its type annotations and its words."""
    whole = path.read_text()
    starts = [0]
    for line in whole.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))
    lines = whole.splitlines()

    def at(line: int, column: int) -> int:
        return starts[line - 1] + len(lines[line - 1].encode()[:column].decode())

    def between(left: ast.expr, right: ast.expr, text: str) -> Mutant:
        assert left.end_lineno is not None and left.end_col_offset is not None
        start, end = at(left.end_lineno, left.end_col_offset), at(right.lineno, right.col_offset)
        kept = whole[start:end]
        lead, tail = kept[:len(kept) - len(kept.lstrip(" )\n"))], kept[len(kept.rstrip(" (\n")):]
        return Mutant(path, start, end, f"{lead}{text}{tail}")

    for node in _sense(ast.parse(whole)):
        match node:
            case ast.Compare(left=left, ops=[op], comparators=[right]) if type(op) in TURNED:
                yield between(left, right, TURNED[type(op)])
            case ast.BinOp(left=left, op=op, right=right) if type(op) in TURNED:
                yield between(left, right, TURNED[type(op)])
            case ast.BoolOp(op=op, values=[left, right, *_]):
                yield between(left, right, "or" if isinstance(op, ast.And) else "and")
            case ast.UnaryOp(op=ast.Not(), operand=operand):
                yield Mutant(path, at(node.lineno, node.col_offset), at(operand.lineno, operand.col_offset), "")
            case ast.Constant(value=int() | float() as value) if not isinstance(value, bool) and not 0 < value < 1e-6:
                assert node.end_lineno is not None and node.end_col_offset is not None
                yield Mutant(path, at(node.lineno, node.col_offset), at(node.end_lineno, node.end_col_offset),
                             repr((value * 1.5 or 1.0) if isinstance(value, float) else value + 1))


def _sense(tree: ast.AST) -> Iterator[ast.AST]:
    """What computes: annotations, f-strings' layouts and the words of a rule are left out."""
    for field, value in ast.iter_fields(tree):
        if field in ("annotation", "returns", "decorator_list", "format_spec"):
            continue
        for child in value if isinstance(value, list) else [value]:
            if isinstance(child, ast.AST):
                yield child
                yield from _sense(child)


def drawn(number: int, seed: int) -> list[Mutant]:
    """So many faults, evenly over the modules."""
    chance = random.Random(seed)
    pools = [list(mutants(path)) for folder in FOLDERS for path in sorted((CORE / folder).glob("*.py"))]
    pools = [pool for pool in pools if pool]
    for pool in pools:
        chance.shuffle(pool)
    found: list[Mutant] = []
    while len(found) < number and any(pools):
        chance.shuffle(pools)
        found += [pool.pop() for pool in pools if pool]
    return found[:number]


def seen(mutant: Mutant, copy: Path) -> bool:
    """Whether the tests of the core see a fault, tried in a copy of the tree."""
    there = copy / mutant.path.relative_to(ROOT)
    there.write_text(mutant.source())
    try:
        return _fails(copy)
    finally:
        shutil.copyfile(mutant.path, there)


def _fails(copy: Path) -> bool:
    environment = {**os.environ, "PYTHONPATH": ":".join(str(copy / d) for d in ("src", "tools", "tests")),
                   "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", "PYTHONDONTWRITEBYTECODE": "1"}
    words = [sys.executable, "-m", "pytest", "-p", "no:django", "-p", "no:cacheprovider", "-W", "ignore", "-x", "-q",
             "-m", "not sweep", *TESTS]
    try:
        return subprocess.run(words, cwd=copy, env=environment, capture_output=True, timeout=LONGEST_S,
                              check=False).returncode != 0
    except subprocess.TimeoutExpired:
        return True


def main() -> int:
    """Try them; print those that were not seen and the share that was. 2 when the tests fail without any fault."""
    parser = argparse.ArgumentParser(prog="./loadstar mutants")
    parser.add_argument("--number", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    workers = os.cpu_count() or 1
    with tempfile.TemporaryDirectory(prefix="loadstar-mutants-") as folder, ThreadPoolExecutor(workers) as pool:
        free: SimpleQueue[Path] = SimpleQueue()
        for n in range(workers):
            copy = Path(folder) / str(n)
            shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns("var", ".git", "__pycache__"))
            free.put(copy)
        if _fails(Path(folder) / "0"):
            print("The tests fail without any fault: mend that first.")
            return 2

        def tried(mutant: Mutant) -> tuple[Mutant, bool]:
            copy = free.get()
            try:
                return mutant, seen(mutant, copy)
            finally:
                free.put(copy)

        unseen, every = [], drawn(given.number, given.seed)
        for done, (mutant, was_seen) in enumerate(pool.map(tried, every), 1):
            if not was_seen:
                unseen.append(mutant)
                print(mutant, flush=True)
            print(f"{done} of {len(every)}, {len(unseen)} not seen", file=sys.stderr, flush=True)
    print(f"{len(every) - len(unseen)} of {len(every)} seen ({1 - len(unseen) / len(every):.0%}), seed {given.seed}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
