"""Sizing, budget, candidates, workings: what a technician reads."""

import itertools
import math

import pytest
from builders import Bench, behind_fuse
from hypothesis import given, settings
from hypothesis import strategies as st
from judgement.paths import starts
from reference.staged import staged

from loadstar.core.analysis import analyse
from loadstar.core.budget.ledger import break_even_rpm, ledger
from loadstar.core.doc.states import STATES
from loadstar.core.errors import PlanError
from loadstar.core.figures.extremes import weakest_wire
from loadstar.core.figures.ratings import fuse_candidates
from loadstar.core.figures.registry import FAMILIES, NoFigure, every, working
from loadstar.core.figures.sizes import wire_candidates
from loadstar.core.figures.touches import stages, worst_course
from loadstar.core.figures.working import Input, evaluate
from loadstar.core.materials.conductors import STOCK_AREAS_MM2
from loadstar.core.physics import heat
from loadstar.core.plan.model import Plan
from loadstar.core.sizing.argument import stands
from loadstar.demo import fit_out, winter


# Largest rating that protects a single thin-wall wire, 105 C class (docs/physics.md, computed independently).
@pytest.mark.parametrize(("ambient", "area", "rating", "next_up"), [
    (60, 0.35, 7.5, 10), (60, 0.75, 10, 15), (60, 1.0, 15, 20), (60, 2.0, 20, 25), (60, 4.0, 35, 40),
    (40, 0.5, 10, 15), (40, 0.75, 15, 20), (40, 2.5, 30, 35)])
def test_largest_protecting_fuse(ambient, area, rating, next_up):
    fits, fails = stands([behind_fuse(area, rating, ambient, "105"), behind_fuse(area, next_up, ambient, "105")])
    assert fits.protected
    assert not fails.protected


def test_thin_and_over_fused_example():
    """0.75 mm2, 105 C class, 60 C, behind 15 A: 118 C (3 K) at 1.10 x 15 A; 14.5 A (4 %) is the most it carries."""
    found, = stands([behind_fuse(0.75, 15, 60, "105")])
    assert found.steady_c == pytest.approx(118, abs=3)
    assert found.limit_a == pytest.approx(14.5, rel=0.04)
    assert not found.protected


@settings(max_examples=40, deadline=None)
@given(amps=st.floats(0.1, 60), ambient=st.floats(-10, 80))
def test_a_thicker_wire_never_runs_hotter(amps, ambient):
    from loadstar.core.materials.conductors import CONDUCTORS
    sizes = [c for c in CONDUCTORS if c.sure]
    warm = [float(heat.wire_temperature_c(amps, c.r20_ohm_per_m, c.d_mm, c.od_mm("thin"), ambient)) for c in sizes]
    assert all(b <= a + 1e-6 for a, b in itertools.pairwise(warm))


@settings(max_examples=12, deadline=None)
@given(watts=st.floats(5, 60), more=st.floats(1, 40), behaviour=st.sampled_from(["resistor", "power", "current"]))
def test_more_load_raises_no_voltage_across_another(watts, more, behaviour):
    """With sizes fixed and the source the battery, so that no device changes mode."""
    b = Bench(generator=False)
    one = b.lamp(watts, behaviour=behaviour)
    other = b.lamp(5)
    for wire in b.plan.wires:
        b.wire(wire.id, area_mm2=2.5)
    for part in b.plan.of_kind("fuse"):
        b.change(part.id, rating_a=30)
    before = analyse(b.plan)
    b.change(other, amount=5 + more)
    after = analyse(b.plan)
    for state in ("key_on", "idle"):
        assert after.volts.across_v(one, state) <= before.volts.across_v(one, state) + 1e-9
        assert after.states[state].solution.residual_a < 1e-9


def test_chosen_sizes_fit_and_the_next_smaller_does_not():
    b = Bench(generator=False)
    b.change(b.nose, ambient_c=60)
    lamp = b.lamp(75)
    a = analyse(b.plan)
    rows = wire_candidates(a, b.feed_wire(lamp))
    chosen = next(i for i, c in enumerate(rows) if c.chosen)
    assert rows[chosen].fits
    assert rows[chosen].area_mm2 in STOCK_AREAS_MM2
    assert all(c.fits for c in rows[chosen:])
    for smaller in rows[:chosen]:
        assert not smaller.fits
        assert smaller.verdict
    assert sum(c.chosen for c in rows) == 1


def test_no_drop_limit_is_left_broken_when_sizes_are_free():
    b = Bench(generator=False)
    for n in range(4):
        b.lamp(20 + 15 * n)
    a = analyse(b.plan)
    assert not [f for f in a.findings if f.rule in ("load.drop", "wire.not-protected", "wire.too-hot")]


