"""Small rooms: no file over 300 lines, no function over 40, no parameter list over 6, no template line over 160; and
every module in one room that has a suite (`tools/rooms.py`).

    python tools/house.py        lists what is not so, and ends with 1 when anything is

Counted are the lines of a file or function as it stands, docstring and all; of parameters all but `self` and `cls`.
Migrations, and what others wrote, are left out.
"""

import ast
import sys
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from rooms import ROOMS, ROOT

FILE, FUNCTION, PARAMETERS, TEMPLATE = 300, 40, 6, 160
WHERE = ("src", "tools", "tests")
LEFT_OUT = {"migrations", "vendor", "node_modules"}


def files(*kinds: str) -> list[Path]:
    """Every file of ours of these kinds, of the program, its tools and its tests."""
    found = (path for top in WHERE for kind in kinds for path in sorted((ROOT / top).rglob(f"*.{kind}")))
    return [path for path in found if not LEFT_OUT & set(path.parts)]


def functions(tree: ast.Module) -> Iterator[tuple[ast.FunctionDef | ast.AsyncFunctionDef, int, int]]:
    """Each with its lines and its parameters."""
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            given = node.args
            first = [*given.posonlyargs, *given.args][:1]
            own = bool(first) and first[0].arg in ("self", "cls")
            count = len(given.posonlyargs) + len(given.args) + len(given.kwonlyargs) - own
            yield node, (node.end_lineno or node.lineno) - node.lineno + 1, count


def over() -> Iterator[str]:
    """What is larger than it may be."""
    for path in files("py", "js"):
        text, name = path.read_text(), path.relative_to(ROOT)
        if (count := text.count("\n")) > FILE:
            yield f"{name}: {count} lines, at most {FILE}"
        for node, lines, parameters in functions(ast.parse(text)) if path.suffix == ".py" else ():
            if lines > FUNCTION:
                yield f"{name}:{node.lineno}: {node.name} has {lines} lines, at most {FUNCTION}"
            if parameters > PARAMETERS:
                yield f"{name}:{node.lineno}: {node.name} takes {parameters}, at most {PARAMETERS}"
    for path in files("html"):
        for number, line in enumerate(path.read_text().splitlines(), 1):
            if len(line) > TEMPLATE:
                yield f"{path.relative_to(ROOT)}:{number}: {len(line)} characters, at most {TEMPLATE}"


def homeless() -> Iterator[str]:
    """Modules that stand in no room, or in two, and suites that are not there."""
    rooms = Counter(path for room in ROOMS.values() for path in room.files())
    for path in files("py"):
        if path.is_relative_to(ROOT / "src") and path.name != "__init__.py" and rooms[path] != 1:
            yield f"{path.relative_to(ROOT)}: stands in {rooms[path]} rooms of tools/rooms.py, not in one"
    for name, room in ROOMS.items():
        yield from (f"tools/rooms.py: {name}: there is no {test}" for test in room.suite
                    if not (ROOT / test.partition("::")[0]).exists())


def main() -> int:
    """1 when anything is not so."""
    found = [*over(), *homeless()]
    print("\n".join(found))
    return int(bool(found))


if __name__ == "__main__":
    sys.exit(main())
