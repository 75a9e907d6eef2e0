"""Wires against the published table of currents, judged."""

import math

import pytest
from builders import behind_fuse

from loadstar.core.materials.ampacity import ROWS, table_a
from loadstar.core.sizing.argument import stands
from loadstar.core.wiring.conductor import ConductorAt, Conductors


@pytest.mark.parametrize(("area", "amps"), ROWS)
def test_the_published_table_is_met_at_its_own_sizes(area, amps):
    """ABYC E-11, 105 C column: 18 to 6 AWG."""
    assert float(table_a(area)) == pytest.approx(amps)


def test_no_single_wire_is_taken_above_the_table():
    for area, at_30 in ((1.0, 21.9), (2.5, 38.6), (6.0, 65.1), (10.0, 93.2)):
        wire = Conductors([ConductorAt(area, "thin", "105", False, 1.0)])
        allowed = float(wire.allowed_a(105, 30)[0])
        assert allowed <= at_30 * 1.005  # between two sizes on logarithmic scales, by hand
        assert float(wire.temperature_c(allowed, 30)[0]) == pytest.approx(105, abs=0.5)
    outside = Conductors([ConductorAt(0.5, "thin", "105", False, 1.0)])
    assert float(outside.allowed_a(105, 30)[0]) == pytest.approx(14.6, rel=0.02)  # the heat model's own value


def test_at_other_air_the_table_goes_by_the_square_root_of_the_rise():
    wire = Conductors([ConductorAt(6.0, "thin", "105", False, 1.0)])
    at_30, at_60 = (float(wire.allowed_a(105, air)[0]) for air in (30, 60))
    assert at_60 / at_30 == pytest.approx(math.sqrt(45 / 75), rel=0.02)


def test_a_larger_fuse_never_makes_a_wire_safer_nor_a_thicker_wire_a_worse_one():
    for air in (30, 60, 85):
        for area, thicker in ((0.5, 0.75), (1.5, 2.0), (4.0, 6.0)):
            for rating, larger in ((5, 7.5), (10, 15), (20, 25), (30, 40)):
                one, fused, thick = stands([behind_fuse(area, rating, air), behind_fuse(area, larger, air),
                                            behind_fuse(thicker, rating, air)])
                assert one.protected or not fused.protected
                assert thick.protected or not one.protected
