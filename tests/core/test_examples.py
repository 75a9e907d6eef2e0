"""The example plans: each file is what its builder makes, and holds what its story says (bands as given with it)."""

from pathlib import Path

import pytest
from builders import cure

import examples
from loadstar.core.analysis import analyse
from loadstar.core.budget.ledger import break_even_rpm, ledger
from loadstar.core.budget.packs import pack_figures, share_a
from loadstar.core.edits import ChangeElement, apply
from loadstar.core.plan import document
from loadstar.core.wiring.conductor import ConductorAt

FOLDER = Path(__file__).resolve().parents[2] / "examples"


@pytest.fixture(scope="module")
def example():
    kept = {}

    def opened(name):
        if name not in kept:
            kept[name] = analyse(document.from_json((FOLDER / f"{name}.json").read_text()))
        return kept[name]

    return opened


def found(analysis, rule):
    return [f for f in analysis.findings if f.rule == rule]


@pytest.mark.parametrize("name", examples.EXAMPLES)
def test_the_file_is_what_its_builder_makes(name):
    assert (FOLDER / f"{name}.json").read_text() == document.to_json(examples.EXAMPLES[name]()), "run tools/examples.py"


def test_no_file_without_a_builder():
    assert {p.stem for p in FOLDER.glob("*.json")} == set(examples.EXAMPLES)


@pytest.mark.parametrize(("rpm", "watts"), [(1500, 171), (2000, 247), (3000, 307), (7000, 349)])
def test_a_output_over_speed(example, rpm, watts):
    generator = example("a-hungry-at-idle").plan.generator
    assert generator.available_a(rpm, 14.2) * 14.2 == pytest.approx(watts, rel=0.03)


def test_a_demand_break_even_and_what_the_battery_pays(example):
    a = example("a-hungry-at-idle")
    assert a.ledgers["cruise"].demand_a * 14.2 == pytest.approx(308, rel=0.01)
    assert a.break_even_rpm == pytest.approx(3030, rel=0.04)
    assert -ledger(a.plan, "idle").margin_a == pytest.approx(13, rel=0.05)
    heating = frozenset(p.id for p in a.plan.loads if p.category == "heating")
    assert break_even_rpm(a.plan, heating) == pytest.approx(1690, rel=0.04)
    assert found(a, "budget.short")


def test_b_two_users_of_a_plug(example):
    a = example("b-one-plug-two-users")
    charger, pump = a.plan.loads
    assert pump.draws_a(12.0) == pytest.approx(7.9, abs=0.05)
    assert charger.draws_a(12.0) == pytest.approx(3.3, abs=0.05)
    finding, = found(a, "feed.plug-overloaded")
    assert "11.2 A" in finding.sentence or "11.3 A" in finding.sentence
    assert "rated 10 A" in finding.sentence
    assert "add a feed" in finding.sentence
    assert sum(p.draws_a(14.2) for p in a.plan.loads) == pytest.approx(9.5, abs=0.05)


def test_c_six_rings_and_the_bus_bar_that_mends_them(example):
    a = example("c-six-rings")
    finding = found(a, "feed.stud")[0]
    assert finding.sentence.startswith("6 ring terminals")
    assert "5 smaller" in finding.sentence
    mended = apply(a.plan, cure(finding, a))
    post = f"{a.plan.battery.id}.pos"
    assert sum(post in (w.a, w.b) for w in mended.wires) == 2
    bar = next(p for p in mended.parts if p.kind == "junction")
    assert sum(bar.at("t") in (w.a, w.b) for w in mended.wires) == 6
    assert not [f for f in found(analyse(mended), "feed.stud") if "positive" in f.sentence]


def test_d_two_references(example):
    finding, = found(example("d-two-references"), "reference.two-on-frame")
    assert finding.severity == "stop"
    assert "the mounting of Headlamp" in finding.sentence
    for way_out in ("lift the winding's end", "every DC return on its own wire", "half-wave"):
        assert way_out in finding.sentence
    assert not found(analyse(apply(example("d-two-references").plan, cure(finding, example("d-two-references")))),
                     "reference.two-on-frame")


