"""Where wires are from: leads that are plugged in as they came, and wires of the machine's own."""

import pytest
from builders import Bench

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.build.whole import work
from loadstar.core.edits import (
    AddWire,
    ChangeElement,
    CutWire,
    MoveEnd,
    PutPlug,
    RemoveElement,
    RemoveWire,
    SetWire,
    apply,
)
from loadstar.core.errors import PlanError
from loadstar.core.findings import Finding
from loadstar.core.order import order
from loadstar.core.parts.fuse import FusePart
from loadstar.core.plan import document
from loadstar.core.whatif.cures import Cures

LEAD_OHM = 2 * 1.5 * 0.0247 * (1 + 0.00393 * 22)  # 0.75 mm2 at the most that ISO 6722 allows, in air of 40 C


class Shelf(Bench):
    """A machine with an accessory plug in its box, and nothing else: a charger is 1.36 m away at the nose."""

    def __init__(self) -> None:
        super().__init__()
        self.plan = apply(self.plan, RemoveElement(id=self.block))
        self.plan = apply(self.plan, PutPlug(values={"name": "accessory plug", "place": self.box, "ways": 2}))
        self.plug = self.plan.plugs[0].id
        self.pin = self.add("tap", name="accessory plug pin 1", place=self.box, plug=self.plug, way=1, live="always",
                            rated_a=10, fused_a=7.5, source_mohm=40)

    def charger(self, lead_m: float = 1.5, **values: object) -> str:
        """A charger of 24 W whose plug fits; its lead is of 0.75 mm2."""
        return self.load(**{
            "name": "charger", "amount": 24, "feed": self.pin, "live": "always", "category": "electronics",
            "plugged": True, "lead_mm2": 0.75, "dimensions": {"lead_m": lead_m},
            "reason_always": "it keeps the battery of the counter", **values})


def short_of(a: Analysis) -> Finding | None:
    return next((f for f in a.findings if f.rule == "load.lead-short"), None)


def test_a_lead_that_is_plugged_in_is_bought_cut_and_crimped_nowhere():
    b = Shelf()
    charger = b.charger()
    a = analyse(b.plan)
    feed, back = b.plan.wires
    assert [(w.a, w.b, w.origin, w.length_m) for w in (feed, back)] == [
        (f"{b.pin}.pin", f"{charger}.pos", "supplied", 1.5), (f"{charger}.neg", f"{b.pin}.gnd", "supplied", 1.5)]
    assert not b.plan.of(FusePart)
    bought = order(a)
    assert [i.what for i in bought.items] == ["tie, 2.5 mm"] and bought.unknown == ()
    assert {e.kept for e in a.ends.every} == {True} and {e.chosen for e in a.ends.every} == {None}
    assert [(o.kind, o.words) for o in work(a).operations.values()] == [
        ("lay in", "Lay in the lead of charger, box to nose, tied loosely"),
        ("connect", "Clean its contacts, a little grease on them, plug the lead of charger into accessory plug pin 1"),
        ("test", "Try charger, measure it under Prove"), ("tie", "Tie down the lead of charger, box to nose")]
    assert not any(b.covering for b in a.loom.bundles)


def test_its_lead_lies_in_the_circuit_the_drop_and_the_fault():
    """By hand: 24 W through 2 x 1.5 m of 0.75 mm2 beside the plug's 40 mOhm and its ground; a touch at the charger
    draws so much less than one at the plug."""
    b = Shelf()
    charger = b.charger()
    a = analyse(b.plan)
    feed = b.feed_wire(charger)
    assert [k.element for k in a.path(charger).links] == [b.pin, feed, b.plan.wires[1].id, f"{b.pin}.gnd"]
    state = a.states["parked"]
    amps = abs(state.current(charger))
    lost = state.posts_v - a.volts.across_v(charger, "parked")
    assert lost == pytest.approx(amps * (LEAD_OHM + 0.041), rel=0.04)
    guard = a.wires[feed].guard
    assert guard.fuse == b.pin and guard.opener.rating_a == 7.5
    assert a.chafes[feed].far_a == pytest.approx(12.8 / (0.012 + 0.040 + 0.001 + LEAD_OHM / 2), rel=0.1)
    assert not any(f.severity == "stop" for f in a.findings)


