"""Whatever is taken out, moved or joined by hand, the analysis stands, every figure that is shown can be explained, and
nothing that could not be solved shows a figure."""

import math
import random

import pytest
from reference.generated import KINDS, generated
from sweeps import seeds

from loadstar.core.analysis import analyse
from loadstar.core.doc.wires import Join
from loadstar.core.edits import AddElement, AddWire, ChangeElement, MoveEnd, RemoveElement, RemoveWire, apply
from loadstar.core.errors import PlanError
from loadstar.core.figures.registry import NoFigure, every, working
from loadstar.core.figures.sizes import wire_candidates
from loadstar.core.figures.working import evaluate
from loadstar.core.wiring.references import references
from loadstar.demo import PLANS, tide_hauler
from loadstar.draw import bikemap, descent, lamps, packs, waterline
from loadstar.exchange.report import report


def disturbed(plan, dice):
    """The plan after one rough edit, or as it was when that was refused."""
    def terminal():
        part = dice.choice(plan.parts)
        return f"{part.id}.{dice.choice(part.ends)}"

    roll = dice.random()
    try:
        if roll < 0.3:
            return apply(plan, RemoveWire(id=dice.choice(plan.wires).id))
        if roll < 0.55:
            return apply(plan, RemoveElement(id=dice.choice(plan.parts).id))
        if roll < 0.8:
            return apply(plan, MoveEnd(id=dice.choice(plan.wires).id, end=dice.choice("ab"), to=terminal()))
        return apply(plan, AddWire(a=terminal(), b=terminal()))
    except (PlanError, IndexError):
        return plan


def all_of_it(plan):
    """Everything that pages and papers would ask of a plan."""
    analysis = analyse(plan)
    for key, shows in every(analysis):
        assert math.isfinite(shows.value), key
        assert evaluate(shows.formula, shows.inputs) == pytest.approx(shows.value, rel=5e-3, abs=5e-3), key
    report(analysis)
    for state in analysis.source.states:
        references(analysis.topology, state, analysis.states[state].closed if analysis.states else {})
        waterline.draw(analysis, state, frozenset())
        for load in plan.loads[:2]:
            descent.draw(analysis, load.id, state)
    for picture in (lamps.draw, packs.draw, bikemap.draw):
        if plan.places:
            picture(analysis)
    for wire in list(analysis.wires)[:3]:
        wire_candidates(analysis, wire)
    return analysis


@pytest.mark.sweep
@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize("kind", KINDS)
def test_rough_edits_of_generated_plans(kind):
    dice = random.Random(kind)
    plan = generated(kind, 9)
    for _ in seeds(2):
        plan = disturbed(plan, dice)
        all_of_it(plan)


@pytest.mark.sweep
@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize("make", PLANS, ids=lambda m: m.__name__)
def test_rough_edits_of_the_demonstration(make):
    dice = random.Random(make.__name__)
    plan = make()[0]
    for _ in seeds(2):
        plan = disturbed(plan, dice)
        all_of_it(plan)


def test_what_cannot_be_solved_is_named_and_shows_no_figure():
    """Two converters whose outputs are one terminal: ideal sources in a loop, in every state."""
    plan = tide_hauler()[0]
    values = {"name": "second box", "place": plan.places[0].id, "window_low_v": 36, "window_high_v": 60, "rated_a": 3}
    plan = apply(plan, AddElement(what="converter", values=values))
    second = plan.of_kind("converter")[1].id
    joined = plan.model_copy(
        update={"joins": (Join(a="CV1.pos", b=f"{second}.pos"), Join(a="CV1.inn", b=f"{second}.inn"))})
    analysis = analyse(joined)
    findings = [f for f in analysis.findings if f.rule == "network.unsolved"]
    assert findings
    assert len(findings) == 1
    assert "second box" in findings[0].sentence
    assert findings[0].elements == (second,)
    assert all(s.solution is None for s in analysis.states.values())
    assert analysis.volts.across_v("L2", "assist") is None
    with pytest.raises(NoFigure):
        working(analysis, "load_v/L2/assist")
    assert all(not math.isfinite(s.posts_v) for s in analysis.states.values())
    assert analysis.pack is not None  # what needs no network still stands


def test_a_converter_below_its_window_is_off_and_said():
    plan = apply(tide_hauler()[0], ChangeElement(id="PK1", values={"rested_v": 41.0}))
    plan = apply(plan, ChangeElement(id="PK2", values={"rested_v": 41.0}))
    analysis = analyse(plan)
    assert analysis.states["assist"].solution.converter_modes["CV1"] == "low"
    assert analysis.volts.across_v("L2", "assist") is None
    rules = {f.rule for f in analysis.findings}
    assert {"converter.window-low", "load.not-live"} <= rules
    assert analysis.volts.across_v("L1", "assist") == pytest.approx(12.0, abs=0.3)  # the light port still works


def test_a_pack_that_collapses_is_named():
    plan = apply(tide_hauler()[0], ChangeElement(id="PK1", values={"cell_mohm": 200, "parallel": 1, "extra_mohm": 500}))
    analysis = analyse(apply(plan, ChangeElement(id="D1", values={"full_w": 6000, "limit_a": 300})))
    assert "load.not-carried" in {f.rule for f in analysis.findings} or "network.unsolved" in {f.rule
        for f in analysis.findings}
    assert "pack.bms" in {f.rule for f in analysis.findings}
    assert analysis.states["assist"].solution is not None
