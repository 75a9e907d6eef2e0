"""Kinds of job, and what is made whole of them: circuits that are there, repairs, renewals, second sources."""

import math
from typing import Any

import pytest

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.build.whole import work
from loadstar.core.edits import ChangeElement, apply
from loadstar.core.errors import PlanError
from loadstar.core.intents import INTENTS, carried_out
from loadstar.core.jobs import ALL, JOBS, task_of, tasks_for
from loadstar.core.order import order
from loadstar.core.parts.own import OwnLoad
from loadstar.core.plan.model import Plan
from loadstar.core.prove.measure import UNPLUGGED
from loadstar.core.prove.measure import steps as measure

SCOOTER, BICYCLE = ("scooter", "small"), ("cargo e-bike", "48 v")


def machine(kind: str, size: str) -> Plan:
    return begun(Plan(name="a job"), Wish(kind, size))


def made(plan: Plan, key: str, **values: Any) -> Plan:
    return apply(plan, carried_out(plan, INTENTS[key].model_validate({**INTENTS[key].usual(plan), **values})))


def at(plan: Plan, name: str) -> str:
    return next(p.id for p in plan.places if p.name == name)


def tail_lamp(plan: Plan, **values: Any) -> Plan:
    return made(plan, "found circuit", **{
        "what": "Tail lamp", "power_w": 21, "user_at": at(plan, "tail"), "begins_at": at(plan, "fuse box"),
        "fuse_a": 5, "size_mm2": 0.5, "colour": "BN", "length_m": 1.8, **values})


def stops(plan: Plan) -> set[str]:
    return {f.rule for f in analyse(plan).findings if f.severity == "stop"}


def bought(a: Analysis) -> dict[str, float]:
    return {item.what: item.need for item in order(a).items}


def refused(field: str, plan: Plan, key: str, **values: Any) -> str:
    with pytest.raises(PlanError) as caught:
        made(plan, key, **values)
    (fault,) = caught.value.faults
    assert fault.field == field
    return fault.sentence


# -- kinds of job ----------------------------------------------------------------------------------------------------


def test_every_job_leads_over_known_pages_and_every_task_is_found_by_its_keys():
    assert JOBS["fit"].pages.keys() == set(ALL)
    for job in JOBS.values():
        assert "handover" in job.pages and job.tasks
        for task in job.tasks:
            assert task_of(f"{job.key}/{task.key}") == (job, task)
    assert task_of("fit/sails") is None and task_of("sail/accessories") is None and task_of("") is None


def test_a_machine_is_offered_what_it_can_have():
    bike = machine(*BICYCLE).model_copy(update={"job": "second source"})
    assert [task.key for task in tasks_for(bike)] == ["pack"]
    scooter = machine(*SCOOTER).model_copy(update={"job": "second source"})
    assert [task.key for task in tasks_for(scooter)] == ["battery", "charging lead"]


# -- a circuit that is there -----------------------------------------------------------------------------------------


def test_a_circuit_that_is_there_is_judged_by_its_own_fuse_and_nothing_of_it_is_bought():
    """0.5 mm2 at 40 C stands behind 5 A, and never behind 20 A (docs/physics.md B: 22 A for hours make it 220 C)."""
    plan = tail_lamp(machine(*SCOOTER))
    assert not stops(plan)
    assert bought(analyse(plan)) == {} and not analyse(plan).plan.of_kind("fuse")
    assert "wire.not-protected" in stops(tail_lamp(machine(*SCOOTER), fuse_a=20))
    assert "wire.no-fuse" in {f.rule for f in analyse(tail_lamp(machine(*SCOOTER), fuse_a=None)).findings}


def test_a_fuse_that_opens_slowly_is_judged_as_one_on_a_machine_too():
    """ISO 8820-3 blade against a box fuse of the same rating: by its band the slow one lets a thin wire get hot."""
    as_found = {"fuse_a": 20, "size_mm2": 1.5}
    assert "wire.not-protected" not in stops(tail_lamp(machine(*SCOOTER), fuse_kind="blade, 32 V", **as_found))
    assert "wire.not-protected" in stops(tail_lamp(machine(*SCOOTER), fuse_kind="box, 32 V", **as_found))


