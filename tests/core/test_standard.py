"""What protects a load, and how a machine's supply is made safe, put back and tried, on each kind of machine."""

from pathlib import Path

import pytest
from builders import Bench

from loadstar import demo
from loadstar.core.analysis import analyse
from loadstar.core.begin import Wish, begun
from loadstar.core.build.whole import work
from loadstar.core.edits import MoveEnd, RemoveElement, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.intents import INTENTS, asked_for, carried_out
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.core.standard import back
from loadstar.core.supply.choose import supply_of

JOBS = Path(__file__).resolve().parents[2] / "examples" / "jobs"


def protected(plan: Plan) -> dict[str, tuple[str, str] | None]:
    """By each load's name: what protects it, and the converter that it lies before."""
    topology = analyse(plan).topology
    found = {load.name: topology.nearest_protection(load.id) for load in plan.loads}
    return {name: one and (one[0].name, one[1]) for name, one in found.items()}


def test_on_a_module_s_way_it_is_the_way_not_the_main_fuse_before_the_module():
    found = protected(document.from_json((JOBS / "02-distribution-module.json").read_bytes()))
    assert len(found) == 4 and all(one and "fuse" not in one[0] and not one[1] for one in found.values())


def test_behind_a_converter_it_is_the_fuse_before_its_input_and_on_a_light_port_none():
    plan = demo.tide_hauler()[0]
    assert protected(plan) == {"Front lamp": None, "Sample cooler": ("12 V box input fuse", "CV1"),
                               "Logger and radio": ("12 V box input fuse", "CV1")}


def test_on_a_line_of_the_machine_s_own_it_is_the_machine_s_fuse_where_it_is_known():
    b = Bench()
    tap = b.add("tap", name="tail lamp wire", place=b.nose, rated_a=5, fused_a=5)
    lamp = b.lamp(name="marker lamp", feed=tap, amount=6)
    assert protected(b.plan)["marker lamp"] == ("marker lamp fuse", "")  # its own, at the plug, is nearer
    fuse = analyse(b.plan).topology.nearest_protection(lamp)[0].id
    pin = next(w.a for w in b.plan.wires if w.a.part == tap)
    b.plan = apply(apply(b.plan, MoveEnd(id=b.feed_wire(lamp), end="a", to=pin)), RemoveElement(id=fuse))
    assert protected(b.plan)["marker lamp"] == ("tail lamp wire", "")
    b.change(tap, fused_a=None)
    assert protected(b.plan)["marker lamp"] is None


@pytest.mark.parametrize(("make", "first", "last", "tried"), [
    (demo.fit_out, "negative lead off first", "negative lead last", "measure the charging volts"),
    (demo.tide_hauler, "Take the pack out", "pack back in", "each brake lever cuts the motor off"),
    (demo.ferry_runner, "Engine off", "engine may run", "from idle to full speed")])
def test_work_begins_and_ends_as_the_supply_asks(make, first, last, tried):
    analysis = analyse(make()[0])
    steps = back(analysis)
    assert first in steps[0] and last in steps[-2] and tried in steps[-1]
    every = work(analysis).operations.values()
    assert [o for o in every if first in o.words and o.sitting == "supply off"]
    assert [o for o in every if o.sitting == "supply on" and (last in o.words or "the negative last" in o.words)]


def test_no_machine_is_told_of_what_it_has_not():
    for make in demo.PLANS:
        plan = make()[0]
        how = supply_of(plan).handling
        said = " ".join((how.off, how.on, how.tried, how.caution, how.amps))
        assert ("battery" in said) == (plan.battery is not None), make.__name__
        assert ("pack" in said) == bool(plan.packs), make.__name__
        assert ("charging volts" in said) == (plan.battery is not None and plan.generator is not None), make.__name__


@pytest.mark.parametrize(("system", "first"), [("battery", "battery"), ("total_loss", "battery"), ("pack", "pack"),
                                               ("magneto", "Engine")])
