"""What is not wired conducts and counts for nothing: a part of every kind added without its circuit, beside plans of
every kind of supply."""

from typing import Any

import pytest
from builders import Bench
from contracts.test_kinds import NEEDED
from judgement.plans import e_bike

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import AddElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.parts.registry import KINDS
from loadstar.core.plan.model import Plan

# What lies on the rail by custom while nothing is wired to it: nobody draws a machine's own generator and loads.
ON_THE_RAIL = {"battery", "pack", "generator", "own", "drive", "starter", "coil", "port"}


def on_a_battery() -> Plan:
    """A lamp on a block."""
    b = Bench()
    b.lamp()
    return b.plan


def on_a_pack() -> Plan:
    """A lamp on a converter."""
    return e_bike(drive={}, converter={"rated_a": 8}, load={})


def on_a_magneto() -> Plan:
    """A lamp on a lighting coil."""
    b = Bench(battery=False, generator=False)
    b.machine(system="magneto", system_v=6, chassis="winding")
    coil = b.add("coil", name="coil", place=b.box, emf_mv_per_rpm=8, reactance_mohm_per_rpm=0.8, winding_ohm=0.3)
    b.add("load", name="lamp", category="lamp", behaviour="filament", amount=15, at_v=6, window_low_v=0,
          window_high_v=9, place=b.nose, feed=coil, live="engine", returns="frame")
    return b.plan


def figures(a: Analysis, before: Plan) -> dict[str, Any]:
    """Everything that the part could have changed: volts and amps in every state, choices, margins, days, charge."""
    rows = {f"{r.state} {r.words}": ([r.solution.across_v(a.topology.node(p.at("pos")), a.topology.node(p.at("neg")))
                                      for p in before.loads], [r.current(w.id) for w in before.wires])
            for r in a.volts.rows if r.solution is not None}
    return {"rows": rows, "sizes": {w.id: a.wires[w.id].area_mm2 for w in before.wires}, "rated": dict(a.ratings.rated),
            "margins": {state: ledger.margin_a for state, ledger in a.ledgers.items()},
            "days": a.parked and a.parked.days,
            "fault": pytest.approx([a.wires[w.id].fault_a for w in before.wires], rel=1e-9),
            "power": a.pack and (a.pack.full_power_a, a.pack.range_km)}


@pytest.mark.parametrize("kind", sorted(KINDS.keys() - ON_THE_RAIL))
@pytest.mark.parametrize("make", [on_a_battery, on_a_pack, on_a_magneto], ids=lambda m: m.__name__)
def test_a_part_that_nothing_is_wired_to_changes_nothing(make, kind):
    plan = make()
    values = {"name": f"the {kind}", "place": plan.places[0].id, **NEEDED.get(kind, {})}
    if kind == "load":
        values["feed"] = plan.loads[0].feed
    try:
        more = apply(plan, AddElement(what=kind, values=values, alone=True))
    except PlanError as refused:
        assert refused.faults[0].sentence.endswith(".")
        return
    assert not {p.id for p in more.parts} - {p.id for p in plan.parts} & more.wired
    then, now = figures(analyse(plan), plan), figures(analyse(more), plan)
    then["fault"] = then["fault"].expected
    now["rated"] = {part: amps for part, amps in now["rated"].items() if part in then["rated"]}
    assert _alike(then.pop("rows"), now.pop("rows"))
    assert now == then


def _alike(then: dict[str, Any], now: dict[str, Any]) -> bool:
    """Whether volts and amps are the same in every row that was there; a switch adds rows of its own."""
    return all(now[row] == (pytest.approx(volts, rel=1e-8, abs=1e-9), pytest.approx(amps, rel=1e-8, abs=1e-9))
               for row, (volts, amps) in then.items())