def test_its_watts_are_counted_once():
    plan = machine(*SCOOTER)
    lamps = next(own for own in plan.of(OwnLoad) if own.usual == "lamps")
    after = tail_lamp(plan, counted_in=lamps.id)
    assert next(own for own in after.of(OwnLoad) if own.id == lamps.id).power_w == pytest.approx(lamps.power_w - 21)
    assert "less than this draws" in refused("counted_in", plan, "found circuit", what="Everything", power_w=500,
                                             user_at=at(plan, "tail"), begins_at=at(plan, "fuse box"),
                                             counted_in=lamps.id)


def test_on_a_pack_it_hangs_on_the_pack_with_the_fuse_that_is_there():
    plan = machine(*BICYCLE)
    after = made(plan, "found circuit", what="Display", power_w=4, behaviour="power", user_at=at(plan, "handlebar"),
                 begins_at=at(plan, "pack"), fuse_a=2, fuse_kind="blade, 58 V", size_mm2=0.5)
    (fuse,) = after.of_kind("fuse")
    assert fuse.model_dump()["supplied"] and {w.origin for w in after.wires} == {"found"} and not stops(after)
    a = analyse(after)
    assert a.volts.across_v(after.loads[0].id, "on") == pytest.approx(a.plan.packs[0].resting_v, rel=0.05)
    assert "a wire of its own" in refused("returns", plan, "found circuit", what="Lamp", power_w=4, returns="frame",
                                          user_at=at(plan, "handlebar"), begins_at=at(plan, "pack"))


def test_without_a_supply_nothing_is_there():
    assert "Enter the battery" in INTENTS["found circuit"].lacks(Plan(name="empty"))
    assert INTENTS["found circuit"].lacks(machine(*SCOOTER)) == ""


# -- repairs ---------------------------------------------------------------------------------------------------------


def test_a_piece_in_a_damaged_wire_keeps_its_length_and_buys_the_piece():
    """1.8 m with a piece of 0.2 m: two halves of 0.8 m stay; by hand the way loses what it lost, and two splices."""
    plan = tail_lamp(machine(*SCOOTER))
    wire = next(w for w in plan.wires if w.colour == "BN")
    after = made(plan, "repair wire", broken=wire.id, damage_at=at(plan, "tail"), piece_m=0.2)
    brown = [w for w in after.wires if w.colour == "BN"]
    assert [(w.length_m, w.origin, w.made, w.area_mm2) for w in brown] == [
        (0.8, "found", "b", 0.5), (0.2, "new", "", 0.5), (0.8, "found", "a", 0.5)]
    a, before = analyse(after), analyse(plan)
    need = bought(a)
    assert need.pop("0.5 mm² BN") == pytest.approx(0.2) and need.pop("red butt splice, 0.35 to 1.5 mm²") == 2
    assert all("shrink" in what for what in need)
    lost = [x.volts.across_v(plan.loads[0].id, "key_on") for x in (before, a)]
    assert 0 < lost[0] - lost[1] < 0.05
    kinds = [o.kind for o in work(a).operations.values()]
    assert kinds.count("cut") == 3 and kinds.count("splice") == 2


@pytest.mark.parametrize(("values", "words"), [
    ({"piece_m": 2.5}, "only 1.8 m long"), ({"broken": "W99"}, "a wire that is there")])
def test_what_cannot_be_repaired_so(values, words):
    plan = tail_lamp(machine(*SCOOTER))
    wire = next(w.id for w in plan.wires if w.colour == "BN")
    field = next(iter(values))
    assert words in refused(field, plan, "repair wire", **{
        "broken": wire, "damage_at": at(plan, "tail"), "piece_m": 0.2, **values})


