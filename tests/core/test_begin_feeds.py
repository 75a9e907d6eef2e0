"""What accessories are fed from, worked by and called on a machine that is begun."""

import pytest

from loadstar.core.begin import Wish, begun, wanted_values
from loadstar.core.edits import AddElement, Rename, SetRules, apply
from loadstar.core.errors import PlanError
from loadstar.core.materials.accessories import ACCESSORIES, offered
from loadstar.core.plan.model import Plan


def plan_of(wish):
    return begun(apply(Plan(), Rename(name="begun")), wish)


@pytest.mark.parametrize(("count", "ways"), [(2, 6), (4, 6), (5, 7), (9, 11), (22, 24), (30, 24)])
def test_a_block_has_two_ways_to_spare_six_at_least_and_24_at_most(count, ways):
    keys = [u.key for group in offered("battery").values() for u in group if not u.by]
    wanted = tuple(keys[n % len(keys)] for n in range(count))
    (block,) = plan_of(Wish("touring motorcycle", "large", "", wanted)).of_kind("block")
    assert block.ways == ways


@pytest.mark.parametrize(("school", "wanted", "feed"), [
    ("block", ("grips", "usb"), "block"), ("block", ("grips",), "battery"), ("module", ("grips",), "module"),
    ("relay", ("grips", "usb"), "battery"), ("plug", ("grips", "usb"), "battery")])
def test_what_the_house_rule_feeds_accessories_from(school, wanted, feed):
    empty = apply(apply(Plan(), Rename(name="begun")), SetRules(values={"feeds": school}))
    plan = begun(empty, Wish("motorcycle", "large", "", wanted))
    assert {plan.part(load.feed).kind for load in plan.loads} == {feed}


def test_what_a_button_works_is_straight_behind_it_or_by_a_relay():
    """5 A are the most that a button at the bars is made for; the machine's own brake switch is used where it is
    known, and never one of a system that is never tapped."""
    small = plan_of(Wish("scooter", "small", "", ("horn",)))
    assert [small.part(load.feed).kind for load in small.loads] == ["selector"]
    loud = plan_of(Wish("scooter", "small", "", ("loud horn",)))
    assert [loud.part(load.feed).kind for load in loud.loads] == ["battery"]
    assert loud.of_kind("relay")
    for never, kind in (("", "tap"), ("ABS", "battery")):
        bare = plan_of(Wish("scooter", "small"))
        bare = apply(bare, AddElement(what="tap", values={
            "name": "horn wire", "place": bare.places[0].id, "live": "horn", "rated_a": 6, "never": never}))
        values = wanted_values(bare, ACCESSORIES["horn"], place=bare.places[0].id, feed=bare.battery.id)
        assert bare.part(values["feed"]).kind == kind
        assert (values["live"] == "horn") == (kind == "tap")


def test_two_alike_have_names_apart():
    plan = plan_of(Wish("motorcycle", "large", "", ("usb", "usb", "usb")))
    first = ACCESSORIES["usb"].name
    assert [load.name for load in plan.loads] == [first, f"{first} 2", f"{first} 3"]
    always = next(u for u in ACCESSORIES.values() if u.live == "always")
    values = wanted_values(plan, always, place=plan.places[0].id, feed=plan.battery.id)
    assert values["reason_always"] == always.reason != ""
    assert wanted_values(plan, ACCESSORIES["usb"], place=plan.places[0].id, feed=plan.battery.id)["reason_always"] == ""


def test_at_most_four_that_do_not_fit_are_named():
    with pytest.raises(PlanError) as refused:
        plan_of(Wish("trail e-bike", "36 v", "", ("a1", "a2", "a3", "a4", "a5")))
    assert refused.value.faults[0].sentence.endswith("feed: a1, a2, a3, a4.")
