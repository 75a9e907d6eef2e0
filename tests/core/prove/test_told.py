"""What readings say of the machine; that none makes its own verdict; and that what is wrong with a supply is found by
the reading that is meant for it."""

import math
import random
from dataclasses import replace
from pathlib import Path

import pytest

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import TakeReadings, apply
from loadstar.core.plan.document import from_json
from loadstar.core.prove.measure import steps
from loadstar.core.prove.predict import meter_sigma_v
from loadstar.core.prove.results import Shown, posts_v
from loadstar.core.prove.told import told

JOBS = Path(__file__).resolve().parents[3] / "examples" / "jobs"
PLANS = {make.__name__: make for make in (demo.fit_out, demo.winter, demo.tide_hauler, demo.mud_hopper)}


def shown(step, value, **more):
    return Shown(step.key, "", step.quantity, step.row, step.red, step.black, value, step.expects.value,
                 step.expects.spread, 1, "Tern", plain=step.plain, **more)


@pytest.mark.parametrize("name", PLANS)
def test_no_reading_changes_its_own_verdict(name):
    """Every step of a plan, read as expected and off by several bands either way: with that reading known the same
    reading is judged as it was. It was judged by itself, so that a dead regulator passed when it was read twice."""
    a = analyse(PLANS[name]()[0])
    plan = steps(a)
    for step in plan:
        if math.isinf(step.expects.value):
            continue
        for bands in (-20, -3, -1.5, 0, 1.5, 3, 20):
            value = step.expects.value + bands * step.expects.spread
            again = next(s for s in steps(a, posts_v([shown(step, value)])) if s.key == step.key)
            assert again.expects.verdict(value) == step.expects.verdict(value), (step.key, bands)


def sick(what, dice):
    """A machine with something wrong with its supply, solved: its plan as it really is, and the step meant for that."""
    plan, step = demo.winter()[0], "posts.cruise"
    generator, battery = plan.generator, plan.battery
    if what == "generator dead":
        gone = {generator.id: generator.model_copy(update={"rating1_w": 1.0, "rating2_w": 2.0})}
    elif what == "regulator dead":  # shorts what comes: nothing is given
        gone = {generator.id: generator.model_copy(update={"rating1_w": 0.5, "rating2_w": 1.0})}
    elif what == "regulator too high":
        gone = {generator.id: generator.model_copy(update={"set_v": dice.uniform(14.9, 15.5)})}
    else:
        times, step = dice.uniform(2.5, 4.0), "posts.cranking"
        gone = {battery.id: battery.model_copy(update={"internal_mohm": battery.internal_mohm * times})}
    return plan.model_copy(update={"parts": tuple(gone.get(p.id, p) for p in plan.parts)}), step


SICK = ("regulator dead", "regulator too high", "generator dead", "battery tired")


@pytest.mark.parametrize("what", SICK)
def test_what_is_wrong_with_a_supply_is_found_by_the_reading_meant_for_it(what):
    """A hundred readings of each, of machines solved as they really are, with a meter's scatter: not in order at the
    posts, running or cranking, and never made so by being read."""
    dice, sound = random.Random(what), {s.key: s for s in steps(analyse(demo.winter()[0]))}
    for _ in range(10):
        plan, key = sick(what, dice)
        really = next(s for s in steps(analyse(plan)) if s.key == key).expects.value
        for _ in range(10):
            read = really + dice.gauss(0, 0.7) * meter_sigma_v(really)
            assert sound[key].expects.verdict(read) != "in", (what, read, sound[key].expects)
            assert shown(sound[key], read).verdict == sound[key].expects.verdict(read)


def test_sound_machines_are_in_order_at_the_posts():
    """The other side: a thousand readings of the same steps by a meter, of machines as the plan has them."""
    dice, a = random.Random("sound"), analyse(demo.winter()[0])
    for step in (s for s in steps(a) if s.key.startswith("posts.")):
        for _ in range(200):
            read = step.expects.value + dice.gauss(0, 0.7) * meter_sigma_v(step.expects.value)
            assert step.expects.verdict(read) == "in"


def test_what_is_read_at_the_supply_goes_into_the_survey_once():
    a = analyse(demo.winter()[0])
    by_key = {s.key: s for s in steps(a)}
    read = [shown(by_key["posts.parked"], 12.55), shown(by_key["posts.cruise"], 14.1),
            shown(by_key["posts.idle"], 13.2, off=("L1",)), shown(by_key["standing"], 0.004)]
    found = told(a.plan, read)
    assert [(t.quantity, t.state, t.shown.value) for t in found] == [
        ("V", "key_off", 12.55), ("V", "raised", 14.1), ("A", "key_off", 0.004)]
    made = apply(a.plan, TakeReadings(readings=tuple(t.reading(a.plan.supply.id) for t in found)))
    assert made.readings[-1].instrument == "read under Prove by Tern"
    assert told(made, read) == () and told(a.plan, []) == ()
    later = [*read, replace(read[0], value=12.6)]
    assert [t.shown.value for t in told(made, later)] == [12.6]
    magneto = next(p for p in (make()[0] for make in demo.PLANS) if p.supply is not None and p.supply.kind == "coil")
    assert told(magneto, read) == ()  # its volts are AC


@pytest.mark.parametrize(("job", "gates"), [("21-packs-in-parallel", 1), ("09-battery-and-starter", 0)])
def test_two_packs_are_read_apart_before_they_are_joined(job, gates):
    """Joined by a plain lead: within what may flow between them, in order; two and a half times that, out."""
    a = analyse(from_json((JOBS / f"{job}.json").read_bytes()))
    plan = steps(a)
    found = [s for s in plan if s.gate]
    assert len(found) == gates
    for gate in found:
        assert gate.expects.spread == a.pack.joining.may_join_v > 0 and gate.apart and "not joined" in gate.beware
        assert gate.expects.verdict(2.5 * gate.expects.spread) == "out" and gate.expects.verdict(0.0) == "in"
        assert plan.index(gate) < min(n for n, s in enumerate(plan) if s.stage == "Everything on" or s.row == "on")
