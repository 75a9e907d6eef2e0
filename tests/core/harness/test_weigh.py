"""A harness against another, branch by branch; what came off; what a covering does to a bundle's heat."""

import math

import numpy as np
import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import RemoveElement, apply
from loadstar.core.figures.registry import working
from loadstar.core.harness.weigh import TakenOff, taken_off, weigh
from loadstar.core.materials.coverings import around
from loadstar.core.physics.bundle import Bundles
from loadstar.core.wiring.thermal import Thermal


def test_a_harness_against_itself_with_one_lamp_less():
    b = Bench()
    b.lamp(30)
    b.lamp(10, name="second")
    less = apply(b.plan, RemoveElement(id="L1"))
    a, c = analyse(b.plan), analyse(less)
    found = weigh(c.loom, a.loom)
    (branch,) = found.branches
    assert branch.name == "box to nose"
    assert branch.there.grams == pytest.approx(working(a, f"run_g/{b.run}").value)
    assert branch.here.grams == pytest.approx(working(c, f"run_g/{b.run}").value)
    assert branch.more.grams < 0 and (branch.here.wires, branch.there.wires) == (2, 4)
    assert found.whole.more.grams == pytest.approx(c.loom.total_g - a.loom.total_g)
    assert found.whole.there.wire_m == pytest.approx(sum(w.length_m for w in a.wires.values()))
    for side in ("here", "there"):  # what is in no branch is within places
        whole, parts = getattr(found.whole, side), [getattr(one, side) for one in (*found.branches, found.within)]
        assert whole.grams == pytest.approx(sum(p.grams for p in parts))
        assert whole.wire_m == pytest.approx(sum(p.wire_m for p in parts))
    assert found.within.there.grams > 0


def test_branches_of_another_plan_are_the_same_by_their_places_names():
    one, two = (analyse(make()[0]).loom for make in (demo.fit_out, demo.winter))
    found = weigh(one, two)
    both = [b for b in found.branches if b.here.wires and b.there.wires]
    assert {b.name for b in both} >= {"under the seat to under the tank", "headstock to under the tank"}
    assert sum(b.more.grams for b in found.branches) + found.within.more.grams == pytest.approx(
        one.total_g - two.total_g)


def test_what_came_off_is_weighed_estimated_or_not_known():
    assert taken_off(demo.tide_race()[0].removed) == TakenOff(2490, 310, 0)
    b = Bench()
    b.add("place", name="shed")
    b.plan = b.plan.model_copy(update={"removed": tuple(
        r.model_copy(update={"mass_g": None}) for r in demo.tide_race()[0].removed)})
    assert taken_off(b.plan.removed) == TakenOff(0, 0, 3)


@pytest.mark.parametrize(("thick_mm", "k"), [(0.5, 0.06), (1.5, 0.05)])
def test_a_covering_adds_its_ring_s_resistance_and_its_surface(thick_mm, k):
    """By hand: Q ln(r_o/r_i) / (2 pi k), Q what all wires make; the ring begins at the bundle's radius."""
    r20, d, od = (np.full((1, 4), v) for v in (0.0185, 1.3, 2.0))
    bare, covered = (Bundles(r20, d, od, 0.21, covers) for covers in ([()], [((thick_mm, k),)]))
    radius = bare.outer_mm[0] / 2
    assert covered.outer_mm[0] == pytest.approx(2 * (radius + thick_mm))
    amps = np.full((1, 4), 0.1)  # so little that warmth changes no resistance
    one, two = (b.balance(amps, np.array([20.0])) for b in (bare, covered))
    ring = math.log((radius + thick_mm) / radius) / (2 * math.pi * k)
    assert two.lift_k - one.lift_k == pytest.approx(4 * 0.01 * 0.0185 * ring, rel=1e-3)


def test_runs_bring_their_coverings_and_heat_sleeves_to_the_heat_model():
    b = Bench()
    b.lamp(60)
    b.lamp(60, name="second")
    covers = {}
    for name, run in (("house", {}), ("bare", {"covering": "bare"}), ("sleeved", {"hot": "heat sleeve"})):
        b.change(b.run, **{"covering": "", "hot": "", **run})
        covers[name] = Thermal(analyse(b.plan).topology).covers
    assert covers == {"house": [around("braided sleeve", heat_sleeve=False)], "bare": [()],
                      "sleeved": [around("braided sleeve", heat_sleeve=True)]}
    assert around("braided sleeve", heat_sleeve=True) == ((0.5, 0.06), (1.5, 0.05))
    assert around("loom tape", heat_sleeve=False) == ((0.5, 0.06),)
