"""By what an unknown figure is ranked: what flips, and how far it moves the headline; by hand."""

from math import inf

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.findings import Finding
from loadstar.core.headline import Head
from loadstar.core.materials.typical import SIZES, Band
from loadstar.core.plan.model import Plan
from loadstar.core.plan.standing import Unknown
from loadstar.core.whatif.outlook import Flip, Hangs
from loadstar.core.whatif.unknown import Outlooks, measurable, movement_of


def test_a_stop_counts_before_cautions_and_each_finding_once():
    def flip(rule, severity, end):
        return Flip(Finding(rule, severity, ("L1",), "Sentence.", "energy", "margin/idle"), True, end)

    figure = Unknown("L1", "amount", "typical", 10.0, Band(5, 10, 20))
    flips = (flip("a", "stop", "low"), flip("a", "stop", "high"), flip("b", "caution", "low"),
             flip("a", "caution", "high"), flip("c", "caution", "low"))
    assert Hangs(figure, "load", flips, (0.5, 0.25)).weight == (1, 2, 0.75)
    assert Hangs(figure, "load", flips[2:], (0.0,)).weight == (0, 3, 0.0)


@pytest.mark.parametrize(("values", "limit", "moved"), [
    ((2.0, 1.0, 5.0), 0.0, 2.0), ((2.0, 1.0, 5.0), 1.0, 4.0), ((2.0, 2.0), None, 0.0), ((4.0, 3.0, 5.0), None, 0.5),
    ((None, 1.0, 5.0), 0.0, 0.0), ((2.0, None, None), 0.0, 0.0), ((10.0, 9.9, 10.1), 10.0, 0.4),
    ((2.0, inf), 0.0, 1000.0), ((inf, inf), 0.0, 0.0)])
def test_how_far_a_figure_moves_the_headline(values, limit, moved):
    """Its whole movement by what was between it and its limit; nearer than a twentieth of it counts as a twentieth."""
    heads = [Head("margin", value, "A", limit=limit) for value in values]
    assert movement_of(heads) == pytest.approx(moved)


@pytest.mark.parametrize("kind", sorted(SIZES))
def test_a_machine_on_which_nothing_is_wanted_yet_is_looked_at_too(kind):
    for size in SIZES[kind]:
        plan = begun(Plan(name="begun"), Wish(kind, size.key))
        found = Outlooks(analyse(plan)).outlook()
        assert not found.untried and len(found.ranked) + len(found.in_vain) <= len(measurable(plan))
        assert found.bands[analyse(plan).source.usual_state]
