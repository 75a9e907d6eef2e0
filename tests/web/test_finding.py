"""Finding things in a plan: by id, name, colour, size, place, as they lie before somebody."""

import pytest
from answers import words_of

from loadstar.core.analysis import analyse
from loadstar.core.edits import SetWire, apply
from loadstar.demo import fit_out, tide_hauler
from loadstar.web.bench.finding import found_in

PLAN = apply(fit_out()[0], SetWire(id="W8", values={"colour": "OG", "stripe": "WH"}))
ANALYSIS = analyse(apply(PLAN, SetWire(id="W9", values={"origin": "found", "area_mm2": 4.0})))


def ids(asked: str) -> list[str]:
    return [hit.id for hit in found_in(ANALYSIS, asked)]


@pytest.mark.parametrize("asked", ["OG/WH", "og/wh 0.5", "  og/wh   heated ", "W8", "w8"])
def test_a_wire_is_found_by_its_colours_its_size_and_its_id(asked):
    assert ids(asked)[0] == "W8"
    assert found_in(ANALYSIS, asked)[0].name == "OG/WH, 0.5 mm², Heated grips fuse (F2.b) to Heated grips (L1.pos)"


def test_every_word_has_to_be_there_and_an_id_comes_first():
    every = {w.id for w in ANALYSIS.plan.wires if w.colour == "BK" and not w.stripe}
    assert every <= set(ids("bk wire")) and "W8" not in ids("bk wire")
    assert ids("there already") == ["W9"] and "4 mm²" in found_in(ANALYSIS, "W9")[0].name
    assert ids("l1")[0] == "L1" and ids("L1.pos") == ["W8"]
    assert ids("zeppelin") == ids("") == ids("   ") == [] and ids("og/wh zeppelin") == []


def test_parts_are_found_by_what_they_are_and_where():
    lamps = {p.id for p in ANALYSIS.plan.loads if p.category == "lamp"}
    assert lamps and lamps <= set(ids("lamp"))
    place = ANALYSIS.plan.place(ANALYSIS.plan.loads[0].place)
    assert {p.id for p in ANALYSIS.plan.parts if p.place == place.id} <= set(ids(place.name))
    tap = next(t for t in analyse(tide_hauler()[0]).plan.parts if t.kind == "converter")
    assert found_in(analyse(tide_hauler()[0]), f"converter {tap.name.split()[0]}")[0].id == tap.id


def test_the_page_leads_to_what_was_found_and_says_how_many_more(inside, shop):
    page = inside.get(shop.url("find/?q=W8")).content.decode()
    assert "circuits/?" in page and "sel=W8" in page
    every = words_of(inside.get(shop.url("find/?q=e")))
    assert "more: say a word more of it." in every
    assert "Nothing in this plan" in words_of(inside.get(shop.url("find/?q=zeppelin")))
