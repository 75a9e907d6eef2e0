"""The plan of measurement, and what readings make of a circuit."""

from dataclasses import replace
from pathlib import Path

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import RemoveWire, SetWire, apply
from loadstar.core.plan import document
from loadstar.core.prove.measure import steps
from loadstar.core.prove.results import Shown, latest, posts_v, proofs

JOBS = Path(__file__).resolve().parents[3] / "examples" / "jobs"


def read_all(plan, off=0.0):
    return [Shown(s.key, "", s.quantity, s.row, s.red, s.black,
                  s.expects.value if s.expects.value == float("inf") else s.expects.value + off * s.expects.spread,
                  s.expects.value, s.expects.spread, 1, "Tern", plain=s.plain) for s in plan]


def test_unpowered_first_then_off_then_on_and_each_circuit_is_in_each():
    a = analyse(demo.winter()[0])
    plan = steps(a)
    assert list(dict.fromkeys(s.stage for s in plan)) == [
        "Nothing powered", "Everything off", "Key on", "Cranking", "Idle", "Town", "Cruise"]
    for load in ("L1", "L2"):
        mine = [s.key for s in plan if load in s.proves]
        assert f"back.{load}" in mine and f"dead.{load}" in mine and f"at.{load}.idle" in mine
    assert len({s.key for s in plan}) == len(plan)
    charging = next(s for s in plan if s.key == "posts.cruise")
    assert charging.expects.value == pytest.approx(14.2) and "belts" in charging.beware


def test_what_always_lives_is_read_with_everything_off_and_what_does_not_is_dead():
    a = analyse(demo.fit_out()[0])
    by_key = {s.key: s for s in steps(a)}
    assert by_key["at.L7.parked"].expects.value > 12 and "dead.L7" not in by_key
    assert by_key["dead.L1"].expects.value == pytest.approx(0.0, abs=1e-6)
    assert by_key["dead.L1"].expects.verdict(0.25) == "in" and by_key["dead.L1"].expects.verdict(12.0) == "out"
    standing = by_key["standing"].expects
    assert standing.value == pytest.approx(a.states["parked"].battery_a) and standing.quantity == "A"


def test_a_pack_s_frame_has_to_float():
    plan = steps(analyse(demo.tide_hauler()[0]))
    assert [s.expects.value for s in plan if s.key == "short.F3"] == [float("inf")]
    assert not [s for s in plan if s.key == "floats"]  # nothing of it touches the frame


def test_posts_as_measured_narrow_what_follows():
    """13.9 V where 14.2 were expected: everything in that state by the same share less, and the source's own doubt is
    gone from the band."""
    a = analyse(demo.winter()[0])
    plain, known = ({s.key: s for s in steps(a, posts)} for posts in (None, {"idle": 0.98 * a.states["idle"].posts_v}))
    one, other = plain["at.L1.idle"], known["at.L1.idle"]
    assert other.expects.value == pytest.approx(0.98 * one.expects.value)
    assert other.expects.spread < one.expects.spread
    assert other.plain == one.plain == one.expects.value
    readings = [Shown("posts.idle", "", "V", "idle", "BT1.pos", "BT1.neg", 13.9, 14.2, 0.3)]
    assert posts_v(readings) == {"idle": 13.9}


def test_a_circuit_is_proved_by_every_step_of_it_read_and_in_order():
    a = analyse(demo.winter()[0])
    plan = steps(a)
    found = proofs(a, plan, read_all(plan, 0.5))
    assert all(p.is_proved and p.by == ("Tern",) for p in found.values())
    assert not proofs(a, plan, [])["L1"].is_proved
    some = [r for r in read_all(plan) if r.step != "at.L1.idle"]
    assert [s.key for s in proofs(a, plan, some)["L1"].missing] == ["at.L1.idle"]
    assert proofs(a, plan, some)["L2"].is_proved


