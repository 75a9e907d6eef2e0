"""What joins own leads, compared: each way is what the plan made so has to be bought and done."""

import pytest

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.build.whole import work
from loadstar.core.edits import SetRules, apply
from loadstar.core.order import order
from loadstar.core.plan.model import Plan
from loadstar.core.schools import WAYS, compared, has_leads


@pytest.fixture(scope="module")
def ways():
    """A small plan's ways, and what it is made from."""
    base = analyse(begun(Plan(), Wish("motorcycle", "middle", wanted=("lamp pair", "usb"))))
    return base, {way.family: way for way in compared(base)}


def test_the_house_s_way_comes_first_and_every_way_once(ways):
    base, found = ways
    assert next(iter(found)) == base.plan.rules.leads and set(found) == set(WAYS)
    assert [way.here for way in found.values()] == [True, False, False, False]


@pytest.mark.parametrize("family", WAYS)
def test_each_way_is_the_plan_made_so(ways, family):
    base, found = ways
    made = analyse(apply(base.plan, SetRules(values={"leads": family})))
    bought = [i for i in order(made).items if i.group == "Terminals"]
    assert found[family].terminals == sum(i.need for i in bought) > 0
    todo = work(made).operations.values()
    assert found[family].crimps == sum(o.kind in ("crimp core", "splice", "solder") for o in todo)
    assert found[family].hours == pytest.approx(sum(o.minutes for o in todo) / 60)


def test_plugs_are_bought_with_housings_and_come_apart_by_hand(ways):
    _, found = ways
    assert found["splice"].housings < found["sealed 2.8"].housings
    assert {family: (way.comes_apart, way.is_sealed) for family, way in found.items()} == {
        "splice": (False, True), "bullet 3.9": (True, False), "sealed small": (True, True), "sealed 2.8": (True, True)}
    assert found["splice"].mohm < found["bullet 3.9"].mohm < found["sealed small"].mohm  # by the table of terminals


def test_what_a_way_brings_is_told():
    """Lamps of 55 W and more draw what small plugs do not carry."""
    base = analyse(begun(Plan(), Wish("motorcycle", "middle", wanted=("inflator",))))
    small = next(way for way in compared(base) if way.family == "sealed small")
    assert small.findings and all(f.severity in ("stop", "caution", "advice") for f in small.findings)
    assert not next(way for way in compared(base) if way.here).findings


def test_only_a_plan_with_own_leads_has_something_to_compare():
    assert has_leads(analyse(demo.fit_out()[0]))
    bare = begun(Plan(), Wish("motorcycle", "middle"))
    assert not has_leads(analyse(bare))
