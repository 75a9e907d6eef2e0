"""Windings by themselves: a phase missing, turns shorted, an end on the frame, each found by the reading meant for it.

The winding that is measured is a star of three phases or one phase, worked by hand: two phases in series between two
leads, their EMFs 120° apart.
"""

import cmath
import math
import random
from pathlib import Path
from types import SimpleNamespace

import pytest

from loadstar import demo
from loadstar.core.edits import ChangeElement, apply
from loadstar.core.plan import document
from loadstar.core.prove.winding import COLD, checks, coil_checks

JOB = Path(__file__).resolve().parents[3] / "examples/jobs/20-generator.json"


def generators(count):
    """Plans with a generator of random ratings, and a winding that has them."""
    dice, plan = random.Random("winding"), document.from_json(JOB.read_text())
    for _ in range(count):
        low_w = dice.uniform(80, 250)
        values = {"rating1_w": low_w, "rating2_w": low_w * dice.uniform(1.6, 2.6), "phase_ohm": dice.uniform(0.05, 0.4),
                  "rating1_rpm": dice.uniform(1200, 1800), "rating2_rpm": dice.uniform(4500, 6500)}
        yield dice, SimpleNamespace(plan=apply(plan, ChangeElement(id=plan.generator.id, values=values)))


def read(figures, check, phase_ohm, turns=(1.0, 1.0, 1.0)):
    """What the meter shows on a star with such shares of each phase's turns left; 0: it is broken."""
    pins = [p.at("pin") for p in sorted((p for p in figures.plan.parts if getattr(p, "phase", "")), key=lambda p: p.id)]
    ends = [pins.index(end) for end in (check.red, check.black) if end in pins]
    if len(ends) < 2:
        return math.inf  # to the frame: floating
    if any(turns[n] == 0 for n in ends):
        return math.inf if check.expects.quantity == "ohm" else 0.0
    if check.expects.quantity == "ohm":
        return sum(turns[n] for n in ends) * phase_ohm * COLD
    each = [turns[n] * cmath.exp(2j * math.pi * n / 3) for n in ends]
    emf = figures.plan.generator.winding.k_v_per_rpm * figures.plan.machine.rpm(check.state)
    return emf * abs(each[0] - each[1]) / math.sqrt(2)


def test_a_missing_phase_is_found_by_each_pair_it_is_of_and_a_sound_winding_by_none():
    """A hundred random generators, each phase of them broken in turn."""
    tried = 0
    for dice, figures in generators(100):
        own, broken = figures.plan.generator.phase_ohm, dice.randrange(3)
        turns = [0.0 if n == broken else 1.0 for n in range(3)]
        made = list(checks(figures))
        assert {c.state for c in made} == {"", "idle", "cruise"} and len(made) == 3 + 3 + 3 + 3
        pins = sorted(p.id for p in figures.plan.parts if getattr(p, "phase", ""))
        for check in made:
            assert check.expects.verdict(read(figures, check, own)) == "in"
            is_of = pins[broken] in check.key and "frame" not in check.key
            seen = check.expects.verdict(read(figures, check, own, turns))
            assert (seen == "out") if is_of else (seen == "in"), (check, seen)
            tried += is_of
    assert tried == 100 * 6


def test_shorted_turns_and_an_end_on_the_frame_are_found():
    """Half of a phase's turns shorted: its volts fall by a quarter and more at both speeds. To the frame: no ohms."""
    for _, figures in generators(20):
        for check in checks(figures):
            if check.state:
                turns = [0.35, 0.35, 0.35]
                assert check.expects.verdict(read(figures, check, figures.plan.generator.phase_ohm, turns)) == "out"
            elif "frame" in check.key:
                assert check.expects.verdict(0.4) == "out"


@pytest.mark.parametrize("make", [demo.ferry_runner, demo.tide_race])
def test_a_coil_is_read_with_its_lead_off_at_two_speeds(make):
    """By hand: its EMF goes as the speed; loaded it shows less than open."""
    plan = make()[0]
    figures = SimpleNamespace(plan=plan)
    ohm, idle, fast = coil_checks(figures)
    (coil,) = [p for p in plan.parts if p.kind == "coil"]
    assert ohm.expects.value == coil.winding_ohm and not ohm.state
    ratio = plan.machine.rpm("cruise") / plan.machine.rpm("idle")
    assert fast.expects.value == pytest.approx(idle.expects.value * ratio)
    assert idle.expects.value == pytest.approx(coil.emf_mv_per_rpm * plan.machine.rpm("idle") / 1000)
    assert idle.expects.verdict(0.0) == "out" and ohm.expects.verdict(math.inf) == "out"
