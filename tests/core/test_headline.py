"""The five figures over every page, against what they are taken from; and stages, each the plan as it then is."""

from types import SimpleNamespace

import pytest
from builders import Bench
from judgement.benches import total_loss

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.edits import RemoveElement, apply
from loadstar.core.figures.extremes import hottest_wire
from loadstar.core.figures.registry import working
from loadstar.core.findings import worst
from loadstar.core.headline import headline
from loadstar.core.stages import letters, stage_of, stages, up_to


def heads(analysis, state):
    """By the first words of each."""
    return list(headline(analysis, state))


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda make: make.__name__)
def test_every_value_is_its_working_s_and_every_severity_its_findings(make):
    a = analyse(make()[0])
    for state in a.states:
        for head in heads(a, state):
            if head.value is None:
                assert head.detail and not head.working
                continue
            shown = working(a, head.working)
            times = 24 if head.working == "parked" else 1 / 60 if head.working == "total_loss" else 1
            # of a lamp the working is of its life, and its volts go into it
            value = shown.inputs[0].value if head.working.startswith("lamp_") else shown.value * times
            assert head.value == pytest.approx(value, rel=1e-5), head.label
            if head.select in a.wires and head.severity:
                assert head.severity in {f.severity for f in a.by_element[head.select]}


def test_a_motorcycle_at_idle_by_hand():
    a = analyse(demo.fit_out()[0])
    margin, lowest, hottest, weakest, lasts = heads(a, "idle")
    assert margin.value == a.ledgers["idle"].margin_a and margin.limit == 0
    assert margin.label == f"Margin, idle: {'battery discharges' if margin.value < 0 else 'charges'}"
    assert margin.severity == ("caution" if margin.value < 0 else None)
    volts = {p.id: a.volts.across_v(p.id, "idle") for p in a.plan.loads if a.volts.across_v(p.id, "idle") > 1}
    assert lowest.select == min(volts, key=volts.get) and lowest.value == min(volts.values())
    assert lowest.limit == a.plan.part(lowest.select).window_low_v
    warm = a.states["idle"].wire_c
    assert hottest.value == max(warm.values()) and warm[hottest.select] == hottest.value
    assert hottest.limit == hottest.limit_c == a.wires[hottest.select].class_c
    strengths = {w.id: w.strength for w in a.wires.values() if w.guard and w.strength is not None}
    assert weakest.value == min(strengths.values()) and weakest.limit == 1.0
    assert (lasts.value, lasts.limit, lasts.is_span) == (a.parked.days * 24, 28 * 24, True)


@pytest.mark.parametrize(("margin_state", "grave"), [("parked", None), ("key_on", None), ("cranking", None)])
def test_a_battery_that_pays_with_the_engine_off_is_no_caution(margin_state, grave):
    a = analyse(demo.fit_out()[0])
    head = heads(a, margin_state)[0]
    assert head.value < 0 and head.severity is grave and head.label.endswith("battery discharges")


def test_a_generator_that_does_not_carry_it_is_a_caution_while_the_engine_runs():
    b = Bench()
    for _ in range(6):
        b.lamp(60)
    a = analyse(b.plan)
    assert a.ledgers["idle"].margin_a < 0 and heads(a, "idle")[0].severity == "caution"
    assert a.ledgers["cruise"].margin_a < 0 or heads(a, "cruise")[0].severity is None


def test_each_supply_has_its_own_first_and_last():
    ends = {}
    for make in (demo.tide_hauler, demo.ferry_runner, total_loss):
        plan = make() if make is total_loss else make()[0]
        a = analyse(plan)
        shown = heads(a, a.source.usual_state)
        ends[a.source.key] = (shown[0], shown[-1], a)
    first, last, a = ends["pack"]
    assert (first.unit, last.unit, last.value) == ("A", "km", a.pack.range_km)
    first, last, a = ends["magneto"]
    volts = {p.name: a.lamps.at(p.id, a.plan.machine.rpm("cruise")) for p in a.plan.loads}
    hardest = max(a.plan.loads, key=lambda p: volts[p.name] / p.at_v)
    assert (first.unit, last.unit, first.value) == ("V", "V", volts[hardest.name])
    first, last, a = ends["total_loss"]
    assert (first.unit, last.unit) == ("A", "h") and last.value == pytest.approx(a.total_loss.usable_min / 60)
    assert last.is_span


