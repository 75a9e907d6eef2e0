"""Answers without a plan: each by hand, by a printed table, or against a plan that was made for it some other way."""

import math

import pytest
from pydantic import ValidationError

from loadstar.core.analysis import analyse
from loadstar.core.doc.rules import HouseRules
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.figures.working import evaluate
from loadstar.core.materials.conductors import STOCKS
from loadstar.core.materials.typical import MIDDLE
from loadstar.core.pocket import QUESTIONS
from loadstar.core.pocket.fuse import FuseOfWire
from loadstar.core.pocket.wire import WireQuestion

HOUSE = HouseRules()


def answer(key, **values):
    return QUESTIONS[key](**values).answer(HOUSE)


def figure(found, title):
    return next(w.value for w in found.figures if w.title.startswith(title))


# -- by hand ---------------------------------------------------------------------------------------------------------

BY_HAND = [  # question, what is asked, a figure's title, its value by hand
    ("divider", {"most_v": 15, "wanted_v": 3.3, "lower_ohm": 10e3}, "Upper", 10e3 * (15 / 3.3 - 1)),
    ("divider", {"most_v": 15, "wanted_v": 3.3, "lower_ohm": 10e3}, "Gives", 15 * 10 / 46),
    ("divider", {"most_v": 15, "wanted_v": 5, "lower_ohm": 10e3, "input_ohm": 10e3}, "Upper", 10e3),
    ("divider", {"most_v": 60, "wanted_v": 3, "lower_ohm": 1e3}, "Draws", 1000 * 60 / 21e3),  # 19 kΩ, 20 kΩ is sold
    ("resistor", {"supply_v": 14.4, "lamp_v": 2.1, "amps_a": 0.02}, "Resistor", 12.3 / 0.02),
    ("resistor", {"supply_v": 13.8, "lamp_v": 6, "amps_a": 0.5}, "Gets warm", 7.8 ** 2 / 16),
    ("flasher", {"made_for_w": 42, "lamp_w": 2, "lamps": 2}, "Missing", 38.0),
    ("flasher", {"made_for_w": 42, "lamp_w": 2, "lamps": 2}, "Load resistor", 144 / 38),
    ("capacitor", {"load_w": 3, "gap_s": 0.15, "from_v": 12.5, "to_v": 9}, "Capacity", 1e6 * 0.9 / (144 - 81)),
    ("capacitor", {"load_w": 10, "gap_s": 1, "from_v": 24.5, "to_v": 20}, "Capacity", 1e6 * 20 / (576 - 400)),
    ("drop", {"drop_v": 0.05, "amps_a": 5}, "Its resistance", 10.0),
    ("drop", {"drop_v": 0.3, "amps_a": 10}, "Warms it", 3.0),
    ("drop", {"drop_v": 0.3, "amps_a": 10, "over": "fuse", "fuse_a": 15}, "Its resistance", 30.0),
    ("carries", {"rating_a": 10, "amps_a": 20}, "The current", 2.0),
    ("carries", {"rating_a": 10, "amps_a": 5, "ambient_c": 65}, "What it stands", 10 * (1 - 0.0015 * 40)),
    ("carries", {"rating_a": 10, "amps_a": 5, "ambient_c": 65}, "What a load", 9.4 * 0.75),
    ("size", {"area_mm2": None, "strands": 7, "strand_mm": 0.3}, "Cross-section", 7 * math.pi / 4 * 0.09),
    ("size", {"area_mm2": 2.5}, "A metre", 7.60 * (1 + 0.00393 * 40)),  # ISO 6722-1: 7.60 mΩ/m at 20 C
    ("end", {"area_mm2": 2.5, "family": "blade 6.3"}, "Has to hold", 230.0),  # IEC 60352-2
    ("end", {"area_mm2": 1.0, "family": "blade 6.3", "ambient_c": 85}, "It carries", 15 * math.sqrt(20 / 65)),
]
SAID = [  # question, what is asked, how the answer begins, whether it is a no
    ("carries", {"rating_a": 10, "amps_a": 11}, "It can open", True),  # ISO 8820-3: 1.10 times for 100 h at the least
    ("carries", {"rating_a": 10, "amps_a": 10.9}, "For good", False),
    ("carries", {"rating_a": 10, "amps_a": 13.5}, "It opens after 750 ms to 10 min", True),
    ("carries", {"rating_a": 10, "amps_a": 16}, "It opens after 250 ms to 50 s", True),
    ("carries", {"rating_a": 10, "amps_a": 60}, "It opens after 20 ms to 100 ms", True),
    ("colour", {"colour": "OG", "stripe": "WH"}, "Orange with white: OG/WH", False),
    ("colour", {"colour": "BU"}, "Blue: BU", False),
    ("size", {"area_mm2": 2.5}, "2.5 mm², ≈14 AWG", False),
    ("size", {"area_mm2": None, "strands": 7, "strand_mm": 0.13}, "0.0929 mm² counted, no listed size", True),
    ("size", {"area_mm2": None, "strands": 19, "strand_mm": 0.32}, "1.53 mm² counted: 1.5 mm²", False),
    ("size", {"area_mm2": 2.5, "strands": 19, "strand_mm": 0.32}, "Its strands make 1.53 mm², not 2.5", True),
    ("drop", {"drop_v": 0.005, "amps_a": 5}, "Good", False),
    ("drop", {"drop_v": 0.012, "amps_a": 5}, "Worn", False),
    ("drop", {"drop_v": 0.02, "amps_a": 5}, "Bad", True),
    ("flasher", {"made_for_w": 42, "lamp_w": 21, "lamps": 2}, "Yes", False),
    ("flasher", {"made_for_w": 42, "lamp_w": 2, "lamps": 2, "way": "fixed rate"}, "Yes", False),
    ("flasher", {"made_for_w": 42, "lamp_w": 21, "lamps": 3, "way": "thermal"}, "No: 63 W", True),
    ("resistor", {"supply_v": 14.4, "lamp_v": 2.1, "amps_a": 0.02}, "620 Ω, a 0.5 W", False),
    ("divider", {"most_v": 15, "wanted_v": 3.3, "lower_ohm": 10e3}, "36 000 Ω above", False),
    ("end", {"area_mm2": 10, "family": "blade 2.8"}, "None of blade 2.8", True),
    ("standing", {"draw_ma": 0, "cranking_a": 600, "capacity_ah": 4}, "Not at all", True),
]


