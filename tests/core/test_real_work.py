"""What real work asks of a plan: a name to a bypassed protection, an old battery, packs read before they are joined, a
block with its own relay, male and female told apart."""

import pytest
from builders import Bench

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.budget.ledger import ledger
from loadstar.core.build.whole import work
from loadstar.core.edits import ChangeElement, CutWire, PutPlug, RemoveElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.intents import INTENTS, carried_out
from loadstar.core.order import Item, order
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan


def rules(plan: Plan) -> dict[str, str]:
    return {f.rule: f.sentence for f in analyse(plan).findings}


def line(a: Analysis, begins: str) -> Item:
    return next(item for item in order(a).items if item.what.startswith(begins))


def told(plan: Plan) -> list[str]:
    return [o.words for o in work(analyse(plan)).operations.values()]


# -- packs and batteries ---------------------------------------------------------------------------------------------


def cargo() -> Plan:
    return begun(Plan(name="packs"), Wish("cargo e-bike", "48 v"))


def test_a_bypassed_protection_has_a_name_to_it():
    plan = cargo()
    pack = plan.packs[0]
    with pytest.raises(PlanError) as refused:
        apply(plan, ChangeElement(id=pack.id, values={"bms": "bypassed"}))
    assert [(f.field, "who says so" in f.sentence) for f in refused.value.faults] == [("bypass_by", True)]
    agreed = apply(plan, ChangeElement(id=pack.id, values={"bms": "bypassed", "bypass_by": "the reed warden"}))
    assert "Going on is recorded: the reed warden." in rules(agreed)["pack.bypassed"]
    data = agreed.model_dump(mode="json") | {"version": 11}
    data.pop("job")
    for part in data["parts"]:
        part.pop("pattern", None)
        if part["kind"] == "pack":
            part["bypass_by"] = ""
    assert document.from_data(data).packs[0].bypass_by == "not recorded"  # an older plan is read on


@pytest.mark.parametrize("way", ["parallel", "diode", "changeover"])
def test_packs_are_read_at_rest_before_a_plain_lead_joins_them(way):
    plan, kind = cargo(), INTENTS["second pack"]
    at = {p.name: p.id for p in plan.places}
    plan = apply(plan, carried_out(plan, kind.model_validate({
        **kind.usual(plan), "pack_at": at["rear rack"], "joined_at": at["pack"], "way": way})))
    a = analyse(plan)
    made = work(a)
    within = f"within {a.pack.joining.may_join_v:.2f} V of each other"  # as the budget and the finding say it
    gate = [key for key, o in made.operations.items() if within in o.words]
    assert len(gate) == (way == "parallel")
    if gate:
        joining = plan.combiner.id
        joined = next(key for key, o in made.operations.items() if (o.kind, o.element) == ("connect", joining))
        assert gate[0] in made.before[joined]


@pytest.mark.parametrize(("values", "rule"), [
    ({"cold_cranking_a": 100}, "battery.cold-cranking"), ({"cold_cranking_a": 110}, ""),
    ({"age_years": 6}, "battery.old"), ({"age_years": 5}, ""), ({"age_years": 6, "chemistry": "lfp"}, ""),
    ({"age_years": 4.5, "chemistry": "flooded"}, "battery.old")])
def test_what_is_printed_on_a_battery_and_its_age_are_judged(values, rule):
    b = Bench()
    b.machine(cranking_a=110)
    b.change(b.battery, **values)
    assert {r for r in rules(b.plan) if r.startswith("battery.")} == ({rule} if rule else set())


def test_an_old_battery_that_was_measured_is_no_matter():
    b = Bench()
    b.change(b.battery, age_years=9)
    assert "battery.old" in rules(b.plan)
    b.plan = apply(b.plan, ChangeElement(id=b.battery, values={"internal_mohm": 30}, marks={"internal_mohm": "found"}))
    assert "battery.old" not in rules(b.plan)


