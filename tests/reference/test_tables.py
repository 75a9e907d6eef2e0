"""Conductors and fuses against their standards' values and independently made vectors."""

import math
from itertools import pairwise

import pytest

from loadstar.core.materials import conductors as c
from loadstar.core.materials import coverings
from loadstar.core.materials import fuses as f
from loadstar.core.materials.ampacity import table_a
from loadstar.core.materials.charging import set_point_band_v
from loadstar.core.materials.hazards import HAZARDS, OPEN
from loadstar.core.materials.typical import starter_a
from reference.vectors import calls


@pytest.mark.parametrize(("area", "milliohm"), [(0.5, 37.1), (1.5, 12.7), (2.5, 7.60), (6.0, 3.14), (25.0, 0.743)])
def test_resistance_at_20_c_is_that_of_iso_6722(area, milliohm):
    assert c.resistance_ohm_per_m(area, 20) * 1000 == pytest.approx(milliohm)


@pytest.mark.parametrize(("args", "result"), calls("r_per_m"))
def test_resistance_vectors(args, result):
    assert c.resistance_ohm_per_m(*args) == pytest.approx(result, rel=1e-9)


@pytest.mark.parametrize(("temperature", "factor"), [(70, 1.197), (85, 1.255), (105, 1.334), (125, 1.413)])
def test_temperature_factors_of_iec_60028(temperature, factor):
    assert c.resistance_ohm_per_m(1.0, temperature) / c.resistance_ohm_per_m(1.0, 20) == pytest.approx(factor, abs=6e-4)


def test_every_size_has_more_resistance_than_ideal_copper():
    for size in c.CONDUCTORS:
        excess = size.r20_ohm_per_m / (1 / 58 / size.area_mm2) - 1
        # 5.6-14.3 % for the sizes that are sure.
        assert 0.05 < excess < 0.15 or not size.sure, size.area_mm2


def test_sizes_rise_and_resistances_fall():
    for a, b in pairwise(c.CONDUCTORS):
        assert a.area_mm2 < b.area_mm2
        assert a.r20_ohm_per_m > b.r20_ohm_per_m
    for family in ([s for s in c.CONDUCTORS if s.gauge is None], [s for s in c.CONDUCTORS if s.gauge is not None]):
        for a, b in pairwise(family):
            assert a.thin_od_mm < b.thin_od_mm < b.thick_od_mm


def test_awg_is_a_family_of_its_own():
    """Areas of ASTM B258, and SAE J1128 of the same number smaller, but for 22 (docs/physics.md A)."""
    by_gauge = {s.gauge: s for s in c.CONDUCTORS if s.gauge is not None}
    for gauge, size in by_gauge.items():
        assert size.area_mm2 == pytest.approx(c.awg_area_mm2(gauge), rel=5e-3)
        assert c.gauge_label(size.area_mm2) == f"{gauge} AWG"
    assert by_gauge[10].area_mm2 == 5.26
    assert by_gauge[12].area_mm2 == 3.31
    assert c.gauge_label(1.0) == "SAE 16"
    assert c.gauge_label(1.5) == "≈16 AWG"
    for area, number in c.SAE.items():
        assert (area > c.awg_area_mm2(number)) == (number == 22)


@pytest.mark.parametrize(("args", "result"), calls("awg_mm2"))
def test_awg_areas(args, result):
    assert c.awg_area_mm2(*args) == pytest.approx(result)


@pytest.mark.parametrize(("gauge", "area"), [(24, 0.205), (20, 0.518), (16, 1.309), (10, 5.261), (0, 53.48)])
def test_awg_areas_of_astm_b258(gauge, area):
    assert c.awg_area_mm2(gauge) == pytest.approx(area, rel=2e-3)


def test_awg_label_says_when_it_is_only_near():
    assert c.awg_label(2.0) == "≈14 AWG"
    assert c.awg_label(0.52) == "20 AWG"
    assert c.awg_label(53.5) == "1/0 AWG"


def test_stranded_diameter():
    assert c.BY_AREA[1.5].d_mm == pytest.approx(1.5957691216)


def test_copper_mass_from_guaranteed_area():
    # Hand: 17.2414/12.7 = 1.3576 mm2; times 2 m times 8.89 g/cm3 = 24.14 g.
    assert c.copper_mass_g(1.5, 2.0) == pytest.approx(24.14, abs=0.02)


@pytest.mark.parametrize(("args", "result"), calls("fuse_times"))
def test_fuse_times(args, result):
    current, rating = args
    for mine, theirs in zip(f.opening_times_s(current, rating), result, strict=True):
        assert mine == pytest.approx(float(theirs))


@pytest.mark.parametrize(("args", "result"), calls("fuse_multiple_for"))
def test_multiple_that_opens_within(args, result):
    """The smallest multiple at which even the slowest fuse opens within so many seconds: just there, and not below."""
    (seconds,) = args
    assert f.opening_times_s(10 * result * 1.000001, 10)[1] <= seconds * 1.00001
    assert f.opening_times_s(10 * result * 0.999, 10)[1] > seconds


@pytest.mark.parametrize(("seconds", "multiple"), [(0.1, 6.0), (0.5, 3.5), (1, 2.96), (10, 1.87), (60, 1.58)])
def test_multiples_of_the_slowest_fuse(seconds, multiple):
    assert f.opening_times_s(10 * multiple * 1.003, 10)[1] <= seconds
    assert f.opening_times_s(10 * multiple * 0.997, 10)[1] >= seconds


