"""The work sheet: what comes before what, what the log says, ends that cannot be made."""

import math

import pytest
from builders import Bench, cure
from reference.switched import switched
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.build.bench_test import trials
from loadstar.core.build.goes import goes
from loadstar.core.build.log import Entry, kit, left_out, standing, weights
from loadstar.core.build.operations import circle
from loadstar.core.build.whole import work
from loadstar.core.edits import CutWire, SetRules, SetWire, apply
from loadstar.core.harness.reach import Closed, cures, goes_on


def rank(work_, sheet_keys):
    at = {k: n for n, k in enumerate(sheet_keys)}
    return at, all(at[k] < at[key] for key, waits in work_.before.items() for k in waits)


def ordered(a):
    w = work(a)
    return w, [o.key for go in goes(w) for o in go.operations]


@pytest.mark.parametrize("seed", seeds(4))
@pytest.mark.parametrize("machine", ["battery", "pack", "magneto"])
def test_no_order_breaks_a_precedence(machine, seed):
    """Twelve random plans (LOADSTAR_SWEEP=25 for three hundred)."""
    w, keys = ordered(analyse(switched(machine, seed)))
    assert sorted(keys) == sorted(w.operations) and circle(w.before) == ()
    assert rank(w, keys)[1]


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_nothing_is_left_on_the_bench(make):
    """What has to be on a wire is on it before that end is stripped; pulled before it is pushed in; seal home before
    the lock; beeped before it is shrunk; tried before it is tied down; what hides it off first and on last."""
    w, keys = ordered(analyse(make()[0]))
    at, holds = rank(w, keys)
    assert holds
    for key in keys:
        kind, _, about = key.partition("/")
        if kind == "thread" and "." in about:
            assert at[key] < at[f"strip/{about.rpartition('/')[0]}"]
        if kind == "crimp insulation":
            assert at[f"crimp core/{about}"] < at[key]
        if kind == "pull":
            assert all(at[k] < at[key] for k in (f"crimp core/{about}", f"crimp insulation/{about}") if k in at)
        if kind == "heat" and f"pull/{about}" in at:
            assert at[f"beep/{about.partition('.')[0]}"] < at[key]
        if kind == "tie":
            assert all(at[k] < at[key] for k in keys if k.startswith("test/"))
    first, last = (w.operations[k].sitting for k in (keys[0], keys[-1]))
    assert first in ("take off", "supply off") and last in ("refit", "tie")


def test_a_sealed_connector_and_a_splice_are_made_in_their_order():
    b = Bench()
    b.lamp()
    b.lamp(name="second")
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L2"), place=b.nose, form="splice"))
    b.plan = apply(b.plan, SetRules(values={"joints": "crimp then solder"}))
    w, keys = ordered(analyse(b.plan))
    at, _ = rank(w, keys)
    connector, splice = b.plan.of_kind("coupling")[0].id, b.plan.of_kind("junction")[0].id
    inserts = [k for k in keys if k.startswith("insert/")]
    assert inserts and all(at[k] < at[k.replace("insert", "seal home")] for k in inserts)
    locks = [k for k in keys if k.startswith(f"lock/{connector}")]
    assert len(locks) == 2 and max(at[k.replace("insert", "seal home")] for k in inserts) < max(at[k] for k in locks)
    assert at[f"splice/{splice}"] < at[f"solder/{splice}"] < at[f"heat/{splice}"]
    tubes = [o for k, o in w.operations.items() if k == f"thread/{splice}"]
    assert len(tubes) == 1 and "shrink" in tubes[0].words and at[tubes[0].key] < at[f"splice/{splice}"]
    strips = [k for k in keys if k.startswith("strip/") and any(
        splice in (e.at.part,) for e in [analyse(b.plan).ends.by_key[k.partition("/")[2]]])]
    assert len(strips) == 2 and all(at[k] < at[f"splice/{splice}"] for k in strips)


def test_a_sleeve_goes_over_wires_that_are_cut_and_before_their_far_ends_are_made():
    b = Bench()
    b.lamp()
    b.rules(covering="braided sleeve")
    a = analyse(b.plan)
    w, keys = ordered(a)
    at, _ = rank(w, keys)
    sleeves = [x for x in a.loom.bundles if x.covering == "braided sleeve" and len(x.wires) > 1]
    assert sleeves
    for x in sleeves:
        for wire in x.wires:
            assert at[f"cut/{wire}"] < at[f"thread/{x.run.id}"]
        ends = [at[k] for wire in x.wires for k in (f"strip/{wire}.a", f"strip/{wire}.b") if k in at]
        assert sum(at[f"thread/{x.run.id}"] < end for end in ends) >= len(x.wires)


