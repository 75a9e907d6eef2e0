"""What an accessory comes with: a lead of its own gauge, length, box and plug; a rectifier of its own on AC."""

import pytest
from builders import Bench

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import apply
from loadstar.core.intents import carried_out
from loadstar.core.intents.lamps import HeadLamp


def led(b: Bench, **values: object) -> str:
    return b.lamp(18, **values)


def lead_told(b: Bench) -> str:
    found = [f.sentence for f in analyse(b.plan).findings if f.rule == "load.lead-short"]
    assert len(found) <= 1
    return found[0] if found else ""


def way_m(b: Bench, load: str) -> float:
    return max(analyse(b.plan).wires[w.id].length_m for w in b.plan.wires if load in (w.a.part, w.b.part))


def size_at(a: Analysis, b: Bench, load: str) -> float:
    return a.wires[b.feed_wire(load)].area_mm2


def test_a_wire_no_longer_than_the_lead_is_the_lead():
    """1.2 m of run and allowances: 1.4 m of wire; a lead of 2 m is all of it, one of 1 m is none."""
    b = Bench()
    lamp = led(b)
    assert size_at(analyse(b.plan), b, lamp) == 0.5
    b.change(lamp, lead_mm2=1.5, dimensions={"lead_m": 2})
    found = analyse(b.plan).wires[b.feed_wire(lamp)]
    assert (found.area_mm2, found.supplied, found.fixed) == (1.5, True, True)
    b.change(lamp, dimensions={"lead_m": 1})
    assert not analyse(b.plan).wires[b.feed_wire(lamp)].supplied
    b.change(lamp, dimensions={"lead_m": 2})
    b.wire(b.feed_wire(lamp), area_mm2=0.75)
    assert size_at(analyse(b.plan), b, lamp) == 0.75  # what somebody fixes goes first


def test_a_lead_too_thin_for_its_fuse_is_judged_as_the_wire_it_is():
    """18 A: the fuse has to be 25 A; 0.5 mm2 at 40 C is protected by up to 10 A."""
    b = Bench()
    lamp = b.lamp(240, dimensions={"lead_m": 2}, lead_mm2=0.5)
    a = analyse(b.plan)
    wire = b.feed_wire(lamp)
    assert any(f.severity == "stop" and wire in f.elements for f in a.findings)
    b.change(lamp, lead_mm2=None)
    assert not any(f.severity == "stop" and wire in f.elements for f in analyse(b.plan).findings)


@pytest.mark.parametrize(("values", "lead_m", "says"), [
    ({}, 1.0, "lengthen it by 0."), ({"lead_end": "plug"}, 1.0, "with the same plug, or cut the plug off"),
    ({}, 2.0, "with a new termination"), ({"lead_box_m": 0.4}, 2.0, "past its box at 0.40 m"),
    ({"lead_box_m": 1.6}, 2.0, "its box sits 1.60 m from it and has to stay, so do not cut"),
    ({"lead_end": "plug"}, 2.0, "Its plug goes with it."), ({"lead_end": "plug"}, 1.5, "fit the like there"),
    ({"lead_end": "bare"}, 1.5, ""), ({"lead_box_m": 0.4}, 1.5, "")])
def test_what_becomes_of_a_lead(values, lead_m, says):
    b = Bench()
    lamp = led(b, dimensions={"lead_m": lead_m}, **values)
    assert 1.3 < way_m(b, lamp) < 1.5
    assert says in lead_told(b) if says else not lead_told(b)


def test_a_plug_on_a_plug_s_pin_is_no_matter():
    b = Bench()
    led(b, feed=b.key, dimensions={"lead_m": 1.5}, lead_end="plug")
    assert not lead_told(b)


def magneto(**lamp: object) -> Bench:
    """6 V rms at the highest speed behind a clamp, and one LED lamp."""
    b = Bench(generator=False, battery=False)
    b.machine(system="magneto", system_v=6, chassis="winding")
    coil = b.add("coil", name="coil", place=b.box, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38, winding_ohm=0.3,
                 clamp_v=6)
    b.add("load", **{"name": "head", "category": "lamp", "amount": 3, "at_v": 6, "place": b.nose, "feed": coil,
                     "live": "engine", "window_low_v": 4, "window_high_v": 8, **lamp})
    return b


def test_without_a_rectifier_it_is_told_and_with_one_noted():
    a = analyse(magneto().plan)
    found = next(f for f in a.findings if f.rule == "lamp.not-filament")
    assert found.severity == "caution"
    mended = analyse(magneto(rectified=True).plan)
    assert {f.rule for f in mended.findings if f.rule.startswith("lamp.")} == {"lamp.rectified"}


@pytest.mark.parametrize(("high_v", "is_told"), [(7.2, False), (6.8, True)])
def test_behind_its_rectifier_it_gets_the_peak_less_two_diodes(high_v, is_told):
    """By hand: 6 V rms at the coil, 5.9 V at the lamp: 8.3 to 8.5 V less 1.4 V."""
    findings = analyse(magneto(rectified=True, window_high_v=high_v).plan).findings
    assert ("load.outside-window" in {f.rule for f in findings}) is is_told


def test_led_beams_on_a_magneto_are_planned_with_their_rectifiers():
    b = magneto(rectified=True)
    coil = b.plan.of_kind("coil")[0].id
    plan = apply(b.plan, carried_out(b.plan, HeadLamp(lamp_at=b.nose, switch_at=b.box, feed=coil, lamps="power",
                                                      dip_w=5, main_w=6)))
    beams = [p for p in plan.loads if p.name.endswith("beam")]
    assert len(beams) == 2
    assert all(p.rectified for p in beams)
    assert "lamp.not-filament" not in {f.rule for f in analyse(plan).findings}


@pytest.mark.parametrize(("volts", "watts"), [(6, 25.0), (12, None)])
def test_a_head_lamp_is_asked_for_as_the_machine_s_volts_have_it(volts, watts):
    b = Bench()
    b.machine(system_v=volts)
    assert HeadLamp.usual(b.plan).get("dip_w") == watts == HeadLamp.usual(b.plan).get("main_w")
