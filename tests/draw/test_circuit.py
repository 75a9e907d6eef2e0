"""The circuit drawing: read back it is the plan; no words on words, no line through words or a symbol."""

from collections import Counter, defaultdict
from dataclasses import replace
from itertools import combinations
from pathlib import Path
from xml.etree import ElementTree

import pytest
from builders import wide_plan
from draw.readback import SVG, Nets, read
from reference.switched import switched
from sweeps import seeds

from loadstar import demo
from loadstar.core.analysis import Analysis, analyse
from loadstar.core.plan.document import from_json
from loadstar.core.plan.model import Plan
from loadstar.core.refs import TerminalRef
from loadstar.draw import circuit
from loadstar.draw.circuit.items import Circuitry
from loadstar.draw.circuit.lay import Sheet
from loadstar.draw.circuit.ranks import ranked
from loadstar.draw.circuit.rows import in_order
from loadstar.draw.circuit.texts import LETTER_PX
from loadstar.draw.labels import Box, letters
from loadstar.draw.svg import Look

MOST_LETTERS = 25
EXAMPLES = sorted(Path(__file__).parents[2].glob("examples/**/*.json"))


def agreed(analysis: Analysis) -> Nets:
    """Of every node of the network that is solved, and of every wire of the plan, what ends there. Left out is what
    leads to a terminal that nothing is wired to."""
    t, network = analysis.topology, analysis.topology.elements
    ends = [(str(w.id), t.node(w.a), t.node(w.b)) for w in analysis.plan.wires]
    ends += [(r.name, r.a, r.b) for r in network.resistors if r.name not in t.wires]
    ends += [(d.name, d.a, d.b) for d in network.diodes]
    ends += [(e.name, e.plus, e.minus) for e in network.loads if e.name in t.parts]
    ends += [(f"{s.name}.source" if s.name in t.branches else s.name, s.plus, s.minus) for s in network.sources]
    ends += [(f"{c.name}.in", c.in_plus, c.in_minus) for c in network.converters]
    ends += [(f"{c.name}.out", c.out_plus, c.out_minus) for c in network.converters]
    at: dict[str, list[str]] = defaultdict(list)
    for name, a, b in ends:
        at[a].append(name)
        at[b].append(name)
    used = {t.node(end) for end in t.wired} | {node for root in t.roots for node in (root.positive, root.negative)}
    loose = {name for name, a, b in ends if name not in t.wires
             and any(len(at[node]) == 1 and node not in used for node in (a, b))}
    return Counter(tuple(sorted(kept)) for names in at.values() if (kept := [n for n in names if n not in loose]))


def crosses(line: Box, box: Box) -> bool:
    """Whether an upright or level line goes through the inside of a box."""
    return line.x0 < box.x1 - 1 and line.x1 > box.x0 + 1 and line.y0 < box.y1 - 1 and line.y1 > box.y0 + 1


def overlap(a: Box, b: Box) -> bool:
    return a.x0 < b.x1 - 0.5 and b.x0 < a.x1 - 0.5 and a.y0 < b.y1 - 0.5 and b.y0 < a.y1 - 0.5


def words_of(sheet: Sheet) -> list[tuple[str, Box]]:
    """All words with the box that they take."""
    middles = [(line, s.middle, y) for s in sheet.symbols for line, y, _ in s.words]
    middles += [(label, x, y) for label, x, y in sheet.labels]
    boxes = [(words, Box(x - letters(words) * LETTER_PX / 2, y - 10, x + letters(words) * LETTER_PX / 2, y + 3))
             for words, x, y in middles]
    return boxes + [(name, Box(x + 4, y - 6, x + 4 + letters(f"to {name}") * LETTER_PX, y + 7))
                    for name, x, y in sheet.flags]


def check(plan: Plan) -> None:
    """A plan's drawing, whole."""
    analysis = analyse(plan)
    sheets = circuit.sheets(analysis)
    assert read(circuit.draw(analysis, s, len(sheets)) for s in sheets) == agreed(analysis)
    drawn = Counter(s.item.element for sheet in sheets for s in sheet.symbols)
    assert set(drawn.values()) <= {1} and {w.id for w in plan.wires} <= set(drawn)
    on = defaultdict(set)
    for sheet in sheets:
        for bar in sheet.bars:
            on[bar.node].add(sheet.number)
    for sheet in sheets:
        assert all(set(bar.others) == on[bar.node] - {sheet.number} for bar in sheet.bars)
        words = words_of(sheet)
        assert not [(a[0], b[0]) for a, b in combinations(words, 2) if overlap(a[1], b[1])]
        lines = [Box(x0, y, x1, y) for x0, x1, y in sheet.lines]
        uprights = [Box(bar.x, bar.ys[0], bar.x, bar.ys[-1]) for bar in sheet.bars]
        assert not [(line, text) for line in (*lines, *uprights) for text, box in words if crosses(line, box)]
        assert not [s for s in sheet.symbols for line in (*lines, *uprights) if crosses(line, s.box)]
        assert not [(a, b) for a, b in combinations(sheet.symbols, 2) if overlap(a.box, b.box)]
        assert all(box.x0 >= 0 and box.x1 <= sheet.size[0] and box.y1 <= sheet.size[1] for _, box in words)
        assert len({bar.name for bar in sheet.bars}) == len(sheet.bars)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_an_example_s_and_a_job_s_drawing_is_its_plan(path):
    check(from_json(path.read_text()))