def test_fuse_candidates_say_why():
    b = Bench(generator=False)
    lamp = b.lamp(50)
    rows = fuse_candidates(analyse(b.plan), b.fuse_of(lamp))
    smaller = [c for c in rows if c.rating_a < 7.5]
    assert smaller
    assert all("carries" in c.verdict for c in smaller)
    assert next(c for c in rows if c.chosen).rating_a == 7.5
    assert next(c for c in rows if c.chosen).colour == "brown"


def test_a_fuse_that_is_too_small_while_the_starter_turns_says_that_and_nothing_else():
    """The solenoid's coil of 4 Ω at some 10 V draws 2.6 A for seconds: more than 2 A carries."""
    a = analyse(starts())
    for fuse in a.plan.of_kind("fuse"):
        said = {c.rating_a: c.verdict for c in fuse_candidates(a, fuse.id)}
        assert "may open while cranking: 2.57 A then, carries 1.96 A" in said[2] and said[3] == "fits"
    b = Bench(generator=False)
    lamp = b.lamp(20, inrush_a=60, inrush_ms=40)
    rows = fuse_candidates(analyse(b.plan), b.fuse_of(lamp))
    small = max((c for c in rows if not c.fits), key=lambda c: c.rating_a)
    assert small.verdict.startswith("may open on switching on: ") and "A²s, bears" in small.verdict


def test_what_is_carried_while_cranking_is_told_where_it_is_much_more():
    """A starter's leads carry 110 A then and nothing else; of a lamp's, fed all the time, there is nothing to tell."""
    a = analyse(starts())
    leads = [w.id for w in a.plan.wires if "ST1" in (w.a.part, w.b.part)]
    assert leads and all(a.ratings.cranking_a(w) == pytest.approx(110, rel=1e-6) for w in leads)
    b = Bench()
    lamp = b.lamp(55, live="always", reason_always="tail lamp")
    assert analyse(b.plan).ratings.cranking_a(b.feed_wire(lamp)) is None


def test_ledger_by_hand():
    b = Bench()
    b.load(amount=28.4, live="engine", minutes_per_hour=30, standby_ma=100)
    account = ledger(b.plan, "idle")
    # 100 W / 14.2 V + half of 2 A + half of 0.1 A
    assert account.demand_a == pytest.approx(100 / 14.2 + 1.0 + 0.05)
    assert account.all_at_once_a == pytest.approx(100 / 14.2 + 2.0)
    assert account.given_a == pytest.approx(120 / 14.2, rel=1e-3)


def test_a_layer_switched_off_moves_the_line():
    b = Bench()
    load = b.load(amount=100, live="engine")
    all_on = break_even_rpm(b.plan)
    without = break_even_rpm(b.plan, frozenset({load}))
    assert without < all_on


def test_touring_example_breaks_even_where_it_should():
    """Demand 308 W at 14.2 V, break-even near 3030 rpm (4 %); without vest and grips 1690 rpm; about 13 A at idle."""
    plan, _ = fit_out()
    account = ledger(plan, "idle")
    assert account.demand_a * 14.2 == pytest.approx(308, abs=2)
    assert break_even_rpm(plan) == pytest.approx(3030, rel=0.04)
    warm = frozenset(p.id for p in plan.loads if p.category == "heating")
    assert break_even_rpm(plan, warm) == pytest.approx(1690, rel=0.04)
    assert account.margin_a == pytest.approx(-13, abs=0.6)


def test_the_demonstration_is_honest():
    found = {f.rule for f in analyse(fit_out()[0]).findings}
    assert {"wire.not-protected", "budget.short", "budget.parked"} <= found
    assert not [f for f in analyse(winter()[0]).findings if f.severity in ("stop", "caution")]


def test_parked_days_fall_with_draw_and_end_at_the_cranking_limit():
    b = Bench()
    assert analyse(b.plan).parked.draw_a == 0
    load = b.load(live="always", amount=1)
    short = analyse(b.plan).parked
    b.change(load, amount=2)
    assert analyse(b.plan).parked.days < short.days
    # 12 Ah x usable share over (1 W at 12.80 V + 2 % a month)
    amps = 1 / 12.80 + 0.02 * 12 / 730.5
    assert short.days == pytest.approx(12 * (1 - short.least_charge) / amps / 24, rel=1e-6)


@pytest.mark.parametrize("make", [fit_out, winter])
def test_every_working_gives_its_figure_again(make):
    analysis = analyse(make()[0])
    shown = 0
    for key, shows in every(analysis):
        shown += 1
        assert math.isfinite(shows.value), key
        assert all(i.what or i.source for i in shows.inputs), key
        assert evaluate(shows.formula, shows.inputs) == pytest.approx(shows.value, rel=2e-3, abs=2e-3), key
    assert shown > 300