def test_an_end_made_up_anew_is_crimped_and_the_wire_stays():
    plan = tail_lamp(machine(*SCOOTER))
    joint = next(w for w in plan.wires if w.b.part.startswith("FR"))
    assert (f"{joint.id}.b", f"{joint.id}, BK, at Tail lamp frame joint") in INTENTS["new end"].choices(plan, "old_end")
    after = made(plan, "new end", old_end=f"{joint.id}.b")
    assert after.wire(joint.id).made == "b" and after.wire(joint.id).origin == "found"
    need = bought(analyse(after))
    assert any("ring" in what for what in need) and not any("mm² BK" in what for what in need)
    assert f"{joint.id}.b" not in dict(INTENTS["new end"].choices(after, "old_end"))
    bare = machine(*SCOOTER)
    assert "A circuit that is there" in INTENTS["new end"].lacks(bare) and INTENTS["new end"].lacks(plan) == ""
    assert "only a wire that is there" in refused("old_end", bare, "new end", old_end="W1.a").lower()


# -- renewals --------------------------------------------------------------------------------------------------------

LEADS = {"winding": "YE > WH, ye>wh, YE → WH", "others": "GN/RD > BU, BK > BK/WH"}


def test_a_generator_is_renewed_with_where_each_lead_goes():
    plan = machine("motorcycle", "middle")
    old = plan.generator
    after = made(plan, "renew generator", high_w=2 * old.rating2_w, plug_at=at(plan, "generator"), **LEADS)
    new, (plug,) = after.generator, [p for p in after.plugs if p.use == "generator"]
    assert (new.rating2_w, new.rating1_w) == (2 * old.rating2_w, 2 * old.rating1_w)
    assert new.phase_ohm == pytest.approx(old.phase_ohm / 2)  # twice the current for the same volts: half the ohms
    pins = after.pins(plug.id)
    assert [(p.wire_colour, p.new_colour, p.phase) for p in pins] == [
        ("YE", "WH", True)] * 3 + [("GN/RD", "BU", False), ("BK", "BK/WH", False)]
    assert [r.name for r in after.removed] == ["generator, the old one"]
    assert new.standing_of("rating2_w") == "stated"


@pytest.mark.parametrize(("values", "field", "words"), [
    ({"winding": "YE > WH, YE > WH"}, "winding", "has 3 leads; these are 2"),
    ({"winding": "YE WH"}, "winding", "say the old colour"), ({"others": "GN >"}, "others", "say the old colour"),
    ({"others": ", ".join(["GN > BU"] * 22)}, "others", "At most 24")])
def test_leads_that_do_not_fit_are_said_at_their_field(values, field, words):
    plan = machine("motorcycle", "middle")
    assert words in refused(field, plan, "renew generator", **{
        "high_w": 400, "plug_at": plan.places[0].id, **LEADS, **values})


def test_a_battery_is_renewed_and_the_old_one_written_down():
    plan = machine("motorcycle", "middle")
    old = plan.battery
    after = made(plan, "renew battery", chemistry="lfp", capacity_ah=old.capacity_ah / 2)
    assert (after.battery.chemistry, after.battery.internal_mohm) == ("lfp", 2 * old.internal_mohm)
    assert "agm" in after.removed[0].name
    assert "no battery" in INTENTS["renew battery"].lacks(machine(*BICYCLE))


def test_led_takes_the_difference_off():
    plan = tail_lamp(machine(*SCOOTER))
    lamp = plan.loads[0]
    after = made(plan, "led", lamp_of=lamp.id, new_w=3).loads[0]
    assert (after.amount, after.behaviour, after.inrush_a) == (3, "power", 0)
    own = next(o for o in plan.of(OwnLoad) if o.usual == "lamps")
    changed = made(plan, "led", lamp_of=own.id, was_w=30, new_w=10)
    assert next(o for o in changed.of(OwnLoad) if o.id == own.id).power_w == own.power_w - 20
    assert "up to" in refused("was_w", plan, "led", lamp_of=own.id, new_w=10)
    assert "neither" in refused("lamp_of", plan, "led", lamp_of=plan.battery.id, new_w=10)


