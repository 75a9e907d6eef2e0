"""Every kind of part, from the registry: added, wired, analysed, asked for by a form, explained, written as a
netlist, taken out."""

import dataclasses
import math
from typing import ClassVar  # noqa: F401 - what a kind that is made here is annotated with

import pytest
from builders import Bench
from reference.simulator import run_ngspice

from loadstar.core.analysis import analyse
from loadstar.core.doc.states import STATES
from loadstar.core.edits import AddElement, AddWire, RemoveElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import every
from loadstar.core.parts.asks import Ask
from loadstar.core.parts.base import Part
from loadstar.core.parts.registry import KINDS, PARTS
from loadstar.core.parts.terminals import terminals
from loadstar.core.physics import elements as net
from loadstar.core.plan import document
from loadstar.core.plan.model import PREFIX, Plan
from loadstar.core.refs import TerminalRef
from loadstar.exchange.netlist import netlist

# What each kind cannot be entered without, where its own defaults leave something open.
NEEDED = {
    "battery": {"capacity_ah": 12, "internal_mohm": 12}, "pack": {"series": 13},
    "generator": {"rating1_w": 120, "rating1_rpm": 1300, "rating2_w": 340, "rating2_rpm": 5000, "phase_ohm": 0.28},
    "coil": {"emf_mv_per_rpm": 8, "reactance_mohm_per_rpm": 0.8, "winding_ohm": 0.3}, "own": {"power_w": 60},
    "converter": {"window_low_v": 8, "window_high_v": 60, "rated_a": 5}, "load": {"amount": 18},
    "port": {"enabled": True}}
ON_A_PACK = ("pack", "drive", "port")


def made(kind: str) -> tuple[Plan, str]:
    """A plan with a part of a kind, on a machine that has such; and the part's id."""
    b = Bench(battery=kind not in (*ON_A_PACK, "coil", "battery", "combiner"), generator=False)
    if kind in (*ON_A_PACK, "combiner"):
        b.machine(system="pack", system_v=48, chassis="floating")
        for _ in range({"pack": 0, "combiner": 2}.get(kind, 1)):
            b.add("pack", name="pack", place=b.box, series=13)
    elif kind == "coil":
        b.machine(system="magneto", system_v=6, chassis="winding")
    values = {"name": f"the {kind}", "place": b.box, **NEEDED.get(kind, {})}
    if kind == "load":
        values["feed"] = b.block
    plan = apply(b.plan, AddElement(what=kind, values=values))
    return plan, next(p.id for p in reversed(plan.parts) if p.kind == kind)


@pytest.mark.parametrize("kind", KINDS)
def test_a_part_of_every_kind_goes_all_the_way(kind):
    plan, part = made(kind)
    one = plan.part(part)
    supply = plan.supply
    if supply is not None and supply.id != part:  # a wire to each of its terminals that has none, through a fuse
        for terminal in map(one.at, one.ends):
            if all(terminal not in (w.a, w.b) for w in plan.wires):
                plan = apply(plan, AddWire(a=supply.at(supply.OWN_ENDS[1]), b=terminal))
    assert document.from_json(document.to_json(plan)) == plan
    analysis = analyse(plan)
    for state, result in analysis.states.items():
        if result.solution is not None:
            text = netlist(analysis, state)
            assert any(line.split()[0].lower().endswith(part.lower()) or part.lower() in line.lower()
                       for line in text.splitlines()) or not one.inside(plan.machine).elements
    for key, shows in every(analysis):
        assert math.isfinite(shows.value), key
    try:
        without = apply(plan, RemoveElement(id=part))
    except PlanError as refused:  # something is still wired to it: said in words
        assert refused.faults[0].sentence.endswith(".")
    else:
        assert part not in without.part_by_id


@pytest.mark.parametrize("kind", KINDS)
def test_what_a_kind_says_hangs_together(kind):
    """Addresses are its own; what has a source, load or converter answers for it in every state; what follows has a
    coil."""
    plan, part = made(kind)
    one, machine = plan.part(part), plan.machine
    inside = one.inside(machine)
    own = {one.at(t) for t in one.ends}
    for branch in inside.branches:
        assert branch.ref.part == part
        assert {branch.a, branch.b} & own
        assert branch.ohm is None or branch.ohm > 0
        assert branch.what
        assert (branch.follows == part) <= (inside.actuator is not None)
    for element in inside.elements:
        for state in STATES:
            if isinstance(element, net.Source):
                assert one.drives(state, machine, empty=False) is not None
                assert one.drives_fault(machine, strong=True, alone=True) is not None
            elif isinstance(element, net.Load):
                one.takes(state, machine)
            elif isinstance(element, net.Converter):
                assert isinstance(one.converts_in(state), bool)
    for pair in (*inside.shorted, *((p.terminal,) for p in inside.points), inside.input or (), inside.output or ()):
        assert set(pair) <= own
    assert all(isinstance(end, TerminalRef) for end in own)
    if any(b.ohm is None for b in inside.branches):
        assert one.protection is not None
        assert one.protection.chosen


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_is_in_every_list(kind):
    made_of = KINDS[kind]
    assert PREFIX[kind] == made_of.PREFIX
    assert list(PREFIX.values()).count(made_of.PREFIX) == 1
    fields = set(made_of.model_fields) - {"id", "kind", "made_for"}
    assert {ask.name for ask in made_of.ASKS} <= fields
    assert made_of.TITLE[:1].isupper()
    if made_of.GROUP:
        plan, part = made(kind)
        words, figure, unit = plan.part(part).glance(plan.machine, "here")
        assert isinstance(words, str) and isinstance(unit, str)
        assert math.isfinite(figure)
        assert made_of.ADD_WORDS
        assert made_of.FITS
    assert PARTS.json_schema()["discriminator"]["mapping"][kind]


def test_a_kind_that_leaves_something_out_is_refused_when_it_is_defined():
    with pytest.raises(TypeError, match="does not say TERMINALS, ASKS, inside"):
        type("Half", (Part,), {"__module__": __name__, "PREFIX": "Q", "TITLE": "Half",
                               "__annotations__": {"PREFIX": "ClassVar[str]", "TITLE": "ClassVar[str]"}})


@pytest.mark.parametrize(("says", "told"), [
    ({"TERMINALS": ("pos", "neg")}, "does not say what a wire at pos ends in"),
    ({"POLES": ("plus", "minus")}, "has no terminal minus, which its POLES names"),
    ({"OWN_ENDS": ("gnd",)}, "has no terminal gnd"), ({"RETURN_END": "star"}, "has no terminal star")])
def test_a_terminal_that_is_half_said_is_refused(says, told):
    whole = {"PREFIX": "Q", "TITLE": "Half", "TERMINALS": terminals("ring M6", "pos", "neg"), "ASKS": (),
             "inside": Part.inside, **says}
    hints = dict.fromkeys({*whole, *says} - {"inside"}, "ClassVar[object]")
    with pytest.raises(TypeError, match=told):
        type("Half", (Part,), {"__module__": __name__, "__annotations__": hints, **whole})


def test_a_question_is_one_line_of_words():
    for kind in KINDS.values():
        for ask in kind.ASKS:
            assert dataclasses.is_dataclass(ask)
            assert isinstance(ask, Ask)
            assert "\n" not in ask.label + ask.help


def test_the_simulator_reads_what_is_written_of_a_relay():
    plan, _ = made("load")
    assert run_ngspice(netlist(analyse(plan), "key_on"))
