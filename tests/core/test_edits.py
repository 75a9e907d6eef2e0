"""Edits: what each makes of a plan, what it refuses, and that the plan given is never changed."""

import pytest
from builders import Bench

from loadstar.core.edits import (
    AddElement,
    ChangeElement,
    CopyLoad,
    RemoveElement,
    Rename,
    SetWire,
    apply,
    parse_edit,
)
from loadstar.core.errors import PlanError
from loadstar.core.plan import compare, document
from loadstar.core.plan.model import Plan


def refusal(plan, edit) -> tuple[str, str, str]:
    before = document.to_json(plan)
    with pytest.raises(PlanError) as error:
        apply(plan, edit)
    assert document.to_json(plan) == before
    fault = error.value.faults[0]
    return fault.element, fault.field, fault.sentence


def kinds(plan) -> dict[str, int]:
    found: dict[str, int] = {}
    for part in plan.parts:
        found[part.kind] = found.get(part.kind, 0) + 1
    return found


def test_a_load_on_a_block_gets_fuse_feed_and_return():
    b = Bench()
    before = kinds(b.plan)
    lamp = b.lamp()
    after = kinds(b.plan)
    assert after["fuse"] == before["fuse"] + 1
    assert after["relay"] == 1
    assert any(w.b == f"{lamp}.pos" for w in b.plan.wires)
    assert any(w.a == f"{lamp}.neg" and w.b == f"{b.block}.ret" for w in b.plan.wires)


def test_a_second_load_shares_the_relay_and_another_life_gets_its_own():
    b = Bench()
    b.lamp()
    b.lamp()
    assert kinds(b.plan)["relay"] == 1
    b.lamp(live="engine")
    assert kinds(b.plan)["relay"] == 2
    b.lamp(live="always")
    assert kinds(b.plan)["relay"] == 2


def test_straight_from_the_battery():
    b = Bench()
    always = b.load(feed=b.battery, live="always")
    assert "relay" not in kinds(b.plan)
    assert any(w.a == f"{b.battery}.pos" and w.made_for == always for w in b.plan.wires)
    b.load(feed=b.battery, live="key")
    assert kinds(b.plan)["relay"] == 1


def test_from_a_plug_it_lives_as_the_plug_does():
    b = Bench()
    load = b.load(feed=b.key, live="key")
    assert any(w.a == f"{b.key}.pin" and w.made_for == load for w in b.plan.wires)
    values = {"name": "x", "amount": 5, "place": b.nose, "feed": b.key, "live": "always"}
    _element, field, text = refusal(b.plan, AddElement(what="load", values=values))
    assert field == "live"
    assert "live with the key" in text


def test_taking_out_leaves_nothing_behind():
    b = Bench()
    before = document.to_json(b.plan.model_copy(update={"counters": {}}))
    lamp = b.lamp()
    after = apply(b.plan, RemoveElement(id=lamp))
    assert document.to_json(after.model_copy(update={"counters": {}})) == before


def test_numbers_are_never_used_twice():
    b = Bench()
    first = b.lamp()
    b.plan = apply(b.plan, RemoveElement(id=first))
    assert b.lamp() == "L2"


def test_changing_life_makes_the_circuit_anew_and_keeps_the_order():
    b = Bench()
    first, second = b.lamp(), b.lamp()
    b.change(first, live="engine")
    assert [p.id for p in b.plan.loads] == [first, second]
    assert any(j.a == f"{b.block}.engine" for j in b.plan.joins)
    assert not refers_to_nothing(b.plan)


def refers_to_nothing(plan) -> bool:
    parts = {p.id for p in plan.parts}
    return any(end.split(".")[0] not in parts for w in plan.wires for end in (w.a, w.b))


def test_changing_figures_keeps_hand_fixed_wires():
    b = Bench()
    lamp = b.lamp()
    wire = b.feed_wire(lamp)
    b.wire(wire, area_mm2=2.5)
    b.change(lamp, amount=25)
    assert b.plan.wire(wire).area_mm2 == 2.5


def test_renaming_renames_the_fuse():
    b = Bench()
    lamp = b.lamp()
    b.change(lamp, name="Left lamp")
    assert b.plan.part(b.fuse_of(lamp)).name == "Left lamp fuse"


def test_moving_the_block_moves_its_fuses():
    b = Bench()
    lamp = b.lamp()
    b.change(b.block, place=b.nose)
    assert b.plan.part(b.fuse_of(lamp)).place == b.nose
    main = next(p for p in b.plan.parts if p.kind == "fuse" and p.made_for == b.block)
    assert main.place == b.box


def test_copy():
    b = Bench()
    lamp = b.lamp(name="Fog")
    b.plan = apply(b.plan, CopyLoad(id=lamp))
    b.plan = apply(b.plan, CopyLoad(id=lamp))
    assert [p.name for p in b.plan.loads] == ["Fog", "Fog 2", "Fog 3"]


