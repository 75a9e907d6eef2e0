"""What is on, said by whoever reads: against a circuit simulator, and by hand."""

import random
from dataclasses import replace

import pytest
from builders import Bench
from reference.metered import simulated
from reference.simulator import needs_ngspice
from reference.switched import switched
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.errors import PlanError
from loadstar.core.prove.measure import steps
from loadstar.core.prove.predict import Predictor
from loadstar.core.prove.results import Shown, posts_v
from loadstar.core.prove.set import on_then, row_with, with_off


def step_of(a, key):
    return next(s for s in steps(a) if s.key == key)


@needs_ngspice
@pytest.mark.parametrize("seed", seeds(10))
@pytest.mark.parametrize("machine", ["battery", "pack"])
def test_with_some_off_it_is_the_simulator_s(machine, seed):
    """Of a random plan in a random state a random set off; the same network in ngspice, the meter in it
    (LOADSTAR_SWEEP=10 for two hundred)."""
    try:
        a, dice = analyse(switched(machine, seed)), random.Random(f"set/{machine}/{seed}")
    except PlanError:
        pytest.skip("no such plan")
    every = [s for s in steps(a) if on_then(a, s) and not s.key.startswith("delay.")]
    if not every:
        pytest.skip("nothing is ever on")
    step = dice.choice(every)
    off = {p.id for p in on_then(a, step) if dice.random() < 0.5} or {on_then(a, step)[0].id}
    row, found = row_with(a, step.row, off), with_off(a, step, off)
    if row is None:
        pytest.skip("no solution with these off")
    state = {**a.sized.states, row.state: row} if not row.turned else a.sized.states
    others = tuple(row if (r.state, r.stands) == (row.state, row.stands) else r for r in a.sized.alternates)
    then = replace(a, sized=replace(a.sized, states=state, alternates=others))
    expected = simulated(then, row, step.red, step.black, Predictor(then))
    assert found.expects.value == pytest.approx(expected, abs=1e-6) and found.off == tuple(sorted(off))


def test_a_healthy_machine_with_its_inflator_off_shows_what_its_regulator_holds():
    """By hand: an inflator of 40 A asks for more than the generator gives at cruise, and the posts fall to the
    battery's; with it off they are at the set-point. What was read as 14.2 V was "out" before."""
    b = Bench()
    b.lamp(5)
    b.load(name="inflator", amount=40, unit="A", behaviour="current", category="motor")
    a = analyse(b.plan)
    step = step_of(a, "posts.cruise")
    assert step.expects.value < 13 and step.expects.verdict(14.2) == "out"
    alone = with_off(a, step, [p.id for p in b.plan.loads if p.name == "inflator"])
    set_v = b.plan.generator.set_v
    assert alone.expects.value == pytest.approx(set_v, abs=0.02) and alone.expects.verdict(14.2) == "in"
    assert alone.plain == step.plain and alone.key == step.key  # still a reading of the plan as it is


def test_what_is_off_is_none_of_what_is_on_and_nothing_is_said_of_what_is_unplugged():
    a = analyse(demo.fit_out()[0])
    by_key = {s.key: s for s in steps(a)}
    on = [p.id for p in on_then(a, by_key["posts.idle"])]
    assert "L1" in on and on_then(a, by_key["back.L1"]) == ()
    assert all(on_then(a, s) == () for s in by_key.values() if s.apart or s.quantity != "V")
    assert with_off(a, by_key["posts.idle"], ["L99", "B1"]) == by_key["posts.idle"]
    assert with_off(a, by_key["back.L1"], ["L1"]) == by_key["back.L1"]


def test_what_a_reading_proves_cannot_be_off_for_it():
    """Without its own current its way loses nothing: a joint as bad as any would be in order."""
    a = analyse(demo.fit_out()[0])
    for step in (s for s in steps(a) if s.proves and s.key.startswith(("at.", "drop."))):
        assert not {p.id for p in on_then(a, step)} & set(step.proves)
        assert with_off(a, step, step.proves) == step


def test_posts_read_with_something_off_move_no_other_prediction():
    read = Shown("posts.idle", "", "V", "idle", "BT1.pos", "BT1.neg", 14.1, 14.2, 0.3, off=("L2",))
    assert posts_v([read]) == {} and posts_v([replace(read, off=())]) == {"idle": 14.1}