# -- second sources --------------------------------------------------------------------------------------------------


def test_a_second_battery_comes_with_what_joins_it():
    plan = machine("motorcycle", "middle")
    after = made(plan, "second battery", battery_at=at(plan, "side panel"), capacity_ah=7)
    assert [p.kind for p in after.parts if p.kind in ("second_battery", "charging_diode")] == [
        "second_battery", "charging_diode"]
    assert len(after.of_kind("fuse")) == 2 and not stops(after)
    assert "already" in refused("battery_at", after, "second battery", battery_at=at(plan, "side panel"))


@pytest.mark.parametrize("way", ["changeover", "diode", "parallel"])
def test_a_second_pack_has_the_cells_of_the_first(way):
    plan = machine(*BICYCLE)
    after = made(plan, "second pack", pack_at=at(plan, "rear rack"), joined_at=at(plan, "pack"), way=way)
    first, second = after.packs
    assert (second.series, second.parallel, second.cell_ah) == (first.series, first.parallel, first.cell_ah)
    assert after.combiner.way == way and not stops(after)
    assert "two packs already" in refused("pack_at", after, "second pack", pack_at=at(plan, "rear rack"),
                                          joined_at=at(plan, "pack"))


def test_a_renewed_generator_has_leads_to_make_up_and_a_winding_to_measure():
    """Five leads, each stripped, crimped and pushed home; of a star's winding 2 x 0.18 / 1.3 = 0.27 ohm between any two
    leads, none to the frame, and by hand sqrt(3) / sqrt(2) of a phase's peak in AC volts at idle."""
    plan = machine("motorcycle", "middle")
    after = made(plan, "renew generator", high_w=420, plug_at=at(plan, "generator"), terminals="blade 6.3", **LEADS)
    a = analyse(after)
    assert not stops(after)
    operations = work(a).operations.values()
    assert sum(o.kind == "crimp core" for o in operations) == 5 == sum(o.kind == "insert" for o in operations)
    assert {item.what: item.need for item in order(a).items if item.group == "Terminals"} == {
        "blade receptacle 6.3, 0.5 to 1.5 mm²": 5}
    assert not [item for item in order(a).items if item.group == "Wire"]
    found = {s.key.partition(".")[2]: s for s in measure(a) if s.stage == UNPLUGGED}
    between, frame, turning = ([s for key, s in found.items() if key.startswith(begin)] for begin in (
        "T", "frame", "ac"))
    assert (len(between), len(frame), len(turning)) == (3, 3, 6)
    generator = after.generator
    assert between[0].expects.value == pytest.approx(2 * generator.phase_ohm / 1.3)
    assert frame[0].expects.verdict(5e6) == "in" and frame[0].expects.verdict(50) == "out"
    peak_v = generator.winding.k_v_per_rpm * after.machine.idle_rpm
    assert turning[0].expects.value == pytest.approx(peak_v * math.sqrt(1.5))
    assert turning[0].expects.verdict(0.0) == "out"
    assert [s.stage for s in measure(a)][:9] == [UNPLUGGED] * 9


def test_a_winding_with_an_end_on_the_frame_shows_it():
    plan = machine("utility bike", "starter")
    generator = plan.generator
    plan = apply(plan, ChangeElement(id=generator.id, values={"tied": "frame"}))
    after = made(plan, "renew generator", high_w=80, winding="YE > WH, YE > WH", plug_at=plan.places[0].id)
    frame = [s for s in measure(analyse(after)) if s.key.startswith("winding.frame")]
    assert len(frame) == 2 and all("its end is there" in s.what and s.expects.value < 10 for s in frame)
    assert not [s for s in measure(analyse(plan)) if s.stage == UNPLUGGED]  # no connector has been written down
