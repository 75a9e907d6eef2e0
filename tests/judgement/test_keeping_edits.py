"""Edits that keep what goes on existing, and undo by field."""

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    ChangeElement,
    SetMachine,
    SetRules,
    apply,
)
from loadstar.core.errors import PlanError
from loadstar.core.plan.compare import changes, take_back


def test_a_load_that_moves_takes_its_joint_and_switch_along():
    b = Bench()
    away = b.add("place", name="tail")
    b.add("run", a=b.box, b=away, length_m=0.8)
    load = b.load(returns="frame")
    b.change(load, place=away)
    joint = next(p for p in b.plan.parts if p.kind == "frame" and p.made_for == load)
    assert joint.place == away
    assert b.plan.part(b.fuse_of(load)).place == b.box


@pytest.mark.parametrize("kind", ["battery", "block", "module", "bar"])
def test_a_feed_that_moves_takes_its_loads_fuses_ways_and_relays_along(kind):
    b = Bench()
    feed = {"battery": b.battery, "block": b.block}.get(kind) or b.add(
        {"bar": "junction"}.get(kind, kind), name=kind, place=b.box, **({"form": "bus bar"} if kind == "bar" else {}))
    load = b.load(feed=feed)
    away = b.add("place", name="tail")
    b.add("run", a=b.box, b=away, length_m=0.8)
    b.change(feed, place=away)
    for part in b.plan.parts:
        if part.made_for == load:
            assert part.place == away, part.kind
    if kind == "block":
        main = next(p for p in b.plan.parts if p.kind == "fuse" and p.made_for == feed)
        assert main.place == b.box  # the main fuse stays at the battery


def by_hand(b, load):
    feed, back = b.feed_wire(load), next(w.id for w in b.plan.wires if w.a == f"{load}.neg")
    b.wire(feed, area_mm2=1.5, length_m=1.9)
    b.wire(back, area_mm2=2.5, length_m=2.1)
    b.change(b.fuse_of(load), rating_a=7.5)
    return feed, back


def test_another_life_keeps_ids_sizes_and_lengths():
    b = Bench()
    load = b.load()
    feed, back = by_hand(b, load)
    fuse = b.fuse_of(load)
    b.change(load, live="engine")
    assert (b.plan.wire(feed).area_mm2, b.plan.wire(feed).length_m) == (1.5, 1.9)
    assert (b.plan.wire(back).area_mm2, b.plan.wire(back).length_m) == (2.5, 2.1)
    assert b.fuse_of(load) == fuse
    assert b.plan.part(fuse).rating_a == 7.5
    assert analyse(b.plan).volts.across_v(load, "idle") > 12
    assert analyse(b.plan).volts.across_v(load, "key_on") is None


def test_another_return_keeps_the_feed_and_says_what_was_dropped():
    b = Bench()
    load = b.load()
    feed, back = by_hand(b, load)
    edit = ChangeElement(id=load, values={"returns": "frame"})
    label = edit.label(b.plan)
    b.plan = apply(b.plan, edit)
    assert (b.plan.wire(feed).area_mm2, b.plan.wire(feed).length_m) == (1.5, 1.9)
    assert b.plan.wire(back).area_mm2 == 2.5
    assert b.plan.wire(back).length_m is None
    assert f"dropped: the measured length of {back}" in label


def test_another_feed_keeps_what_ends_at_the_load():
    b = Bench()
    load = b.load()
    feed, back = by_hand(b, load)
    fuse = b.fuse_of(load)
    b.change(load, feed=b.battery)
    # Battery and block sit in the same box, so the measured way is the same.
    assert (b.plan.wire(feed).area_mm2, b.plan.wire(feed).length_m) == (1.5, 1.9)
    assert b.plan.wire(back).area_mm2 == 2.5
    assert b.plan.part(fuse).rating_a == 7.5
    assert analyse(b.plan).path(load).complete
    b.change(load, feed=b.block)
    assert b.plan.wire(feed).area_mm2 == 1.5
    assert [p.kind for p in b.plan.parts if p.made_for == load] == ["fuse"]


def test_the_block_s_relay_stays_the_same_relay():
    b = Bench()
    load = b.load()
    relay = next(p.id for p in b.plan.parts if p.kind == "relay")
    b.change(load, returns="frame")
    assert [p.id for p in b.plan.parts if p.kind == "relay"] == [relay]
    b.change(load, live="always")
    assert not [p for p in b.plan.parts if p.kind == "relay"]


# -- undo by field ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("mine", "theirs", "fields"), [
    (SetRules(values={"thermal_margin_k": 20}), SetRules(values={"parked_days": 10}),
     ("rules", "thermal_margin_k", "parked_days")),
    (SetMachine(values={"cruise_rpm": 6000}), SetMachine(values={"cranking_a": 90}),
     ("machine", "cruise_rpm", "cranking_a"))])
def test_two_fields_of_one_whole_are_undone_apart(mine, theirs, fields):
    b = Bench()
    before = b.plan
    after = apply(before, mine)
    head = apply(after, theirs)
    undone = take_back(before, after, head)
    whole, first, second = fields
    assert getattr(getattr(undone, whole), first) == getattr(getattr(before, whole), first)
    assert getattr(getattr(undone, whole), second) == getattr(getattr(head, whole), second)


def test_the_same_field_changed_since_is_refused_by_its_name():
    b = Bench()
    after = apply(b.plan, SetRules(values={"thermal_margin_k": 20}))
    head = apply(after, SetRules(values={"thermal_margin_k": 25}))
    with pytest.raises(PlanError, match="house rule: thermal margin"):
        take_back(b.plan, after, head)
    assert [c.name for c in changes(b.plan, after)] == ["house rule: thermal margin"]
