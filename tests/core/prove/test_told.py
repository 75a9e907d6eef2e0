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
from loadstar.core.prove.bench import Bench
from loadstar.core.prove.faults import Fault
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


def at_posts(a, state, fault):
    """Volts at the posts of a state with a fault."""
    bench = Bench(a)
    red, black = a.source.ends
    found = bench.solve(a.states[state], [fault])
    return float(found.potential[0, bench.node(red)] - found.potential[0, bench.node(black)])


SICK = ("regulator dead", "regulator too high", "generator dead", "battery tired")


@pytest.mark.parametrize("what", SICK)
def test_what_is_wrong_with_a_supply_is_found_by_the_reading_meant_for_it(what):
    """A hundred machines of each, with a meter's scatter: out at the posts, running or cranking. By hand: without
    charging the posts are at the battery's rested volts less what is drawn; a regulator that does not hold lets 15.3 V
    and more through; a tired battery of two and a half times its ohms sags so many times as far."""
    dice, a = random.Random(what), analyse(demo.winter()[0])
    by_key = {s.key: s for s in steps(a)}
    battery, set_v = a.plan.battery, a.plan.generator.set_v
    for _ in range(100):
        if what == "battery tired":
            step = by_key["posts.cranking"]
            sag_v = battery.resting_v - step.expects.value
            value = battery.resting_v - dice.uniform(2.5, 4.0) * sag_v
        elif what == "regulator too high":
            step, value = by_key["posts.cruise"], dice.uniform(15.3, 17.5)
        else:
            step = by_key["posts.cruise"]
            value = battery.resting_v - dice.uniform(0.0, 0.8)
        read = value + dice.gauss(0, 0.7) * meter_sigma_v(value)
        assert abs(read - set_v) > 0.5
        assert step.expects.verdict(read) != "in" and shown(step, read).verdict == step.expects.verdict(read)
        assert step.expects.verdict(read) == "out" or what == "battery tired"


def test_sound_machines_are_in_order_at_the_posts():
    """The other side: a thousand readings of the same steps by a meter, of machines as the plan has them."""
    dice, a = random.Random("sound"), analyse(demo.winter()[0])
    for step in (s for s in steps(a) if s.key.startswith("posts.")):
        for _ in range(200):
            read = step.expects.value + dice.gauss(0, 0.7) * meter_sigma_v(step.expects.value)
            assert step.expects.verdict(read) == "in"


def test_a_fault_of_the_bench_is_of_the_posts_too():
    """The bench's own low battery is seen at the posts with the key on."""
    a = analyse(demo.winter()[0])
    low = Fault("low", "battery", "", 1.0, emf_times=0.9, ohm_times=4.0)
    assert at_posts(a, "key_on", low) < 0.92 * a.states["key_on"].posts_v


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
