"""Every house rule, moved from its default, moves a figure or a finding of some plan, or is named here as one that is
only asked elsewhere."""

from typing import Any

import pytest
from builders import Bench
from contracts.speaking import plan_for

from loadstar.core.analysis import analyse
from loadstar.core.build.whole import work
from loadstar.core.doc.rules import HouseRules
from loadstar.core.edits import SetRules, apply
from loadstar.core.plan.model import Plan

# What it is moved to, and the rule whose plan it then moves; None: a bench of its own.
MOVED: dict[str, tuple[Any, str | None]] = {
    "fuse_share_frac": (0.5, "budget.never"), "thermal_margin_k": (40, "budget.parked"),
    "drop_lamp_frac": (0.01, "budget.never"), "drop_heating_frac": (0.01, None),
    "drop_electronics_frac": (0.01, "converter.window-low"), "drop_motor_frac": (0.01, "budget.parked"),
    "drop_other_frac": (0.01, "contact.needs-relay"), "least_area_mm2": (1.0, "budget.crank"),
    "insulation": ("A", "budget.never"), "tinned": (True, "budget.never"), "ambient_open_c": (60, None),
    "ambient_tank_c": (75, None), "ambient_engine_c": (95, None), "end_allowance_m": (0.3, "budget.crank"),
    "local_length_m": (0.3, "budget.crank"), "contact_mohm": (20.0, "budget.never"),
    "crank_limit_v": (11.5, "budget.crank"), "starter_drop_v": (3, "starter.drop"), "parked_days": (2, "budget.parked"),
    "unfused_limit_m": (0.02, "budget.crank"), "stud_terminals": (1, "feed.back-feed"),
    "chafe_arc_v": (11.3, "budget.never"), "returns": ("frame", "feed.stud"),
    "always_loads": ("allowed", "feed.module-way"), "sizes": ("AWG", "budget.crank"),
    "tie_spacing_mm": (60, None), "lay_mm": (60, None), "covering": ("PVC tape", None),
    "hole_fill_frac": (0.3, "run.hole"), "splice_off_mm": (10, "splice.break-out"),
    "work_pace_frac": (2.0, None), "splices": ("anywhere", "splice.moves"),
    "joints": ("solder splice", None), "leads": ("bullet 3.9", None),
    "terminals": ("pre-insulated", None)}
# What a new accessory's form begins with; what the bench is told to do; why a plan departs.
ASKED_ELSEWHERE = {"feeds", "reasons", "colours"}


def bench() -> Plan:
    """Heated grips at the end of a run through every zone."""
    b = Bench()
    zones = [b.add("place", name=zone, zone=zone) for zone in ("open", "under the tank", "near the engine")]
    for before, after in zip([b.box, *zones], [*zones, b.nose], strict=True):
        b.add("run", a=before, b=after, length_m=0.4)
    for zone in zones:
        b.load(name="grips", category="heating", amount=60, place=zone)
    return b.plan


def judged(plan: Plan) -> tuple[Any, ...]:
    """What a person sees move: wires' sizes, lengths, volts and warmth, what they end in, what the harness weighs, how
    long it takes to make, what is said."""
    a = analyse(plan)
    return ([(w.area_mm2, w.length_m, w.hottest_c) for w in a.wires.values()],
            {name: result.solution and result.solution.potential_v for name, result in a.states.items()},
            a.loom and (a.loom.ties, round(a.loom.total_g, 6)), a.ends and [(e.family, e.how) for e in a.ends.every],
            sum(o.minutes for o in work(a).operations.values()),
            sorted(f.sentence for f in a.findings if f.rule != "rules.no-reason"))


def test_every_house_rule_is_named():
    assert set(MOVED) | ASKED_ELSEWHERE == set(HouseRules.model_fields)


@pytest.mark.parametrize("field", MOVED)
def test_a_house_rule_that_is_moved_moves_something(field):
    value, rule = MOVED[field]
    plan = plan_for(rule) if rule else bench()
    assert judged(apply(plan, SetRules(values={field: value}))) != judged(plan)