@pytest.mark.parametrize(("key", "values", "title", "by_hand"), BY_HAND)
def test_a_figure_is_that_of_a_hand_calculation(key, values, title, by_hand):
    assert figure(answer(key, **values), title) == pytest.approx(by_hand, rel=1e-4)


@pytest.mark.parametrize(("key", "values", "begins", "grave"), SAID)
def test_it_is_said_in_words(key, values, begins, grave):
    found = answer(key, **values)
    assert found.said.startswith(begins) and found.grave is grave


@pytest.mark.parametrize("key", QUESTIONS)
def test_every_question_has_an_answer_to_begin_with_and_every_working_adds_up(key):
    found = answer(key)
    assert found.said.endswith(".") and (found.figures or found.tables)
    for working in found.figures:
        assert evaluate(working.formula, working.inputs) == pytest.approx(working.value, rel=1e-6), working.title
    for table in (*found.tables, *QUESTIONS[key]().beside(HOUSE)):
        assert all(len(row) == len(table.columns) for row in table.rows) and table.rows


# -- against a plan made for it --------------------------------------------------------------------------------------


def circuit(amps, length_m, area_mm2=None, fuse_a=None):
    """A lone load on a battery, its wires as they come from the edits that people use."""
    b = Builder("by hand")
    b.machine(name="By hand", kind="motorcycle")
    here, there = (b.add("place", name=n, x_mm=x, ambient_c=40) for n, x in (("here", 0), ("there", 1500)))
    b.add("run", a=here, b=there, length_m=length_m)
    battery = b.add("battery", name="battery", place=here, capacity_ah=9, internal_mohm=15)
    b.add("load", name="load", category="other", amount=amps, unit="A", at_v=13.5, behaviour="current",
                 place=there, feed=battery, live="always", window_low_v=7, window_high_v=18)
    for number, wire in enumerate(b.plan.wires):
        b.fix(wire.id, length_m=0.15 if number == 0 else length_m, area_mm2=area_mm2)
    if fuse_a:
        b.change("F1", rating_a=fuse_a)
    return analyse(b.plan)


@pytest.mark.parametrize(("amps", "length_m"), [(2, 0.5), (6, 1.5), (6, 3), (10, 2), (15, 3), (25, 1)])
def test_a_wire_is_the_smallest_that_a_plan_with_it_is_clear_of(amps, length_m):
    found = WireQuestion(amount=amps, length_m=length_m).answer(HOUSE)
    size = float(found.said.split()[0])
    sizes = [a for a in (0.5, 0.75, 1.0, 1.5, 2.0, 2.5, 4.0, 6.0) if a <= size]
    grave = {a: [f for f in circuit(amps, length_m, a).findings if f.severity in ("stop", "caution")
                 and f.rule.split(".")[0] in ("wire", "fuse", "load")] for a in sizes[-2:]}
    assert grave[size] == [], grave[size]
    assert all(grave[a] for a in sizes[-2:] if a < size)