# -- the log ---------------------------------------------------------------------------------------------


def done(w, *keys, **more):
    return [Entry(k, "done", w.operations[k].spec, 1, "Tern", "1 May", element=w.operations[k].element, **more)
            for k in keys]


def test_what_was_ticked_is_done_until_it_is_to_be_made_again():
    w, keys = ordered(analyse(demo.winter()[0]))
    now = standing(w, done(w, *keys[:5]))
    assert now.done == frozenset(keys[:5]) and now.minutes_left == pytest.approx(
        sum(w.operations[k].minutes for k in keys[5:]))
    assert left_out(w, [keys[5]], now.done) == ()
    again = [*done(w, *keys[:5]), Entry(keys[4], "again", element="W4", note="nicked")]
    assert keys[4] not in standing(w, again).done
    assert keys[4] in standing(w, [*again, *done(w, keys[4])]).done
    assert not standing(w, [*again, Entry(keys[4], "note", note="seen")]).done & {keys[4]}


def test_an_end_made_to_an_older_plan_is_told_with_what_it_was():
    plan = demo.winter()[0]
    w, keys = ordered(analyse(plan))
    crimp = next(k for k in keys if k == "crimp core/W8.a")
    entries = done(w, *keys[:keys.index(crimp) + 1])
    thicker = work(analyse(apply(plan, SetWire(id="W8", values={"area_mm2": 1.5}))))
    now = standing(thicker, entries)
    assert crimp in {c.operation.key for c in now.changed} and crimp not in now.done
    told = next(t for t in now.told if crimp.partition("/")[2].partition(".")[0] == t.element)
    assert "made to revision 1" in told.sentence and "1.5 mm²" in told.sentence
    assert not standing(w, entries).changed


def test_a_pull_that_held_too_little_and_work_done_again_twice_are_told():
    w, _ = ordered(analyse(demo.winter()[0]))
    pull = "pull/W8.a"
    weak = standing(w, done(w, pull, pull_n=20.0))
    assert weak.weak and pull not in weak.done and "less" in weak.told[0].sentence
    assert pull in standing(w, done(w, pull, pull_n=80.0)).done
    twice = standing(w, [Entry("crimp core/W8.a", "again", element="W8", note="x")] * 2)
    assert [t.severity for t in twice.told] == ["advice"] and "2 times" in twice.told[0].sentence


def test_what_is_closed_up_before_everything_was_tried_is_told():
    w, keys = ordered(analyse(demo.winter()[0]))
    early = standing(w, done(w, keys[-1]))
    assert "2 circuits have not been tried" in early.told[-1].sentence
    assert not standing(w, done(w, *keys)).told


def test_the_log_makes_joints_likelier_where_it_shows_poor_work():
    w, _ = ordered(analyse(demo.winter()[0]))
    found = weights(w, [*done(w, "crimp core/W8.a", tool="pliers"), *done(w, "crimp core/W9.a", "pull/W9.a")])
    assert found["W8"] > 1 and "W9" not in found
    assert weights(w, [Entry("crimp core/W9.a", "again", element="W9"), *done(w, "crimp core/W9.a", "pull/W9.a")]) == {
        "W9": 2.0}


def test_what_to_lay_out_counts_what_is_used_up():
    w, _ = ordered(analyse(demo.winter()[0]))
    found = kit(w.of("Radio charger"))
    assert ("0.5 mm² YE/WH", 1) in found.uses and "stripper" in found.tools and "hand" not in found.tools
    assert kit([]) == kit(iter(()))


# -- trials and ends that cannot be made -----------------------------------------------------------------


def test_a_circuit_is_tried_from_a_small_battery_with_a_fuse_that_holds():
    """Grips of 30 W at 14.2 V are 6.72 Ω: from 12.6 V less its way, I = 12.6 / (6.72 + R)."""
    a = analyse(demo.winter()[0])
    grips = next(t for t in trials(a) if t.load.name == "Heated grips")
    row, path = a.volts.row("L1", "idle"), a.path("L1")
    ohm = sum(abs(row.solution.across_v(k.a, k.b) / row.current(k.element)) for k in path.links
              if k.element in a.wires)
    amps = 12.6 / (14.2**2 / 30 + ohm + 0.03)
    assert grips.amps == pytest.approx(amps, rel=2e-3) and grips.volts == pytest.approx(amps * 14.2**2 / 30, rel=2e-3)
    assert grips.fuse_a == 3.0 > grips.amps * 1.3


