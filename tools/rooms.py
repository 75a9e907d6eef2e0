"""Rooms of the core with the suites that guard them: where `./loadstar mutants` puts faults, and what has to see them.

A suite states what its room promises, needs no database, and runs in under a minute. Paths are of the repository.
"""

from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


@dataclass(frozen=True)
class Room:
    """Modules, and the tests that guard them."""

    modules: tuple[str, ...]
    suite: tuple[str, ...]

    def files(self) -> list[Path]:
        """Its modules, in order."""
        found = (path for name in self.modules for path in sorted((ROOT / "src/loadstar" / "core").glob(name)))
        return [path for path in found if path.name != "__init__.py"]


ROOMS = {
    "quantities": Room(("quantities.py",), ("tests/core/test_quantities.py",)),
    "amounts": Room(("amounts.py",), ("tests/core/test_amounts.py",)),
    "materials": Room(("materials/*.py",), ("tests/reference/test_tables.py", "tests/core/ends/test_terminals.py")),
    "heat": Room(("physics/heat.py", "physics/surface.py", "physics/overload.py", "physics/bundle.py"),
                 ("tests/reference/test_heat.py",)),
    "battery": Room(("physics/battery.py",), ("tests/reference/test_battery.py",)),
    "pins": Room(("ends/pins.py",), ("tests/core/ends/test_pins.py",)),
    "packing": Room(("harness/packing.py",), ("tests/core/harness/test_packing.py",)),
    "lengths": Room(("harness/lengths.py", "harness/loops.py"), ("tests/core/harness/test_lengths.py",)),
    "short": Room(("sizing/short.py",), ("tests/core/test_short.py",)),
    "document": Room(("plan/document.py", "plan/integrity.py"), ("tests/core/test_document.py",)),
    "outside": Room(("plan/outside.py",), ("tests/core/test_outside.py",)),
    "reels": Room(("reels.py",), ("tests/core/ends/test_reels.py",)),
}