def test_a_fuse_in_its_lead_is_there_and_not_bought():
    b = Shelf()
    b.change(b.pin, fused_a=15)
    charger = b.charger(lead_fuse_a=3, lead_m=1.6)
    a = analyse(b.plan)
    fuse = b.plan.of(FusePart)[0]
    assert (fuse.name, fuse.rating_a, fuse.place, fuse.supplied) == ("fuse in the lead of charger", 3, b.box, True)
    assert {w.id: w.length_m for w in b.plan.wires if w.made_for == charger and fuse.id in (w.a.part, w.b.part)} == {
        b.plan.wires[0].id: 0.1, b.plan.wires[1].id: 1.5}
    assert a.wires[b.feed_wire(charger)].guard.fuse == fuse.id
    assert not any("fuse" in i.what for i in order(a).items)
    assert [o.kind for o in work(a).operations.values()] == ["lay in", "connect", "test", "tie"]


def test_a_lead_that_does_not_reach_says_by_how_much_and_three_ways_out():
    b = Shelf()
    charger = b.charger(lead_m=0.96)
    near = b.add("lead", name="nose outlet", place=b.nose, feed=b.battery, live="always", rated_a=10)
    a = analyse(b.plan)
    found = short_of(a)
    assert found.severity == "stop" and set(found.elements) == {charger, b.pin}
    assert "0.96 m of lead and a plug, and it is 1.36 m to accessory plug pin 1: 0.40 m short" in found.sentence
    assert [p.label for p in found.proposals] == [
        "Plug it into nose outlet", "An extension from accessory plug pin 1 to nose",
        "Cut its plug off and lengthen the lead"]
    for proposal in found.proposals:
        after = analyse(apply(b.plan, proposal.edit))
        assert short_of(after) is None or short_of(after).severity != "stop", proposal.label
    assert Cures(a).of(found) is not None
    moved, extended, cut = (apply(b.plan, p.edit) for p in found.proposals)
    assert moved.part(charger).feed == near and len(moved.wires) == len(b.plan.wires)
    assert extended.part(extended.part(charger).feed).name == "extension for charger"
    assert not cut.part(charger).plugged and len(cut.of(FusePart)) == len(b.plan.of(FusePart)) + 1


@pytest.mark.parametrize(("lead_m", "says"), [(1.35, ""), (1.36, ""), (1.66, ""), (1.7, "0.34 m have to be stowed")])
def test_a_lead_that_reaches_is_no_matter_unless_much_is_left(lead_m, says):
    b = Shelf()
    b.charger(lead_m=lead_m)
    found = short_of(analyse(b.plan))
    assert found is None if not says else found.severity == "note" and says in found.sentence


@pytest.mark.parametrize(("values", "field", "words"), [
    ({"dimensions": None}, "lead_m", "say how long that is"),
    ({"lead_mm2": None}, "lead_mm2", "say what size its wires are"),
    ({"returns": "frame"}, "returns", "it returns by its plug"),
    ({"return_to": "BT1"}, "return_to", "it returns by its plug"),
    ({"plugged": False, "lead_fuse_a": 3}, "lead_fuse_a", "counts where that is plugged in"),
    ({"feed": "T1", "live": "key"}, "plugged", "is a wire and no pin of a connector"),
    ({"feed": "BT1"}, "plugged", "Nothing is plugged in at battery"),
    ({"live": "key"}, "live", "is always live, so an accessory on it is too")])
def test_what_cannot_be_plugged_in_is_refused_beside_its_field(values, field, words):
    b = Shelf()
    with pytest.raises(PlanError) as refused:
        b.charger(**values)
    fault = refused.value.faults[0]
    assert fault.field == field and words in fault.sentence


