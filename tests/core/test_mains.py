"""Circuits that no accessory has: starting, charging, traction, joined stores, what feeds a converter."""

import pytest
from builders import Bench
from reference.generated import generated

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, MoveEnd, RemoveElement, apply
from loadstar.core.figures.mains import busiest
from loadstar.core.figures.sizes import wire_candidates
from loadstar.draw.walk import root_name, source_name, walk


def cranked(amps: float = 120.0) -> tuple[Bench, str]:
    b = Bench()
    b.machine(cranking_a=amps)
    starter = b.add("starter", name="starter", place=b.nose)
    return b, starter


def test_a_starter_has_a_circuit_whose_steps_add_up():
    """By hand: 120 A through the battery's 12 mOhm, then both leads; the rest is what the starter has."""
    b, starter = cranked()
    a = analyse(b.plan)
    main = a.mains[starter]
    leads = [w.id for w in b.plan.wires if starter in (w.a.part, w.b.part)]
    assert (main.words, main.to.id, [k.element for k in main.path.links]) == ("Starting", starter, leads)
    assert busiest(main, a.states) == "cranking" and main.amps(a.states["cranking"]) == pytest.approx(120)
    way = walk(a, starter, "cranking")
    assert way.amps == pytest.approx(120)
    assert sum(s.drop_v for s in (*way.feed, *way.back)) == pytest.approx(way.begins_v - way.across_v)
    assert way.begins_v - way.across_v <= b.plan.rules.starter_drop_v
    assert way.length_m == pytest.approx(sum(a.wires[w].length_m for w in leads))
    assert (source_name(a, starter), root_name(a, starter)) == ("source", "battery negative")
    assert walk(a, starter, "idle") is None


def test_a_size_for_a_starter_s_lead_falls_out_by_what_it_loses_while_cranking():
    """Of both leads one at a time, the other as chosen: what keeps the house's 0.5 V fits, and nothing thinner."""
    b, starter = cranked()
    a = analyse(b.plan)
    lead = a.mains[starter].path.feed[0].element
    found = wire_candidates(a, lead)
    chosen = next(c for c in found if c.chosen)
    assert chosen.fits and chosen.drop_frac == pytest.approx(
        (walk(a, starter, "cranking").begins_v - walk(a, starter, "cranking").across_v) / a.states["cranking"].posts_v,
        rel=0.02)
    thin = [c for c in found if c.area_mm2 < chosen.area_mm2]
    assert thin and not any(c.fits for c in thin)
    assert "the starter's leads may lose 0.5 V and lose" in thin[-1].verdict
    b.rules(starter_drop_v=2.0)
    loose = analyse(b.plan)
    assert next(c for c in wire_candidates(loose, lead) if c.chosen).area_mm2 < chosen.area_mm2


@pytest.mark.parametrize(("kind", "words"), [
    ("generator leads", {"Charging"}), ("traction leads", {"Traction"}), ("starter", {"Starting"}),
    ("converter", {"Converter"}), ("diode packs", {"Joined pack"})])
def test_every_kind_of_main_circuit_is_found_and_walks_downhill(kind, words):
    """On generated plans: each has a way there and back, and where current flows it falls in volts at every step."""
    seen = set()
    for seed in range(6):
        a = analyse(generated(kind, seed))
        for part, main in a.mains.items():
            seen.add(main.words)
            state = busiest(main, a.states)
            if state is None or main.words == "Joined pack":  # which way a joined pack's current goes hangs on both
                continue
            way = walk(a, part, state)
            ends = (*way.feed, *way.back)
            assert all(s.drop_v > -1e-9 for s in ends) and [s.element for s in ends] == [
                k.element for k in main.path.links]
    assert words <= seen


def test_a_generator_s_circuit_goes_from_it_to_the_battery():
    a = next(a for seed in range(9) if (a := analyse(generated("generator leads", seed))).mains)
    part, main = next((p, m) for p, m in a.mains.items() if m.words == "Charging")
    assert main.to is a.plan.supply and main.path.feed[0].a == a.topology.node(f"{part}.pos")
    assert source_name(a, part) == a.plan.part(part).name


def test_what_is_not_wired_has_none_and_what_breaks_off_has_none():
    b, starter = cranked()
    assert set(analyse(b.plan).mains) == {starter}
    lead = analyse(b.plan).mains[starter].path.feed[0].element
    off = apply(b.plan, MoveEnd(id=lead, end="b", to=f"{b.block}.ret"))
    assert starter not in analyse(off).mains
    assert analyse(apply(b.plan, RemoveElement(id=starter))).mains == {}
    again = apply(off, AddWire(a=f"{b.battery}.pos", b=f"{starter}.pos", values={"colour": "RD"}))
    assert starter in analyse(again).mains
