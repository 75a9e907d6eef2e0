"""A second 12 V battery: what it gives and takes, what is told of it, and what mends that."""

import pytest
from builders import Bench, cure
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.budget.ledger import ledger, standing_draws
from loadstar.core.edits import MoveEnd, RemoveWire, apply
from loadstar.core.parts.relay import Relay
from loadstar.core.plan.model import Plan


def camping(always_w: float = 0.02, **values: object) -> tuple[Bench, str, str]:
    """A bench whose fridge hangs on a second battery at the nose, and its own wire to the isolator's coil."""
    b = Bench()
    second = b.add("second_battery", name="camp battery", place=b.nose, **values)
    b.load(name="fridge", amount=always_w, feed=second, live="always", behaviour="power")
    isolator = next(p for p in b.plan.of(Relay) if p.made_for == second)
    return b, second, next(w.id for w in b.plan.wires if w.b == isolator.at("86"))


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
    assert "gets nothing" in told(dead)["second.not-charged"]
    # what hangs on it still lives from it, and is not told dead
    assert across_v(analyse(dead), "cruise", "L1") > 12
    assert "second.not-charged" not in told(b.plan)
    assert second


def test_what_hangs_on_it_is_judged_from_its_own_posts():
    """Alive on its own battery with the isolator open: no loss of volts on a way that nothing flows on."""
    b, second, coil = camping(always_w=20)
    dead = analyse(apply(b.plan, RemoveWire(id=coil)))
    assert dead.path("L1").root.part == second
    assert dead.drop_frac(dead.plan.part("L1"), "parked") < 0.03
    assert not [f for f in dead.findings if f.rule in ("feed.too-weak", "load.drop", "wire.no-fuse")]


def test_joined_while_the_starter_turns_is_told_and_the_engine_line_mends_it():
    b, _, coil = camping()
    by_key = apply(b.plan, MoveEnd(id=coil, end="a", to=f"{b.key}.pin"))
    assert "While the starter turns" in told(by_key)["second.cranks"]
    assert "second.cranks" not in told(apply(by_key, MoveEnd(id=coil, end="a", to=f"{b.engine}.pin")))


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
    # by hand: volts between, over leads, contacts and the half empty battery's own resistance
    cruise = a.states["cruise"]
    between_v = across_v(a, "cruise", b.battery) - across_v(a, "cruise", second)
    ohm = between_v / (1 + abs(cruise.current("L1"))) + 0.015 * 1.25
    said_a = float(found.sentence.split("about ")[1].split(" A")[0])
    assert said_a == pytest.approx((across_v(a, "cruise", b.battery) - 12.2) / ohm, rel=0.12)


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
