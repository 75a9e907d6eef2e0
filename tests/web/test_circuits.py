"""The list of circuits beside the descent."""

import re

from loadstar.core.findings import worst
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
