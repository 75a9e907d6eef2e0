"""Generated plans of all kinds, every state, against ngspice; and what must hold of any of them."""

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.budget.lighting import lamp_volts
from loadstar.core.edits import AddElement, ChangeElement, SetWire, apply
from loadstar.core.edits.builder import Builder
from loadstar.core.errors import PlanError
from loadstar.exchange.netlist import netlist
from reference.generated import KINDS, generated
from reference.simulator import assert_agrees, needs_ngspice


@needs_ngspice
@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("kind", KINDS)
def test_every_state_agrees_with_the_simulator(kind, seed):
    """64 plans; converters, filaments and constant powers as behavioural sources; 1 uV at every node."""
    analysis = analyse(generated(kind, seed))
    for state, result in analysis.states.items():
        assert result.solution is not None, result.failure
        assert result.solution.residual_a < 1e-9
        assert_agrees(analysis, state)


def magneto(clamp_v=None):
    b = Builder("magneto")
    b.machine(system="magneto", system_v=6, chassis="winding", idle_rpm=1500, town_rpm=3000, cruise_rpm=6000)
    place = b.add("place", name="engine", ambient_c=50)
    nose = b.add("place", name="nose")
    b.add("run", a=place, b=nose, length_m=0.8)
    coil = b.add("coil", name="coil", place=place, emf_mv_per_rpm=7.8, reactance_mohm_per_rpm=1.38, winding_ohm=0.3,
                 clamp_v=clamp_v)
    for n, watts in enumerate((24, 5, 1.8)):
        b.add("load", name=f"lamp {n}", category="lamp", behaviour="filament", amount=watts, at_v=6, place=nose,
              feed=coil,
              live="engine", returns="frame")
    return b.plan


@needs_ngspice
@pytest.mark.parametrize("clamp_v", [None, 6.5])
@pytest.mark.parametrize("state", ["idle", "town", "cruise"])
def test_magneto_lighting_agrees_with_ac_analysis(state, clamp_v):
    """`.ac` with the lamps at the resistance of their solved voltage: consistent to 1e-4 V at every node."""
    assert_agrees(analyse(magneto(clamp_v)), state, 1e-4)


@pytest.mark.parametrize(("lamp", "rpm", "volts"), [
    ("L1", 1500, 5.1), ("L1", 3000, 6.4), ("L1", 4500, 6.8), ("L1", 6000, 6.9)])
def test_lamp_volts_over_speed(lamp, rpm, volts):
    """The given values of a 6 V coil with 24 + 5 + 1.8 W (wires here take a little): 2 %."""
    analysis = analyse(magneto())
    assert analysis.lamps.at(lamp, rpm) == pytest.approx(volts, rel=0.03)


@pytest.mark.parametrize(("rpm", "volts"),
                         [(1200, 7.2), (2000, 9.7), (3000, 11.4), (4000, 12.3), (6000, 13.1), (8000, 13.4)])
def test_lamp_volts_of_a_12_v_coil(rpm, volts):
    """k 9.5 mV rms/rpm, x 2.45 mohm/rpm, R 0.35, 35 + 5 + 3 W at 12 V: the published table, 2 % (wires thick and
    short)."""
    b = Builder("twelve")
    b.machine(system="magneto", system_v=12, chassis="winding", cruise_rpm=8000)
    place = b.add("place", name="engine", ambient_c=20)
    coil = b.add("coil", name="coil", place=place, emf_mv_per_rpm=9.5, reactance_mohm_per_rpm=2.45, winding_ohm=0.35)
    for watts in (35, 5, 3):
        b.add("load", name="lamp", category="lamp", behaviour="filament", amount=watts, at_v=12, place=place, feed=coil,
              live="engine", returns="frame")
    for point in b.plan.of_kind("frame"):
        b.change(point.id, joint_mohm=0.1, ageing=1)
    for wire in b.plan.wires:
        b.fix(wire.id, area_mm2=6.0)
    analysis = analyse(b.plan)
    assert analysis.lamps.at("L2", rpm) == pytest.approx(volts, rel=0.02)


def test_lamp_sweep_is_the_state_where_they_meet():
    analysis = analyse(magneto())
    sweep = lamp_volts(analysis.topology, analysis.sized.choices, analysis.states["town"].wire_mean_c)
    assert sweep.at("L1", 3000) == pytest.approx(analysis.volts.across_v("L1", "town"), rel=0.01)


@pytest.mark.parametrize("kind", KINDS)
def test_another_load_raises_no_voltage_while_no_device_changes_mode(kind):
    plan = generated(kind, 1)
    before = analyse(plan)
    load = plan.loads[0]
    fixed = plan
    for wire in plan.wires:
        fixed = apply(fixed, SetWire(id=wire.id, values={"area_mm2": before.wires[wire.id].area_mm2}))
    for part in plan.parts:
        if part.kind == "fuse":
            fixed = apply(fixed, ChangeElement(id=part.id, values={"rating_a": before.ratings.rating_a(part.id)}))
        elif part.kind == "way":
            fixed = apply(fixed, ChangeElement(id=part.id, values={"limit_a": 30}))
    values = {**load.model_dump(exclude={"id", "kind", "made_for", "marks"}), "name": "more", "amount": 2.0,
              "behaviour": "power"}
    before, after = analyse(fixed), analyse(apply(fixed, AddElement(what="load", values=values)))
    for state in before.states:
        one, two = before.states[state], after.states[state]
        if one.source != two.source or one.solution.converter_modes != two.solution.converter_modes:
            continue
        if any(one.closed[k] != two.closed.get(k) for k in one.closed):
            continue
        for other in plan.loads:
            v1, v2 = before.volts.across_v(other.id, state), after.volts.across_v(other.id, state)
            if v1 is not None and v2 is not None:
                assert v2 <= v1 + 2e-3, (state, other.id)


def test_a_netlist_of_a_state_that_is_not_there_is_refused():
    with pytest.raises(PlanError, match="has no state idle"):
        netlist(analyse(generated("pack", 0)), "idle")
