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


def test_a_starter_is_a_circuit_without_any_accessory(shop, client):
    """With its solenoid and nothing else: what it takes while cranking, shown whatever state is chosen, each lead with
    its candidates and a way to cut it."""
    plan = made(Case("utility bike", "pull start", (), ("starter",)))
    row = store.begin(shop.workshop, shop.technician, plan)
    client.force_login(shop.technician)
    starter = plan.of_kind("starter")[0].id
    words = plain_words(client.get(on(shop, row, "circuits/?state=idle"))).replace("\u00a0", " ")
    assert "Starting: starter" in words and "60.0 A cranking" in words
    assert "starting, at engine cover; shown cranking, when most flows in it" in words
    assert "Feed: source to starter" in words and "starter, 60 A" in words and "Steps, cranking" in words
    lead = next(w.id for w in plan.wires if starter in (w.a.part, w.b.part))
    chosen = plain_words(client.get(on(shop, row, f"circuits/?sel={lead}")))
    assert "the starter's leads may lose" in chosen and f"Cut {lead}, or move an end" in chosen
    assert "shown cranking" not in plain_words(client.get(on(shop, row, "circuits/?state=cranking")))
    ends = plain_words(client.get(on(shop, row, "ends/"))).replace("\u00a0", " ")
    assert ends.count("60.0 A cranking") == 6 and "A mA" not in ends  # both ends of three leads


def test_without_a_circuit_a_wire_may_be_laid_by_hand(shop, client):
    client.force_login(shop.technician)
    bare = store.begin(shop.workshop, shop.technician, made(Case("utility bike", "pull start", (), ())))
    words = plain_words(client.get(on(shop, bare, "circuits/")))
    assert "Nothing has a circuit yet" in words and "lie in this plan" not in words
    opened = plain_words(client.get(on(shop, bare, "circuits/?add=wire")))
    assert "New ends" in opened and "there already" in opened
    supply = store.load(bare).plan.battery.id
    generator = store.load(bare).plan.generator.id
    laid = client.post(on(shop, bare, "circuits/?add=wire"), {
        "for_kind": "wire", "id": "", "base": "1", "a": f"{generator}.pos", "b": f"{supply}.pos", "origin": "found",
        "made": "", "area_mm2": "2", "wall": "thin", "colour": "RD"})
    assert laid.status_code == 302
    wire = store.load(type(bare).objects.get(pk=bare.pk)).plan.wires[-1]
    assert (wire.origin, wire.area_mm2, wire.a, wire.b) == ("found", 2.0, f"{generator}.pos", f"{supply}.pos")
    refused = plain_words(client.post(on(shop, bare, "circuits/?add=wire"), {
        "for_kind": "wire", "id": "", "base": "2", "a": f"{generator}.neg", "b": f"{supply}.neg", "origin": "found",
        "made": "", "area_mm2": "", "wall": "thin", "colour": "BK"}))
    assert "is there already: say what size it is." in refused


def test_a_band_with_one_reading_at_both_ends_says_nothing_more():
    head = Head("Parked", 9000.0, "h", is_span=True)
    assert band({}, head, Span(10_000.0, 20_000.0)) == ""
    assert band({}, head, Span(30.0, 20_000.0)) == "30.0\u00a0h to over a year"
    assert band({}, head, Span(240.0, 480.0)) == "10 to 20\u00a0days"
