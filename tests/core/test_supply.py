"""What each way to feed a machine answers: its states, what stores, what it begins each state with, what is looked at
besides, how work on it begins and ends."""

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.doc.states import STATE_NAMES
from loadstar.core.edits.builder import Builder
from loadstar.core.supply.choose import NoSupply, supply_of
from loadstar.core.supply.magneto import MagnetoSupply
from loadstar.core.supply.pack import PackSupply
from loadstar.core.supply.total_loss import TotalLossSupply

ENGINE = ("parked", "key_on", "cranking", "idle", "town", "cruise")
LAMPS = ("parked", "idle", "town", "cruise")
PACK = ("parked", "on", "assist", "full", "charging")


def empty(system: str, volts: int = 12):
    b = Builder("nothing yet")
    b.machine(name="nothing yet", system=system, system_v=volts)
    return supply_of(b.plan)


@pytest.mark.parametrize(("system", "volts", "states"), [
    ("battery", 12, ENGINE), ("total_loss", 12, ENGINE), ("magneto", 6, LAMPS), ("ignition_only", 12, LAMPS),
    ("pack", 48, PACK)])
def test_before_anything_is_entered_it_is_the_kind_of_machine_s(system, volts, states):
    supply = empty(system, volts)
    assert type(supply) is NoSupply and supply.states == states
    assert list(supply.stores) == [] and supply.resting_v("parked") == volts
    like = {"battery": "battery", "total_loss": "battery", "pack": "pack"}.get(system, "Engine off")
    assert like in supply.handling.off


@pytest.mark.parametrize(("make", "kind", "states", "modes"), [
    (demo.fit_out, "battery", ENGINE, {"parked": "battery", "cranking": "battery", "idle": "regulated"}),
    (demo.tide_hauler, "pack", PACK, dict.fromkeys(PACK, "pack")),
    (demo.ferry_runner, "magneto", LAMPS, dict.fromkeys(LAMPS, "coil"))])
def test_what_a_state_begins_with(make, kind, states, modes):
    supply = supply_of(make()[0])
    assert (supply.key, supply.states) == (kind, states)
    assert {state: supply.mode(state) for state in modes} == modes


def test_a_machine_that_may_be_over_revved_has_that_state_too():
    for make in (demo.fit_out, demo.ferry_runner):
        plan = make()[0]
        revved = plan.model_copy(update={"machine": plan.machine.model_copy(update={"rev_rpm": 11_000})})
        assert supply_of(revved).states == (*supply_of(plan).states, "rev")


def test_a_battery_without_a_generator_drives_every_state_by_itself():
    supply = supply_of(Bench(generator=False).plan)
    assert {supply.mode(state) for state in ENGINE} == {"battery"}
    assert [part.kind for part in supply.stores] == ["battery"]


def test_a_coil_stores_nothing_and_breaks_no_direct_current():
    supply = supply_of(demo.ferry_runner()[0])
    assert type(supply) is MagnetoSupply
    assert (list(supply.stores), supply.breaks_v, supply.resting_v("idle")) == ([], 0.0, 6.0)


def test_total_loss_is_by_what_the_machine_is_said_to_run_on():
    b = Bench(generator=False)
    b.machine(system="total_loss")
    assert type(supply_of(b.plan)) is TotalLossSupply


def on_packs(way: str | None, *, second: bool = True, **joint):
    """The words of what is looked at besides the states, of two packs or one."""
    b = Builder("bike")
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    place = b.add("place", name="tube", ambient_c=35)
    for name in ("first pack", "second pack")[:1 + second]:
        b.add("pack", name=name, place=place, series=13, parallel=5)
    if way:
        b.add("combiner", name="joint", place=place, way=way, **joint)
    supply = supply_of(b.plan)
    assert type(supply) is PackSupply
    return [s for s in supply.situations() if s.words and s.words not in STATE_NAMES.values()]


def test_one_pack_is_looked_at_nearly_empty():
    for found in (on_packs(None, second=False), on_packs(None)):
        assert [(s.state, s.empty, s.words) for s in found] == [("full", True, "Full power, pack nearly empty")]


def test_of_two_joined_packs_each_is_looked_at_alone():
    alone = on_packs("diode")[1:]
    assert {s.words for s in alone} >= {"Full power, first pack alone", "Full power, second pack alone"}
    for one in alone:
        assert len(one.away) == 1 and not one.turned
        assert ("nearly empty" in one.words) == one.empty
    assert any(s.empty for s in alone) and any(not s.empty for s in alone)
    gone = {s.words.partition(", ")[2].removeprefix("nearly empty, "): s.away for s in alone}
    assert gone == {"first pack alone": {"PK2"}, "second pack alone": {"PK1"}}


@pytest.mark.parametrize(("position", "other", "name"), [("a", "b", "second pack"), ("b", "a", "first pack")])
def test_a_changeover_is_looked_at_on_its_other_side(position, other, name):
    found = on_packs("changeover", position=position)[1:]
    assert found and all(other in s.stands.values() and s.words.endswith(f"switch at {name}") for s in found), found
    assert all(not s.away for s in found)
