"""Ways out of too little: each is what the account says of the plan with it made, and only what helps is offered."""

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.budget.ledger import break_even_rpm, ledger
from loadstar.core.edits import apply
from loadstar.core.edits.builder import Builder
from loadstar.core.plan.model import Plan
from loadstar.core.whatif.ways_out import LED_SHARE, ways_out

HEAVY = ("grips", "lamp pair", "usb")


def tourer(*wanted: str) -> Plan:
    return begun(Plan(), Wish("touring motorcycle", "middle", wanted=wanted))


def test_nothing_is_offered_where_nothing_is_short():
    assert ways_out(tourer(), tourer()) == ()
    magneto = begun(Plan(), Wish("small motorcycle", "magneto 12"))
    assert ways_out(magneto, magneto) == ()


def test_each_way_is_the_account_of_the_plan_with_it_made():
    plan = tourer(*HEAVY)
    now_a, ways = ledger(plan, "idle").margin_a, ways_out(plan, plan)
    assert {bool(w.edit) for w in ways} == {True, False}
    for way in ways:
        made, off = (apply(plan, way.edit), frozenset()) if way.edit else (plan, frozenset({way.off}))
        assert way.idle_a == pytest.approx(ledger(made, "idle", off).margin_a) and way.idle_a > now_a
        assert way.cruise_a == pytest.approx(ledger(made, "cruise", off).margin_a)
        assert way.floats_rpm == break_even_rpm(made, off)
    assert [w.idle_a for w in ways] == sorted((w.idle_a for w in ways), reverse=True)


def test_the_winding_is_the_weakest_that_does():
    plan = tourer(*HEAVY)
    way = next(w for w in ways_out(plan, plan) if w.words.startswith("A winding"))
    assert 0 <= way.idle_a < 0.2
    made = apply(plan, way.edit).generator
    weaker = plan.model_copy(update={"parts": tuple(
        made.model_copy(update={"rating1_w": 0.97 * made.rating1_w, "rating2_w": 0.97 * made.rating2_w,
                                "phase_ohm": made.phase_ohm / 0.97}) if p.id == made.id else p for p in plan.parts)})
    assert ledger(weaker, "idle").margin_a < 0


def test_led_lamps_take_a_fifth_and_heat_half_of_the_hour():
    """An LED lamp's watts are summed by hand; only filament lamps become LED."""
    plan = apply_filament(tourer("grips"))
    way = next(w for w in ways_out(plan, plan) if w.words.startswith("LED"))
    made = apply(plan, way.edit)
    lamp = next(p for p in made.loads if p.name == "work lamp")
    assert lamp.behaviour == "power" and lamp.amount == pytest.approx(LED_SHARE * 100)
    saved_a = 0.8 * 100 / ledger(plan, "idle").at_v
    assert way.idle_a - ledger(plan, "idle").margin_a == pytest.approx(saved_a, rel=0.15)
    of_led = tourer("grips", "lamp pair")  # its lamps are LED already
    assert not [w for w in ways_out(of_led, of_led) if w.words.startswith("LED in place")]


def test_what_the_budget_leaves_out_is_left_out_of_every_way():
    """A heater of 150 W that is wired to nothing asks for nothing: as on the page's own account."""
    plan = tourer(*HEAVY)
    b = Builder("unwired", plan)
    b.add("load", alone=True, name="heater", category="heating", behaviour="resistor", amount=150, at_v=13.5,
          place=plan.places[0].id, feed=plan.battery.id, live="key")
    a = analyse(b.plan)
    assert "L4" in b.plan.part_by_id and "L4" not in a.account.part_by_id
    of_both = {w.words: round(w.idle_a, 6) for w in ways_out(b.plan, a.account)}
    without = {w.words: round(w.idle_a, 6) for w in ways_out(plan, plan)}
    assert of_both.pop("Heated grips and heater on for half of the hour") == without.pop(
        "Heated grips on for half of the hour")
    assert of_both == without


def apply_filament(plan: Plan) -> Plan:
    """The plan with a 100 W filament lamp on its battery."""
    b = Builder("filament", plan)
    b.add("load", name="work lamp", category="lamp", behaviour="filament", amount=100, at_v=13.5, window_low_v=0,
          window_high_v=18, place=plan.places[0].id, feed=plan.battery.id, live="key")
    return b.plan
