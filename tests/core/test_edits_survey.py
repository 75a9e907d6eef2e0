"""What is confirmed is found, what is taken out takes its readings along, and a relay is for the machine's volts."""

import pytest
from builders import Bench

from loadstar.core.edits import AddElement, RemoveElement, TakeReadings, Vouch, apply
from loadstar.core.edits.plugs import PutPins, PutPlug
from loadstar.core.edits.standing import set_figure
from loadstar.core.edits.survey import Confirm
from loadstar.core.errors import PlanError


def test_what_is_confirmed_is_found_and_what_is_only_usual_stays_so():
    b = Bench()
    b.change(b.key, standing="believed")
    for field, standing in (("rated_a", "believed"), ("source_mohm", "typical")):
        b.plan = set_figure(b.plan, b.key, field, 3.0 if field == "rated_a" else 60.0, standing)
    after = apply(b.plan, Confirm(ids=(b.key,))).part(b.key)
    assert (after.standing, after.marks) == ("found", {"rated_a": "found", "source_mohm": "typical"})
    vouched = apply(b.plan, Vouch(id=b.key, fields=("source_mohm",))).part(b.key)
    assert vouched.marks == {"rated_a": "believed"}


def test_readings_go_with_what_they_were_taken_at_and_no_others():
    b = Bench()
    tap = b.add("tap", name="spare wire", place=b.nose, live="key", rated_a=3)
    for element in (b.battery, tap, b.key):
        b.plan = apply(b.plan, TakeReadings(readings=({"element": element, "quantity": "V", "state": "key_on",
                                                       "value": 12.1},)))
    left = apply(b.plan, RemoveElement(id=tap))
    assert [r.element for r in left.readings] == [b.battery, b.key]


@pytest.mark.parametrize(("volts", "coil_ohm", "pull_in_v"), [(12, 90.0, 8.0), (6, 22.5, 4.0)])
def test_a_relay_is_for_the_machine_s_volts(volts, coil_ohm, pull_in_v):
    """The same power at half the volts takes a quarter of the ohms."""
    b = Bench(generator=False, battery=False)
    b.machine(system_v=volts)
    battery = b.add("battery", name="battery", place=b.box, nominal_v=volts, capacity_ah=12, internal_mohm=12)
    b.add("tap", name="key wire", place=b.box, live="key", rated_a=3, fused_a=5)
    b.block = battery
    b.load(name="lamp", amount=30, at_v=volts, window_low_v=0, window_high_v=1.3 * volts)
    (relay,) = b.plan.of_kind("relay")
    assert (relay.coil_ohm, relay.pull_in_v) == (coil_ohm, pull_in_v)


@pytest.mark.parametrize("way", [0, 61, True, "1"])
def test_pins_have_a_number_of_their_connector(way):
    b = Bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "plug", "place": b.nose, "ways": 2}))
    plug = b.plan.plugs[0].id
    with pytest.raises(PlanError):
        apply(b.plan, PutPins(pins={plug: ({"way": way, "function": "ground"},)}))
    assert len(apply(b.plan, PutPins(pins={plug: ({"way": 2, "function": "ground"},)})).pins(plug)) == 1


def test_a_plan_without_what_it_hangs_on_takes_nothing():
    with pytest.raises(PlanError):
        apply(Bench(battery=False, generator=False).plan, AddElement(what="load", values={
            "name": "x", "amount": 5, "place": "P1", "feed": "B1"}))
