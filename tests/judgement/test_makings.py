"""What Loadstar makes on a begun machine it does not complain of: a sample here, all of it by tools/sweep.py."""

import random

import pytest
from judgement import own_makings
from judgement.limits import six_volts
from judgement.own_makings import Case, cases, made
from sweeps import seeds

from loadstar.core.analysis import analyse
from loadstar.core.build.whole import work
from loadstar.core.order import order

EACH = 12


def test_there_are_pairs_of_everything_on_every_machine():
    every = list(cases())
    assert len(every) == len(set(every)) > 10_000
    assert len({(c.kind, c.size) for c in every}) == 21
    assert {len(c.wanted) + len(c.chosen) for c in every} == {0, 1, 2}


@pytest.mark.sweep
@pytest.mark.parametrize("seed", seeds(4))
def test_own_makings_are_not_complained_of(seed):
    for case in random.Random(f"makings/{seed}").sample(list(cases()), EACH):
        assert own_makings.wrong(made(case)) == [], str(case)


def test_a_horn_has_its_button_and_a_brake_lamp_its_switch():
    horn = made(Case("scooter", "small", ("horn", "loud horn"), ()))
    button, = horn.of_kind("selector")
    assert (button.use, button.positions) == ("button", "off; horn: in+out")
    assert [load.live for load in horn.loads] == ["horn", "horn"]
    assert [r.name for r in horn.of_kind("relay") if r.made_for in {load.id for load in horn.loads}] == [
        "Loud horn with compressor relay"]  # of the loud one: 12 A are too much for a button
    lamp = next(p for p in made(Case("small motorcycle", "magneto 6", ("magneto stop",), ())).loads
                if p.usual == "magneto stop")
    assert lamp.live == "brake"


def test_lamps_on_a_pack_hang_on_a_converter_that_has_enough_for_them():
    one = made(Case("cargo e-bike", "48 v", (), ("head lamp",)))
    box, = one.of_kind("converter")
    assert all(one.hangs_on(load) == box.id for load in one.loads)
    port, = one.of_kind("port")  # of 17 W: not for 20 W, but for what blinks
    two = made(Case("cargo e-bike", "48 v", (), ("indicators", "head lamp")))
    assert [two.hangs_on(load) for load in two.loads] == [port.id] * 4 + [two.of_kind("converter")[0].id] * 2
    more = made(Case("cargo e-bike", "48 v", (), ("head lamp", "outlet")))
    assert [c.rated_a for c in more.of_kind("converter")] == [3, 10]  # the lamp leaves no 5 A of 3
    brake = made(Case("cargo e-bike", "48 v", (), ("head lamp", "brake lamp")))
    assert len(brake.of_kind("converter")) == 1


def test_each_pack_fuse_breaks_what_the_other_pack_drives_but_on_a_changeover():
    unlike = {way: made(Case("cargo e-bike", "36 v", (), (f"second pack -3 by {way}",))) for way in (
        "diode", "changeover")}
    breaks = {way: [f.volts_v for f in plan.of_kind("fuse")] for way, plan in unlike.items()}
    assert breaks == {"diode": [58, 58], "changeover": [58, 32]}


def test_wire_of_a_high_pack_is_ordered_of_its_class():
    plan = made(Case("e-scooter", "60 v", ("bike lamp bright",), ()))
    of_600_v = {w for i in order(analyse(plan)).items if i.what.endswith("600 V class") for w, _ in i.pieces}
    before = {w.id for w in plan.wires if {w.a.name, w.b.name} & {"inp", "inn"} or "PK1" in (w.a.part, w.b.part)}
    assert of_600_v == before  # and none behind the converter
    assert [i.what for i in order(analyse(plan)).items if i.what.startswith("blade fuse")] == ["blade fuse 1 A, 80 V"]
    assert 0 < len(before) < len(plan.wires)
    cut = {o.element: o.words for o in work(analyse(plan)).operations.values() if o.kind == "cut"}
    assert {w for w, words in cut.items() if "600 V class" in words} == before


def test_a_relay_on_six_volts_has_a_coil_for_them():
    relay, = six_volts().of_kind("relay")
    assert (relay.pull_in_v, relay.coil_ohm) == (4.0, 22.5)


def test_what_follows_from_joining_unlike_packs_lies_beneath_it():
    a = analyse(made(Case("trail e-bike", "36 v", (), ("second pack -3 by parallel",))))
    cause = next(f for f in a.findings if f.rule == "pack.joined")
    assert "fuse.share" in {f.rule for f in cause.follows}
    assert "fuse.share" not in {f.rule for f in a.findings}


def test_a_machine_that_gets_a_starter_has_a_current_for_its_leads():
    """A pull-start bike draws 0 A while cranking until then; 60 A is the most of its kind, marked as usual."""
    plan = made(Case("utility bike", "pull start", (), ("starter",)))
    assert plan.machine.cranking_a == 60 and plan.machine.standing_of("cranking_a") == "typical"
    a = analyse(plan)
    leads = [w for w in plan.wires if "ST1" in (w.a.part, w.b.part)]
    assert leads and all(a.wires[w.id].area_mm2 >= 2.5 for w in leads)
    assert "starter.current-unsaid" not in {f.rule for f in a.findings}