def test_workings_agree_with_the_figures_shown():
    analysis = analyse(fit_out()[0])
    load = analysis.plan.loads[0]
    assert working(analysis, f"load_v/{load.id}/idle").value == analysis.volts.across_v(load.id, "idle")
    assert working(analysis, "margin/idle").value == analysis.ledgers["idle"].margin_a
    assert working(analysis, "parked").value == analysis.parked.days
    wire, ratio = weakest_wire(analysis)
    assert working(analysis, f"strength/{wire}").value == ratio


@pytest.mark.parametrize("key",
                         ["", "load_v", "load_v/L99/idle", "load_v/L1/lunch", "wire_c/W1", "x/y/z", "margin/a/b"])
def test_no_such_working(key):
    with pytest.raises(NoFigure):
        working(analyse(fit_out()[0]), key)


@pytest.mark.parametrize("make", [fit_out, winter])
def test_any_key_has_a_working_or_none(make):
    """Every kind of figure asked of one part of every kind, a wire, a place and of nothing, in every state and in
    none."""
    analysis = analyse(make()[0])
    plan = analysis.plan
    elements = [*{p.kind: p.id for p in plan.parts}.values(), plan.wires[0].id, plan.places[0].id, "X9", ""]
    states = [*STATES, "never", ""]
    asked = [(), *((e,) for e in elements), *((s,) for s in states), *itertools.product(elements, states),
             ("L1", "idle", "idle")]
    known, found = {key for key, _ in every(analysis)}, set()
    for kind in FAMILIES:
        for rest in asked:
            key = "/".join((kind, *rest))
            try:
                working(analysis, key)
                found.add(key)
            except NoFigure:
                assert key not in known
    assert len(found) > 80
    assert found <= known


def test_formulas_are_arithmetic_only():
    assert evaluate("2 * a ** 2 + min(b, 3)", [Input("a", 3, "", ""), Input("b", 5, "", "")]) == 21
    for text in ("__import__('os')", "a.b", "[1]", "(lambda: 1)()", "unknown + 1", "'x'"):
        with pytest.raises(PlanError):
            evaluate(text, [])


def test_watts_of_a_ledger_are_its_amps_at_its_volts():
    for state in ("parked", "idle"):
        account = ledger(fit_out()[0], state)
        assert account.items
        assert sum(i.average_w for i in account.items) == pytest.approx(account.demand_a * account.at_v)


def test_what_has_a_rating_and_what_has_none():
    analysis = analyse(fit_out()[0])
    of = {p.kind: p.id for p in analysis.plan.parts}
    assert analysis.ratings.rating_or_none_a(of["fuse"]) == analysis.ratings.rating_a(of["fuse"])
    assert analysis.ratings.rating_or_none_a(of["relay"]) == analysis.ratings.contact_a(of["relay"])
    assert analysis.ratings.rating_or_none_a(of["load"]) is None and analysis.ratings.rating_or_none_a("X9") is None
    assert analyse(Plan()).ratings.rating_or_none_a("F1") is None


@pytest.mark.parametrize(("seed", "wire", "opening", "then"), [
    (459, "W4", 2, "After that 15 A go on in it, and nothing opens."), (497, "W2", 2, "After that 6 A go on"),
    (21, "W6", 3, "Then it is ended."), (24, "W1", 2, "Then it is ended.")])
def test_a_fault_of_several_stages_is_told_to_its_end(seed, wire, opening, then):
    a = analyse(staged(seed))
    found = stages(worst_course(a.wires[wire]))
    told = working(a, f"course/{wire}")
    assert [bool(s.opens) for s in found] == [*[True] * opening, *[False] * (len(found) - opening)]
    assert f"over in {opening} stages" in told.title and then in told.note
    assert told.value == pytest.approx(sum(s.seconds for s in found[:opening]))
    assert [s.after_s for s in found[:opening]] == pytest.approx(list(itertools.accumulate(
        s.seconds for s in found[:opening])))


def test_ends_know_the_sleeve_that_their_wire_lies_in():
    """Two and more in a run are threaded through it before they end; a tape is wound on when they have."""
    b = Bench()
    b.rules(covering="braided sleeve")
    b.lamp(10)
    wire = b.feed_wire("L1")

    def before():
        return next(e for e in analyse(b.plan).ends.every if e.wire == wire and e.at.part == "L1").on_first

    assert f"sleeve of {b.run}" in before()
    b.rules(covering="loom tape")
    assert f"sleeve of {b.run}" not in before()
