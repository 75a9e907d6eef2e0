"""From intent to circuit for every feed: which parts and wires are made, and that all of it can be taken out again."""

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    AddElement,
    AddWire,
    ChangeElement,
    MakeBusBar,
    MoveEnd,
    RemoveElement,
    RemoveWire,
    apply,
)
from loadstar.core.errors import PlanError


def made_for(plan, owner):
    return sorted(p.kind for p in plan.parts if p.made_for == owner)


def feeds(b):
    """Every feed of a machine on a battery."""
    return {"block": b.block, "battery": b.battery, "tap": b.key, "module": b.add("module", name="module", place=b.box),
            "bus bar": b.add("junction", name="bar", place=b.box, form="bus bar")}


@pytest.mark.parametrize(("feed", "parts"), [
    ("block", ["fuse"]), ("battery", ["fuse", "relay"]), ("tap", ["fuse"]), ("module", ["way"]),
    ("bus bar", ["fuse", "relay"])])
def test_what_a_load_gets_from_each_feed(feed, parts):
    b = Bench()
    load = b.load(feed=feeds(b)[feed])
    assert made_for(b.plan, load) == parts
    analysis = analyse(b.plan)
    assert analysis.path(load).complete
    assert analysis.volts.across_v(load, "key_on") > 10
    assert analysis.volts.across_v(load, "parked") is None


@pytest.mark.parametrize("feed", ["block", "battery", "tap", "module", "bus bar"])
def test_taking_a_load_out_takes_its_circuit_out(feed):
    b = Bench()
    chosen = feeds(b)[feed]
    parts, wires = len(b.plan.parts), len(b.plan.wires)
    load = b.load(feed=chosen)
    b.plan = apply(b.plan, RemoveElement(id=load))
    shared = {"module": 1}.get(feed, 0)  # the module's sense wire stays: others may need it
    assert (len(b.plan.parts), len(b.plan.wires)) == (parts, wires + shared)


def test_a_module_senses_once_for_all_its_loads():
    b = Bench()
    module = feeds(b)["module"]
    for _ in range(3):
        b.load(feed=module)
    assert sum(w.b == f"{module}.key" for w in b.plan.wires) == 1
    assert not [p for p in b.plan.parts if p.kind == "relay"]


@pytest.mark.parametrize("returns", ["own wire", "frame"])
def test_a_load_returns_as_it_is_told(returns):
    b = Bench()
    load = b.load(returns=returns, amount=40)
    back = [k.element for k in analyse(b.plan).path(load).back]
    assert any(e.startswith("FR") for e in back) == (returns == "frame")
    b.change(load, returns="own wire" if returns == "frame" else "frame")
    assert any(e.startswith("FR") for e in [k.element for k in analyse(b.plan).path(load).back]) != (returns == "frame")


def test_two_loads_share_the_drop_of_a_common_return():
    b = Bench()
    lamp = b.lamp(30)
    alone = analyse(b.plan).volts.across_v(lamp, "key_on")
    splice = b.add("junction", name="midpoint", place=b.nose, form="splice")
    other = b.lamp(60, name="other")
    back = next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")
    theirs = next(w.id for w in b.plan.wires if w.a == f"{other}.neg")
    b.wire(back, area_mm2=0.75)
    b.plan = apply(b.plan, MoveEnd(id=back, end="a", to=f"{splice}.t"))
    b.plan = apply(b.plan, MoveEnd(id=theirs, end="b", to=f"{splice}.t"))
    b.plan = apply(b.plan, AddWire(a=f"{lamp}.neg", b=f"{splice}.t"))
    analysis = analyse(b.plan)
    assert abs(analysis.states["key_on"].current(back)) == pytest.approx(
        abs(analysis.states["key_on"].current(lamp)) + abs(analysis.states["key_on"].current(other)), rel=1e-6)
    assert analysis.volts.across_v(lamp, "key_on") < alone


def test_the_trigger_with_the_most_to_spare_is_taken():
    b = Bench()
    strong = b.add("tap", name="strong key wire", place=b.box, live="key", rated_a=10, others_a=2)
    b.add("tap", name="busy key wire", place=b.box, live="key", rated_a=10, others_a=8)
    load = b.load(feed=b.battery)
    relay = next(p.id for p in b.plan.parts if p.kind == "relay" and p.made_for == load)
    assert next(w.a for w in b.plan.wires if w.b == f"{relay}.86") == f"{strong}.pin"


def test_a_fuse_taken_out_leaves_a_splice_and_a_live_load():
    b = Bench()
    lamp = b.lamp(feed=b.battery, live="always", reason_always="x")
    fuse = b.fuse_of(lamp)
    b.plan = apply(b.plan, RemoveElement(id=fuse))
    assert "fuse" not in made_for(b.plan, lamp)
    analysis = analyse(b.plan)
    assert analysis.volts.across_v(lamp, "parked") > 12
    assert "wire.no-fuse" in {f.rule for f in analysis.findings}


def test_the_maker_s_fuse_is_taken_where_it_does_not_open_needlessly():
    b = Bench()
    small, large = b.lamp(20, maker_fuse_a=5), b.lamp(60, maker_fuse_a=2)
    analysis = analyse(b.plan)
    assert analysis.ratings.rating_a(b.fuse_of(small)) == 5
    assert analysis.ratings.rating_a(b.fuse_of(large)) > 2


def test_a_bus_bar_needs_something_to_move():
    b = Bench()
    with pytest.raises(PlanError, match="Nothing sits on"):
        apply(b.plan, MakeBusBar(post=f"{b.key}.pin", keep="W1"))


def test_wires_by_hand_are_checked():
    b = Bench()
    for edit, words in ((AddWire(a="BT1.pos", b="BT1.pos"), "begins and ends"),
                        (AddWire(a="BT1.pos", b="XX9.t"), "does not exist"),
                        (RemoveWire(id="W99"), "no wire W99"),
                        (MoveEnd(id="W99", end="a", to="BT1.pos"), "no wire W99"),
                        (MoveEnd(id="W1", end="a", to="BT1.middle"), "does not exist")):
        with pytest.raises(PlanError, match=words):
            apply(b.plan, edit)


def test_labels_of_wires_by_hand():
    b = Bench()
    assert AddWire(a="T1.pin", b="B1.ret").label(b.plan) == "wire from T1.pin to B1.ret"
    assert RemoveWire(id="W1").label(b.plan) == "W1 taken out"
    assert MoveEnd(id="W1", end="b", to="T1.pin").label(b.plan) == "W1 moved to T1.pin"


def test_a_part_alone_is_left_to_be_wired():
    b = Bench()
    wires = len(b.plan.wires)
    plan = apply(b.plan, AddElement(what="module", values={"name": "spare", "place": b.box}, alone=True))
    assert len(plan.wires) == wires
    changed = apply(plan, ChangeElement(id=plan.parts[-1].id, values={"ways": 8}))
    assert changed.parts[-1].ways == 8
