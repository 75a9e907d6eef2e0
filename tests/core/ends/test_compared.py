"""Kinds of connectors compared, nests, signals apart, copper in the wet, maps before cutting; leads as a plan has them.
"""

import math

import numpy as np
import pytest
from builders import Bench, cure

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, CutWire, PutPlug, SetWire, apply
from loadstar.core.ends.choose import of_family
from loadstar.core.ends.families import compare
from loadstar.core.leads import GROUND, gather
from loadstar.core.materials.terminals import BY_KEY, TERMINALS, dies
from loadstar.core.parts.coupling import Coupling
from loadstar.exchange import leads as table


def with_connector(**lamp: object) -> tuple[Bench, str]:
    b = Bench()
    b.lamp(**{"amount": 60, **lamp})
    b.plan = apply(b.plan, CutWire(id=b.feed_wire("L1"), place=b.nose))
    return b, b.plan.of_kind("coupling")[-1].id


def told(b: Bench, rule: str) -> list:
    return [f for f in analyse(b.plan).findings if f.rule == rule]


def test_kinds_are_compared_by_what_goes_in_and_what_they_carry():
    """A wire of 6 mm²: the small ones are too small for it; of those that take it, 9.5 mm blades carry most (55 A)."""
    b, connector = with_connector()
    for wire in [w.id for w in b.plan.wires if connector in (w.a.part, w.b.part)]:
        b.wire(wire, area_mm2=6)
    a = analyse(b.plan)
    options = {o.family: o for o in compare(a.ends, a.plan.part(connector))}
    for small in ("sealed small", "sealed 1.5", "blade 2.8"):
        assert options[small].why_not.endswith("mm²") and "does not go in" in options[small].why_not
    assert not options["sealed 6.3"].why_not and not options["blade 9.5"].why_not
    assert options["blade 9.5"].share < options["sealed 6.3"].share
    first = next(iter(compare(a.ends, a.plan.part(connector))))
    assert first.is_sealed and not first.why_not  # the nose is splashed


def test_a_kind_that_is_too_weak_or_has_too_few_ways_says_so():
    b, connector = with_connector(amount=220, feed="BT1", live="always", reason_always="for the test")
    for wire in [w.id for w in b.plan.wires if connector in (w.a.part, w.b.part)]:
        b.wire(wire, area_mm2=1.0)
    b.change(connector, ways=4)
    a = analyse(b.plan)
    options = {o.family: o for o in compare(a.ends, a.plan.part(connector))}
    assert "it carries" in options["sealed 1.5"].why_not and options["sealed 1.5"].share > 1
    assert options["high current"].why_not == "made with up to 2 ways"


@pytest.mark.parametrize("terminal", [t for t in TERMINALS if t.stages == 2], ids=lambda t: t.key)
def test_every_open_barrel_has_nests_that_grow_with_its_wire(terminal):
    """The core's nest is wider than the bare strands lying solid (a disc of the copper) and at most twice that; the
    insulation's at least as wide as the insulation. Usual tools give 1.6 to 1.9 mm for 0.75 to 1 mm²."""
    low, high = terminal.area_mm2
    made = [dies(terminal, area, 1.3 + 1.1 * math.sqrt(area)) for area in (low, high)]
    for area, nest in zip((low, high), made, strict=True):
        if nest is None:
            assert 1.75 * math.sqrt(area) > 6 or 1.1 * (1.3 + 1.1 * math.sqrt(area)) > 6
            continue
        solid = math.sqrt(4 * area / math.pi)
        assert solid < nest.core_mm < 2 * solid
        assert nest.wings_mm >= 1.3 + 1.1 * math.sqrt(area) - 0.06
    if all(made):
        assert made[0].core_mm <= made[1].core_mm


def test_what_is_not_crimped_in_two_stages_has_no_nests():
    one = next(t for t in TERMINALS if t.stages == 1)
    assert dies(one, one.area_mm2[0], 2) is None
    assert dies(of_family("blade 2.8")[0], 1.0, 2.1).core_mm == 1.9
    assert BY_KEY  # the table that both are from


@pytest.mark.parametrize(("water", "tinned", "is_told"), [
    ("washed over", False, True), ("washed over", True, False), ("splashed", False, False)])
def test_bare_copper_under_a_ring_where_it_is_washed_over(water, tinned, is_told):
    b = Bench()
    b.change(b.nose, water=water)
    b.lamp(returns="frame")
    b.rules(tinned=tinned)
    found = told(b, "end.bare-copper")
    assert bool(found) is is_told
    if is_told:
        assert not [f for f in analyse(apply(b.plan, cure(found[0], analyse(b.plan)))).findings
                    if f.rule == "end.bare-copper"]


