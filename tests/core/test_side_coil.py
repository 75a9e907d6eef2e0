"""A lighting coil beside a battery: its lamps are solved with everything else, and neither pays for the other."""

import cmath

import pytest
from builders import Bench
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.budget.ledger import ledger, standing_draws
from loadstar.core.edits import AddWire, apply
from loadstar.core.physics.coil import given_a

COIL = {"emf_mv_per_rpm": 6, "reactance_mohm_per_rpm": 1.8, "winding_ohm": 0.4}


def _with_lamps(b: Bench, **coil: float) -> str:
    """Add the coil, a head and a tail lamp on it; the coil."""
    made = b.add("coil", name="coil", place=b.box, **{**COIL, **coil})
    for name, watts in (("head", 35), ("tail", 5)):
        b.add("load", name=name, category="lamp", behaviour="filament", amount=watts, at_v=12, place=b.nose, feed=made,
              live="engine", returns="frame", window_low_v=0, window_high_v=20)
    return made


def dirt(**coil: float) -> tuple[Bench, str]:
    """A bench with a battery, its generator and a lamp on it; beside it a coil with lamps of its own."""
    b = Bench()
    b.lamp(10)
    return b, _with_lamps(b, **coil)


def alone(**coil: float) -> Bench:
    """The same coil and lamps on a machine that has nothing else: solved by phasors."""
    b = Bench(generator=False, battery=False)
    b.machine(system="magneto", system_v=12, chassis="winding")
    _with_lamps(b, **coil)
    return b


def lamp_v(a: Analysis, name: str, state: str) -> float:
    load = next(p for p in a.plan.loads if p.name == name)
    found = a.volts.across_v(load.id, state)
    assert found is not None, (name, state)
    return found


@pytest.mark.parametrize("at_v", [0.0, 1.0, 4.0, 7.5, 8.0])
def test_the_coil_s_current_is_that_of_its_phasors(at_v):
    """Against complex arithmetic: |V + (R + jX) I| = E; the slope against a small step."""
    amps, slope = given_a(8.0, 0.3, 1.5, at_v)
    assert abs(at_v + complex(0.3, 1.5) * amps) == pytest.approx(8.0, abs=1e-5)
    if 0 < at_v < 8:
        assert slope == pytest.approx((given_a(8.0, 0.3, 1.5, at_v + 1e-5)[0] - amps) / 1e-5, rel=1e-3)


def test_by_hand_at_four_volts():
    """(4 + 0.3 I)^2 + (1.5 I)^2 = 64: 2.34 I^2 + 2.4 I - 48 = 0."""
    by_hand = (-2.4 + (2.4**2 + 4 * 2.34 * 48) ** 0.5) / (2 * 2.34)
    assert given_a(8.0, 0.3, 1.5, 4.0)[0] == pytest.approx(by_hand)
    assert cmath.isfinite(by_hand)


@pytest.mark.parametrize("clamp", [{}, {"clamp_v": 12.5}, {"clamp_v": 11.0, "emf_mv_per_rpm": 12}])
@pytest.mark.parametrize("state", ["idle", "town", "cruise"])
def test_beside_a_battery_the_lamps_have_what_they_have_alone(state, clamp):
    """Against the phasor solution of the same coil on a machine of its own."""
    beside, by_itself = analyse(dirt(**clamp)[0].plan), analyse(alone(**clamp).plan)
    for name in ("head", "tail"):
        assert lamp_v(beside, name, state) == pytest.approx(lamp_v(by_itself, name, state), abs=0.02)
        assert lamp_v(beside, name, state) == pytest.approx(
            beside.lamps.at(next(p.id for p in beside.plan.loads if p.name == name), beside.plan.machine.rpm(state)),
            rel=0.02)


@needs_ngspice
@pytest.mark.parametrize("state", ["parked", "key_on", "cranking", "idle", "town", "cruise"])
def test_every_state_is_what_ngspice_finds(state):
    assert_agrees(analyse(dirt()[0].plan), state)


def test_neither_battery_nor_generator_pays_for_its_lamps():
    with_coil, bare = dirt()[0].plan, Bench()
    bare.lamp(10)
    for state in ("parked", "idle", "cruise"):
        assert ledger(with_coil, state).demand_a == pytest.approx(ledger(bare.plan, state).demand_a)
    assert standing_draws(with_coil, 12.5) == standing_draws(bare.plan, 12.5)


def test_its_lamps_are_judged_over_speed_and_the_battery_s_are_not():
    b, _ = dirt()
    a = analyse(b.plan)
    assert not [f for f in a.findings if f.severity == "stop"]
    assert {p.name for p in b.plan.loads if p.id in a.lamps.lamps} == {"head", "tail"}
    strong = analyse(dirt(emf_mv_per_rpm=9)[0].plan)
    assert "lamp.over-volts" in {f.rule for f in strong.findings}
    assert "lamp.over-volts" not in {f.rule for f in analyse(dirt(emf_mv_per_rpm=9, clamp_v=12.5)[0].plan).findings}


def test_parked_its_lamps_are_dead_and_that_is_no_fault():
    a = analyse(dirt()[0].plan)
    head = next(p for p in a.plan.loads if p.name == "head")
    assert a.volts.across_v(head.id, "key_on") is None
    assert "load.not-live" not in {f.rule for f in a.findings}


def test_what_is_no_filament_is_told():
    b, coil = dirt()
    assert "lamp.not-filament" not in {f.rule for f in analyse(b.plan).findings}
    b.load(name="clock", amount=1, at_v=12, feed=coil, live="engine")
    assert "lamp.not-filament" in {f.rule for f in analyse(b.plan).findings}


def test_its_wires_are_guarded_by_what_it_can_give_and_the_battery_s_by_their_fuses():
    """A coil never gives more than E/X: 3.33 A here."""
    b, coil = dirt()
    a = analyse(b.plan)
    head = next(p.id for p in b.plan.loads if p.name == "head")
    guard = a.wires[b.feed_wire(head)].guard
    assert guard is not None and (guard.opener.part, guard.opener.kind) == (coil, "limit")
    assert guard.rating_a == pytest.approx(6 / 1.8)
    first = next(p.id for p in b.plan.loads if p.name == "lamp")
    assert a.wires[b.feed_wire(first)].guard.opener.part == b.fuse_of(first)


def test_joined_to_the_battery_it_is_a_stop():
    b, coil = dirt()
    assert "supply.coil-and-battery" not in {f.rule for f in analyse(b.plan).findings}
    joined = apply(b.plan, AddWire(a=f"{coil}.hot", b=f"{b.battery}.pos"))
    assert ("stop", "supply.coil-and-battery") in {(f.severity, f.rule) for f in analyse(joined).findings}
