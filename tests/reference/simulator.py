"""The outside judge: netlists sent through ngspice, and their answers compared with the solution."""

import shutil
import subprocess

import pytest

from loadstar.core.analysis import Analysis
from loadstar.exchange.netlist import netlist, node_names

needs_ngspice = pytest.mark.skipif(not shutil.which("ngspice"), reason="ngspice is installed by ./loadstar test")


def run_ngspice(text: str) -> dict[str, float]:
    """Volts that ngspice prints for a netlist, by node."""
    done = subprocess.run(["ngspice", "-b", "/dev/stdin"], input=text, capture_output=True, text=True, check=False)
    said = {line.split("=")[0].strip().partition("(")[2][:-1]: float(line.split("=")[1])
            for line in done.stdout.splitlines() if line.startswith(("v(", "vm("))}
    assert "singular" not in done.stderr.lower(), done.stderr
    assert said, done.stdout + done.stderr
    return said


def assert_agrees(analysis: Analysis, state: str, tolerance_v: float = 1e-6, turn: int = 0) -> None:
    """Every node of a state, at a stand of its switches, has the voltage that ngspice finds for its exported
    netlist."""
    said = run_ngspice(netlist(analysis, state, turn))
    volts = analysis.volts.turns(state)[turn].solution.potential_v
    names = node_names(analysis, state, turn)
    assert {n for n in names.values() if n != "0"} == set(said)
    for name, node in names.items():
        if node != "0":
            assert said[node] == pytest.approx(volts[name], abs=tolerance_v), (state, name)