@pytest.mark.parametrize(("ways", "way", "is_told"), [(4, 2, True), (4, 3, False), (6, 4, True), (6, 3, False)])
def test_a_signal_beside_a_heavy_current(ways, way, is_told):
    """Of six in two rows of three, way 4 lies under way 1."""
    b, connector = with_connector(amount=200, feed="BT1", live="always", reason_always="for the test")
    b.change(connector, ways=ways, rated_a=40)
    signal = b.add("tap", name="speed signal", place=b.box, function="signal", live="key")
    far = b.add("junction", name="instrument", place=b.nose)
    b.plan = apply(b.plan, AddWire(a=f"{signal}.pin", b=f"{connector}.a{way}"))
    b.plan = apply(b.plan, AddWire(a=f"{connector}.b{way}", b=f"{far}.t"))
    found = told(b, "connector.heavy-beside")
    assert bool(found) is is_told
    if is_told:
        edit = cure(found[0], analyse(b.plan))
        assert edit is not None
        assert not [f for f in analyse(apply(b.plan, edit)).findings if f.rule == "connector.heavy-beside"]


@pytest.mark.parametrize(("rows", "way", "beside"), [
    (4, 1, {2}), (4, 3, {2, 4}), (6, 1, {2, 4}), (6, 5, {4, 6, 2}), (5, 3, {2}), (5, 4, {1, 5}), (1, 1, set())])
def test_which_ways_lie_beside_one(rows, way, beside):
    """Up to four in one row; five as three over two."""
    assert Coupling(id="CN1", name="c", place="PL1", ways=rows).beside(way) == beside


@pytest.mark.parametrize(("known", "new_colour", "is_told"), [
    ((1, 2), "RD", True), ((1, 2, 3), "RD", False), ((1, 2), "", False)])
def test_every_pin_is_written_down_before_a_connector_is_cut(known, new_colour, is_told):
    b = Bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "old plug", "place": b.nose, "ways": 3}, pins=tuple(
        {"way": n, "function": "other", "wire_colour": "brown", "new_colour": new_colour and f"{new_colour}{n}"}
        for n in known)))
    assert bool(told(b, "connector.not-mapped")) is is_told


def test_leads_of_a_place_carry_their_nets_and_the_solved_way_back():
    """The lamp's return goes by its own wire to the battery box: the shared way is that wire with its two ends and what
    follows, by hand from the same analysis."""
    b = Bench()
    b.lamp(amount=20, name="left lamp")
    b.lamp(amount=20, name="right lamp")
    a = analyse(b.plan)
    found = gather(a, b.nose)
    assert [lead.name for lead in found.leads if lead.net == GROUND] == ["left lamp neg", "right lamp neg"]
    feeds = [lead for lead in found.leads if lead.net != GROUND]
    assert len({lead.net for lead in feeds}) == len(feeds) == 2  # each behind a fuse of its own
    for lead in feeds:
        assert lead.amps == pytest.approx(20 / 12.4, rel=0.15)
    row = a.states["key_on"]
    ways = [sum(abs(row.solution.across_v(k.a, k.b) / row.current(k.element)) for k in a.path(load).back)
            for load in ("L1", "L2")]
    assert found.shared_ohm == pytest.approx(max(ways), rel=0.05)
    read = table.read(table.write(found.leads))
    assert not read.faults
    assert [(x.name, x.net, x.area_mm2) for x in read.leads] == [(x.name, x.net, x.area_mm2) for x in found.leads]
    assert np.allclose([x.amps for x in read.leads], [x.amps for x in found.leads])


def test_a_place_that_no_wire_comes_to_has_no_leads():
    b = Bench()
    assert gather(analyse(b.plan), b.nose).leads == ()
    b.lamp()
    b.plan = apply(b.plan, SetWire(id=b.feed_wire("L1"), values={"colour": "RD"}))
    lone = b.add("place", name="lone")
    assert gather(analyse(b.plan), lone).shared_ohm is None


@pytest.mark.parametrize("area", [1.0, 1.5])
def test_of_several_terminals_that_take_a_wire_the_one_that_carries_most_counts(area):
    """Each kind's share by trying every terminal of it that the wire goes into."""
    b, connector = with_connector()
    wires = [w.id for w in b.plan.wires if connector in (w.a.part, w.b.part)]
    for wire in wires:
        b.wire(wire, area_mm2=area)
    a = analyse(b.plan)
    part = a.plan.part(connector)
    air = a.plan.ambient_at(part.place)
    several = 0
    for option in compare(a.ends, part):
        shares = []
        for wire in wires:
            goes_in = [c.terminal for c in a.ends.candidates(option.family, wire, air) if not c.why_not or c.weak]
            several += len(goes_in) > 1
            shares += [a.ends.peak_a[wire] / max(t.rated_a(area, air) for t in goes_in)] if goes_in else []
        assert option.share == pytest.approx(max(shares, default=0.0)), option.family
        assert {t.family for t in option.terminals} <= {option.family}
    assert several


def test_a_net_goes_on_through_a_connector_and_ends_at_a_fuse():
    """The return of a lamp cut and led through a connector is ground on its other side too."""
    b = Bench()
    lamp = b.lamp(20)
    back = next(w.id for w in b.plan.wires if f"{lamp}.neg" in (w.a, w.b))
    b.plan = apply(b.plan, CutWire(id=back, place=b.box))
    found = {lead.name: lead.net for lead in gather(analyse(b.plan), b.nose).leads}
    assert found["lamp neg"] == GROUND and found["lamp pos"] != GROUND
