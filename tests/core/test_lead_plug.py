"""A plug on an accessory's bare lead: its two wires are its own, cut to one length and made up at the plug alone."""

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.build.whole import work
from loadstar.core.edits import apply
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.core.intents import INTENTS, asked_for, carried_out
from loadstar.core.order import order
from loadstar.core.plan.model import Plan

RHO = 0.0246  # ohm per metre of 0.75 mm² at 20 °C: 24.7 mOhm/m at most by ISO 19642-3, table of class 5


def lamps(**values: object) -> Plan:
    b = Builder("lamps", begun(Plan(), Wish("motorcycle", "middle", wanted=("lamp pair",))))
    if values:
        b.change("L1", **values)
    return b.plan


def plugged(plan: Plan, **values: object) -> Plan:
    intent = asked_for(INTENTS["plug on a lead"], {"lead_of": "L1", "lead_m": 0.4, **values})
    return apply(plan, carried_out(plan, intent))


def test_the_lead_is_its_own_and_made_up_at_the_plug_alone():
    plan = plugged(lamps(), live_wire="white stripe")
    own = {w.id: w for w in plan.wires if w.origin == "supplied"}
    assert len(own) == 2 and {(w.area_mm2, w.length_m) for w in own.values()} == {(0.75, 0.4)}
    assert {(w.colour, w.stripe) for w in own.values()} == {("", "")}  # nobody said in what it came
    a = analyse(plan)
    made = {e.at.part for e in a.ends.every if e.wire in own and not e.kept}
    plug, = plan.of_kind("coupling")
    assert made == {plug.id} and {e.family for e in a.ends.at(plug.id)} == {"sealed 2.8"}
    assert not [f for f in a.findings if f.severity == "stop"]
    bought_m = {item.what: item.need for item in order(a).items if item.group == "Wire"}
    assert not any("0.75" in what for what in bought_m)  # every other wire of it is of 0.5
    terminals = next(i for i in order(a).items if i.what.startswith("sealed blade 2.8"))
    assert terminals.need == 4


def test_its_ohms_are_in_the_drop():
    """Two metres more of 0.75 mm² are 2 x 24.6 mOhm by hand."""
    plug = plugged(lamps()).of_kind("coupling")[0].id
    short, long = (analyse(plugged(lamps(), lead_m=m)).states["idle"] for m in (0.1, 2.1))
    ohm = [abs(s.solution.across_v(f"{plug}.b1", "L1.pos") / s.current("L1")) for s in (short, long)]
    assert ohm[1] - ohm[0] == pytest.approx(2.0 * RHO, rel=0.15)  # warmer than 20 °C, and no thicker than it says


def test_the_work_says_which_wire_is_live_and_cuts_only_its_bare_end():
    said = [o.words for o in work(analyse(plugged(lamps(), live_wire="white stripe"))).operations.values()]
    assert sum("its live wire (white stripe)" in words for words in said) == 1
    assert sum("its other wire" in words for words in said) == 1
    assert sum(words.startswith("Cut the old end off") for words in said) == 2
    assert sum(words.startswith("Push W") for words in said) == 4


def test_a_wire_of_the_harness_says_where_it_goes_too():
    said = [o.words for o in work(analyse(lamps(live_wire="red"))).operations.values()]
    assert any("to its live wire (red)" in words and "to its other wire" in words for words in said)
    assert not any("live wire" in o.words for o in work(analyse(lamps())).operations.values())


@pytest.mark.parametrize("plan", [lamps(lead_end="plug"), plugged(lamps())], ids=["came with one", "got one"])
def test_a_lead_that_has_a_plug_is_not_offered(plan):
    intent = INTENTS["plug on a lead"]
    assert intent.choices(plan, "lead_of") == [] and "bare lead" in intent.lacks(plan)
    with pytest.raises(PlanError) as refused:
        plugged(plan)
    assert [f.field for f in refused.value.faults] == ["lead_of"]


def test_a_plug_that_takes_no_such_wire_is_refused():
    with pytest.raises(PlanError) as refused:
        plugged(lamps(), lead_mm2=0.35, family="sealed 6.3")
    assert [f.field for f in refused.value.faults] == ["family"]
