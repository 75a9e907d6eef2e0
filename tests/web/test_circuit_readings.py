"""Which readings still say something of a circuit: its own and those of its steps, since it was last mended, as far as
what was expected of them still is."""

import math
from dataclasses import replace
from types import SimpleNamespace

import pytest

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.prove.measure import steps
from loadstar.core.prove.results import Shown
from loadstar.web.evidence.proving import MENDED, expected, on_circuit

ANALYSIS = analyse(demo.winter()[0])
FRAME = SimpleNamespace(analysis=ANALYSIS, plan=ANALYSIS.plan)
STEPS = steps(ANALYSIS)
FIRST, SECOND = ANALYSIS.plan.loads[:2]


def shown(step, **values) -> Shown:
    """A step's reading, just as expected."""
    at = step.expects
    return replace(Shown(step.key, "", step.quantity, step.row, str(step.red), str(step.black), at.value, at.value,
                         at.spread, plain=step.plain if math.isfinite(step.plain) else at.value), **values)


def of(load, *readings: Shown) -> list[Shown]:
    return on_circuit(FRAME, load, readings, STEPS)


def volts_of(load) -> Shown:
    return shown(next(s for s in STEPS if s.key == f"at.{load.id}.idle"))


def mended(load) -> Shown:
    return Shown(MENDED, load.id, "V", "", "", "", 0, 0, 0)


def test_a_circuit_has_the_readings_of_its_own_steps_and_probes():
    mine, other = volts_of(FIRST), volts_of(SECOND)
    probed = replace(mine, step="", load=FIRST.id, black=str(FIRST.at("pos")), red="BT1.neg")
    probed = replace(probed, plain=expected(ANALYSIS, probed.taken.probe).value)
    assert of(FIRST, mine, other, probed) == [mine, probed]
    assert of(SECOND, mine, other, probed) == [other]
    again = replace(mine, value=3.0)
    assert of(FIRST, mine, probed, again) == [probed, again]


def test_mended_counts_what_came_after_it_and_only_of_that_circuit():
    mine, other = volts_of(FIRST), volts_of(SECOND)
    assert of(FIRST, mine, mended(FIRST)) == [] and of(FIRST, mended(FIRST), mine) == [mine]
    assert of(FIRST, mine, mended(SECOND)) == [mine] and of(SECOND, other, mended(FIRST)) == [other]
    assert of(FIRST, replace(mine, step="posts.zz", load=FIRST.id), mended(SECOND))


@pytest.mark.parametrize(("moved", "stands"), [(0.0, True), (0.2, True), (-0.2, True), (0.4, False), (-0.4, False)])
def test_a_prediction_may_have_moved_by_a_fiftieth(moved, stands):
    mine = volts_of(FIRST)
    assert (of(FIRST, replace(mine, plain=mine.plain + moved)) != []) is stands and 11 < mine.plain < 14.9


def test_what_was_expected_to_be_open_stands_while_it_still_is():
    probed = replace(volts_of(FIRST), step="", load=FIRST.id, quantity="ohm", row="")
    now = expected(ANALYSIS, probed.taken.probe).value
    for then in (now, math.inf):
        assert (of(FIRST, replace(probed, plain=then)) != []) is (then == now)


@pytest.mark.parametrize("red", ["L99.pos", "L1.none", ""])
def test_a_reading_at_a_point_that_is_gone_says_nothing(red):
    assert of(FIRST, replace(volts_of(FIRST), red=red)) == []