def test_before_anything_is_entered_it_is_by_what_the_machine_runs_on(system, first):
    b = Builder("nothing yet")
    b.machine(name="nothing yet", system=system)
    assert first in supply_of(b.plan).handling.off


def test_only_where_something_charges_is_it_measured():
    assert "charging volts" in supply_of(Bench().plan).handling.tried
    assert "charging volts" not in supply_of(Bench(generator=False).plan).handling.tried


def test_what_is_taken_out_is_what_was_put_in_and_every_wire_is_taken_off_the_machine_s_own():
    """The magneto machine by hand: three switches were put in; three points of its frame and its coil stay."""
    steps = back(analyse(demo.ferry_runner()[0]))
    (out,) = [s for s in steps if s.startswith("Remove what was put in between")]
    assert out.endswith(": Headlamp switch, Tail lamp switch, Speedometer lamp switch.")
    off = [s for s in steps if s.startswith("Take W")]
    assert off == ["Take W1, W4, W7 off lighting coil.", "Take W3 off Headlamp frame joint.",
                   "Take W6 off Tail lamp frame joint.", "Take W9 off Speedometer lamp frame joint."]


def test_bodywork_plugs_and_what_came_off_by_hand():
    """The machine as found in spring: one plug with renewed wires, two places behind the seat, a bracket kept; of the
    plugs that nothing was done to nothing is said."""
    plan = demo.as_found()[0]
    steps = back(analyse(plan))
    assert [s for s in steps if s.startswith("Reach")] == ["Reach battery box: seat off.",
                                                           "Reach under the seat: seat off."]
    assert [s for s in steps if "pin map" in s] == ["generator plug: every wire back by its pin map as found."]
    assert "Put back rear carrier bracket, kept at shelf 3, bag with the white label." in steps
    nowhere = plan.model_copy(update={"removed": tuple(r.model_copy(update={"stored": ""}) for r in plan.removed)})
    assert "Put back rear carrier bracket, where it is kept nobody has written down." in back(analyse(nowhere))
    plain = plan.model_copy(update={"parts": tuple(
        p.model_copy(update={"new_colour": ""}) if p.kind == "tap" else p for p in plan.parts)})
    assert not [s for s in back(analyse(plain)) if "pin map" in s]


def test_accessories_come_off_with_their_wires_and_a_plug_that_was_used_is_closed_again():
    b = Bench()
    b.plan = apply(b.plan, PutPlug(values={"name": "seat plug", "place": b.nose, "ways": 2}, pins=(
        {"way": 1, "function": "feed", "live": "key", "rated_a": 8, "fused_a": 10}, {"way": 2, "function": "ground"})))
    lamp = b.lamp(12, feed=next(t.id for t in b.plan.taps if t.plug and t.function == "feed"))
    steps = back(analyse(b.plan))
    wires = ", ".join(w.id for w in b.plan.wires if lamp in (w.a.part, w.b.part))
    assert f"Remove lamp at nose, with {wires}." in steps
    assert "seat plug: every wire back by its pin map as found." in steps
    assert [s for s in steps if s.startswith("Take W") and s.endswith("seat plug pin 1 and close its plug again.")]
    assert not [s for s in back(analyse(Bench().plan)) if s.startswith("Remove ") and "put in between" not in s]


def test_a_converter_and_its_switch_go_too():
    """They were added by somebody, not made for an accessory; the drive and the pack stay."""
    plan = begun(Plan(), Wish("e-scooter", "48 v"))
    intent = asked_for(INTENTS["converter"], {"converter_at": plan.places[0].id, "switch_at": plan.places[1].id})
    steps = back(analyse(apply(plan, carried_out(plan, intent))))
    out = next(s for s in steps if s.startswith("Remove what was put in"))
    assert "12 V converter" in out and "converter switch" in out and "drive" not in out and "pack" not in out
