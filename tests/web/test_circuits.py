"""The list of circuits beside the descent; what is said where there is none; bands in the headline."""

import re

from answers import plain_words
from asked import on
from judgement.own_makings import Case, made

from loadstar.core.findings import worst
from loadstar.core.headline import Head
from loadstar.core.whatif.outlook import Span
from loadstar.web.frame.tags import band
from loadstar.web.records import store

GLYPHS = {"stop": "■", "caution": "▲", "advice": "◆", "note": "○"}


def test_a_circuit_bears_the_mark_of_the_worst_that_is_found_of_it(inside, shop):
    """Of the accessory, its own wires, and the fuse that is nearest to it and its alone."""
    text, marks = inside.get(shop.url("circuits/")).content.decode(), {}
    for head in re.findall(r'<span class="head">(.*?)</span>\s*<span class="figures">', text, re.DOTALL):
        name = re.search(r"<strong>(.*?)</strong>", head)[1]
        marks[name] = next((glyph for glyph in GLYPHS.values() if glyph in head), "")
    a = store.load(shop.row).analysis
    for load in a.plan.loads:
        own = {load.id, *(w.id for w in a.plan.wires if w.made_for == load.id)}
        own |= {p.id for p in a.plan.of_kind("fuse") if p.made_for == load.id}
        found = worst([f for f in a.findings if own & set(f.elements)])
        assert marks[load.name] == GLYPHS.get(found, ""), load.name
    assert set(marks.values()) - {""}


def test_wires_of_no_accessory_are_not_said_to_be_none(shop, client):
    """A starter with its solenoid and nothing else: eleven wires, and no circuit of an accessory."""
    plan = made(Case("utility bike", "pull start", (), ("starter",)))
    row = store.begin(shop.workshop, shop.technician, plan)
    client.force_login(shop.technician)
    words = plain_words(client.get(on(shop, row, "circuits/")))
    assert "No accessory has a circuit yet" in words and f"{len(plan.wires)} other wires lie in this plan" in words
    ends = plain_words(client.get(on(shop, row, "ends/"))).replace("\u00a0", " ")
    assert ends.count("60.0 A cranking") == 6 and "A mA" not in ends  # both ends of three leads
    bare = store.begin(shop.workshop, shop.technician, made(Case("utility bike", "pull start", (), ())))
    assert "other wire" not in plain_words(client.get(on(shop, bare, "circuits/")))


def test_a_band_with_one_reading_at_both_ends_says_nothing_more():
    head = Head("Parked", 9000.0, "h", is_span=True)
    assert band({}, head, Span(10_000.0, 20_000.0)) == ""
    assert band({}, head, Span(30.0, 20_000.0)) == "30.0\u00a0h to over a year"
    assert band({}, head, Span(240.0, 480.0)) == "10 to 20\u00a0days"