@pytest.mark.parametrize(("field", "value", "said"), [
    ("amount", -5, "more than 0"), ("amount", 0, "more than 0"), ("amount", float("nan"), "number"),
    ("at_v", 400, "at most 100 V"), ("window_low_v", 120, "at most 100 V"), ("minutes_per_hour", 61, "at most 60"),
    ("name", "", "may not be empty"), ("name", "x" * 81, "at most 80"), ("live", "sometimes", "must be one of"),
    ("place", "P99", "no place P99"), ("feed", "B99", "no feed B99"), ("feed", "L99", "no feed"),
])
def test_bad_values_are_refused_beside_their_field(field, value, said):
    b = Bench()
    values = {"name": "x", "amount": 5, "place": b.nose, "feed": b.block, "live": "key", field: value}
    _, at, text = refusal(b.plan, AddElement(what="load", values=values))
    assert at == field
    assert said in text


@pytest.mark.parametrize(("length", "said"), [(0, "at least 0.02 m"), (10_000, "at most 8 m"), (-1, "at least")])
def test_bad_lengths(length, said):
    b = Bench()
    new = b.add("place", name="tail")
    assert said in refusal(b.plan, AddElement(what="run", values={"a": b.box, "b": new, "length_m": length}))[2]


def test_what_is_used_cannot_be_taken_out():
    b = Bench()
    b.lamp()
    assert "still used by" in refusal(b.plan, RemoveElement(id=b.nose))[2]
    assert "still feeds" in refusal(b.plan, RemoveElement(id=b.block))[2]
    assert "still" in refusal(b.plan, RemoveElement(id=b.key))[2]
    assert "no Q9" in refusal(b.plan, RemoveElement(id="Q9"))[2]


def test_without_a_battery_nothing_can_be_fed():
    b = Bench(battery=False, generator=False)
    values = {"name": "x", "place": b.box, "ways": 4}
    assert "no battery or pack yet" in refusal(b.plan, AddElement(what="block", values=values))[2]


def test_without_a_switched_wire_nothing_lives_with_the_key():
    b = Bench()
    b.plan = apply(b.plan, RemoveElement(id=b.key))
    values = {"name": "x", "amount": 5, "place": b.nose, "feed": b.block, "live": "key"}
    assert "No wire that is live with the key on" in refusal(b.plan, AddElement(what="load", values=values))[2]


def test_wire_settings():
    b = Bench()
    wire = b.feed_wire(b.lamp())
    assert "one of the sizes" in refusal(b.plan, SetWire(id=wire, values={"area_mm2": 1.6}))[2]
    assert "can be set" in refusal(b.plan, SetWire(id=wire, values={"a": "BT1.pos"}))[2]
    assert "no wire W99" in refusal(b.plan, SetWire(id="W99", values={"area_mm2": 1.5}))[2]


def test_an_edit_from_data_and_one_that_is_none():
    edit = parse_edit({"kind": "set_wire", "id": "W1", "values": {"area_mm2": None}})
    assert isinstance(edit, SetWire)
    for data in ({"kind": "explode"}, {"kind": "remove"}, [], "remove", {"kind": "remove", "id": "L1", "more": 1}):
        with pytest.raises(PlanError):
            parse_edit(data)


def test_taking_back_an_edit_when_others_have_edited_elsewhere():
    b = Bench()
    lamp = b.lamp()
    before = b.plan
    after = apply(before, ChangeElement(id=lamp, values={"amount": 30}))
    head = apply(after, Rename(name="Renamed meanwhile"))
    back = compare.take_back(before, after, head)
    assert back.name == "Renamed meanwhile"
    assert back.part(lamp) == before.part(lamp)


def test_taking_back_is_refused_when_the_element_was_touched_since():
    b = Bench()
    lamp = b.lamp()
    after = apply(b.plan, ChangeElement(id=lamp, values={"amount": 30}))
    head = apply(after, ChangeElement(id=lamp, values={"amount": 40}))
    with pytest.raises(PlanError, match="changed again since"):
        compare.take_back(b.plan, after, head)


def test_taking_back_an_addition_keeps_the_counters():
    b = Bench()
    before = b.plan
    b.lamp()
    back = compare.take_back(before, b.plan, b.plan)
    assert back.loads == ()
    assert back.counters == b.plan.counters


def test_changes_between_revisions():
    b = Bench()
    before = b.plan
    lamp = b.lamp()
    found = {c.key: c.how for c in compare.changes(before, b.plan)}
    assert found[lamp] == "added"
    assert compare.changes(before, before) == []
    assert {c.how for c in compare.changes(b.plan, before)} == {"taken out"}


def test_edits_say_what_they_did():
    b = Bench()
    lamp = b.lamp(name="Fog")
    assert ChangeElement(id=lamp, values={}).label(b.plan) == "Fog changed"
    assert SetWire(id="W8", values={"area_mm2": 0.35}).label(b.plan) == "W8 fixed at 0.35 mm²"
    assert SetWire(id="W8", values={"area_mm2": None}).label(b.plan) == "W8 left to Loadstar"
    assert Rename(name="Z").label(Plan()) == "renamed to Z"


@pytest.mark.parametrize("letter", ["x", "İ"])
def test_what_is_made_for_a_part_with_the_longest_name_is_named_too(letter):
    """It was an unhandled fault: "… fuse" behind a name of 80 letters is longer than any name may be."""
    b = Bench()
    load = b.load(name=letter * 80, amount=60)
    made = [p for p in b.plan.parts if p.made_for == load]
    assert {p.name.rsplit(" ", 1)[1] for p in made} >= {"fuse"}
    assert all(len(p.name) <= 80 and p.name.startswith(letter * 60) for p in made)