def test_of_two_readings_the_later_counts_and_one_that_is_out_is_named():
    a = analyse(demo.winter()[0])
    plan = steps(a)
    readings = read_all(plan)
    bad = replace(next(r for r in readings if r.step == "at.L1.idle"), value=9.0)
    assert bad.verdict == "out"
    found = proofs(a, plan, [*readings, bad])["L1"]
    assert [s.key for s in found.out] == ["at.L1.idle"] and not found.is_proved
    assert proofs(a, plan, [bad, *readings])["L1"].is_proved
    assert latest([bad, *readings])["at.L1.idle"].value != 9.0


def test_a_reading_on_a_plan_that_changed_there_since_is_older():
    """The grips' feed made much longer afterwards: what was read at the grips proves nothing of it; the charger's
    reading still does."""
    plan = demo.winter()[0]
    a = analyse(plan)
    readings = read_all(steps(a))
    wire = next(w.id for w in plan.wires if w.b == "L1.pos")
    longer = analyse(apply(plan, SetWire(id=wire, values={"length_m": 9.0})))
    found = proofs(longer, steps(longer), readings)
    assert "at.L1.idle" in [s.key for s in found["L1"].older] and not found["L1"].is_proved
    assert found["L2"].is_proved


def test_a_circuit_whose_way_is_cut_has_no_steps_and_a_plan_without_supply_none_at_all():
    b = Bench()
    b.lamp()
    b.plan = apply(b.plan, RemoveWire(id=b.feed_wire("L1")))
    a = analyse(b.plan)
    plan = steps(a)
    assert not [s for s in plan if "L1" in s.proves] and not proofs(a, plan, read_all(plan))["L1"].is_proved
    assert steps(analyse(Bench(generator=False, battery=False).plan)) == ()


def test_volts_at_the_posts_are_judged_by_the_plan_whatever_was_read_there():
    """A dead regulator leaves 9.1 V at idle: out, and out again; the others go by what was read."""
    a = analyse(demo.winter()[0])
    first = {s.key: s for s in steps(a)}
    again = {s.key: s for s in steps(a, {"idle": 9.1, "parked": 12.0})}
    for key in ("posts.idle", "posts.parked"):
        assert again[key].expects == first[key].expects
    assert again["posts.idle"].expects.verdict(9.1) == "out"
    assert again["at.L1.idle"].expects.value < first["at.L1.idle"].expects.value - 1


@pytest.mark.parametrize(("make", "ac"), [(demo.ferry_runner, True), (demo.winter, False)])
def test_on_a_magneto_volts_are_read_as_ac(make, ac):
    read = [s for s in steps(analyse(make()[0])) if s.quantity == "V" and not s.key.startswith("ripple.")]
    assert read and {s.ac for s in read} == {ac}


def test_a_battery_that_smooths_no_more_is_asked_for_by_its_ac():
    """A rule of thumb: half a volt of AC at the posts, at a raised speed; none is asked of what has no rectifier."""
    (ripple,) = [s for s in steps(analyse(demo.winter()[0])) if s.key.startswith("ripple.")]
    assert ripple.ac and ripple.apart and (ripple.expects.verdict(0.05), ripple.expects.verdict(1.8)) == ("in", "out")
    assert not [s for s in steps(analyse(demo.ferry_runner()[0])) if s.key.startswith("ripple.")]


@pytest.mark.parametrize(("job", "part", "state"), [
    ("03-pack-leads", "D1", "on"), ("21-packs-in-parallel", "PK2", "on"), ("11-full-electrics", None, None)])
def test_a_circuit_that_no_accessory_has_is_read_once_at_what_it_feeds(job, part, state):
    """Volts there are those at the posts less what its leads lose, by the solved state."""
    plan = document.from_json((JOBS / f"{job}.json").read_bytes())
    a = analyse(plan)
    mains = [s for s in steps(a) if s.key.startswith("main.")]
    assert len({s.key.split(".")[1] for s in mains}) == len(mains)
    assert {s.key.split(".")[1] for s in mains} <= a.mains.keys()
    if part is not None:
        step = next(s for s in mains if s.key == f"main.{part}.{state}")
        row = a.states[state]
        assert step.expects.value == pytest.approx(row.solution.across_v(f"{part}.pos", f"{part}.neg"), abs=1e-3)
        assert a.mains[part].part.name in step.what and not step.apart
