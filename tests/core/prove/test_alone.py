"""Each fuse's users alone, each pack alone, the starter's leads while it turns: against hand calculations."""

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.edits import apply
from loadstar.core.edits.builder import Builder
from loadstar.core.intents import INTENTS, asked_for, carried_out
from loadstar.core.plan.model import Plan
from loadstar.core.prove.measure import steps


def by_key(a) -> dict:
    return {s.key: s for s in steps(a)}


def heaters(*watts: float) -> Bench:
    """Heaters straight on the battery, each with its fuse and its switch on the key's wire."""
    b = Bench()
    for n, w in enumerate(watts, 1):
        b.load(name=f"heater {n}", amount=w, at_v=13.5, category="heating", behaviour="resistor", feed=b.battery,
               live="key")
    return b


def test_a_heater_alone_gets_the_battery_s_volts_less_its_own_way():
    """By hand: a resistor R behind the battery's ohms and its own way's; the way's are what it loses with both on over
    its amps then."""
    b = heaters(60, 120)
    a = analyse(b.plan)
    row, battery = a.states["key_on"], b.plan.battery
    found = by_key(a)
    alone = [s for s in found.values() if s.key.startswith("alone.")]
    assert len(alone) == 2 and all(s.row == "key_on" and s.apart and not s.proves for s in alone)
    for load, step in zip(b.plan.loads, alone, strict=True):
        volts, amps = row.solution.across_v(load.at("pos"), load.at("neg")), abs(row.current(load.id))
        way_ohm = (row.posts_v - volts) / amps
        own_ohm = 13.5**2 / load.amount
        by_hand = battery.resting_v * own_ohm / (own_ohm + way_ohm + battery.internal_mohm / 1000)
        assert step.expects.value == pytest.approx(by_hand, abs=0.03)  # what else the key wakes shares the battery
        assert step.expects.value > volts + 0.005
        assert "every other user's fuse out" in step.beware
        keys = list(found)
        assert keys.index(step.key) < keys.index(f"at.{load.id}.key_on")


def test_with_one_fuse_alone_is_together():
    assert not [s for s in steps(analyse(heaters(60).plan)) if s.key.startswith("alone.")]


def test_what_lives_with_the_engine_is_read_where_the_regulator_holds_the_posts():
    """At idle the battery pays: with less on it might not, so nothing is said there."""
    a = analyse(demo.fit_out()[0])
    alone = [s for s in steps(a) if s.key.startswith("alone.")]
    assert {s.row for s in alone} == {"key_on", "cruise"}
    assert len({s.key.split(".")[1] for s in alone}) == len(alone) == 7
    assert a.states["idle"].source != "regulated" and a.states["cruise"].source == "regulated"
    for step in (s for s in alone if s.row == "cruise"):
        assert 13.0 < step.expects.value < a.plan.generator.set_v


@pytest.mark.parametrize("way", ["changeover", "diode", "parallel"])
def test_each_pack_alone_shows_its_own_rested_volts(way):
    plan = begun(Plan(), Wish("cargo e-bike", "48 v"))
    at = plan.places[0].id
    b = Builder("two", apply(plan, carried_out(plan, asked_for(INTENTS["second pack"], {
        **INTENTS["second pack"].usual(plan), "pack_at": at, "joined_at": at, "way": way}))))
    b.change(b.plan.packs[0].id, rested_v=52.0)
    b.change(b.plan.packs[1].id, rested_v=48.5)
    a = analyse(b.plan)
    one, two = (s for s in steps(a) if s.key.startswith("pack."))
    drop = {"diode": 0.03}.get(way, 0.0)  # of an ideal diode at almost no amps
    assert one.expects.value == pytest.approx(52.0 - drop, abs=0.06)
    assert two.expects.value == pytest.approx(48.5 - drop, abs=0.06)
    assert ("turned to" in one.beware) == (way == "changeover")
    assert one.row == "on" and one.apart


def test_one_pack_is_not_read_alone():
    plan = begun(Plan(), Wish("cargo e-bike", "48 v"))
    assert not [s for s in steps(analyse(plan)) if s.key.startswith("pack.")]


def started(cranking_a: float, **marks: str) -> Plan:
    plan = begun(Plan(), Wish("utility bike", "starter"))
    at = {p.name: p.id for p in plan.places}
    some = next(iter(at.values()))
    feed = plan.of_kind("tap")[0].id
    plan = apply(plan, carried_out(plan, asked_for(INTENTS["starter"], {
        "solenoid_at": some, "button_at": some, "starter_at": some, "feed": feed, "safety": "none",
        "safety_at": some})))
    b = Builder("starts", plan)
    b.machine(cranking_a=cranking_a)
    return b.plan


def test_the_starter_s_leads_lose_amps_times_their_ohms():
    plan = started(60)
    a = analyse(plan)
    found = by_key(a)
    row = a.states["cranking"]
    battery = plan.battery
    amps = abs(row.current(next(w.id for w in plan.wires if "ST1" in (w.a.part, w.b.part))))
    assert amps == pytest.approx(60, rel=0.01)
    posts = found["posts.cranking"].expects.value
    assert posts == pytest.approx(row.posts_v, abs=1e-3) and posts < battery.resting_v - 0.5
    lost = found["crank.positive"].expects.value + found["crank.negative"].expects.value
    assert lost == pytest.approx(posts - abs(row.solution.across_v("ST1.pos", "ST1.neg")), abs=0.01)
    assert 0.1 < lost <= plan.rules.starter_drop_v + 1e-6
    assert found["crank.positive"].stage == "Cranking" and not found["crank.positive"].apart


def test_the_band_is_wider_where_nobody_measured_the_starter():
    """A usual current may be off by a quarter, a stated one too; a clamp's reading by a tenth."""
    stated, found = started(60), started(60)
    measured = found.model_copy(update={"machine": found.machine.model_copy(update={"marks": {"cranking_a": "found"}})})
    wide, narrow = (by_key(analyse(p))["crank.positive"].expects for p in (stated, measured))
    assert wide.value == pytest.approx(narrow.value)
    assert wide.spread - narrow.spread == pytest.approx(0.15 * wide.value, rel=1e-6)


def test_a_kick_start_machine_is_not_cranked():
    plan = begun(Plan(), Wish("small motorcycle", "off-road"))
    b = Builder("kicked", plan)
    b.machine(cranking_a=0)
    assert not [s for s in steps(analyse(b.plan)) if s.stage == "Cranking"]
