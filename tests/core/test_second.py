"""A second 12 V battery: what it gives and takes, what is told of it, and what mends that."""

import pytest
from builders import Bench, cure
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.budget.ledger import ledger, standing_draws
from loadstar.core.edits import ChangeElement, MoveEnd, RemoveWire, apply
from loadstar.core.parts.relay import Relay
from loadstar.core.plan.model import Plan


def camping(always_w: float = 0.02, **values: object) -> tuple[Bench, str, str]:
    """A bench whose fridge hangs on a second battery at the nose, and its own wire to the isolator's coil."""
    b = Bench()
    second = b.add("second_battery", name="camp battery", place=b.nose, **values)
    b.load(name="fridge", amount=always_w, feed=second, live="always", behaviour="power")
    coils = {p.at("86") for p in b.plan.of(Relay) if p.made_for == second}
    return b, second, next((w.id for w in b.plan.wires if w.b in coils), "")


def told(of: Plan) -> dict[str, str]:
    """The sentences about a second battery, by rule."""
    return {f.rule: f.sentence for f in analyse(of).findings if f.rule.startswith("second.")}


def across_v(a: Analysis, state: str, part: str) -> float:
    """Volts between a part's posts in a state."""
    solution = a.states[state].solution
    return solution.across_v(*(a.topology.node(a.plan.part(part).at(end)) for end in ("pos", "neg")))


def test_with_an_isolator_that_lives_with_the_engine_nothing_is_told():
    b, second, _ = camping()
    a = analyse(b.plan)
    assert not told(b.plan)
    assert not [f for f in a.findings if f.severity == "stop"]
    # engine off: its own rested voltage less what the fridge lets fall; engine on: the machine's, less the leads
    assert across_v(a, "parked", second) == pytest.approx(a.plan.part(second).resting_v, abs=0.01)
    assert abs(a.states["cranking"].current(second)) < 0.1
    assert 13 < across_v(a, "cruise", second) < 14.4


@needs_ngspice
@pytest.mark.parametrize("state", ["parked", "key_on", "cranking", "idle", "cruise"])
@pytest.mark.parametrize("isolator", ["engine", "key", "none"])
def test_what_it_gives_and_takes_is_what_ngspice_finds(state, isolator):
    b, _, coil = camping(always_w=20)
    plan = b.plan if isolator == "engine" else apply(
        b.plan, MoveEnd(id=coil, end="a", to=f"{b.key}.pin") if isolator == "key" else RemoveWire(id=coil))
    assert_agrees(analyse(plan), state)


def test_an_isolator_that_never_closes_is_told_and_its_coil_wire_mends_it():
    b, second, coil = camping()
    dead = apply(b.plan, RemoveWire(id=coil))
    assert "takes nothing" in told(dead)["second.not-charged"]
    # what hangs on it still lives from it, and is not told dead
    assert across_v(analyse(dead), "cruise", "L1") > 12
    assert "second.not-charged" not in told(b.plan)
    assert second


def test_what_hangs_on_it_is_judged_from_its_own_posts():
    """Alive on its own battery with the isolator open: no loss of volts on a way that nothing flows on."""
    b, second, coil = camping(always_w=20)
    dead = analyse(apply(b.plan, RemoveWire(id=coil)))
    assert dead.path("L1").root.part == second
    assert dead.volts.drop_frac(dead.plan.part("L1"), "parked") < 0.03
    assert not [f for f in dead.findings if f.rule in ("feed.too-weak", "load.drop", "wire.no-fuse")]


def test_joined_while_the_starter_turns_is_told_and_the_engine_line_mends_it():
    b, _, coil = camping()
    by_key = apply(b.plan, MoveEnd(id=coil, end="a", to=f"{b.key}.pin"))
    assert "While the starter turns" in told(by_key)["second.cranks"]
    assert "second.cranks" not in told(apply(by_key, MoveEnd(id=coil, end="a", to=f"{b.engine}.pin")))


@needs_ngspice
@pytest.mark.parametrize("state", ["parked", "key_on", "cranking", "idle", "cruise"])
def test_behind_a_charging_diode_it_is_what_ngspice_finds(state):
    b, _, _ = camping(always_w=20, joined_by="diode")
    assert_agrees(analyse(b.plan), state)


def test_a_charging_diode_lets_nothing_back_and_costs_its_drop():
    b, second, _ = camping(always_w=20, joined_by="diode")
    a = analyse(b.plan)
    diode = next(p for p in b.plan.parts if p.kind == "charging_diode")
    for state in ("parked", "cranking"):
        assert a.states[state].current(diode.id) == pytest.approx(0, abs=1e-9)
    assert a.states["cruise"].current(diode.id) > 4
    assert "second.cranks" not in told(b.plan)
    # 14.2 V less 0.55 V are 13.65 V: under 13.8 V; an ideal one, or lithium, is not told
    assert "13.65 V" in told(b.plan)["second.not-full"]
    b.change(diode.id, drop_mv=30)
    assert "second.not-full" not in told(b.plan)
    b.change(diode.id, drop_mv=550)
    b.change(second, chemistry="lfp")
    assert "second.not-full" not in told(b.plan)


