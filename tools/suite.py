"""A room's suite in a process of its own (`tools/mutants.py`).

What to run comes on the standard input, as JSON: `tests` are paths, `only` the tests of them that are wanted (none:
all), `path` and `source` a module of the room and what stands in its place, `web` whether the room is one of the web's
and needs the database. With `--lines FILE --of PATH ...` it is written to FILE which tests run which lines of these
modules, and how long each takes.
"""

import argparse
import importlib.abc
import importlib.util
import json
import sys
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

import pytest
from rooms import ROOT

SRC = ROOT / "src"
QUIET = ("-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", "-W", "ignore", "-m", "not sweep")


class _Replaced(importlib.abc.MetaPathFinder, importlib.abc.SourceLoader):
    """Gives one module another source."""

    def __init__(self, path: Path, source: str) -> None:
        self.path, self.source = path, source.encode()
        self.name = ".".join(path.relative_to(SRC).with_suffix("").parts)

    def find_spec(self, name, path, target=None):  # type: ignore[no-untyped-def]
        """The module, when it is that one."""
        return importlib.util.spec_from_loader(name, self) if name == self.name else None

    def get_filename(self, fullname: str) -> str:
        """As if it were on the disk."""
        return str(self.path)

    def get_data(self, path: str) -> bytes:
        """The other source."""
        return self.source


class Only:
    """Leaves out every test but some, and takes those in their order."""

    def __init__(self, wanted: list[str]) -> None:
        self.wanted = {test: n for n, test in enumerate(wanted)}

    def pytest_collection_modifyitems(self, items: list[pytest.Item]) -> None:
        """In place, as pytest wants it."""
        items[:] = sorted((item for item in items if item.nodeid in self.wanted), key=lambda i: self.wanted[i.nodeid])


class Lines:
    """Which test runs which line of some modules ("" is what runs while they are imported or a fixture is made), and
    how long each test takes."""

    def __init__(self, modules: list[str]) -> None:
        from coverage import Coverage

        self.coverage = Coverage(data_file=None, include=modules)
        self.coverage.start()
        self.seconds: dict[str, float] = {}

    @pytest.hookimpl(hookwrapper=True)
    def pytest_runtest_call(self, item: pytest.Item) -> Any:
        """The lines that run while a test does are its."""
        self.coverage.switch_context(item.nodeid)
        begun = time.monotonic()
        yield
        self.seconds[item.nodeid] = time.monotonic() - begun
        self.coverage.switch_context("")

    def found(self) -> dict[str, Any]:
        """`ran`: by module and line the tests that ran it; `seconds` of each test."""
        self.coverage.stop()
        data = self.coverage.get_data()
        return {"ran": {path: data.contexts_by_lineno(path) for path in data.measured_files()},
                "seconds": self.seconds}


def main() -> int:
    """Run the suite; 0 where all of it passes."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--lines", type=Path)
    parser.add_argument("--of", nargs="*", default=[])
    given, asked = parser.parse_args(), defaultdict(str, json.load(sys.stdin))
    if asked["path"]:
        sys.meta_path.insert(0, _Replaced(Path(asked["path"]), asked["source"]))
    plugins: list[object] = [Only(list(asked["only"]))] if asked["only"] else []
    lines = Lines(given.of) if given.lines else None
    django = ("--reuse-db",) if asked["web"] else ("-p", "no:django")
    result = int(pytest.main([*QUIET, *django, *asked["tests"]], plugins=[*plugins, *([lines] if lines else [])]))
    if lines:
        given.lines.write_text(json.dumps(lines.found()))
    return result


if __name__ == "__main__":
    sys.exit(main())
