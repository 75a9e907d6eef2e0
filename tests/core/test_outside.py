"""What comes from outside: JSON within limits, changes sent as data, texts that cannot be drawn, rules kept by another
version."""

import json

import pytest

from loadstar.core.doc.rules import HouseRules
from loadstar.core.doc.texts import one_line, some_lines
from loadstar.core.edits import (
    MOST_DEEP,
    MOST_EDITS,
    AddElement,
    AddWire,
    ChangeElement,
    Rename,
    apply,
    parse_posted,
)
from loadstar.core.errors import PlanError
from loadstar.core.plan.document import from_data, from_json, house_rules
from loadstar.core.plan.outside import MAX_DIGITS, read_json
from loadstar.demo import fit_out


def read(text):
    return read_json(text, thing="plan", most_bytes=2000, most_depth=4)


def refused(act, *given, **named):
    with pytest.raises(PlanError) as caught:
        act(*given, **named)
    return caught.value.faults[0]


@pytest.mark.parametrize(("inside", "beyond", "said"), [
    ("7" * MAX_DIGITS, "7" * (MAX_DIGITS + 1), "41 digits"),
    ("-" + "7" * (MAX_DIGITS - 1), "-" + "7" * 1500, "1,501 digits"),
    ("[[[[1]]]]", "[[[[[1]]]]]", "nested too deeply to be a plan"),
    ("[" + " " * 1997 + "]", "[" + " " * 2001 + "]", "at most 0 MB are read"),
    ("[1]", "[1", "breaks off or goes wrong at line 1, column 3"),
    ("[1]", "[NaN]", "NaN stands in it"),
    ("[1]", b"[\"\xff\"]", "not text in UTF-8, so it is no plan"),
])
def test_json_within_limits(inside, beyond, said):
    assert read(inside) == json.loads(inside)
    assert said in refused(read, beyond).sentence


def test_json_too_deep_for_the_reader_itself():
    assert "far too deeply" in refused(read_json, "[" * 100_000, thing="plan", most_bytes=10**6, most_depth=4).sentence


def test_a_number_of_five_thousand_digits_in_a_plan():
    assert "5,000 digits" in refused(from_json, '{"format": "loadstar-plan", "version": ' + "1" * 5000 + "}").sentence


RENAME = {"kind": "rename", "name": "tide"}
READING = {"kind": "take_readings",
    "readings": [{"element": "B1", "quantity": "V", "value": 12.6, "by": "somebody else", "taken": "2001-01-01"}]}


def several(*edits):
    return {"kind": "several", "edits": list(edits)}


def nested(edit, deep):
    for _ in range(deep):
        edit = several(edit)
    return edit


def test_changes_sent_as_data():
    assert parse_posted(RENAME) == Rename(name="tide")
    assert parse_posted(nested(RENAME, MOST_DEEP))
    assert f"at most {MOST_DEEP} deep" in refused(parse_posted, nested(RENAME, MOST_DEEP + 1)).sentence
    half = several(*[RENAME] * (MOST_EDITS // 2))
    assert parse_posted(several(*[RENAME] * (MOST_EDITS - 1)))
    assert "3,000" in refused(parse_posted, several(half, half, RENAME)).sentence
    assert "at most 3000 entries" in refused(parse_posted, several(*[RENAME] * (MOST_EDITS + 1))).sentence


@pytest.mark.parametrize("forged", [READING, several(READING), several(RENAME, several(READING))])
def test_readings_are_not_sent_as_data(forged):
    assert "who took them and when" in refused(parse_posted, forged).sentence


@pytest.mark.parametrize("field", ["id", "kind", "made_for"])
def test_what_an_element_is_comes_from_the_edit(field):
    plan = fit_out()[0]
    load = next(p for p in plan.parts if p.kind == "load")
    forged = {"name": "lamp", field: "L9"}
    for edit in (ChangeElement(id=load.id, values=forged), ChangeElement(id=plan.places[0].id, values=forged),
                 AddElement(what="place", values=forged), AddElement(what="frame", values=forged),
                 AddWire(a=plan.wires[0].a, b=plan.wires[0].b, values={field: "L9"})):
        fault = refused(apply, plan, edit)
        assert fault.field == field and "cannot be set" in fault.sentence
    assert apply(plan, ChangeElement(id=load.id, values={"name": "lamp"})).part(load.id).name == "lamp"


@pytest.mark.parametrize(("typed", "kept"), [
    ("horn\tleft\r\n", "horn left"), ("\x00horn\x1b[31m", "horn [31m"), ("\u202eproh", "proh"),
    ("Größe 2, 5 Ω", "Größe 2, 5 Ω"),
    ("two  spaces", "two  spaces")])
def test_what_cannot_be_seen_becomes_a_space(typed, kept):
    assert one_line(typed) == kept
    plan = apply(fit_out()[0], AddElement(what="place", values={"name": typed}))
    assert plan.places[-1].name == kept


def test_notes_keep_their_lines_and_other_values_their_kind():
    assert some_lines("a\r\nb\x07c") == "a\r\nb c"
    assert one_line(7) == 7
    assert "may not be empty" in refused(apply, fit_out()[0],
                                         AddElement(what="place", values={"name": "\x01\x02"})).sentence


def test_house_rules_of_another_version():
    usual = HouseRules()
    taken, told = house_rules({"thermal_margin_k": 20})
    assert (taken.thermal_margin_k, told) == (20, ())
    taken, told = house_rules({"thermal_margin_k": 20, "solder_frac": 1, "parked_days": -5})
    assert taken == usual.model_copy(update={"thermal_margin_k": 20})
    assert len(told) == 2 and all(t.endswith("The usual value stands in its place.") for t in told)
    assert any("Solder" in t for t in told) and any("Parked days" in t or "Parked" in t for t in told)


@pytest.mark.parametrize("key", ["²", "١", "0", "-1", "٣٣"])
def test_keys_of_any_signs_are_told_not_tripped_over(key):
    """A superscript two counts as a digit, and is no number: it ended in an error page."""
    for data in ({key: 1}, {"parts": {key: {}}}, {"machine": {key: {"a": 1}}}, {"places": [{key: 1}]}):
        with pytest.raises(PlanError) as refused:
            from_data({"format": "loadstar-plan", "version": 4, **data})
        assert all(f.sentence for f in refused.value.faults)
