"""Input/output pairs of the physics made by an independent implementation (tests/reference/data/vectors.json)."""

import json
from pathlib import Path

DATA = Path(__file__).with_name("data")


def calls(function: str) -> list[tuple[list, object]]:
    """All (arguments, result) of one function."""
    everything = json.loads((DATA / "vectors.json").read_text())
    found = [(v["args"], v["result"]) for v in everything if v["fn"] == function]
    assert found, function
    return found


def case(name: str) -> dict:
    """A solved network with the circuit simulator's voltages."""
    return json.loads((DATA / f"{name}.json").read_text())
