"""Ways of working that decide what is bought and made: outlets and switches, colours, sleeves, terminals, feeds."""

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.build.whole import work
from loadstar.core.edits import AddElement, ChangeElement, SetRules, apply
from loadstar.core.intents import INTENTS, carried_out
from loadstar.core.order import order
from loadstar.core.plan.model import Plan


def test_what_is_put_in_now_and_then_is_not_on_the_parked_machine():
    """An outlet that always lives, for 5 A: with somebody there it is 5 A, parked it is nothing."""
    b = Bench()
    kind = INTENTS["outlet"]
    plan = apply(b.plan, carried_out(b.plan, kind.model_validate({
        "outlet_at": b.nose, "feed": b.battery, "live": "always", "most_a": 5})))
    a, bare = analyse(plan), analyse(b.plan)
    guest = plan.loads[0]
    assert guest.guest and a.parked.days == pytest.approx(bare.parked.days)
    assert abs(a.states["parked"].battery_a - bare.states["parked"].battery_a) < 1e-6
    assert abs(a.volts.row(guest.id, "key_on").current(guest.id)) == pytest.approx(5)
    stays = apply(plan, ChangeElement(id=guest.id, values={"guest": False}))
    assert analyse(stays).parked.days < 0.5 * a.parked.days


@pytest.mark.parametrize("rule", ["coded", "red and black"])
def test_a_small_job_may_be_made_of_two_rolls(rule):
    b = Bench()
    b.rules(colours=rule)
    b.lamp()
    b.lamp(live="always", name="clock", reason_always="a clock")
    made = {(w.colour, w.stripe) for w in b.plan.wires if w.made_for in {p.id for p in b.plan.loads}}
    assert (made == {("RD", ""), ("BK", "")}) == (rule == "red and black")


@pytest.mark.parametrize(("key", "positions", "loads"), [
    ("head lamp", "off; dip: in+dip; main: in+main", 2), ("indicators", "off; left: in+left; right: in+right", 4)])
def test_a_switch_that_is_there_is_used(key, positions, loads):
    b = Bench()
    there = b.add("selector", name="old bar switch", place=b.nose, positions=positions)
    kind = INTENTS[key]
    assert (there, f"old bar switch ({there})") in kind.choices(b.plan, "by_switch")
    places = {name: b.nose for name in kind.model_fields if name.endswith("_at")}
    plan = apply(b.plan, carried_out(b.plan, kind.model_validate({**places, "feed": b.block, "by_switch": there})))
    assert [s.id for s in plan.of_kind("selector")] == [there]
    assert {load.feed for load in plan.loads} == {there} and len(plan.loads) == loads
    assert not [f for f in analyse(plan).findings if f.severity == "stop"]
    assert kind.choices(plan, "by_switch") == [("", "a new one")]  # it is fed now


def test_the_machine_s_own_sleeve_is_slid_on_again_and_not_bought():
    b = Bench()
    b.lamp()
    assert any(item.what.startswith("braided sleeve") for item in order(analyse(b.plan)).items)
    b.change(b.run, covering="original sleeve")
    a = analyse(b.plan)
    assert not [item for item in order(a).items if item.group == "Covering and fixing" and (
        "sleeve" in item.what or "tape" in item.what)]
    kinds = [(o.kind, o.words) for o in work(a).operations.values() if "sleeve" in o.words]
    assert [kind for kind, _ in kinds] == ["thread", "cover"]
    assert "Draw the machine's own sleeve into place" in kinds[1][1]


def test_the_school_of_terminals_decides_what_is_bought_and_how_it_is_crimped():
    """A lamp's blade and rings: bare ones in two crimps with boot or shrink tube, or coloured ones in one."""
    b = Bench()
    b.lamp()
    bare = {item.what for item in order(analyse(b.plan)).items}
    assert not any("pre-insulated" in what for what in bare)
    b.rules(terminals="pre-insulated")
    a = analyse(b.plan)
    found = {item.what for item in order(a).items}
    assert any(what.startswith("red pre-insulated ring M6") for what in found)
    assert any(what.startswith("red pre-insulated blade receptacle 6.3") for what in found)
    assert not any(end.shrink for end in a.ends.every if end.chosen and end.chosen.insulated)
    few, many = ([o.kind for o in work(analyse(plan)).operations.values()].count("crimp insulation") for plan in (
        b.plan, apply(b.plan, SetRules(values={"terminals": "bare with a boot"}))))
    assert few < many
    assert not [f for f in a.findings if f.rule.startswith("end.") and f.severity in ("stop", "caution")]


def test_a_run_only_output_is_a_found_wire_that_lives_with_the_engine_and_drops_out():
    plan = begun(Plan(name="trail"), Wish("motorcycle", "off-road"))
    kind = INTENTS["run output"]
    plan = apply(plan, carried_out(plan, kind.model_validate({"output_at": plan.places[0].id, "rated_a": 8})))
    output = plan.taps[-1]
    assert (output.live, output.rated_a, output.off_delay_s, output.standing) == ("engine", 8, 5, "believed")
    assert kind.lacks(plan) == ""
    assert "under Survey" in kind.lacks(begun(Plan(name="cargo"), Wish("cargo e-bike", "48 v")))
    fed = apply(plan, AddElement(what="load", values={
        "name": "lamp", "category": "lamp", "amount": 20, "place": plan.places[0].id, "feed": output.id,
        "live": "engine"}))
    a = analyse(fed)
    assert not a.volts.across_v(fed.loads[-1].id, "key_on") and a.volts.across_v(fed.loads[-1].id, "idle") > 11
