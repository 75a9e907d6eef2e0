"""The work sheet: what comes before what, the best order against brute force, what the log says, ends that cannot be
made."""

import math
import random
from itertools import permutations

import pytest
from builders import Bench, cure
from reference.switched import switched
from sweeps import seeds

from loadstar import demo
from loadstar.core import limits
from loadstar.core.analysis import analyse
from loadstar.core.build.bench_test import trials
from loadstar.core.build.log import Entry, can_be_done, kit, standing, weights
from loadstar.core.build.operations import Operation, circle
from loadstar.core.build.sequence import Circle, best, cost
from loadstar.core.build.whole import work
from loadstar.core.edits import CutWire, SetRules, SetWire, apply
from loadstar.core.harness.reach import Closed, cures, goes_on


def op(key: str, where: str = "bench", tool: str = "hand") -> Operation:
    return Operation(key, "mark", "W1", key, where, tool, 1.0, "", "all")


def rank(work_, sheet_keys):
    at = {k: n for n, k in enumerate(sheet_keys)}
    return at, all(at[k] < at[key] for key, waits in work_.before.items() for k in waits)


def ordered(a):
    w = work(a)
    return w, [k for g in w.groups for k in best(w.of(g), w.before).keys]


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
    the lock; beeped before it is shrunk; tried before it is tied down; the supply last of all."""
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
    assert keys[0] == "disconnect/supply" and keys[-1] == "battery/supply"


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
    assert sum(k.startswith("thread/") and "shrink" in w.operations[k].words
               and splice in w.operations[k].spec + w.operations[k].words for k in keys) <= 1
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


def brute(operations, before):
    """The cheapest of all orders, tried one by one."""
    costs = []
    for order in permutations(operations):
        at = {o.key: n for n, o in enumerate(order)}
        if all(at[k] < at[o.key] for o in operations for k in before.get(o.key, ())):
            costs.append(cost(order))
    return min(costs)


@pytest.mark.parametrize("seed", seeds(25))
def test_the_order_is_the_cheapest_of_all(seed):
    """Against every permutation of six or seven operations."""
    dice = random.Random(seed)
    count = dice.choice((6, 7))
    every = [op(f"o{n}", dice.choice("xy"), dice.choice("abc")) for n in range(count)]
    before = {f"o{n}": frozenset(f"o{k}" for k in range(n) if dice.random() < 0.25) for n in range(count)}
    found = best(every, before)
    assert found.proven and found.cost == brute(every, before)
    assert cost([next(o for o in every if o.key == k) for k in found.keys]) == found.cost
    assert best(every, before, most=1).cost >= found.cost  # by the beam


def test_two_leads_with_one_sealed_plug_tool_by_tool_instead_of_lead_by_lead():
    """By hand: two leads, each with mark, cut, seal, strip, core, insulation, pull, insert at one end; then lock and
    beep. Tool by tool 8 changes; lead by lead 7 for each, one between them, and the beep's: 16."""
    tools = ("label", "cutter", "hand", "stripper", "tool a", "tool b", "gauge", "fingers")
    steps_ = ("mark", "cut", "seal", "strip", "core", "wings", "pull", "insert")
    every, before = [], {}
    for lead in "12":
        for n, (step, tool) in enumerate(zip(steps_, tools, strict=True)):
            every.append(op(f"{step}{lead}", tool=tool))
            before[f"{step}{lead}"] = frozenset({f"{steps_[n - 1]}{lead}"} if n else ())
    every += [op("lock", tool="fingers"), op("beep", tool="meter")]
    before |= {"lock": frozenset({"insert1", "insert2"}), "beep": frozenset({"lock"})}
    found = best(every, before)
    one_by_one = sorted(every, key=lambda o: (o.key in ("lock", "beep"), o.key == "beep", o.key[-1:]))
    assert found.cost == 8 and found.proven
    assert cost(one_by_one) == 16


def test_operations_that_wait_for_one_another_are_named():
    before = {"a": frozenset("b"), "b": frozenset("a"), "c": frozenset()}
    with pytest.raises(Circle) as raised:
        best([op("a"), op("b"), op("c")], before)
    assert raised.value.keys == ("a", "b") == circle(before)
    assert best([], {}).keys == ()


# -- the log ---------------------------------------------------------------------------------------------


def done(w, *keys, **more):
    return [Entry(k, "done", w.operations[k].spec, 1, "Tern", "1 May", element=w.operations[k].element, **more)
            for k in keys]


def test_what_was_ticked_is_done_until_it_is_to_be_made_again():
    w, keys = ordered(analyse(demo.winter()[0]))
    now = standing(w, done(w, *keys[:5]))
    assert now.done == frozenset(keys[:5]) and now.minutes_left == pytest.approx(
        sum(w.operations[k].minutes for k in keys[5:]))
    assert can_be_done(w, keys[5], now.done) == ()
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


def test_the_supply_connected_for_good_before_everything_was_tried_is_told():
    w, keys = ordered(analyse(demo.winter()[0]))
    early = standing(w, done(w, "battery/supply"))
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


def test_where_the_time_is_over_the_nearest_is_taken_and_nothing_is_broken():
    w = work(analyse(demo.winter()[0]))
    with limits.at_most(0.0):
        found = {g: best(w.of(g), w.before) for g in w.groups}
    keys = [k for g in w.groups for k in found[g].keys]
    assert sorted(keys) == sorted(w.operations) and rank(w, keys)[1]
    assert not any(o.proven for g, o in found.items() if len(w.of(g)) > 1)
    with pytest.raises(Circle), limits.at_most(0.0):
        best([op("a"), op("b")], {"a": frozenset("b"), "b": frozenset("a")})
