"""AC lighting to DC, and an isolator in both leads: made whole, and judged on both sides."""

import math

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.edits import apply
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.intents import INTENTS, asked_for, carried_out
from loadstar.core.intents.convert import coil_w
from loadstar.core.parts.coil import Coil
from loadstar.core.parts.generator import Generator
from loadstar.core.plan.model import Plan


def want(plan: Plan, key: str, **values: object) -> Plan:
    """A plan with a whole intent made."""
    return apply(plan, carried_out(plan, asked_for(INTENTS[key], values)))


def magneto(size: str) -> Plan:
    return begun(Plan(), Wish("small motorcycle", size))


def to_dc(plan: Plan, **values: object) -> Plan:
    battery, bars = plan.places[0].id, plan.places[1].id
    return want(plan, "ac to dc", battery_at=battery, regulator_at=battery, main_switch_at=bars, **values)


# -- AC to DC ----------------------------------------------------------------------------------------------------------

def test_a_coil_held_by_its_reactance_gives_the_mean_of_its_short_circuit_current():
    """Into hardly any volts the rectified mean is 2/pi of the peak: 0.9 of E/X in rms (the average of a sine)."""
    coil = Coil(id="C1", name="coil", place="P1", emf_mv_per_rpm=10, reactance_mohm_per_rpm=2, winding_ohm=0.01)
    mean_a = 2 / math.pi * math.sqrt(2) * 10 / 2
    no_v = coil_w(coil, 0.1, 100_000) / 0.1
    assert no_v == pytest.approx(mean_a, rel=0.02)


@pytest.mark.parametrize(("size", "volts"), [("magneto 6", 6), ("magneto 12", 12)])
def test_every_lamp_of_a_magneto_lives_on_a_battery_then(size, volts):
    before = magneto(size)
    plan = to_dc(before)
    assert plan.machine.system == "battery" and plan.machine.chassis == "negative"
    assert plan.battery.nominal_v == volts and plan.one(Coil) is None
    a = analyse(plan)
    key_on = a.states["key_on"]
    for lamp in before.loads:
        watts = abs(key_on.current(lamp.id)) * key_on.solution.across_v(f"{lamp.id}.pos", f"{lamp.id}.neg")
        assert watts == pytest.approx(lamp.amount, rel=0.1)
        assert abs(a.states["parked"].current(lamp.id)) < 1e-6
    assert not [f for f in a.findings if f.severity == "stop"]
    assert {f.rule for f in a.findings} >= {"budget.short"}  # a coil made for AC does not keep a battery


def test_a_stronger_winding_carries_the_lamps_at_cruise():
    a = analyse(to_dc(magneto("magneto 12"), high_w=90, low_w=45))
    short = [f.sentence for f in a.findings if f.rule == "budget.short"]
    assert not any(s.startswith("Cruise") for s in short)
    assert a.plan.one(Generator).standing_of("rating2_w") == "stated"


def test_a_winding_that_stays_on_the_frame_is_rectified_by_half():
    plan = to_dc(magneto("magneto 12"), tied="frame")
    generator = plan.one(Generator)
    assert (generator.rectifier, generator.tied) == ("half", "frame")
    whole = to_dc(magneto("magneto 12")).one(Generator)
    assert generator.rating1_w < whole.rating1_w
    assert whole.standing_of("rating2_w") == "typical"
    assert "supply.half-wave" in {f.rule for f in analyse(plan).findings}


def test_both_references_on_the_frame_are_told():
    """Tied and yet rectified full wave: a diode shorts half of the wave to the frame."""
    b = Builder("tied", to_dc(magneto("magneto 12"), tied="frame"))
    b.change(b.plan.one(Generator).id, rectifier="full")
    assert [f for f in analyse(b.plan).findings if f.severity == "stop" and "frame" in f.sentence]


@pytest.mark.parametrize(("values", "field", "said"), [
    ({"high_w": 20, "low_w": 30}, "high_w", "no more at the higher speed"),
    ({"low_rpm": 500, "low_w": None}, "low_w", "gives 0 W at 500 rpm")])