def test_a_diode_too_small_is_told_and_a_larger_one_cures():
    b, _, _ = camping(joined_by="diode")
    diode = next(p for p in b.plan.parts if p.kind == "charging_diode")
    assert "diode.rating" not in {f.rule for f in analyse(b.plan).findings}
    b.change(diode.id, rated_a=3)
    a = analyse(b.plan)
    edit = cure(next(f for f in a.findings if f.rule == "diode.rating"), a)
    assert edit is not None
    assert "diode.rating" not in {f.rule for f in analyse(apply(b.plan, edit)).findings}


def test_another_way_of_joining_is_made_by_the_form():
    b, second, _ = camping(joined_by="diode")
    before = {w.id for w in b.plan.wires}
    b.change(second, joined_by="isolator")
    assert not [p for p in b.plan.parts if p.kind == "charging_diode"]
    assert b.plan == apply(b.plan, ChangeElement(id=second, values={"name": "camp battery"}))
    assert "second.not-full" not in told(b.plan)
    assert len(before & {w.id for w in b.plan.wires}) > len(before) / 2
    b.change(second, joined_by="nothing")
    assert "second.not-charged" in told(b.plan)


@pytest.mark.parametrize("by", ["isolator", "diode"])
def test_what_one_battery_drives_past_every_fuse_is_not_guarded_by_the_other_one_s(by):
    """The short lead between a post and its fuse: a touch of it is fed by its own battery past every fuse, whatever
    the other battery's fuse sees of it. Before, it was chosen at 25 mm2."""
    b, second, _ = camping(always_w=20, joined_by=by)
    a = analyse(b.plan)
    stubs = [w.id for w in b.plan.wires if f"{second}.pos" in (str(w.a), str(w.b))
             or (w.made_for == second and str(w.a) == f"{b.battery}.pos")]
    assert len(stubs) == 3
    for stub in stubs:
        assert a.wires[stub].area_mm2 <= 2.5
        assert a.wires[stub].guard is None  # and what lies behind it is judged instead
        assert a.wires[stub].behind is not None
    assert not [f for f in a.findings if f.rule.startswith("wire.")]


def test_a_first_current_beyond_the_fuses_is_told_and_the_edit_cures():
    b, second, coil = camping(joined_a=1)
    a = analyse(b.plan)
    found = next(f for f in a.findings if f.rule == "second.rush")
    edit = cure(found, a)
    assert edit is not None
    mended = analyse(apply(b.plan, edit))
    assert not [f for f in mended.findings if f.rule == "second.rush"]
    assert not [f for f in mended.findings if f.severity == "stop"]
    # with the isolator's coil wire gone nothing joins the two, and nothing flows at first
    assert "second.rush" not in told(apply(b.plan, RemoveWire(id=coil)))
    # by hand: volts between, over leads and contacts and what 12 Ah of lead accept: 0.1 ohm
    cruise = a.states["cruise"]
    own_v, its_v = across_v(a, "cruise", b.battery), across_v(a, "cruise", second)
    ohm = (own_v - its_v) / (cruise.current(second) + abs(cruise.current("L1"))) + 0.1
    said_a = float(found.sentence.split("about ")[1].split(" A")[0])
    assert said_a == pytest.approx((own_v - a.plan.part(second).drawn_v) / ohm, abs=0.5)


@pytest.mark.parametrize(("watts", "is_told"), [(0.05, False), (0.2, True)])
def test_days_parked_are_half_its_capacity_over_what_draws_on(watts, is_told):
    """By hand: 12 Ah, half of it, 28 days: 8.9 mA, or 0.11 W at 12.6 V."""
    b, _, _ = camping(always_w=watts)
    assert ("second.flat" in told(b.plan)) is is_told


def test_the_budget_counts_its_charging_and_the_parked_battery_not_its_loads():
    b, second, _ = camping(always_w=20, charge_a=2.5)
    assert next(i.average_a for i in ledger(b.plan, "cruise").items if i.id == second) == 2.5
    assert not any(i.id == second for i in ledger(b.plan, "parked").items)
    assert not any("fridge" in words.lower() for _, words in standing_draws(b.plan, 12.6))
    b.load(name="alarm", amount=1, feed=b.block, live="always")
    assert any("alarm" in words.lower() for _, words in standing_draws(b.plan, 12.6))


def test_what_it_feeds_needs_no_reason_to_be_always_live():
    b, _, _ = camping()
    assert "load.always-live" not in {f.rule for f in analyse(b.plan).findings}
    b.load(name="alarm", amount=1, feed=b.block, live="always")
    assert "load.always-live" in {f.rule for f in analyse(b.plan).findings}


def test_a_fuse_at_its_post_guards_what_hangs_on_it():
    b, second, _ = camping(always_w=20)
    a = analyse(b.plan)
    assert a.wires[b.feed_wire("L1")].guard.opener.part == b.fuse_of("L1")
    fuse = b.fuse_of("L1")
    bare = next(w.id for w in b.plan.wires if w.a == f"{second}.pos" and w.b == f"{fuse}.a")
    b.change(fuse, place=b.box)
    assert any(f.rule == "wire.no-fuse" and bare in f.elements for f in analyse(b.plan).findings)
