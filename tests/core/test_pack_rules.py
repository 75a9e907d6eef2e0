"""Rules about packs, what joins them, and converters, each on both sides of its limit."""

import pytest
from judgement.plans import both_sides, rules_of, usual_e_bike

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, AddWire, ChangeElement, MoveEnd, RemoveElement, apply

PACK_RULES = {
    "converter.window-low": ("converter", {"window_low_v": 39}, {"window_low_v": 42}),
    "converter.window-high": ("converter", {"window_high_v": 55}, {"window_high_v": 54}),
    "converter.overloaded": ("converter", {"rated_a": 2}, {"rated_a": 1.1}),
    "converter.idle": ("converter", {"idle_w": 0.1}, {"idle_w": 3}),
    "port.not-enabled": ("port", {"enabled": True}, {"enabled": False}),
    "port.overloaded": ("port", {"limit_w": 13}, {"limit_w": 11}),
    "pack.bypassed": ("pack", {"bms": "in place"}, {"bms": "bypassed", "bypass_by": "the workshop"}),
    "pack.bms": ("pack", {"bms_continuous_a": 12}, {"bms_continuous_a": 5}),
    "pack.dangerous-to-touch": ("pack", {"series": 14}, {"series": 16}),
    "drive.limit": ("drive", {"limit_a": 20}, {"limit_a": 5}),
    "pack.cuts-out": ("drive", {"cut_off_v": 39}, {"cut_off_v": 46}),
}


@pytest.mark.parametrize("rule", PACK_RULES)
def test_on_a_pack(rule):
    what, inside, beyond = PACK_RULES[rule]
    both_sides(lambda v: usual_e_bike(**{what: v}), rule, inside, beyond)


def test_a_pack_that_cannot_give_full_power_at_all():
    plan = usual_e_bike(drive={"full_w": 15000, "limit_a": 400})
    stop = next(f for f in analyse(plan).findings if f.rule == "pack.bms")
    assert stop.severity == "stop"


JOINED = {
    "pack.joined": ({"charge_frac": 0.8}, {"charge_frac": 0.5}, {"way": "parallel"}),
    "pack.unlike": ({"series": 13}, {"series": 14, "rested_v": 51.0}, {"way": "diode"}),
}


@pytest.mark.parametrize("rule", JOINED)
def test_joined_packs(rule):
    inside, beyond, combiner = JOINED[rule]
    both_sides(lambda v: usual_e_bike(second=v, combiner=combiner), rule, inside, beyond)


def test_two_packs_and_what_joins_them():
    assert "pack.not-joined" in rules_of(usual_e_bike(second={}))
    talk = {"needs_data": True}
    assert "pack.data-line" in rules_of(usual_e_bike(second={}, combiner={}, drive=talk))
    assert "pack.data-line" not in rules_of(usual_e_bike(second={}, combiner={"data_switched": True}, drive=talk))
    assert "combiner.rating" in rules_of(usual_e_bike(second={}, combiner={"rated_a": 5}))
    assert "combiner.rating" not in rules_of(usual_e_bike(second={}, combiner={"rated_a": 20}))


def test_a_converter_s_input_fuse():
    plan = usual_e_bike(converter={}, load={"amount": 80})
    fuse = next(p.id for p in plan.parts if p.kind == "fuse")
    assert not {"converter.input", "converter.unprotected"} & rules_of(plan)
    assert "converter.input" in rules_of(apply(plan, ChangeElement(id=fuse, values={"rating_a": 1})))
    assert "converter.unprotected" in rules_of(apply(plan, RemoveElement(id=fuse)))


def test_a_fuse_that_a_converter_can_never_open():
    plan = usual_e_bike(converter={"rated_a": 5})
    switch = next(p.id for p in plan.parts if p.kind == "switch")
    wire = next(w.id for w in plan.wires if w.b == "L1.pos")
    plan = apply(plan, AddElement(what="fuse", values={"name": "late", "place": "P1", "rating_a": 3}))
    late = plan.parts[-1].id
    plan = apply(apply(plan, MoveEnd(id=wire, end="a", to=f"{late}.b")), AddWire(a=f"{switch}.b", b=f"{late}.a"))
    assert "converter.output-fuse" not in rules_of(plan)
    assert "converter.output-fuse" in rules_of(apply(plan, ChangeElement(id=late, values={"rating_a": 10})))


def test_a_pack_s_negative_stays_off_the_frame():
    assert "reference.pack-on-frame" not in rules_of(usual_e_bike(converter={}))
    assert "reference.pack-on-frame" in rules_of(usual_e_bike(converter={}, load={"body": "on the frame"}))
    assert "reference.pack-on-frame" not in rules_of(usual_e_bike(converter={"isolated": True},
                                                            load={"body": "on the frame"}))
