"""Lengths, masses, ties and coverings against the reference figures and by hand."""

import itertools
import math

import pytest

from loadstar.core.doc.rules import HouseRules
from loadstar.core.harness.lengths import Steering, cut_m, lay_factor, sweep
from loadstar.core.harness.mass import copper_grams_per_m, grams_per_m
from loadstar.core.harness.ties import tie_points_mm
from loadstar.core.materials.coverings import SLEEVES, shrink_for, sleeve_for, tape_m
from loadstar.core.wiring.conductor import ConductorAt


def test_the_lay_of_the_reference():
    assert lay_factor(4, 100) == pytest.approx(1.031, abs=5e-4)
    assert lay_factor(4, 0) == 1


def test_the_headstock_of_the_reference():
    """a 40, b 120, h 180 mm, 20 degrees, 38 either way."""
    found = sweep(Steering(40, 120, 180, 20, 38))
    assert (found.ahead_mm, found.most_mm, found.least_mm) == pytest.approx((198.4, 208.1, 197.0), abs=0.05)
    assert (found.slack_mm, found.stow_mm) == pytest.approx((9.7, 11.1), abs=0.05)


@pytest.mark.parametrize("steering", [Steering(60, 80, 100, 150, 45), Steering(30, 90, 150, -170, 40),
                                      Steering(50, 50, 20, 0, 35)])
def test_the_sweep_against_every_degree(steering):
    """Brute force: every hundredth of a degree."""
    edge = int(100 * steering.lock_deg)
    every = [steering.length_mm(i / 100) for i in range(-edge, edge + 1)]
    found = sweep(steering)
    assert (found.most_mm, found.least_mm) == pytest.approx((max(every), min(every)), abs=1e-3)


@pytest.mark.parametrize(("length", "cut"), [(1.0, 1.0), (1.001, 1.01), (0.999, 1.0), (0.26, 0.26)])
def test_cut_up_to_the_next_ten_millimetres(length, cut):
    assert cut_m(length) == pytest.approx(cut)


@pytest.mark.parametrize(("area", "grams"), [(0.5, 5.68), (1.0, 10.71), (2.5, 24.28)])
def test_grams_of_the_reference(area, grams):
    wire = ConductorAt(area, "thin", "B", False, 1.0)
    assert grams_per_m(wire) == pytest.approx(grams, abs=0.006)
    assert copper_grams_per_m(wire) < grams_per_m(wire)


@pytest.mark.parametrize(("length", "points"), [
    (40, ()), (80, (40,)), (100, (50,)), (250, (50, 200)), (251, (50, 125.5, 201)), (400, (50, 200, 350))])
def test_ties_beside_break_outs_then_in_equal_steps(length, points):
    assert tie_points_mm(length, 150) == pytest.approx(points)


@pytest.mark.parametrize("length", [120, 333, 700, 2300])
def test_no_two_ties_are_further_apart_than_the_rule(length):
    points = tie_points_mm(length, 150)
    assert max(b - a for a, b in itertools.pairwise(points)) <= 150 + 1e-9


def test_the_smallest_sleeve_whose_range_holds_the_bundle():
    found = sleeve_for(7.8)
    assert found is not None
    assert found.least_mm <= 7.8 <= found.most_mm
    assert all(not s.least_mm <= 7.8 <= s.most_mm for s in SLEEVES if s.nominal_mm < found.nominal_mm)
    assert sleeve_for(200) is None


def test_shrink_tube_by_its_two_diameters():
    found = shrink_for(8)
    assert found is not None
    assert found.supplied_mm >= 8.8
    assert found.recovered_mm <= 7.2
    assert shrink_for(60) is None


def test_tape_at_half_overlap_by_hand():
    """8 mm, 0.25 thick: 26 mm around, 9.5 mm on: 27.6 mm a turn, 105 turns a metre."""
    assert tape_m(1.0, 8.0) == pytest.approx(1000 / 9.5 * math.hypot(math.pi * 8.25, 9.5) / 1000)
    assert tape_m(1.0, 8.0) == pytest.approx(2.9, abs=0.05)


def test_a_run_s_own_covering_goes_before_the_house_rule():
    rules = HouseRules(covering="loom tape")
    assert [rules.covered_with(own) for own in ("", "bare", "PVC tape")] == ["loom tape", "", "PVC tape"]
