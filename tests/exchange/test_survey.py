"""Pin tables of spreadsheets, and survey files."""

import pytest
from builders import Bench

from loadstar.core.edits import apply
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.errors import PlanError
from loadstar.exchange.survey import from_csv, from_json, to_csv, to_json

HEAD = "connector,pin,function,live,rated_a,colour\n"


@pytest.mark.parametrize(("text", "pin"), [
    (HEAD + "tail,1,feed,key,5,BU/WH\n",
     {"way": 1, "function": "feed", "live": "key", "rated_a": 5.0, "wire_colour": "BU/WH"}),
    ("Connector;Pin;Live;Amps\ntail;2;constant;7,5\n",
     {"way": 2, "function": "feed", "live": "always", "rated_a": 7.5}),
    ("plug\tway\nTail\t3\n", {"way": 3, "function": "unknown"}),
    ("\ufeff" + HEAD + "\n\ntail,1,ground,,,\n\n", {"way": 1, "function": "ground"}),
    (HEAD + 'tail,"1",feed,engine,"3 A","red, striped"\n',
     {"way": 1, "function": "feed", "live": "engine", "rated_a": 3.0, "wire_colour": "red, striped"}),
])
def test_tables_that_are_read(text, pin):
    found = from_csv(text)
    assert next(iter(found.pins.values())) == (pin,)


def test_other_encodings_are_read_and_said():
    text = HEAD + "Rücklicht,1,feed,key,5,\n"
    for encoding in ("utf-8", "utf-8-sig", "utf-16"):
        found = from_csv(text.encode(encoding))
        assert list(found.pins) == ["Rücklicht"] and not found.remarks
    old = from_csv(text.encode("cp1252"))
    assert list(old.pins) == ["Rücklicht"] and "Windows-1252" in old.remarks[0]
    assert from_csv(HEAD.replace("colour",
                                 "taste") + "tail,1,,,,sweet\n").remarks == ("Columns not known and left out: taste.",)


@pytest.mark.parametrize(("data", "words"), [
    (HEAD + "tail,1\n" * 10_000, "10,000 lines; at most 500"), (b"PK\x03\x04\x00\xff\xfe\x00", "no text"),
    ("x" * 1_100_000, "at most 1 MB"),
    (HEAD + "tail,1.5,,,,\n", "whole number"), (HEAD + ",1,,,,\n", "name is missing"),
    (HEAD + "tail,1,feed,key,much,\n", "rated_a must be a number"),
    (HEAD + "=cmd(),1,,,,\n", "holds a formula"), (HEAD + "tail,inf,,,,\n", "must be a number"),
    (HEAD + "tail,1,magic,,,\n", "function must be one of"),
])
def test_tables_that_are_refused(data, words):
    with pytest.raises(PlanError, match=words):
        from_csv(data)


def test_an_export_harms_no_spreadsheet_and_comes_back():
    b = Bench()
    plan = apply(b.plan, PutPlug(values={"name": "=danger", "place": b.box, "ways": 1},
                                 pins=({"way": 1, "function": "feed", "live": "engine", "rated_a": 2,
                                        "others": "@horn"},)))
    text = to_csv(plan)
    assert "'=danger" in text and "'@horn" in text and "\n=" not in text
    assert from_csv(text).pins == {
        "=danger": ({"way": 1, "function": "feed", "live": "engine", "rated_a": 2.0, "others": "@horn", "others_a": 0.0,
                                                "on_delay_s": 0.0, "off_delay_s": 0.0},)}
    assert from_json(to_json(plan).encode())["plugs"][0]["name"] == "=danger"
