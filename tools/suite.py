"""A room's suite, with one module of the room replaced by what stands on the standard input (`tools/mutants.py`)."""

import importlib.abc
import importlib.util
import sys
from pathlib import Path

import pytest
from rooms import ROOT

SRC = ROOT / "src"


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


def main() -> int:
    """Replace the module that stands on the standard input, if any, and run the tests."""
    path, _, source = sys.stdin.read().partition("\n")
    if path:
        sys.meta_path.insert(0, _Replaced(Path(path), source))
    return int(pytest.main(["-x", "-q", "-p", "no:django", "-p", "no:cacheprovider", "-p", "no:xdist", "-W", "ignore",
                            *sys.argv[1:]]))


if __name__ == "__main__":
    sys.exit(main())
