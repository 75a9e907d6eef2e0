"""The brake cut-off of an e-bike: each lever pulled alone must change what the controller sees."""

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddElement, AddWire, ChangeElement, RemoveElement, RemoveWire, apply
from loadstar.core.intents import carried_out
from loadstar.core.intents.electric import BrakeCutoff
from loadstar.core.plan.model import Plan


def bike(works: str = "closes") -> Plan:
    """An e-bike with a cut-off switch at both levers."""
    b = Bench(generator=False, battery=False)
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    b.add("pack", name="pack", place=b.box, series=13, parallel=5)
    b.add("drive", name="drive", place=b.box)
    plan, here = b.plan, b.box
    return apply(plan, carried_out(plan, BrakeCutoff(lever_at=here, controller_at=here, works=works)))


def told(plan: Plan) -> set[str]:
    return {f.rule for f in analyse(plan).findings if f.rule.startswith(("cutoff.", "data."))}


def wire(plan: Plan, a: str, b: str) -> str:
    return next(w.id for w in plan.wires if (str(w.a), str(w.b)) == (a, b))


@pytest.mark.parametrize("works", ["closes", "opens"])
def test_both_levers_cut_the_motor(works):
    assert not told(bike(works))


@pytest.mark.parametrize(("works", "ends", "levers"), [
    ("closes", ("BC1.a", "BC2.a"), {"BC2"}), ("closes", ("DV1.brake", "BC1.a"), {"BC1", "BC2"}),
    ("opens", ("BC1.b", "BC2.a"), {"BC1", "BC2"})])
def test_a_wire_less_and_the_lever_behind_it_does_nothing(works, ends, levers):
    plan = bike(works)
    cut = apply(plan, RemoveWire(id=wire(plan, *ends)))
    found = [f for f in analyse(cut).findings if f.rule == "cutoff.no-effect"]
    assert {e for f in found for e in f.elements} == levers
    assert {f.severity for f in found} == {"stop"}


def test_a_contact_that_opens_beside_one_that_closes_holds_the_line():
    """With the one joined at rest, pulling the other changes nothing."""
    plan = apply(bike("closes"), ChangeElement(id="BC1", values={"works": "opens"}))
    assert {f.elements for f in analyse(plan).findings if f.rule == "cutoff.no-effect"} == {("BC2",)}


def test_one_lever_alone_is_told():
    plan = bike()
    for ends in (("BC1.a", "BC2.a"), ("BC1.b", "BC2.b")):
        plan = apply(plan, RemoveWire(id=wire(plan, *ends)))
    assert told(apply(plan, RemoveElement(id="BC2"))) == {"cutoff.one-lever"}


def test_a_supply_on_the_line_is_a_stop():
    plan = bike()
    pack = plan.packs[0].id
    assert "cutoff.fed" in told(apply(plan, AddWire(a=f"{pack}.pos", b="BC1.a")))


def test_other_data_lines_do_not_miss_the_cut_off():
    plan = bike()
    for name in ("display", "controller"):
        plan = apply(plan, AddElement(what="device", values={"name": name, "place": plan.places[0].id, "lines": "rx"}))
    ends = [p.id for p in plan.of_kind("device")][1:]
    plan = apply(plan, AddWire(a=f"{ends[0]}.rx", b=f"{ends[1]}.rx"))
    assert not told(plan)