def test_what_is_lost_is_that_of_the_plan_and_near_a_hand_calculation():
    found = WireQuestion(amount=6, length_m=3, area_mm2=1.0).answer(HOUSE)
    by_plan = circuit(6, 3, 1.0)
    lost = by_plan.volts.drop_frac(by_plan.plan.loads[0], "key_on")
    assert figure(found, "Lost") == pytest.approx(100 * lost, rel=1e-9)
    # tinned copper at about 50 C, 6.15 m of it; six ends of 1 mΩ; a 10 A fuse of about 12 mΩ
    ohm = 6.15 * 0.0185 * 1.12 * 1.02 + 6 * 0.001 + 0.012
    assert figure(found, "Lost") == pytest.approx(100 * 6 * ohm / by_plan.states["key_on"].posts_v, rel=0.07)


@pytest.mark.parametrize("area_mm2", [0.5, 1.0, 2.5])
def test_the_largest_fuse_is_the_last_that_a_plan_takes_for_the_wire(area_mm2):
    found = FuseOfWire(area_mm2=area_mm2, ambient_c=40).answer(HOUSE)
    most = float(found.said.split()[0])
    nearest = {1: 2, 5: 7.5, 7.5: 10, 10: 15, 15: 20, 20: 25, 25: 30, 30: 40}
    for rating, guarded in ((most, True), (nearest[most], False)):
        found = circuit(1, 1.0, area_mm2, rating).findings
        told = any(f.rule == "wire.not-protected" and "W2" in f.elements for f in found)
        assert told is not guarded, rating


def test_a_loom_of_loaded_wires_is_warmer_and_may_need_more_copper():
    alone, among = (WireQuestion(amount=10, length_m=1, ambient_c=60, in_loom=n).answer(HOUSE) for n in (2, 8))
    assert float(among.said.split()[0]) >= float(alone.said.split()[0])
    same = [WireQuestion(amount=10, length_m=1, ambient_c=60, in_loom=n, area_mm2=2.5).answer(HOUSE) for n in (2, 8)]
    assert figure(same[1], "Wire in use") > figure(same[0], "Wire in use") + 3


def test_large_currents_get_a_kind_of_fuse_that_comes_for_them_or_none():
    assert "bolted" in WireQuestion(amount=60, length_m=1).answer(HOUSE).said
    assert answer("wire", system_v=48, amount=5).said.endswith("58 V, brown.")
    none = answer("wire", amount=200, length_m=8)
    assert none.grave and none.said.startswith("No listed size is enough")


def test_the_account_is_that_of_a_plan_with_each_load_in_it():
    found = answer("enough", rated_w=300, idle_w=100, own_w=120, listed="20 8+40", capacity_ah=10, standing_ma=2)
    b = Builder("by hand")
    b.machine(name="By hand", kind="motorcycle", idle_rpm=1300, cruise_rpm=5000)
    at = b.add("place", name="box")
    b.add("battery", name="battery", place=at, capacity_ah=10, internal_mohm=11 * 12 / 10, charge_a=1)
    b.add("generator", name="g", place=at, rating1_w=100, rating1_rpm=1300, rating2_w=300, rating2_rpm=5000,
          phase_ohm=MIDDLE.phase_ohm)
    standing_w = 0.002 * b.plan.battery.full_v
    for watts, live in ((120, "engine"), (standing_w, "always"), (20, "key"), (8, "key"), (40, "key")):
        b.add("own", name="x", place=at, power_w=watts, live=live)
    by_plan = analyse(b.plan)
    for state in ("idle", "cruise"):
        assert figure(found, f"Charging margin, {state}") == pytest.approx(by_plan.ledgers[state].margin_a, rel=1e-6)
    assert figure(found, "Break-even") == pytest.approx(by_plan.break_even_rpm, rel=1e-6)
    assert figure(found, "Parked") == pytest.approx(by_plan.parked.days, rel=0.02)
    # by hand: (100 - 120 - 68 - 0.026) W at the posts' volts
    assert figure(found, "Charging margin, idle") == pytest.approx(-88.03 / by_plan.ledgers["idle"].at_v, rel=1e-3)


@pytest.mark.parametrize("values", [{"system_v": 60, "amount": 9, "length_m": 4}, {"system_v": 12, "amount": 45},
                                    {"system_v": 36, "amount": 200, "unit": "W", "length_m": 5},
                                    {"amount": 500, "unit": "W", "length_m": 0.3, "returns": "frame"}])
def test_a_yes_says_all_that_a_plan_with_it_would_be_told(values):
    found = WireQuestion(**values).answer(HOUSE)
    assert not found.grave
    told = [f.sentence for f in analyse(found.plan).findings if f.severity in ("stop", "caution")
            and not f.rule.startswith(("budget.", "load.always"))]
    assert set(told) <= set(found.minded)


