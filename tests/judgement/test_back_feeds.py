"""What wakes by another way, grounds twice or has no fuse, judged."""

import pytest
from builders import Bench, cure
from judgement.plans import rules_of, seen

from loadstar.core.analysis import analyse
from loadstar.core.edits import (
    AddWire,
    MoveEnd,
    apply,
)


def test_a_key_wire_joined_to_an_always_fed_load_is_back_fed():
    b = Bench()
    load = b.load(name="tracker", feed=b.battery, live="always", amount=5, reason_always="alarm")
    assert "feed.back-feed" not in rules_of(b.plan)
    plan = apply(b.plan, AddWire(a=f"{b.key}.pin", b=f"{load}.pos"))
    finding, = seen(plan, "feed.back-feed")
    assert finding.severity == "stop"
    assert "Key wire is dead in parked" in finding.sentence


def test_two_feeds_that_live_together_back_feed_nothing():
    b = Bench()
    other = b.add("tap", name="second key wire", place=b.box, live="key", rated_a=5, fused_a=5)
    load = b.load(feed=b.key, amount=10)
    plan = apply(b.plan, AddWire(a=f"{other}.pin", b=f"{load}.pos"))
    assert "feed.back-feed" not in rules_of(plan)


def test_a_switched_bus_that_another_feed_keeps_alive_wakes_its_loads():
    b = Bench()
    lamp = b.lamp(20, name="fog lamp")
    constant = b.load(name="clock", feed=b.block, live="always", amount=1, reason_always="clock")
    assert "feed.back-feed" not in rules_of(b.plan)
    plan = apply(b.plan, AddWire(a=f"{constant}.pos", b=f"{lamp}.pos"))
    finding = seen(plan, "feed.back-feed")[0]
    assert "fog lamp" in finding.sentence
    assert finding.severity == "caution"


def test_a_load_that_nothing_switches_is_told():
    b = Bench()
    lamp = b.lamp(20, feed=b.battery)
    relay = next(p.id for p in b.plan.parts if p.kind == "relay" and p.made_for == lamp)
    assert "load.lives-on" not in rules_of(b.plan)
    bridged = apply(b.plan, MoveEnd(id=b.feed_wire(lamp), end="a", to=f"{relay}.30"))
    assert "must be live only with the key on" in seen(bridged, "load.lives-on")[0].sentence


@pytest.mark.parametrize(("body", "returns", "chassis", "told"), [
    ("on the frame", "own wire", "negative", True), ("on the frame", "frame", "negative", False),
    ("isolated", "own wire", "negative", False), ("on the frame", "own wire", "floating", False)])
def test_two_grounds(body, returns, chassis, told):
    b = Bench()
    b.machine(chassis=chassis)
    b.load(name="radio", body=body, returns=returns)
    found = seen(b.plan, "load.two-grounds")
    assert bool(found) == told
    assert all(f.severity == "advice" and cure(f, b.plan) for f in found)


def test_an_unknown_factory_fuse_is_a_caution_and_blames_no_return():
    b = Bench()
    b.lamp(20)
    back = next(w.id for w in b.plan.wires if w.a == f"{b.block}.ret")
    b.wire(back, length_m=0.6)
    b.change(b.key, fused_a=None)
    finding, = seen(b.plan, "feed.unknown-fuse")
    assert finding.severity == "caution"
    assert "find it" in finding.sentence
    assert "wire.no-fuse" not in rules_of(b.plan)
    b.change(b.key, fused_a=5)
    assert not {"feed.unknown-fuse", "wire.no-fuse"} & rules_of(b.plan)


def test_a_plug_found_without_a_fuse_is_unprotected():
    b = Bench()
    load = b.load(feed=b.key, amount=10)
    b.change(b.key, fused_a=None, unfused=True)
    wire = next(w.id for w in b.plan.wires if w.a == f"{b.key}.pin")
    assert analyse(b.plan).wires[wire].guard is None
    b.wire(wire, length_m=0.5)
    assert wire in {f.elements[0] for f in seen(b.plan, "wire.no-fuse")}
    assert analyse(b.plan).wires[b.feed_wire(load)].guard.fuse == b.fuse_of(load)


@pytest.mark.parametrize(("amps", "severity", "words"), [
    (7.4, None, ""), (9.9, "caution", ""), (10.3, "caution", "It ages"), (11.4, "stop", "It opens in use")])
def test_a_fuse_from_100_to_110_percent_ages_and_does_not_open(amps, severity, words):
    b = Bench(generator=False)
    for place in (b.box, b.nose):
        b.change(place, ambient_c=25)
    load = b.load(feed=b.battery, live="always", reason_always="x", behaviour="current", unit="A", amount=amps,
                  category="heating")
    b.change(b.fuse_of(load), rating_a=10)
    found = seen(b.plan, "fuse.share")
    assert [f.severity for f in found] == ([severity] if severity else [])
    assert all(words in f.sentence for f in found)
    assert not [f for f in found if "opens in use" in f.sentence and severity != "stop"]
