"""Switches with positions, flashers, starter control, shared leads, connectors and data lines: what is solved, what is
told, and what mends it."""


import pytest
from builders import BEAM, Bench, brakes, head_lamp, sentences
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import analyse
from loadstar.core.budget.packs import pack_budget
from loadstar.core.doc.machine import Machine
from loadstar.core.doc.survey import Beep, Continuity
from loadstar.core.edits import AddWire, MoveEnd, RemoveElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import working
from loadstar.core.figures.working import evaluate
from loadstar.core.parts.selector import Selector, read_positions
from loadstar.core.survey.continuity import as_positions
from loadstar.draw.waterline import water

# -- positions ---------------------------------------------------------------------------------------------------------

def test_positions_are_read_as_a_continuity_table_says_them():
    table = read_positions("Off; dip: in+dip, tail+park; MAIN: in+main")
    assert [p.name for p in table] == ["off", "dip", "main"]
    assert table[1].joined == (("in", "dip"), ("tail", "park"))


@pytest.mark.parametrize(("text", "says"), [
    ("on: in+out", "2 to 8 positions"), ("off; on", "joins anything"), ("off; on: in", "joins nothing"),
    ("off; on: in+out; on: in+x", "twice"), ("off; on: in+out, out+x", "joined twice"), ("off; on!: in+out", "name"),
    ("off; on: in+toolongname", "terminal"), ("; ".join(["off", *(f"p{n}: a+b{n}" for n in range(9))]), "2 to 8")])
def test_what_says_no_positions_is_told_beside_the_field(text, says):
    with pytest.raises(ValueError, match=says):
        read_positions(text)
    b = Bench()
    with pytest.raises(PlanError) as refused:
        b.add("selector", name="switch", place=b.box, positions=text)
    assert refused.value.faults[0].field == "positions"


def test_both_beams_are_never_on_together_where_a_contact_changes_over():
    b, _, dip, main = head_lamp()
    a = analyse(b.plan)
    for row in a.volts.rows:
        assert not (abs(row.current(dip)) > 1e-3 and abs(row.current(main)) > 1e-3), row.words
    assert a.states["idle"].current(main) > 4  # where most is on is looked at first
    assert a.volts.across_v(dip, "idle") > 11  # the other beam is looked at too
    assert not {"load.not-live", "lamp.both-on", "load.not-carried"} & set(sentences(b.plan))


def test_the_wire_of_the_beam_that_is_usually_off_is_sized_for_it():
    b, switch, dip, _ = head_lamp()
    a = analyse(b.plan)
    wire = next(w.id for w in b.plan.wires if w.b == f"{dip}.pos")
    assert a.ratings.peak_a(wire) == pytest.approx(4.9, abs=0.2)
    assert a.ratings.through_contact(switch)[1] == pytest.approx(5.4, abs=0.2)
    assert working(a, f"step/{wire}/idle").value > 1


def test_only_one_beam_counts_in_the_account():
    b, _, dip, main = head_lamp()
    account = analyse(b.plan).ledgers["town"]
    items = {i.id: i for i in account.items}
    assert items[dip].waits
    assert not items[main].waits
    assert account.all_at_once_a == pytest.approx(sum(i.on_a for i in account.items) - items[dip].on_a)


def test_what_is_never_on_together_is_not_drawn_on_top_of_one_another():
    b, _, _, main = head_lamp()
    sea = water(analyse(b.plan))
    assert sea is not None
    assert [layer.id for layer in sea.layers if layer.id in ("L1", "L2")] == [main]
    # by hand: 100 W of the bench's own, and the larger beam
    assert sea.demand_w == pytest.approx(sum(i.average_w for i in sea.account.items if i.id != "L1"))
    assert sea.demand_w == pytest.approx(sea.account.demand_a * sea.account.at_v, rel=1e-6)


def test_the_range_of_a_pack_counts_the_larger_of_two_that_are_never_on_together():
    def on_a_pack(positions: str) -> float:
        b = Bench(generator=False, battery=False)
        b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
        b.add("pack", name="pack", place=b.box, series=13, parallel=6, bms_continuous_a=60, bms_peak_a=90)
        b.add("drive", name="drive", place=b.box, full_w=300)
        box = b.add("converter", name="box", place=b.box, window_low_v=36, window_high_v=60, rated_a=30)
        switch = b.add("selector", name="switch", place=b.nose, feed=box, positions=positions)
        for live, watts in (("dip", 12), ("main", 24)):
            b.add("load", name=live, category="lamp", amount=watts, at_v=12, feed=switch, live=live, place=b.nose,
                  behaviour="power")
        budget = pack_budget(b.plan)
        assert budget is not None
        return budget.accessories_w

    apart, both = on_a_pack("off; dip: in+dip; main: in+main"), on_a_pack("off; dip: in+dip; main: in+dip+main")
    assert apart == pytest.approx(both * 24 / 36)


