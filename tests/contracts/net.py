"""A net: lines by name, as they were when they were last read and agreed, in a file of its own."""

import difflib
import gzip
import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Net:
    """The file it is kept in, and what makes the lines of a name."""

    path: Path
    names: tuple[str, ...]
    of: Callable[[str], Iterable[str]]

    def kept(self) -> dict[str, list[str]]:
        """As agreed."""
        return dict(json.loads(gzip.decompress(self.path.read_bytes()))) if self.path.exists() else {}

    def differs(self, name: str, kept: Mapping[str, list[str]]) -> list[str]:
        """The lines that are other than agreed, with a sign before each."""
        found = difflib.unified_diff(kept.get(name, []), list(self.of(name)), lineterm="", n=0)
        return [line for line in found if line[:1] in "+-" and line[:3] not in ("+++", "---")]

    def write(self) -> int:
        """Keep it as it is now; print what changed."""
        before = self.kept()
        for name in self.names if before else ():
            for line in self.differs(name, before):
                print(f"{name}: {line}")
        now = {name: list(self.of(name)) for name in self.names}
        self.path.write_bytes(gzip.compress(json.dumps(now, ensure_ascii=False, indent=0).encode(), mtime=0))
        return 0