@pytest.mark.parametrize("seed", seeds(10))
@pytest.mark.parametrize("machine", ["battery", "pack", "magneto"])
def test_a_random_plan_s_drawing_is_the_plan(machine, seed):
    """Thirty plans (LOADSTAR_SWEEP=70 for over two hundred)."""
    check(switched(machine, seed))


def test_a_wide_plan_s_bars_say_on_which_of_many_sheets_they_go_on():
    check(wide_plan(60))
    sheets = circuit.sheets(analyse(wide_plan(60)))
    assert "B1 ret /2 /4 /11–12" in [bar.label for bar in sheets[2].bars]


@pytest.mark.parametrize("make", demo.PLANS, ids=lambda m: m.__name__)
def test_a_way_back_stands_under_the_last_row_that_it_leads_back_from(make):
    order = ranked(Circuitry(analyse(make()[0])))
    rows = in_order(order)
    assert sorted(map(id, rows)) == sorted(map(id, order.chains))
    led_to = {row.b for row in rows}
    for n, row in enumerate(rows):
        if order.column[row.a] >= order.middle.stop and row.a in led_to:
            assert row.a in (rows[n - 1].a, rows[n - 1].b)


@pytest.mark.parametrize(("node", "other"), [("B1.in", "B1.always"), ("B1.ret", "B1.ret"), ("F2.b", "F2.b")])
def test_a_wire_that_comes_back_to_its_own_bar_is_led_there_by_name(node, other):
    """On the feed, on the return, and where nothing else makes a bar."""
    plan = demo.fit_out()[0]
    ring = plan.wire("W4").model_copy(update={"id": "W90", "a": TerminalRef(node), "b": TerminalRef(other)})
    plan = plan.model_copy(update={"wires": (*plan.wires, ring)})
    analysis = analyse(plan)
    drawn = circuit.sheets(analysis)
    assert read(circuit.draw(analysis, s, len(drawn)) for s in drawn) == agreed(analysis)
    assert len([flag for s in drawn for flag in s.flags]) == 1


def test_a_plan_with_nothing_in_it_has_no_sheet():
    assert circuit.sheets(analyse(Plan())) == ()


@pytest.mark.parametrize("name", ["a name of eighty signs that somebody typed because nothing else came to mind at all",
                                  "灯" * 80, "x" * 80])
def test_long_names_in_any_script_are_whole_and_touch_nothing(name):
    plan = demo.fit_out()[0]
    plan = plan.model_copy(update={"parts": tuple(p.model_copy(update={"name": name}) for p in plan.parts)})
    check(plan)
    sheets = circuit.sheets(analyse(plan))
    lamp = next(s for sheet in sheets for s in sheet.symbols if s.item.element == "L2")
    assert all(letters(line) <= MOST_LETTERS for s in sheets[0].symbols for line in (*s.said.above, *s.said.below))
    assert "".join(lamp.said.above).replace(" ", "") == f"L2{name}".replace(" ", "")


def test_a_diode_and_a_cell_stand_as_they_conduct():
    a = analyse(demo.tide_hauler()[0])
    network, sheets = a.topology.elements, circuit.sheets(a)
    at = {s.item.element: s.item for sheet in sheets for s in sheet.symbols}
    for diode in network.diodes:
        item = at[diode.name]
        assert (item.a, item.b) == ((diode.b, diode.a) if item.about else (diode.a, diode.b))
    for source in network.sources:
        assert ((at[source.name].b if at[source.name].about else at[source.name].a) == source.plus)


@pytest.mark.parametrize("about", [False, True])
def test_the_longer_stroke_of_a_cell_and_the_foot_of_a_diode_s_arrow_are_its_first_end(about):
    a = analyse(demo.tide_hauler()[0])
    sheet = next(s for s in circuit.sheets(a) if {"cell", "diode"} <= {one.item.kind for one in s.symbols})
    turned = tuple(replace(one, item=replace(one.item, about=about)) for one in sheet.symbols)
    root = ElementTree.fromstring(circuit.draw(a, replace(sheet, symbols=turned), 1))
    for one in turned:
        group = next(g for g in root.iter(f"{SVG}g") if g.get("data-element") == one.item.element)
        upright = {float(e.get("x1")): abs(float(e.get("y1")) - float(e.get("y2"))) for e in group.iter(f"{SVG}line")
                   if e.get("x1") == e.get("x2")}
        if one.item.kind == "cell":
            assert (max(upright, key=upright.get) > one.middle) is about
        elif one.item.kind == "diode":
            assert (next(iter(upright)) < one.middle) is about  # the bar is at its second end


def test_a_picture_leads_to_every_element_on_screen_and_carries_its_ink_on_paper():
    a = analyse(demo.fit_out()[0])
    sheets = circuit.sheets(a)
    screen = "".join(circuit.draw(a, sheet, len(sheets), Look("/to/{}")) for sheet in sheets)
    for element in ("W1", "F2", "K1", "L3"):
        assert f'href="/to/{element}"' in screen
    paper = circuit.draw(a, sheets[0], 2, Look(paper=True))
    assert "href" not in paper and "class=" not in paper and "sheet 1 of 2" in paper


def test_what_carries_current_is_marked():
    a = analyse(demo.fit_out()[0])
    sheets = circuit.sheets(a)
    assert "d-live" not in circuit.draw(a, sheets[0], len(sheets))
    marked = "".join(circuit.draw(a, sheet, len(sheets), live={"W8"}) for sheet in sheets)
    assert marked.count("d-live") == 1