def test_the_current_of_a_lamp_is_of_the_stand_that_its_volts_are_of():
    b, _, dip, _ = head_lamp("off; dip: in+dip; main: in+dip+main")
    a = analyse(b.plan)
    seen = {row.words: abs(row.current(dip)) for row in a.volts.turns("idle")}
    assert len({round(amps, 3) for amps in seen.values() if amps > 1}) == 2  # less where both pull the volts down
    shown = working(a, f"current/{dip}/idle")
    assert evaluate(shown.formula, shown.inputs) == pytest.approx(shown.value, rel=1e-6)
    assert shown.value == pytest.approx(min(amps for amps in seen.values() if amps > 1))


def test_where_a_switch_usually_stands_may_be_said_and_the_rest_is_looked_at_all_the_same():
    b, switch, dip, main = head_lamp(usual="dip")
    a = analyse(b.plan)
    assert a.states["idle"].current(dip) > 4
    assert a.states["idle"].current(main) == pytest.approx(0, abs=1e-6)
    assert a.volts.across_v(main, "idle") > 11
    with pytest.raises(PlanError):
        b.change(switch, usual="parking")


def test_at_rest_while_nobody_is_there():
    b = Bench()
    switch = b.add("selector", name="lamp switch", place=b.nose, feed=b.block, live="always",
                   positions="off; park: in+out")
    b.load(name="park", amount=5, feed=switch, live="park", **BEAM)
    a = analyse(b.plan)
    assert a.volts.across_v("L1", "parked") is None
    assert a.volts.across_v("L1", "key_on") > 11


@needs_ngspice
@pytest.mark.parametrize("state", ["key_on", "idle", "town", "cranking"])
def test_every_stand_of_the_switches_agrees_with_the_simulator(state):
    b, _, _, _ = head_lamp()
    button = b.add("selector", name="horn button", use="button", place=b.nose, feed=b.block,
                   positions="off; horn: in+out")
    b.load(name="horn", category="motor", behaviour="current", amount=45, feed=b.battery, live="horn")
    assert button
    a = analyse(b.plan)
    for turn in range(len(a.volts.turns(state))):
        assert_agrees(a, state, turn=turn)


# -- beside one another, one behind the other --------------------------------------------------------------------------

def test_either_of_two_brake_switches_lights_the_lamp():
    b, _, _, lamp = brakes()
    a = analyse(b.plan)
    lit = {row.words: abs(row.current(lamp)) > 1 for row in a.volts.turns("idle")}
    assert lit == {"Idle": True, "Idle, lever at off": True, "Idle, pedal at off": True, "Idle, nothing pressed": False}
    assert a.volts.ridden("idle").words == "Idle, nothing pressed"
    assert b.part(lamp).minutes_per_hour == 6  # as is usual, where nobody says


def test_two_beside_one_another_have_the_same_terminals():
    b, lever, _, _ = brakes()
    with pytest.raises(PlanError) as refused:
        b.add("selector", name="other", place=b.box, beside=lever, positions="off; on: in+x")
    assert "same terminals" in refused.value.faults[0].sentence


def test_nothing_is_fed_in_a_circle():
    b, lever, pedal, _ = brakes()
    with pytest.raises(PlanError) as refused:
        b.change(lever, feed=pedal)
    assert "circle" in str(refused.value.faults)


def test_a_switch_that_feeds_something_is_not_taken_out():
    b, lever, pedal, lamp = brakes()
    with pytest.raises(PlanError):
        apply(b.plan, RemoveElement(id=lever))
    left = apply(apply(b.plan, RemoveElement(id=lamp)), RemoveElement(id=pedal))
    assert lever not in apply(left, RemoveElement(id=lever)).part_by_id


def test_a_switch_fed_anew_keeps_what_hangs_on_it():
    b, lever, _, lamp = brakes()
    before = {w.id: w for w in b.plan.wires}
    fuse = next(p.id for p in b.plan.parts if p.made_for == lever and p.kind == "fuse")
    b.change(lever, feed=b.key)
    assert next(w for w in b.plan.wires if w.b == f"{lamp}.pos") == before[b.feed_wire(lamp)]
    assert fuse in b.plan.part_by_id
    assert analyse(b.plan).volts.across_v(lamp, "idle") > 11


