"""Shared fuses, leads and connectors, data lines, barrels, what is only believed."""

from typing import Any

import pytest
from builders import Bench, brakes, cure, sentences

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, ChangeElement, CutWire, RemoveElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.plan.model import Plan

# -- fuses, leads, connectors ------------------------------------------------------------------------------------------

@pytest.mark.parametrize(("category", "told"), [("motor", True), ("heating", True), ("lamp", False)])
def test_a_brake_lamp_on_a_fuse_with_something_that_may_blow_it(category, told):
    b, lever, _, _ = brakes()
    lead = b.add("lead", name="shared", place=b.nose, feed=b.block)
    b.change(lever, feed=lead)
    b.load(name="other", category=category, amount=20, feed=lead)
    assert ("brake.shared-fuse" in sentences(b.plan)) == told


def outlet(amps: float, **values: Any) -> Bench:
    b = Bench()
    lead = b.add("lead", name="outlet", place=b.nose, **{"feed": b.block, "rated_a": 10, **values})
    b.load(name="whatever", category="other", behaviour="current", unit="A", amount=amps, feed=lead,
           live=values.get("live", "key"), reason_always="wanted")
    return b


def test_a_shared_lead_is_sized_for_all_that_is_put_there():
    b = outlet(4)
    b.load(name="second", category="other", behaviour="current", unit="A", amount=5, feed="LD1")
    a = analyse(b.plan)
    into = next(w.id for w in b.plan.wires if w.b == "LD1.in")
    assert a.ratings.peak_a(into) == pytest.approx(9, rel=1e-3)
    assert b.plan.fed_from(b.block) == b.plan.loads
    assert a.ratings.rating_a(next(p.id for p in b.plan.parts if p.made_for == "LD1" and p.kind == "fuse")) >= 9 / 0.75


def test_a_contact_that_carries_more_than_it_is_made_for():
    assert "connector.rating" not in sentences(outlet(10).plan)
    assert "10 A" in sentences(outlet(10.5).plan)["connector.rating"]


@pytest.mark.parametrize(("live", "covered", "told"), [("always", False, True), ("always", True, False),
                                                       ("key", False, False)])
def test_a_live_end_is_covered(live, covered, told):
    b = outlet(2, live=live, covered=covered)
    a = analyse(b.plan)
    finding = next((f for f in a.findings if f.rule == "lead.open-live"), None)
    assert bool(finding) == told
    if finding:
        assert cure(finding, a) is not None


def test_a_charging_lead_lets_a_charger_in_while_parked():
    b = Bench()
    b.add("lead", name="charging lead", place=b.nose, feed=b.battery, live="always", use="charging", covered=True,
          charger_a=4)
    a = analyse(b.plan)
    row = next(r for r in a.volts.turns("parked") if "charger" in r.words)
    assert -5.6 < row.battery_a < -3  # into the battery
    assert a.states["parked"].battery_a == pytest.approx(0, abs=1e-6)
    assert "lead.charging-dead" not in sentences(b.plan)
    b.change("LD1", live="key")
    assert "lead.charging-dead" in sentences(b.plan)


def test_a_connector_goes_into_any_wire_and_out_again():
    b = Bench()
    lamp = b.lamp()
    wire = b.feed_wire(lamp)
    b.wire(wire, length_m=1.4, area_mm2=1.5)
    cut = apply(b.plan, CutWire(id=wire, place=b.box))
    made = cut.of_kind("coupling")[0]
    pieces = [w for w in cut.wires if made.id in (w.a.part, w.b.part)]
    assert [w.area_mm2 for w in pieces] == [1.5, 1.5]
    assert [w.length_m for w in pieces] == [None, None]
    whole_v = analyse(b.plan).volts.across_v(lamp, "idle")
    assert analyse(cut).volts.across_v(lamp, "idle") == pytest.approx(whole_v, abs=0.05)
    back = next(w.id for w in cut.wires if w.a == f"{lamp}.neg")
    both = apply(cut, CutWire(id=back, into=made.id))
    with pytest.raises(PlanError):
        apply(both, CutWire(id=wire, into=made.id))  # two ways, both taken
    whole = apply(both, RemoveElement(id=made.id))
    assert [(w.id, w.a, w.b) for w in whole.wires] == [(w.id, w.a, w.b) for w in b.plan.wires]


def test_a_contact_in_the_harness_is_judged_by_its_rating():
    b = Bench()
    lamp = b.lamp(90)
    cut = apply(b.plan, CutWire(id=b.feed_wire(lamp), place=b.box))
    assert "connector.rating" not in sentences(cut)
    assert "connector.rating" in sentences(apply(cut, ChangeElement(id="CN1", values={"rated_a": 6})))


# -- data lines, barrels, beliefs --------------------------------------------------------------------------------------

def data(*wired: str) -> Plan:
    b = Bench()
    for name, place in (("pack", b.box), ("controller", b.nose)):
        b.add("device", name=name, place=place, lines="rx, tx")
    for end in wired:
        b.plan = apply(b.plan, AddWire(a=f"DV1.{end}", b=f"DV2.{end}"))
    return b.plan


def test_a_data_line_that_reaches_nobody_is_told():
    assert sentences(data("rx"))["data.not-carried"] in ("Tx of pack reaches no other device.",
                                                     "Tx of controller reaches no other device.")
    assert "data.not-carried" not in sentences(data("rx", "tx"))


def test_a_data_line_on_the_supply_is_a_stop():
    joined = apply(data("rx", "tx"), AddWire(a="DV1.rx", b="BT1.pos"))
    found = next(f for f in analyse(joined).findings if f.rule == "data.not-carried")
    assert (found.severity, "destroyed" in found.sentence) == ("stop", True)


@pytest.mark.parametrize(("barrel_mm2", "severity"), [(10, "stop"), (16, ""), (35, "caution"), (None, "")])
def test_three_wires_in_one_barrel_add_up(barrel_mm2, severity):
    """Three 4 mm2 fill 120 % of 10 mm2 and 75 % of 16 mm2."""
    b = Bench()
    barrel = b.add("junction", name="barrel", place=b.box, form="one barrel", barrel_mm2=barrel_mm2)
    for _ in range(3):
        b.plan = apply(b.plan, AddWire(a=f"{b.battery}.neg", b=f"{barrel}.t", values={"area_mm2": 4}))
    a = analyse(b.plan)
    found = next((f for f in a.findings if f.rule == "terminal.barrel"), None)
    assert (found.severity if found else "") == severity
    if severity == "stop":
        assert "120 %" in found.sentence
        assert cure(found, a) is not None


def test_what_is_only_said_never_to_be_on_together_counts_and_is_noted():
    b = Bench()
    one, other, third = b.load(name="vest", amount=60), b.load(name="grips", amount=40), b.load(name="pump", amount=50)
    before = analyse(b.plan)
    b.change(one, never_with=(other, third))
    b.change(other, never_with=(one,))
    a = analyse(b.plan)
    assert [f.elements for f in a.findings if f.rule == "belief.together"] == [(one, other), (one, third)]  # each once
    assert a.ledgers == before.ledgers
    assert a.sized.peak_a == before.sized.peak_a
    assert "nothing keeps them apart" in sentences(b.plan)["belief.together"]
    without = apply(b.plan, RemoveElement(id=other))
    assert without.part(one).never_with == (third,)