def test_a_pack_above_sixty_volts_needs_another_class_of_wire_and_says_so():
    assert any("voltage class" in s for s in WireQuestion(system_v=60, amount=9).answer(HOUSE).minded)
    assert not any("voltage class" in s for s in WireQuestion(system_v=48, amount=9).answer(HOUSE).minded)


def test_what_nobody_said_is_marked_typical_in_the_plan_that_is_kept():
    battery = WireQuestion().answer(HOUSE).plan.battery
    assert battery.standing_of("internal_mohm") == battery.standing_of("capacity_ah") == "typical"
    plan = answer("enough", idle_w=None, capacity_ah=11).plan
    assert plan.battery.standing_of("capacity_ah") == "stated" and plan.generator.standing_of("rating1_w") == "typical"
    assert answer("enough", idle_w=100).plan.generator.standing_of("rating1_w") == "stated"


def test_a_house_with_other_rules_gets_other_answers():
    strict = HouseRules(drop_other_frac=0.02, fuse_share_frac=0.5)
    assert float(WireQuestion().answer(strict).said.split()[0]) > float(WireQuestion().answer(HOUSE).said.split()[0])
    assert "AWG" in WireQuestion().answer(HouseRules(sizes="AWG")).said.split("(")[1].split(")")[0]
    looser, tighter = (FuseOfWire(amps_a=6).answer(rules).said for rules in (HOUSE, strict))
    assert looser.startswith("10 A") and tighter.startswith("15 A")


# -- bad input -------------------------------------------------------------------------------------------------------

NOTHING = [
    ("wire", {"amount": 0}),
    ("wire", {"length_m": 0}),
    ("wire", {"length_m": 1000}),
    ("wire", {"amount": math.nan}),
    ("colour", {"colour": "XX"}),
    ("fuse", {"area_mm2": 1.1}),
    ("enough", {"rated_w": 0}),
    ("carries", {"amps_a": -1}),
    ("end", {"family": "any"}),
    ("standing", {"capacity_ah": math.inf}),
]
TOGETHER = [
    ("wire", {"system_v": 48, "returns": "frame"}, "returns"),
    ("carries", {"rating_a": 6}, "rating_a"),
    ("enough", {"listed": "20 lots"}, "listed"),
    ("enough", {"listed": "0"}, "listed"),
    ("enough", {"listed": " ".join(["9"] * 41)}, "listed"),
    ("enough", {"listed": "1500 1500"}, "listed"),
    ("enough", {"idle_w": 900}, "idle_w"),
    ("size", {"strands": 7}, "strand_mm"),
    ("size", {"area_mm2": None}, "area_mm2"),
    ("drop", {"over": "fuse"}, "fuse_a"),
    ("divider", {"wanted_v": 15}, "wanted_v"),
    ("resistor", {"lamp_v": 20}, "lamp_v"),
    ("capacitor", {"to_v": 12.5}, "to_v"),
]


@pytest.mark.parametrize(("key", "values"), NOTHING)
def test_what_is_no_value_is_none_of_the_question(key, values):
    with pytest.raises(ValidationError):
        QUESTIONS[key](**values)


@pytest.mark.parametrize(("key", "values", "field"), TOGETHER)
def test_what_asks_for_nothing_is_told_beside_its_field(key, values, field):
    with pytest.raises(PlanError) as told:
        answer(key, **values)
    assert [f.field for f in told.value.faults] == [field]


@pytest.mark.parametrize("asked", [{}, {"length_m": 4.0}, {"amount": 14.0, "length_m": 2.5}, {"in_loom": 6},
                                   {"returns": "frame", "length_m": 3.0}, {"system_v": 48, "amount": 9.0},
                                   {"ambient_c": -20.0, "length_m": 4.0, "amount": 5.0}])
def test_the_size_that_is_found_is_the_smallest_that_does(asked):
    """By asking of every smaller one whether it is enough, and of itself."""
    rules = HouseRules()
    said = WireQuestion(**asked).answer(rules).said
    sizes = sorted(STOCKS[rules.sizes])
    does = [not WireQuestion(**asked, area_mm2=area).answer(rules).grave for area in sizes]
    smallest = sizes[does.index(True)]
    assert said.startswith(f"{smallest:g} mm²")
    for area in sizes[:does.index(True)]:  # and of a thinner one it says which is
        assert f" {smallest:g} mm²" in WireQuestion(**asked, area_mm2=area).answer(rules).said.partition(".")[2]


def test_the_wires_of_a_loom_are_all_of_the_size_that_is_tried():
    circuit = WireQuestion(in_loom=6).circuit(HouseRules()).fixed(1.5)
    assert {w.area_mm2 for w in circuit.plan.wires} == {1.5} and len(circuit.plan.wires) == 9