def test_a_winding_that_cannot_charge_is_refused_beside_its_field(values, field, said):
    with pytest.raises(PlanError) as refused:
        to_dc(magneto("magneto 12"), **values)
    assert [(f.field, said in f.sentence) for f in refused.value.faults] == [(field, True)]


# -- both leads broken -------------------------------------------------------------------------------------------------

def scooter(**values: object) -> tuple[Builder, str]:
    """A 48 V scooter with a converter behind its switch, and a lamp on it; the lamp's id."""
    plan = begun(Plan(), Wish("e-scooter", "48 v"))
    if values.get("tapped") == "drive" and values.pop("drawn", True):
        plan = want(plan, "traction", connector_at=plan.places[0].id)
    plan = want(plan, "converter", converter_at=plan.places[0].id, switch_at=plan.places[1].id, **values)
    b = Builder("scooter", plan)
    lamp = b.add("load", name="lamp", category="lamp", amount=10, at_v=12, window_low_v=9, window_high_v=16,
                 place=plan.places[1].id, feed=plan.of_kind("converter")[0].id, live="key")
    return b, lamp


@pytest.mark.parametrize(("poles", "floats"), [("one", False), ("both", True)])
def test_an_isolator_parts_both_leads_from_the_pack(poles, floats):
    b, lamp = scooter(poles=poles)
    box = b.plan.of_kind("converter")[0].id
    switch = b.plan.of_kind("selector")[0].id
    a = analyse(b.plan)
    assert abs(a.states["on"].current(lamp)) > 0.5
    off = next(r for r in a.volts.rows if r.state == "on" and abs(r.current(lamp)) < 1e-6)
    joined = [e for e in (f"{switch}.c1", f"{switch}.c2") if abs(a.states["on"].current(e)) > 0.1] if floats else []
    assert len(joined) == (2 if floats else 0)
    back = next(w for w in b.plan.wires if f"{box}.inn" in (str(w.a), str(w.b)))
    assert ("SW" in f"{back.a}{back.b}") == floats
    assert abs(off.current(back.id)) < 1e-6
    assert not [f for f in a.findings if f.severity == "stop"]


def test_what_is_fed_at_the_controller_begins_there_with_its_fuse():
    b, lamp = scooter(tapped="drive", poles="both")
    drive = b.plan.of_kind("drive")[0]
    fuse = next(p for p in b.plan.of_kind("fuse") if p.name.startswith("converter"))
    assert fuse.place == drive.place
    begins = next(w for w in b.plan.wires if f"{fuse.id}.a" in (str(w.a), str(w.b)))
    assert f"{drive.id}.pos" in (str(begins.a), str(begins.b))
    assert abs(analyse(b.plan).states["on"].current(lamp)) > 0.5


@pytest.mark.parametrize(("values", "field"), [({"tapped": "drive", "drawn": False}, "tapped"),
                                               ({"order": "before", "poles": "both"}, "poles")])
def test_what_does_not_go_is_said_beside_its_field(values, field):
    with pytest.raises(PlanError) as refused:
        scooter(**values)
    assert [f.field for f in refused.value.faults] == [field]


def test_ratings_that_fit_no_winding_are_told_with_the_leads_drawn():
    """33 W at 3000 rpm and 300 W at 5000 fit no winding of its ohms; the leads from it are on the plan."""
    b = Builder("unfit", to_dc(magneto("magneto 12")))
    b.change(b.plan.generator.id, rating2_w=300)
    a = analyse(b.plan)
    assert a.generator_fault is not None
    assert "supply.generator" in {f.rule for f in a.findings}
    assert a.states["key_on"].solution is not None


def test_a_stronger_winding_is_one_of_the_same_make():
    """Three times the watts at the upper speed: three times at the lower one, a third of the ohms."""
    now, strong = (to_dc(magneto("magneto 12"), **told).one(Generator) for told in ({}, {"high_w": 105}))
    times = 105 / now.rating2_w
    assert strong.rating1_w == pytest.approx(times * now.rating1_w, rel=0.01)
    assert strong.phase_ohm == pytest.approx(now.phase_ohm / times, rel=0.01)
    assert analyse(to_dc(magneto("magneto 12"), high_w=105)).generator_fault is None
