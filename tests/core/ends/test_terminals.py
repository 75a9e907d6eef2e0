"""The table of terminals: every row, against the wires there are and the standard's forces."""

import math
from itertools import pairwise

import pytest

from loadstar.core.ends.choose import of_family
from loadstar.core.materials.conductors import BY_AREA, STOCK_AREAS_MM2, STOCK_AWG_MM2
from loadstar.core.materials.terminals import FAMILIES, TERMINALS, pull_n

EVERY_SIZE = sorted({*STOCK_AREAS_MM2, *STOCK_AWG_MM2})
# What common parts' wires end in, and from where to where their wires go.
COMMON = {"ring M6": (0.5, 35.0), "ring M8": (0.5, 35.0), "ring M5": (0.5, 35.0), "ring M4": (0.5, 35.0),
          "splice": (0.5, 35.0), "blade 6.3": (0.5, 6.0), "fuse holder": (0.5, 35.0), "high current": (0.5, 16.0),
          "sealed 2.8": (0.5, 2.5), "sealed 6.3": (1.0, 6.0), "bullet 3.9": (0.5, 2.08), "sealed small": (0.5, 1.0)}


@pytest.mark.parametrize("terminal", TERMINALS, ids=lambda t: t.key)
def test_every_row_is_a_terminal_for_some_wire(terminal):
    least, most = terminal.area_mm2
    assert 0 < least < most
    sizes = [a for a in BY_AREA if least <= a <= most]
    assert sizes, "no wire goes into it"
    thin, fat = terminal.od_mm
    assert any(thin <= BY_AREA[a].od_mm("thin") <= fat or thin <= BY_AREA[a].od_mm("thick") <= fat for a in sizes)
    amps = [a for _, a in terminal.amps]
    assert amps == sorted(amps) and [s for s, _ in terminal.amps] == sorted(s for s, _ in terminal.amps)
    new, aged = terminal.mohm
    assert 0 < new < aged
    assert 3 <= terminal.strip_mm <= 12 and 0 <= terminal.stages <= 2


@pytest.mark.parametrize("family", FAMILIES)
def test_rows_of_a_family_follow_one_another_without_a_gap(family):
    rows = sorted(of_family(family), key=lambda t: t.area_mm2)
    for one, two in pairwise(rows):
        assert two.area_mm2[0] <= one.area_mm2[1], (one.key, two.key)
        assert two.area_mm2[1] > one.area_mm2[1]


@pytest.mark.parametrize("family", COMMON)
def test_no_stock_size_is_without_a_terminal_for_a_common_part(family):
    least, most = COMMON[family]
    for size in (a for a in EVERY_SIZE if least <= a <= most):
        fitting = [t for t in of_family(family) if t.area_mm2[0] <= size <= t.area_mm2[1]
                   and t.od_mm[0] <= BY_AREA[size].od_mm("thin") <= t.od_mm[1]]
        assert fitting, (family, size)


def test_amps_fall_with_the_root_of_what_is_left_to_the_terminal_s_limit():
    """By hand: 12 A at 40 °C, 125 °C at most; at 90 °C sqrt(35/85) of it are 7.70 A; none at 125 °C."""
    terminal = next(t for t in TERMINALS if t.key == "sealed 2.8 2.5")
    assert terminal.rated_a(1.0, 30) == 12
    assert terminal.rated_a(1.0, 90) == pytest.approx(12 * math.sqrt(35 / 85), abs=1e-9)
    assert terminal.rated_a(1.75, 40) == 16  # halfway between 12 A with 1.0 and 20 A with 2.5 mm²
    assert terminal.rated_a(1.0, 125) == 0


@pytest.mark.parametrize(("area", "force"), [(0.5, 60), (1.0, 108), (1.25, 135), (1.5, 150), (2.0, 200), (2.5, 230),
                                             (3.0, 275), (6.0, 360), (10.0, 380), (16.0, None), (0.35, 60)])
def test_pull_out_forces_of_iec_60352_2_and_between_them_the_larger_one(area, force):
    assert pull_n(area) == force