def test_e_converter_stops(example):
    a = example("e-converter-on-a-pack")
    rules = {f.rule: f for f in a.findings if f.severity == "stop"}
    assert set(rules) == {"converter.window-low", "converter.unprotected"}
    assert "Below 48 V" in rules["converter.window-low"].sentence
    assert "approximate" in rules["converter.window-low"].sentence
    converter = a.plan.part("CV1")
    assert converter.input_a(5.0, 54.6) == pytest.approx(1.25, abs=0.005)
    assert converter.input_a(5.0, 48.0) == pytest.approx(1.42, abs=0.005)


def test_e_a_car_fuse_on_a_pack_and_its_cure(example):
    a = example("e-converter-behind-a-32-v-fuse")
    finding, = [f for f in a.findings if f.severity == "stop"]
    assert finding.rule == "fuse.voltage"
    assert not found(analyse(apply(a.plan, cure(finding, a))), "fuse.voltage")


def test_f_two_packs(example):
    a = example("f-second-pack")
    joining = a.pack.joining
    assert joining.equalising_a == pytest.approx(7.7, rel=0.02)
    one, two = (pack_figures(p) for p in a.plan.packs)
    assert (one.ohm, two.ohm) == pytest.approx((0.09, 0.13))
    assert share_a(one, two, 18, "parallel")[0] == pytest.approx(18.4, abs=0.05)
    assert share_a(one, two, 18, "parallel")[1] < 0
    assert share_a(one, two, 18, "diode") == (18.0, 0.0)
    stop, = found(a, "pack.joined")
    assert "within 0.66 V" in stop.sentence
    assert not found(analyse(apply(a.plan, cure(stop, a))), "pack.joined")


@pytest.mark.parametrize(("rpm", "volts"), [(1500, 5.1), (3000, 6.4), (4500, 6.8), (6000, 6.9)])
def test_g_lamps_over_speed(example, rpm, volts):
    assert example("g-magneto-lighting").lamps.at("L1", rpm) == pytest.approx(volts, rel=0.02)


@pytest.mark.parametrize(("rpm", "volts"), [(1500, 10.8), (3000, 20.8)])
def test_g_the_others_when_the_headlamp_fails(example, rpm, volts):
    assert example("g-magneto-lighting").lamps.at_failed("L1", "L3", rpm) == pytest.approx(volts, rel=0.02)


def test_h_total_loss(example):
    found_loss = example("h-total-loss").total_loss
    assert found_loss.empty_min == pytest.approx(158, abs=2)
    assert found_loss.usable_min < found_loss.empty_min
    assert "usable" in found(example("h-total-loss"), "budget.total-loss")[0].sentence


def test_i_thin_and_over_fused(example):
    a = example("i-thin-and-over-fused")
    wire = next(w for w in a.wires.values() if w.fixed)
    assert wire.coordination.steady_c == pytest.approx(118, abs=3)
    assert wire.coordination.limit_a == pytest.approx(14.5, rel=0.04)
    assert found(a, "wire.not-protected")
    ten = analyse(apply(a.plan, ChangeElement(id=wire.guard.fuse, values={"rating_a": 10})))
    assert not found(ten, "wire.not-protected")


@pytest.mark.parametrize(("area", "volts"), [(6.0, 0.48), (16.0, 0.18)])
def test_j_stretched_lead(example, area, volts):
    assert 130 * ConductorAt(area, "thin", "B", False, 0.0).ohm(1.1, 40) == pytest.approx(volts, abs=0.005)
    finding, = found(example("j-stretched-starter-lead"), "starter.drop")
    assert "130 A" in finding.sentence


def test_k_kill_wire(example):
    assert next(f.rule for f in example("k-kill-wire-fed").findings if f.severity == "stop") == "kill.fed"


def test_l_trigger(example):
    finding, = found(example("l-trigger-overloaded"), "feed.trigger-overloaded")
    assert "0.16 A at 14.2 V" in finding.sentence
    for way_out in ("larger coil resistance", "module", "another pin"):
        assert way_out in finding.sentence