def test_what_is_not_there_yet_says_so():
    told = {head.label: head.detail for head in heads(analyse(Bench(battery=False, generator=False).plan), "idle")}
    assert told == {"Charging margin": "no generator yet", "Lowest load voltage": "none live, idle",
                    "Hottest wire": "no wires yet", "Weakest protection": "no fuse yet",
                    "Parking time until no start": "no battery yet"}


@pytest.mark.parametrize(("cranking_a", "label", "ends"), [
    (110, "Parking time until no start", "before it no longer cranks"),
    (0, "Parking time until flat", "before it is flat")])
def test_a_machine_that_is_kicked_runs_flat_and_does_not_stop_cranking(cranking_a, label, ends):
    b = Bench()
    b.machine(cranking_a=cranking_a)
    b.lamp(200)
    a = analyse(b.plan)
    assert label in {head.label for head in heads(a, "idle")}
    assert any(ends in f.sentence for f in a.findings if f.rule == "budget.short")


def test_the_gravest_of_several():
    a = analyse(demo.fit_out()[0])
    assert worst(a.findings) == "stop" == a.findings[0].severity
    assert worst([f for f in a.findings if f.severity in ("advice", "note")]) == "advice"
    assert worst([]) is None
    for element, found in a.by_element.items():
        assert found == tuple(f for f in a.findings if element in f.elements)


# -- stages ------------------------------------------------------------------------------------------------------------


def staged():
    """A lamp from the first, another in stage A, a third in B."""
    b = Bench()
    lamps = [b.lamp(10 + n, name=f"lamp {n}") for n in range(3)]
    for lamp, letter in zip(lamps[1:], "AB", strict=True):
        b.change(lamp, stage=letter)
    return b.plan, lamps


def test_each_stage_is_the_plan_without_what_comes_later():
    plan, (first, second, third) = staged()
    assert letters(plan) == ("A", "B") and letters(Bench().plan) == ()
    a, b = stages(plan)
    assert {p.id for p in a.plan.loads} == {first, second} and {p.id for p in b.plan.loads} == {first, second, third}
    assert up_to(plan, "B") == plan
    without = apply(plan, RemoveElement(id=third))
    assert {w.id for w in a.plan.wires} == {w.id for w in without.wires}
    assert {p.id for p in b.new_parts} == {third, next(p.id for p in plan.parts if p.made_for == third)}
    assert set(b.new_wires) == {w.id for w in plan.wires} - {w.id for w in a.plan.wires}
    assert b.new_wire_m == pytest.approx(sum(b.analysis.wires[w].length_m for w in b.new_wires))
    assert a.lacks == b.lacks == () and a.letter == "A"


def test_what_was_made_for_something_is_made_with_it():
    plan, (first, second, _) = staged()
    fuse = next(p for p in plan.parts if p.made_for == second)
    assert [stage_of(plan, plan.part(p)) for p in (first, second, fuse.id)] == ["", "A", "A"]
    own = plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"stage": "B"}) if p.id == fuse.id else p for p in plan.parts)})
    assert stage_of(own, own.part(fuse.id)) == "B"


def test_a_stage_that_lacks_what_it_hangs_on_says_so():
    plan, _ = staged()
    late = plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"stage": "B"}) if p.kind == "block" else p for p in plan.parts)})
    a, b = stages(late)
    assert a.analysis is None and a.new_wire_m is None
    assert any("is fed from B1" in sentence for sentence in a.lacks) and b.lacks == ()


@pytest.mark.parametrize(("warm_c", "nearest"), [((40, 60, 85), 2), ((85, 45, 40), 0), ((20, 49, 26), 1)])
def test_the_hottest_wire_is_the_one_with_the_least_left_to_its_class(warm_c, nearest):
    warm = {f"W{n}": float(c) for n, c in enumerate(warm_c)}
    shown = SimpleNamespace(states={"idle": SimpleNamespace(wire_c=warm)}, wires={
        w: SimpleNamespace(id=w, class_c=100.0, hottest_c=c) for w, c in warm.items()})
    assert hottest_wire(shown, "idle") == hottest_wire(shown) == (f"W{nearest}", float(max(warm_c)))
    assert hottest_wire(shown, "town") is None
