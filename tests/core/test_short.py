"""What is on for seconds: contacts, fuses and wires while the starter turns."""

import math

import numpy as np
import pytest

from loadstar.core.physics import overload
from loadstar.core.sizing.short import CRANK_MULTIPLE, after_cranking_c, contact_multiple, cranks_hot, may_open
from loadstar.core.wiring.conductor import ConductorAt


@pytest.mark.parametrize(("seconds", "multiple"), [
    (1800, 1.35), (5, 2.0), (0.5, 3.5), (0.1, 6.0), (3600, 1.0), (0.01, 6.0)])
def test_a_contact_stands_what_relays_state(seconds, multiple):
    assert contact_multiple(seconds) == pytest.approx(multiple)


def test_between_what_is_stated_it_is_straight_on_logarithmic_scales():
    """By hand, halfway between 5 s and 0.5 s: sqrt(2.0 x 3.5) times its rating."""
    assert contact_multiple(math.sqrt(5 * 0.5)) == pytest.approx(math.sqrt(2.0 * 3.5))
    assert pytest.approx(2.0) == CRANK_MULTIPLE


@pytest.mark.parametrize(("amps", "opens"), [(10.9, False), (12, False), (13.5, True), (40, True)])
def test_a_fuse_may_open_while_the_starter_turns(amps, opens):
    """A 10 A fuse: 1.10 is carried for 100 h; at its fastest 1.35 opens it in 0.75 s; 1.2 by the band in minutes."""
    assert may_open(10, amps, "fuse") is opens


def test_a_thick_lead_warms_by_what_its_copper_takes_and_a_thin_one_burns():
    """16 mm2 at 110 A: 3 x 5 s x 110^2 = 181,500 A2s; IEC 60364-4-43 turned round gives 3.9 K, less what it loses."""
    thick = ConductorAt(16.0, "thin", "B", False, 1.0)
    copper = 17.2414e-3 / thick.r20_ohm_per_m
    alone = (234.5 + 40) * math.exp(181_500 / (226 * copper) ** 2) - 234.5
    reached = after_cranking_c(thick, 110, 40, 40)
    assert 40 + 0.5 * (alone - 40) < reached < alone
    assert after_cranking_c(ConductorAt(1.0, "thin", "B", False, 1.0), 140, 40, 40) > 500


@pytest.mark.parametrize("area", [0.22, 0.5, 1.0, 2.5, 16.0])
@pytest.mark.parametrize("end_c", [60, 100, 300])
def test_of_one_try_every_wire_keeps_a_quarter(area, end_c):
    """Amps whose five seconds would bring the copper alone to `end_c`, against the two nodes."""
    wire = ConductorAt(area, "thin", "B", False, 1.0)
    copper = 17.2414e-3 / wire.r20_ohm_per_m
    amps = math.sqrt((226 * copper) ** 2 * math.log((234.5 + end_c) / (234.5 + 40)) / 5)
    after, = overload.temperatures_after_c(np.array([[amps]]), np.array([[5.0]]), wire.insulated, 40, 40)
    quarter_c = (234.5 + 40) * math.exp(amps**2 * 1.25 / (226 * copper) ** 2) - 234.5
    assert quarter_c < float(after[0]) <= end_c + 0.5


def test_rests_between_tries_cool():
    wire = ConductorAt(2.5, "thin", "B", False, 1.0)
    assert after_cranking_c(wire, 0.0, 80, 40) < 80
    assert after_cranking_c(wire, 60, 40, 40) < after_cranking_c(wire, 60, 60, 40)


@pytest.mark.parametrize(("area", "amps", "air_c", "hot"), [
    (16.0, 110, 40, False), (4.0, 110, 40, False), (2.5, 110, 40, True), (1.0, 140, 40, True),
    (0.5, 0.2, 105, False)])  # in air over its class it is not the starter that heats it
def test_what_a_starter_s_current_does_to_a_lead(area, amps, air_c, hot):
    assert cranks_hot(ConductorAt(area, "thin", "B", False, 1.0), amps, air_c) is hot