def test_a_load_lives_only_by_positions_that_its_switch_has():
    b, lever, _, _ = brakes()
    with pytest.raises(PlanError) as refused:
        b.load(name="horn", feed=lever, live="horn")
    assert "with the brake" in refused.value.faults[0].sentence


def test_what_lives_by_an_occasion_needs_something_that_tells_when():
    b = Bench()
    with pytest.raises(PlanError) as refused:
        b.load(name="horn", feed=b.block, live="horn")
    assert "or a switch for it" in refused.value.faults[0].sentence
    b.add("tap", name="horn wire", place=b.nose, live="horn", rated_a=5, fused_a=10)
    horn = b.load(name="horn", feed=b.block, live="horn", amount=30)
    a = analyse(b.plan)
    assert a.states["key_on"].current(horn) > 2
    assert a.volts.ridden("key_on").current(horn) == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("table", [
    ("off, dip, main", {(1, 0, 1): True, (2, 0, 2): True}, "off; dip: feed+dip; main: feed+main"),
    ("dip, main", {(0, 0, 1): True, (1, 0, 2): True}, "dip: feed+dip; main: feed+main")])
def test_a_continuity_table_becomes_a_switch(table):
    positions, beeps, said = table
    names = tuple(positions.split(", "))
    every = tuple(Beep(position=at, a=a, b=b, beeps=beeps.get((at, a, b), False))
                  for at in range(len(names)) for a in range(3) for b in range(a + 1, 3))
    settled = Continuity(id="CT1", name="old switch", terminals=("feed", "dip", "main"), positions=names, beeps=every)
    assert as_positions(settled) == said
    assert as_positions(settled.model_copy(update={"beeps": every[1:]})) is None  # one pair untested
    assert as_positions(settled.model_copy(update={"terminals": ("feed", "feed ", "main")})) is None


def test_two_switches_one_behind_the_other_are_both_taken_to_be_on():
    b = Bench(generator=False, battery=False)
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    pack = b.add("pack", name="pack", place=b.box, series=13)
    first = b.add("selector", name="first", place=b.nose, feed=pack, positions="off; on: in+out")
    box = b.add("converter", name="box", place=b.nose, feed=first, window_low_v=36, window_high_v=60, rated_a=5)
    second = b.add("selector", name="second", place=b.nose, feed=box, positions="off; dip: in+dip; main: in+main")
    lamp = b.add("load", name="dip", category="lamp", amount=12, at_v=12, feed=second, live="dip", place=b.nose)
    a = analyse(b.plan)
    assert a.states["on"].stands == {first: "on", second: "dip"}
    assert a.volts.across_v(lamp, "on") == pytest.approx(12, abs=0.3)


def test_hand_wired_switches_are_taken_to_stand_where_most_is_joined():
    b = Bench()
    for n in (1, 2):
        b.add("selector", name=f"switch {n}", place=b.nose, positions="off; on: in+out")
    lamp = b.lamp()
    feed = b.feed_wire(lamp)
    b.plan = apply(b.plan, MoveEnd(id=feed, end="b", to="SW1.in"))
    b.plan = apply(b.plan, AddWire(a="SW1.out", b="SW2.in"))
    b.plan = apply(b.plan, AddWire(a="SW2.out", b=f"{lamp}.pos"))
    a = analyse(b.plan)
    assert a.states["idle"].stands == {"SW1": "on", "SW2": "on"}
    assert a.volts.across_v(lamp, "idle") > 10


def test_what_a_position_joins_is_a_contact_each_from_the_common():
    """Three terminals are two contacts side by side, not one behind the other: the far lamp loses one contact's volts
    and its contact carries its own amps only."""
    switch = Selector(id="SW1", name="s", place="P1", positions="off; both: in+left+right")
    assert [(b.a.name, b.b.name) for b in switch.inside(Machine()).branches] == [("in", "left"), ("in", "right")]
    bridged = Selector(id="SW1", name="s", place="P1", positions="a: in+p, q+r; b: in+q, p+r")
    assert [(b.a.name, b.b.name) for b in bridged.inside(Machine()).branches] == [
        ("in", "p"), ("q", "r"), ("in", "q"), ("p", "r")]