def test_an_inflator_is_tried_at_the_volts_that_its_own_amps_leave_it():
    """60 W of constant power: I (V - I R) = 60 with R of the leads and the small battery; a real root, by hand."""
    b = Bench()
    load = b.lamp(60, behaviour="power", category="motor", at_v=12.0)
    a = analyse(b.plan)
    trial = next(t for t in trials(a) if t.load.id == load)
    row = a.volts.row(load, "idle")
    ohm = 0.03 + sum(abs(row.solution.across_v(k.a, k.b) / row.current(k.element)) for k in a.path(load).links
                     if k.element in a.wires)
    amps = (12.6 - math.sqrt(12.6**2 - 4 * ohm * 60)) / (2 * ohm)
    assert trial.amps == pytest.approx(amps, rel=1e-3) and trial.volts == pytest.approx(60 / amps, rel=1e-3)


def test_a_moulded_lead_lets_a_sleeve_on_over_its_smaller_end_only():
    """Two ends, 16.5 by 8.5 mm (18.6 across) and 11.0 round: 12.7 mm goes over the round one, 9.5 mm over neither."""
    ends = (Closed(16.5, 8.5), Closed(11.0))
    assert ends[0].passes_mm == pytest.approx(18.56, abs=0.01)
    assert goes_on(12.7, ends) and not goes_on(9.5, ends)
    assert goes_on(9.5, (ends[0], None))
    assert cures(12.7, ends) == () and "11.0 mm" in cures(9.5, ends)[1] and "wrapped" in cures(9.5, ends)[0]


@pytest.mark.parametrize(("plug_mm", "bore_mm", "covering", "told"), [
    (4.0, None, "", 0), (18.6, None, "", 1), (18.6, None, "loom tape", 0), (18.6, 14.0, "bare", 1),
    (18.6, 19.0, "bare", 0), (None, 5.0, "", 0)])
def test_a_moulded_plug_that_does_not_go_through_is_told_and_the_cure_mends_it(plug_mm, bore_mm, covering, told):
    """The sleeve of two thin wires opens to 5.1 mm; a bore of 14 mm stops 18.6."""
    b = Bench()
    b.load(name="light", lead_mm2=0.75, lead_end="plug", lead_plug_mm=plug_mm, dimensions={"lead_m": 4.0})
    b.change(b.run, bore_mm=bore_mm, covering=covering)
    a = analyse(b.plan)
    assert any(a.wires[w].supplied for w in a.wires)
    found = [f for f in a.findings if f.rule == "run.plug-passes-not"]
    assert len(found) == told
    if found and found[0].proposals:
        edit = cure(found[0], a)
        assert not [f for f in analyse(apply(b.plan, edit)).findings if f.rule == "run.plug-passes-not"]


def test_what_a_bench_trial_showed_is_told_against_what_was_expected():
    """By hand: the grips of 3.31 A and 11.91 V left, from 12.6 V."""
    trial = next(t for t in trials(analyse(demo.fit_out()[0])) if t.load.name == "Heated grips")
    assert (round(trial.amps, 2), round(trial.volts, 2)) == (3.31, 11.91)
    assert trial.told(3.3, 11.9) == "3.3 A, 11.9 V left: pass"
    assert "next to nothing" in trial.told(0.1, 12.5)
    assert "3.3 A were expected" in trial.told(5.0, 11.6)
    assert trial.told(3.1, 10.2).endswith("0.69 V should be lost, not 2.4 V; a joint")
    assert trial.operation.key == f"trial/{trial.load.id}"


def test_a_tube_over_a_splice_goes_over_the_wires_that_leave_it_together():
    """Of three wires of which two go the same way the tube is on the one that goes alone."""
    b = Bench()
    b.lamp()
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose, form="splice"))
    a = analyse(b.plan)
    w = work(a)
    splice = b.plan.of_kind("junction")[0].id
    tube = w.operations[f"thread/{splice}"]
    on = tube.words.partition("over ")[2].partition(" (")[0].split(", ")
    wires = [x.id for x in a.plan.wires if splice in (x.a.part, x.b.part)]
    assert set(on) < set(wires)  # those of one way, and not of all
