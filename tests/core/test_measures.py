"""How figures are measured, by hand; what the readings at the posts say, each sentence on both sides of its limit."""

from types import SimpleNamespace

import pytest
from builders import Bench

from loadstar.core.edits import TakeReadings, apply
from loadstar.core.errors import PlanError
from loadstar.core.survey.health import judged, rested_charge, standing_hours
from loadstar.core.survey.measures import MEASURES


@pytest.mark.parametrize(("of", "field", "shown", "value"), [
    ("generator", "rating1_w", {"I": 10, "U": 13}, 130),
    ("generator", "phase_ohm", {"R": 0.5}, 0.25),
    ("battery", "internal_mohm", {"U_0": 12.7, "U_1": 10.7, "I": 100}, 20),
    ("tap", "source_mohm", {"U_0": 12.5, "U_1": 12.32, "I": 1.8}, 100),
    ("machine", "cranking_a", {"I": 87}, 87),
    ("own", "power_w", {"I_1": 7.5, "I_0": 0.5, "U": 12}, 84),
    ("run", "length_m", {"L": 1.35}, 1.35),
    ("drive", "full_w", {"I": 11, "U": 50}, 550),
    # 30 Ah of five strings side by side; 4 V at 20 A are 200 mohm, less 20 of its leads, of 13 in series and 5 beside.
    ("pack", "cell_ah", {"x": 30}, 6),
    ("pack", "cell_mohm", {"U_0": 50, "U_1": 46, "I": 20}, 180 * 5 / 13),
    # 30 V at 4,000 rpm; 30 V over 2.4 A are 12.5 ohm, of which 3.5 are the winding's at right angles: 12.
    ("coil", "emf_mv_per_rpm", {"U": 30, "n": 4000}, 7.5),
    ("coil", "reactance_mohm_per_rpm", {"U": 30, "I": 2.4, "n": 4000}, 3.0),
    ("coil", "reactance_mohm_per_rpm", {"U": 3, "I": 1, "n": 4000}, 0.0),
    ("coil", "winding_ohm", {"R": 0.4}, 0.4), ("load", "amount", {"x": 36}, 36)])
def test_by_hand(of, field, shown, value):
    part = SimpleNamespace(parallel=5, series=13, extra_mohm=20, winding_ohm=3.5)
    measure = MEASURES[of, field]
    assert measure.value(part, shown) == pytest.approx(value)
    assert {one.symbol for one in measure.shown} == shown.keys()


def test_without_amps_nothing_can_be_worked_out():
    with pytest.raises(PlanError, match="take the reading again under load"):
        MEASURES["battery", "internal_mohm"].value(SimpleNamespace(), {"U_0": 12, "U_1": 12, "I": 0})


def at_posts(*rows, **battery):
    """A plan with readings at the battery's posts."""
    b = Bench()
    b.change(b.battery, **battery)
    readings = tuple({"element": b.battery, "quantity": q, "state": s, "value": v} for q, s, v in rows)
    return apply(b.plan, TakeReadings(readings=readings))


def severity(*rows, **battery):
    """What is said of the last of some readings: its severity, "none" where it is in order."""
    found = [one for one in judged(at_posts(*rows, **battery)) if one.reading.value == rows[-1][2]]
    return [one.severity or "none" for one in found]


LEAD = {"chemistry": "flooded", "nominal_v": 12}


@pytest.mark.parametrize(("rows", "good", "bad", "battery"), [
    # Rested: below 75 % (12.5 V of a flooded battery) it wants charging, below 40 % it suffers.
    ([], ("V", "key_off", 12.51), ("V", "key_off", 12.45), LEAD),
    # While cranking: the house rule's 9.6 V.
    ([], ("V", "cranking", 9.61), ("V", "cranking", 9.59), LEAD),
    # Charging at idle: 13.2 V; of lithium iron phosphate at a raised speed 13.6 V.
    ([("V", "key_off", 12.6)], ("V", "raised", 14.2), ("V", "raised", 13.0), LEAD),
    ([("V", "key_off", 12.6)], ("V", "raised", 14.2), ("V", "raised", 15.2), LEAD),
    # 50 mA are the most that stand; the battery lasts the house rule's four weeks.
    ([("V", "key_off", 12.7)], ("A", "key_off", 0.001), ("A", "key_off", 0.3), LEAD)])
def test_each_reading_on_both_sides(rows, good, bad, battery):
    assert severity(*rows, good, **battery) == ["none"]
    assert severity(*rows, bad, **battery)[0] in ("advice", "caution", "stop")


def test_charge_by_the_rested_volts():
    """Of a flooded battery 12.25 V are half of it; the two points that it lies between are the published ones."""
    charge, reading, (low, high) = rested_charge(at_posts(("V", "key_off", 12.30), **LEAD))
    assert charge == pytest.approx(0.55)
    assert (reading.value, low, high) == (12.30, (0.50, 12.25), (0.75, 12.50))
    assert rested_charge(Bench().plan) is None


def test_how_long_it_stands_by_hand():
    """12 Ah at 100 %: usable is what lies above the least that cranks; 10 mA and 6 % of 12 Ah a month take it."""
    plan = at_posts(("V", "key_off", 12.73), ("A", "key_off", -0.010), **LEAD)
    hours, usable, reading = standing_hours(plan)
    assert reading.value == -0.010
    assert 0 < usable < 12
    assert hours == pytest.approx(usable / (0.010 + 0.06 * 12 / 730.5))
    assert standing_hours(at_posts(("V", "key_off", 12.73))) is None
    dead = at_posts(("A", "key_off", 0.01), internal_mohm=100, **LEAD)
    assert standing_hours(dead)[:2] == (0, 0)


@pytest.mark.parametrize(("amps", "says"), [(0.3, "hours"), (0.05, "days"), (0.01, "days")])
def test_how_long_is_said_in_hours_below_two_days_and_in_days_above(amps, says):
    found = [one for one in judged(at_posts(("V", "key_off", 12.7), ("A", "key_off", amps), **LEAD))
             if one.reading.quantity == "A"]
    hours, _, _ = standing_hours(at_posts(("V", "key_off", 12.7), ("A", "key_off", amps), **LEAD))
    (one,) = found
    expected = f"{hours:.0f} hours" if hours < 48 else f"{hours / 24:.0f} days"
    assert expected in one.sentence and says in expected, one.sentence