def test_the_starter_is_in_the_account_while_it_turns():
    b = Bench()
    b.machine(cranking_a=110)
    found = {item.name: item.on_a for item in ledger(b.plan, "cranking").items}
    assert found["the starter"] == 110 and "the starter" not in {i.name for i in ledger(b.plan, "idle").items}
    b.machine(cranking_a=0)
    assert "the starter" not in {i.name for i in ledger(b.plan, "cranking").items}


# -- a block with its own relay --------------------------------------------------------------------------------------


def block_of_its_own() -> tuple[Bench, str]:
    b = Bench()
    return b, b.add("block", name="six-way", place=b.box, ways=6, own_relay=True)


def test_a_relay_that_is_built_in_is_neither_bought_nor_wired_but_for_its_trigger():
    b, block = block_of_its_own()
    lamp = b.lamp(feed=block)
    relay, = b.plan.of_kind("relay")
    wired = [w for w in b.plan.wires if relay.id in (w.a.part, w.b.part)]
    assert len(wired) == 1 and wired[0].b.name == "86"
    a = analyse(b.plan)
    assert not [item for item in order(a).items if "relay" in item.what]
    outside = Bench()
    other = outside.lamp(feed=outside.add("block", name="six-way", place=outside.box, ways=6))
    by_hand = analyse(outside.plan).volts.across_v(other, "idle")
    assert a.volts.across_v(lamp, "idle") == pytest.approx(by_hand, abs=0.05)
    assert not a.volts.across_v(lamp, "parked")


def test_one_relay_switches_one_kind_of_ways():
    b, block = block_of_its_own()
    b.lamp(feed=block)
    b.lamp(feed=block, name="another")
    assert len(b.plan.of_kind("relay")) == 1
    with pytest.raises(PlanError) as refused:
        b.lamp(feed=block, live="engine", name="third")
    assert "one relay built in" in refused.value.faults[0].sentence
    tracker = b.load(name="tracker", feed=block, live="always", reason_always="parked")
    assert tracker in {p.id for p in b.plan.loads}


def test_it_goes_with_the_last_that_it_switches():
    b, block = block_of_its_own()
    first, second = b.lamp(feed=block), b.lamp(feed=block, name="another")
    b.plan = apply(b.plan, RemoveElement(id=first))
    assert len(b.plan.of_kind("relay")) == 1
    b.plan = apply(b.plan, RemoveElement(id=second))
    assert not b.plan.of_kind("relay") and not any(j.b.part == block and j.b.name == "key" for j in b.plan.joins)


# -- ends ------------------------------------------------------------------------------------------------------------


def test_a_connector_comes_with_its_locks_its_blanks_and_both_kinds_of_terminals():
    """Two wires through a four-way connector: 2 male, 2 female, two open ways on both sides."""
    b = Bench()
    lamp = b.lamp()
    feed, back = b.feed_wire(lamp), next(w.id for w in b.plan.wires if w.a == f"{lamp}.neg")
    b.plan = apply(b.plan, CutWire(id=feed, place=b.nose))
    coupling = b.plan.of_kind("coupling")[0].id
    b.change(coupling, ways=4, termination="sealed 1.5")
    b.plan = apply(b.plan, CutWire(id=back, into=coupling))
    a = analyse(b.plan)
    assert line(a, "sealed round pin 1.5").why == "2 female, 2 male"
    assert "both halves with locks" in line(a, "sealed 1.5 connector").what
    assert line(a, "plug for an unused way, sealed 1.5").need == 4
    b.change(coupling, tabs="a")
    assert line(analyse(b.plan), "sealed round pin 1.5").why == "2 female, 2 male"