def test_plugged_in_or_wired_is_changed_to_and_fro():
    b = Shelf()
    charger = b.charger()
    before = b.plan
    b.change(charger, plugged=False)
    assert {w.origin for w in b.plan.wires} == {"new"} and len(b.plan.of(FusePart)) == 1
    b.change(charger, plugged=True)
    assert [(w.a, w.b, w.origin, w.area_mm2, w.length_m) for w in b.plan.wires] == [
        (w.a, w.b, w.origin, w.area_mm2, w.length_m) for w in before.wires]
    b.change(charger, lead_mm2=1.5, dimensions={"lead_m": 2.0})
    assert {(w.area_mm2, w.length_m) for w in b.plan.wires} == {(1.5, 2.0)}


def tail_lamp() -> tuple[Bench, str, str]:
    """A lamp fed and returned by two wires of the machine's own."""
    b = Bench()
    lamp = b.lamp(10)
    feed, back = (w.id for w in b.plan.wires if lamp in (w.a.part, w.b.part))
    for wire in (feed, back):
        b.wire(wire, origin="found", area_mm2=0.75, length_m=1.4)
    return b, feed, back


def test_a_wire_that_is_there_is_not_bought_made_nor_weighed():
    b, feed, back = tail_lamp()
    a = analyse(b.plan)
    assert not {feed, back} & {w for i in order(a).items for w, _ in i.pieces}
    assert not any(feed in o.words.replace(",", " ").split() or back in o.words.replace(",", " ").split()
                   for o in work(a).operations.values())
    assert [e.kept for e in a.ends.every if e.wire in (feed, back)] == [True] * 4
    fresh = Bench()
    fresh.lamp(10)
    assert analyse(fresh.plan).loom.wires_m - a.loom.wires_m > 2.5
    assert a.wires[feed].peak_a == pytest.approx(10 / 13.5, rel=0.2) and a.wires[feed].guard is not None
    assert not any(b.laid for b in a.loom.bundles) and a.loom.ties == 0


def test_an_end_that_is_made_anew_is_bought_and_made_there_only():
    b, feed, _ = tail_lamp()
    b.wire(feed, made="b")
    a = analyse(b.plan)
    ends = {e.side: e for e in a.ends.every if e.wire == feed}
    assert ends["a"].kept and ends["a"].chosen is None and not ends["b"].kept and ends["b"].chosen is not None
    made = [o for o in work(a).operations.values() if o.element == feed]
    assert [o.kind for o in made if o.kind in ("mark", "cut", "strip", "crimp core", "beep")] == [
        "mark", "cut", "strip", "crimp core", "beep"]
    assert any(o.words == f"Cut the old end off {feed} at lamp" for o in made)
    before = {i.what: i.need for i in order(analyse(tail_lamp()[0].plan)).items}
    more = {i.what: i.need - before.get(i.what, 0) for i in order(a).items}
    assert more[ends["b"].chosen.name] >= 1 and not any(i.startswith("0.75 mm²") for i in more)


def test_a_wire_that_is_there_and_is_cut_is_made_up_at_the_cut_and_whole_again_without_it():
    b, feed, _ = tail_lamp()
    cut = apply(b.plan, CutWire(id=feed, place=b.nose))
    connector = cut.of_kind("coupling")[-1].id
    pieces = [w for w in cut.wires if connector in (w.a.part, w.b.part)]
    assert [(w.origin, w.made) for w in pieces] == [("found", "b"), ("found", "a")]
    a = analyse(cut)
    assert {e.at.part == connector: e.kept for e in a.ends.every if e.wire in {w.id for w in pieces}} == {
        True: False, False: True}
    assert sum(i.need for i in order(a).items if i.what.startswith("sealed")) > 0
    whole = apply(cut, RemoveElement(id=connector))
    assert next(w for w in whole.wires if w.id == feed).made == ""
    b.wire(feed, made="a")
    again = apply(apply(b.plan, CutWire(id=feed, place=b.nose)), RemoveElement(id=connector))
    assert next(w for w in again.wires if w.id == feed).made == "a"
    spliced = apply(b.plan, CutWire(id=feed, place=b.nose, form="splice"))
    assert sorted(w.made for w in spliced.wires if w.origin == "found") == ["", "a", "ab"]


@pytest.mark.parametrize(("origin", "made"), [("found", "b"), ("new", "")])
def test_an_end_that_is_moved_is_made_up_anew(origin, made):
    b, feed, back = tail_lamp()
    b.wire(feed, origin=origin)
    moved = apply(b.plan, MoveEnd(id=feed, end="b", to=f"{b.block}.ret"))
    assert moved.wire(feed).made == made and moved.wire(back).made == ""


