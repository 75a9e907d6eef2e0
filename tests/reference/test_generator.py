"""The generator against circuit-simulator transients (data/pm_validation.json) and independent vectors."""

import itertools
import json
import math

import pytest

from loadstar.core.figures.working import Input, evaluate
from loadstar.core.physics.generator import GeneratorError, Winding, explain, identify, output_a
from reference.vectors import DATA, calls

SIMULATED = json.loads((DATA / "pm_validation.json").read_text())
# The simulated diodes (N 0.1, IS 1e-9) drop about 0.058 V each at these currents on top of the 16 V battery.
SHARP_V = 16.0 + 2 * 0.058


def winding(which: str, phases: int) -> Winding:
    """The simulated machine."""
    p = SIMULATED[which]
    return Winding(p["k_V_per_rpm"], 2 * math.pi * p["pole_pairs"] * p["L"] / 60, p["R"], phases)


@pytest.mark.parametrize(("args", "result"), calls("pm3_closed"))
def test_three_phase_vectors(args, result):
    rpm, k, x, r, v = args
    assert output_a(Winding(k, x, r), rpm, v) == pytest.approx(result, rel=1e-6, abs=1e-9)


@pytest.mark.parametrize(("args", "result"), calls("pm1_exact"))
def test_single_phase_vectors(args, result):
    emf, rpm, r, x, v = args
    assert output_a(Winding(emf / rpm, x, r, 1), rpm, v) == pytest.approx(result, rel=1e-6)


@pytest.mark.parametrize("row", SIMULATED["res"]["pm3_sharp"], ids=lambda r: str(r[0]))
def test_three_phase_against_the_simulator(row):
    got = output_a(winding("params3", 3), row[0], SHARP_V)
    # The straight line between the regimes is within 2 % of its upper end; elsewhere within 1 %.
    assert got == pytest.approx(row[3], rel=0.01, abs=0.02 * 22)


@pytest.mark.parametrize("row", [r for r in SIMULATED["res"]["pm1_sharp"] if r[0] >= 2200], ids=lambda r: str(r[0]))
def test_single_phase_against_the_simulator(row):
    assert output_a(winding("params1", 1), row[0], SHARP_V) == pytest.approx(row[2], rel=0.02)


def test_identification_recovers_the_winding():
    made = Winding(0.0095, 0.00033, 0.25)
    ratings = tuple((n, output_a(made, n, 16.1)) for n in (1500, 5000))
    found = identify(ratings, 0.25, 14.2, 0.95, 3)
    assert found.k_v_per_rpm == pytest.approx(made.k_v_per_rpm, rel=1e-4)
    assert found.x_ohm_per_rpm == pytest.approx(made.x_ohm_per_rpm, rel=1e-4)


@pytest.mark.parametrize(("rpm", "watts"), [(1500, 171), (2000, 247), (3000, 307), (7000, 349)])
def test_touring_example(rpm, watts):
    """120 W at 1300 and 340 W at 5000 rpm, both as battery current times 14.2 V; 0.28 ohm hot, 0.95 V a diode."""
    found = identify(((1300, 120 / 14.2), (5000, 340 / 14.2)), 0.28, 14.2, 0.95, 3)
    assert output_a(found, rpm, 16.1) * 14.2 == pytest.approx(watts, rel=0.03)


def test_nothing_below_cut_in():
    w = winding("params3", 3)
    cut_in = 16 / (math.sqrt(3) * w.k_v_per_rpm)
    assert output_a(w, cut_in * 0.999, 16) == 0
    assert 0 < output_a(w, cut_in * 1.02, 16) < 0.5
    assert output_a(w, 0, 16) == 0


@pytest.mark.parametrize("ratings",
                         [((1300, 20.0), (5000, 10.0)), ((1300, 5.0), (1300, 10.0)), ((1000, 1.0), (1100, 60.0))])
def test_ratings_that_fit_no_machine_are_refused(ratings):
    with pytest.raises(GeneratorError):
        identify(ratings, 0.28, 14.2, 0.95, 3)


@pytest.mark.parametrize("phases", [1, 3])
@pytest.mark.parametrize("rpm", [800, 1200, 1350, 1450, 1600, 2000, 3000, 8000])
def test_the_explained_formula_gives_the_output(phases, rpm):
    w = winding("params3" if phases == 3 else "params1", phases)
    formula, inputs = explain(w, rpm, 16.0)
    assert evaluate(formula, [Input(*i) for i in inputs]) == pytest.approx(output_a(w, rpm, 16.0), rel=1e-6, abs=1e-9)


def test_output_rises_with_speed():
    w = winding("params3", 3)
    outputs = [output_a(w, n, 16.0) for n in range(1000, 9000, 100)]
    assert all(b >= a - 1e-9 for a, b in itertools.pairwise(outputs))
    assert outputs[-1] < 3 / math.pi * w.k_v_per_rpm / w.x_ohm_per_rpm