def test_towards_a_plug_of_the_machine_the_other_half_is_bought():
    b = Bench()
    b.plan = apply(b.plan, RemoveElement(id=b.block))
    b.plan = apply(b.plan, PutPlug(
        values={"name": "tail plug", "place": b.nose, "ways": 4, "half": "tabs"},
        pins=({"way": 1, "function": "feed", "live": "key", "fused_a": 10, "termination": "sealed 2.8"},
              {"way": 2, "function": "ground", "termination": "sealed 2.8"})))
    pin = next(t.id for t in b.plan.of_kind("tap") if t.in_plug)
    b.load(name="gauge", amount=5, feed=pin, plugged=True, lead_end="bare", lead_mm2=0.75, place=b.nose,
           dimensions={"lead_m": 0.5})
    a = analyse(b.plan)
    terminal = line(a, "sealed blade 2.8")
    assert terminal.need == 2 and terminal.why in ("1 female", "2 female")
    assert "one half with receptacles and locks: fits tail plug" in line(a, "sealed 2.8 connector").what
    assert not [i for i in order(a).items if i.group == "Wire"]


def test_a_bare_lead_that_goes_into_a_plug_is_made_up_there_and_nowhere_else():
    """Cut, strip, both crimps, pull, seal and click: of two wires, at one end each."""
    b = Bench()
    b.plan = apply(b.plan, RemoveElement(id=b.block))
    b.plan = apply(b.plan, PutPlug(
        values={"name": "tail plug", "place": b.nose, "ways": 2},
        pins=({"way": 1, "function": "feed", "live": "key", "fused_a": 10, "termination": "sealed 2.8"},
              {"way": 2, "function": "ground", "termination": "sealed 2.8"})))
    pin = next(t.id for t in b.plan.of_kind("tap") if t.in_plug and t.can_feed)
    lamp = b.load(name="gauge", amount=5, feed=pin, plugged=True, lead_end="bare", lead_mm2=0.75, place=b.nose,
                  dimensions={"lead_m": 0.5})
    mine = [w for w in b.plan.wires if w.made_for == lamp]
    assert {w.made for w in mine} == {"a", "b"} and {w.origin for w in mine} == {"supplied"}
    kinds = [o.kind for o in work(analyse(b.plan)).operations.values()]
    assert kinds.count("crimp core") == 2 == kinds.count("insert")
    came = apply(b.plan, ChangeElement(id=lamp, values={"lead_end": "plug"}))
    assert {w.made for w in came.wires if w.made_for == lamp} == {""}


def test_narrow_holes_wings_and_lances_are_told_where_they_belong():
    b = Bench()
    lamp = b.lamp()
    assert any("Press the wings parallel" in words for words in told(b.plan))
    assert not any("thin rod" in words for words in told(b.plan))
    b.change(b.run, bore_mm=40)
    assert any("tape its end to a thin rod" in words for words in told(b.plan))
    assert lamp


@pytest.mark.parametrize(("peak_a", "told"), [(20, False), (120, True)])
def test_a_converter_that_charges_its_capacitors_may_open_its_fuse(peak_a, told):
    """A fuse of 2 A and 2 ms: at 0.3 of what opens it in that time (ISO 8820-3) it bears some 2 A2s: 20 A are 0.8 A2s,
    120 A 28.8."""
    b = Bench()
    box = b.add("converter", name="box", place=b.box, window_low_v=8, window_high_v=30, out_v=5, rated_a=3)
    b.load(name="charger", amount=8, at_v=5, window_low_v=4, window_high_v=6, feed=box)
    b.change(box, inrush_a=peak_a, inrush_ms=2)
    fuse = next(p for p in b.plan.of_kind("fuse") if p.made_for == box)
    b.change(fuse.id, rating_a=2)
    found = [f for f in analyse(b.plan).findings if f.rule == "fuse.inrush" and fuse.id in f.elements]
    assert bool(found) == told and all("Switching on box puts" in f.sentence for f in found)
    b.change(fuse.id, rating_a=None)
    assert not [f for f in analyse(b.plan).findings if f.rule == "fuse.inrush"]  # left to Loadstar it is large enough