@pytest.mark.parametrize("origin", ["found", "supplied"])
def test_a_wire_that_is_there_says_its_size(origin):
    b = Bench()
    lamp = b.lamp(10)
    with pytest.raises(PlanError, match=r"say what size it is\."):
        apply(b.plan, SetWire(id=b.feed_wire(lamp), values={"origin": origin}))
    ends = {"a": f"{b.battery}.pos", "b": f"{lamp}.pos"}
    with pytest.raises(PlanError, match=r"say what size it is\."):
        apply(b.plan, AddWire(**ends, values={"origin": origin}))
    assert apply(b.plan, AddWire(**ends, values={"origin": origin, "area_mm2": 1.0})).wires[-1].origin == origin


def test_older_plans_read_on_with_every_wire_new():
    b = Bench()
    b.lamp(10)
    data = b.plan.model_dump(mode="json") | {"version": 10}
    for wire in data["wires"]:
        del wire["origin"], wire["made"]
    for part in data["parts"]:
        for field in ("plugged", "lead_fuse_a", "supplied"):
            part.pop(field, None)
    read = document.from_data(data)
    assert read == b.plan and {w.origin for w in read.wires} == {"new"}


def test_what_feeds_a_plugged_lead_may_change_with_it():
    b = Shelf()
    charger = b.charger()
    outlet = b.add("lead", name="outlet", place=b.box, feed=b.battery, live="always", rated_a=10)
    b.plan = apply(b.plan, ChangeElement(id=charger, values={"feed": outlet}))
    mine = [w for w in b.plan.wires if w.made_for == charger]
    assert {(w.a, w.b) for w in mine} == {(f"{outlet}.pos", f"{charger}.pos"), (f"{charger}.neg", f"{outlet}.neg")}
    assert {w.origin for w in mine} == {"supplied"}


def test_a_plugged_lead_that_was_taken_apart_by_hand_breaks_nothing():
    b = Shelf()
    charger = b.charger(lead_m=0.9)
    for wire in list(b.plan.wires):
        b.plan = apply(b.plan, RemoveWire(id=wire.id))
    assert short_of(analyse(b.plan)).severity == "note"
    b = Shelf()
    charger = b.charger(lead_m=0.9)
    b.plan = apply(b.plan, RemoveWire(id=b.feed_wire(charger)))
    assert short_of(analyse(b.plan)).severity == "stop"


def test_behind_a_factory_fuse_that_nobody_found_the_return_is_not_said_to_have_none():
    """What guards both wires of the lead is what is not known: that is said, once."""
    b = Shelf()
    b.change(b.pin, fused_a=None)
    b.charger()
    rules = {f.rule for f in analyse(b.plan).findings if f.severity in ("stop", "caution")}
    assert "feed.unknown-fuse" in rules and "wire.no-fuse" not in rules
    b.change(b.pin, unfused=True)
    assert "feed.unknown-fuse" not in {f.rule for f in analyse(b.plan).findings}
    assert any(f.severity == "stop" or f.rule == "wire.no-fuse" for f in analyse(b.plan).findings)


def test_a_sleeve_goes_over_what_is_made_and_not_over_a_lead_that_came_with_its_plug():
    """Through the run to the nose go an outlet's two wires and, beside them, a charger's own lead."""
    b = Shelf()
    b.rules(covering="braided sleeve")
    b.add("lead", name="nose outlet", place=b.nose, feed=b.battery, live="always", rated_a=10)
    charger = b.charger()
    own = {w.id for w in b.plan.wires if w.made_for == charger}
    a = analyse(b.plan)
    here, = (bundle for bundle in a.loom.bundles if bundle.run.id == b.run)
    assert own < set(here.wires) and set(here.made) == set(here.wires) - own and len(here.made) == 2
    sleeve, = (o for o in work(a).operations.values() if o.key == f"thread/{b.run}")
    assert f"over {', '.join(here.made)}, from " in sleeve.words
    assert not any(o.group == "charger" for o in work(a).operations.values())
