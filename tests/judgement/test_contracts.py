"""What must hold of any plan: cures cure, own choices are never complained about, nothing impossible is said."""

import random

import pytest
from judgement.own_choices import COMPLAINTS, plans, stands
from reference.generated import EVERY_KIND, generated
from reference.switched import MACHINES, switched
from sweeps import seeds

import examples
from loadstar.core.analysis import analyse
from loadstar.core.edits import ChangeElement, SetWire, apply
from loadstar.core.errors import PlanError
from loadstar.core.parts.fuse import FusePart
from loadstar.core.plan.document import to_bytes
from loadstar.core.whatif.cures import Cures
from loadstar.demo import PLANS

SEEDS = seeds(3)  # with 23 kinds nearly 70 plans
GRAVE = ("stop", "caution")


def spoiled(plan, dice):
    """A random plan with some of it fixed badly by hand."""
    for wire in dice.sample(plan.wires, k=min(3, len(plan.wires))):
        plan = apply(plan, SetWire(id=wire.id,
            values={"area_mm2": dice.choice((0.35, 0.5, 1.0)), "length_m": dice.choice((0.5, 3.0))}))
    for part in dice.sample(plan.parts, k=min(4, len(plan.parts))):
        values = {"fuse": {"rating_a": dice.choice((1, 3, 10, 30)), "volts_v": 32},
                  "relay": {"contact_a": 2, "suppression": "none"},
                  "way": {"limit_a": dice.choice((1, 25))}, "switch": {"contact_a": 1}, "frame": {"joint_mohm": 60},
                  "port": {"enabled": False}, "tap": {"rated_a": 0.1, "fused_a": None},
                  "load": {"returns": "frame"}}.get(part.kind)
        if values:
            try:
                plan = apply(plan, ChangeElement(id=part.id, values=values))
            except PlanError:
                continue
    return plan


def all_cures(plan):
    """Every cure of a plan, applied and judged again: how many, and what did not hold."""
    before = analyse(plan)
    known = {f.key for f in before.findings if f.severity in GRAVE}
    tried, broken, cures = 0, [], Cures(before)
    for finding in before.findings:
        proposal = cures.of(finding)
        if proposal is None:
            continue
        tried += 1
        after = analyse(apply(plan, proposal.edit)).findings
        broken += [f"{finding.rule} is still there"] * any(f.key == finding.key for f in after)
        broken += [f"{finding.rule} brings {f.rule}" for f in after if f.severity in GRAVE and f.key not in known]
    return tried, broken


@pytest.mark.sweep
@pytest.mark.parametrize("kind", EVERY_KIND)
def test_cures_of_random_plans_cure(kind):
    tried = 0
    for seed in SEEDS:
        dice = random.Random(f"spoiled {kind} {seed}")
        count, broken = all_cures(spoiled(generated(kind, seed), dice))
        assert broken == [], (kind, seed)
        tried += count
    assert tried > 0 or kind in ("magneto",)


@pytest.mark.parametrize("name", examples.EXAMPLES)
def test_cures_of_the_examples_and_demonstrations_cure(name):
    _, broken = all_cures(examples.EXAMPLES[name]())
    assert broken == []
    assert len(PLANS) >= 6


@pytest.mark.parametrize("kind", [k for k in EVERY_KIND if not k.endswith("leads")])  # those leads are laid by hand
def test_what_is_left_to_loadstar_is_not_complained_about(kind):
    """Random plans wholly left to Loadstar; what their loads and sources do wrong among themselves is theirs."""
    for seed in range(20, 24):
        a = analyse(generated(kind, seed))
        told = [f"{f.rule}: {f.sentence}" for f in a.findings if f.rule in COMPLAINTS
                and f.severity in (*GRAVE, "advice")]
        assert told == [], (kind, seed)


@pytest.mark.sweep
@pytest.mark.parametrize("part", range(4))
def test_own_choices_over_supplies_feeds_loads_ways_and_air(part):
    """A sample of the whole sweep (tools/sweep.py runs all of it)."""
    for name, plan in plans()[part::60]:
        a = analyse(plan)
        assert [f"{f.rule}: {f.sentence}" for f in a.findings if f.rule in COMPLAINTS
                and "No " not in f.sentence and "None of its kind" not in f.sentence] == [], name


@pytest.mark.sweep
@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize("machine", MACHINES)
def test_plans_with_switches_stand_balance_and_are_not_complained_about(machine):
    """A sample of the thousand that tools/sweep.py runs."""
    for seed in seeds(6):
        assert stands(switched(machine, seed)) == [], (machine, seed)


@pytest.mark.sweep
@pytest.mark.parametrize("machine", MACHINES)
def test_cures_of_plans_with_switches_cure(machine):
    for seed in seeds(2):
        dice = random.Random(f"spoiled {machine} {seed}")
        _, broken = all_cures(spoiled(switched(machine, seed), dice))
        assert broken == [], (machine, seed)


@pytest.mark.parametrize("kind", EVERY_KIND)
def test_any_plan_stands_balances_and_is_the_same_again(kind):
    for seed in range(30, 33):
        plan = spoiled(generated(kind, seed), random.Random(seed))
        one, two = analyse(plan), analyse(plan)
        assert to_bytes(plan) == to_bytes(plan.model_copy())
        assert [f.sentence for f in one.findings] == [f.sentence for f in two.findings]
        assert {w: r.area_mm2 for w, r in one.wires.items()} == {w: r.area_mm2 for w, r in two.wires.items()}
        for result in one.states.values():
            if result.solution is not None:
                assert result.solution.residual_a < 1e-8, (kind, seed, result.state)


@pytest.mark.parametrize("kind",
    [k for k in EVERY_KIND if k not in ("magneto", "port", "generator leads", "traction leads", "plugs")])
def test_a_larger_fuse_never_makes_a_wire_safer(kind):
    plan = generated(kind, 40)
    before = analyse(plan)
    for wire in plan.wires:
        plan = apply(plan, SetWire(id=wire.id, values={"area_mm2": before.wires[wire.id].area_mm2}))
    fuses = list(plan.of(FusePart))
    for part in fuses:
        plan = apply(plan, ChangeElement(id=part.id, values={"rating_a": before.ratings.rating_a(part.id)}))
    for part in fuses[:3]:
        larger = {10: 25, 7.5: 20, 5: 15}.get(before.ratings.rating_a(part.id), 40)
        one, two = analyse(plan), analyse(apply(plan, ChangeElement(id=part.id, values={"rating_a": larger})))
        for wire in plan.wires:
            a, b = one.wires[wire.id].coordination, two.wires[wire.id].coordination
            # A fuse that is larger has a little less resistance, so that more current may flow: by hairs.
            assert a.protected or not b.protected, (kind, part.id, wire.id)
            if kind != "parallel packs":  # there a fuse of less resistance also takes a larger part of a common fault
                assert b.steady_c >= a.steady_c - 0.5


@pytest.mark.parametrize("kind", EVERY_KIND)
def test_every_stop_for_a_fault_names_a_current_that_the_network_can_give(kind):
    for seed in range(50, 53):
        a = analyse(spoiled(generated(kind, seed), random.Random(seed)))
        for wire in a.wires.values():
            if wire.judged_by and wire.coordination.fails_from_a is not None:
                assert wire.coordination.fails_from_a <= wire.judged_by.fault_a * 1.000001
                assert wire.judged_by.fault_a <= wire.fault_a * 1.000001