@pytest.mark.parametrize(("args", "result"), calls("fuse_rerate"))
def test_rerating(args, result):
    assert f.rerated_a(*args) == pytest.approx(result)


def test_below_the_last_gate_there_is_no_time():
    assert f.opening_times_s(10.9, 10) == (math.inf, math.inf)
    assert f.opening_times_s(13.4, 10)[1] == math.inf
    assert f.opening_times_s(13.4, 10)[0] < 2


def test_inrush_limit_is_a_share_of_the_fast_curve():
    # At 0.15 s the fastest fuse opens at 2.0 times its rating: 0.3 (2 x 10)^2 0.15 = 18 A2s.
    assert f.inrush_limit_a2s(10, 0.15) == pytest.approx(18.0, rel=1e-3)
    assert f.inrush_limit_a2s(20, 0.15) == pytest.approx(72.0, rel=1e-3)


def test_hot_resistance_gives_the_published_drop():
    assert (f.KINDS["blade"].by_rating[10].hot_ohm - f.HOLDER_CONTACT_OHM) * 10 == pytest.approx(0.109)


# -- coverings, charging, the published table --------------------------------------------------------------------------


def test_coverings_by_hand():
    """Tape of 0.25 mm lies double, a sleeve adds a millimetre to the diameter."""
    assert [coverings.thick_mm(c) for c in ("", "braided sleeve", "loom tape", "PVC tape")] == [0, 0.5, 0.5, 0.5]
    assert [coverings.covered_mm(8, c) for c in ("", "braided sleeve", "PVC tape")] == [8, 9, 9]
    assert coverings.around("", heat_sleeve=False) == ()
    assert coverings.around("PVC tape", heat_sleeve=False) == ((0.5, 0.17),)
    assert coverings.around("braided sleeve", heat_sleeve=True) == ((0.5, 0.06), (1.5, 0.05))


def test_tape_by_hand():
    """Half overlap of 19 mm is a turn each 9.5 mm; round 9.75 mm and 0.25 mm of tape a turn takes
    sqrt((10 pi)^2 + 9.5^2) = 32.82 mm, so a metre takes 105.26 x 32.82 mm = 3.455 m."""
    assert coverings.tape_m(1.0, 9.75) == pytest.approx(3.455, abs=1e-3)
    assert coverings.tape_m(2.0, 9.75) == pytest.approx(6.909, abs=2e-3)


@pytest.mark.parametrize(("bundle", "sleeve", "shrink"), [
    (1.7, None, 3.2), (1.8, 3, 3.2), (2.9, 3, 3.2), (3.0, 3, 4.8), (5.1, 3, 6.4), (5.2, 5, 6.4), (54.4, 32, None),
    (54.5, None, None), (1.0, None, None), (35.4, 25, 39.0), (35.5, 25, None)])
def test_the_smallest_that_fits_is_taken(bundle, sleeve, shrink):
    """A nominal size n lies on 0.6 n to 1.7 n; a tube is supplied at a tenth more than the bundle at least, and
    recovers to a tenth less."""
    found, tube = coverings.sleeve_for(bundle), coverings.shrink_for(bundle)
    assert (found and found.nominal_mm, tube and tube.supplied_mm) == (sleeve, shrink)


@pytest.mark.parametrize(("chemistry", "volts", "band"), [
    ("flooded", 12, (0, 14.8, 13.4)), ("agm", 12, (0, 14.7, 13.4)), ("lfp", 12, (13.8, 14.6, 13.4)),
    ("agm", 6, (0, 7.35, 6.7))])
def test_charging_bands(chemistry, volts, band):
    assert set_point_band_v(chemistry, volts) == pytest.approx(band)


@pytest.mark.parametrize(("area", "amps"), [
    (0.82, math.inf), (0.823, 20), (1.309, 25), (13.302, 120), (13.31, math.inf), (0.5, math.inf)])
def test_the_published_table_ends_with_its_sizes(area, amps):
    assert float(table_a(area)) == pytest.approx(amps)


def test_between_two_rows_the_table_is_read_on_logarithmic_scales():
    """Half way between 0.823 and 1.309 mm2 in logarithms lies 1.0379 mm2 with sqrt(20 x 25) = 22.36 A."""
    assert float(table_a(math.sqrt(0.823 * 1.309))) == pytest.approx(math.sqrt(500), abs=1e-5)


@pytest.mark.parametrize(("area", "milliohm"), [(0.5, 1.0), (2.5, 1.0), (5.0, 0.5), (25.0, 0.1)])
def test_larger_ends_have_less_resistance(area, milliohm):
    assert c.termination_ohm(1.0, area) == pytest.approx(milliohm / 1000)


def test_a_hazard_has_everything_that_is_asked_of_it():
    for name, hazard in HAZARDS.items():
        assert hazard.cures and OPEN not in hazard.cures, name
        assert all((hazard.asked, hazard.what, hazard.short, hazard.happens, hazard.plan)), name


@pytest.mark.parametrize(("kind", "amps"), [
    ("touring motorcycle", 165), ("motorcycle", 115), ("small motorcycle", 70), ("scooter", 80), ("utility bike", 60),
    ("e-scooter", 140), ("another", 140)])
def test_what_a_starter_usually_draws_by_the_kind_of_machine(kind, amps):
    """Of its largest engine: the middle of the upper half, (140 + 190) / 2, (100 + 130) / 2, (70 + 90) / 2; a utility
    bike seldom has one and the most that one draws is 60; where no kind says it, a touring machine's 140."""
    assert starter_a(kind) == amps
