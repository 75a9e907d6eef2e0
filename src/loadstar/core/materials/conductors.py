"""Copper road-vehicle wire: resistance, diameters, insulation classes.

Sources: ISO 6722-1 / ISO 19642 (maximum resistance at 20 C of bare copper, maximum overall diameter), IEC 60028
(temperature coefficient), ASTM B258 (AWG). Check the current edition. The maximum resistance is what is guaranteed;
it lies 6-14 % above resistivity over nominal area, and it is what Loadstar computes with.
"""

import math
from dataclasses import dataclass

ALPHA20_PER_K = 0.00393
IDEAL_OHM_MM2_PER_M = 17.2414e-3  # of copper at 20 C (IEC 60028): what is guaranteed is this over the ohms per metre
TINNED_FACTOR = 1.03  # fine tinned strands: 2-4 % more resistance; unsure
COPPER_DENSITY_G_PER_CM3 = 8.89
OD_NOMINAL_TO_MAX = 0.95
STRAND_FILL = 0.75
SOURCE = "ISO 6722-1, maximum resistance at 20 °C, bare copper (check the current edition)"


@dataclass(frozen=True)
class Conductor:
    """One wire size. `od_mm` are maximum overall diameters; `sure` is False for values to be checked."""

    area_mm2: float
    r20_ohm_per_m: float
    thin_od_mm: float
    thick_od_mm: float
    sure: bool = True
    gauge: int | None = None  # of AWG, where it is one of those sizes

    @property
    def d_mm(self) -> float:
        """Diameter of the stranded conductor: sqrt(4 S / (0.75 pi)), within 8 %."""
        return math.sqrt(4 * self.area_mm2 / (math.pi * STRAND_FILL))

    def od_mm(self, wall: str) -> float:
        """Nominal overall diameter used by the heat model: 0.95 of the standard's maximum."""
        return OD_NOMINAL_TO_MAX * (self.thin_od_mm if wall == "thin" else self.thick_od_mm)


_ROWS = (
    # mm2, max R20 mohm/m, OD max thin wall mm, OD max thick wall mm, sure
    (0.22, 84.8, 1.2, 1.8, False), (0.35, 54.4, 1.3, 2.0, False), (0.5, 37.1, 1.6, 2.3, True),
    (0.75, 24.7, 1.9, 2.5, True), (1.0, 18.5, 2.1, 2.7, True), (1.25, 14.9, 2.3, 2.95, False),
    (1.5, 12.7, 2.4, 3.0, True), (2.0, 9.42, 2.8, 3.3, True), (2.5, 7.60, 3.0, 3.6, True),
    (3.0, 6.15, 3.4, 4.1, True), (4.0, 4.71, 3.7, 4.4, True), (5.0, 3.94, 4.2, 4.9, False),
    (6.0, 3.14, 4.3, 5.0, True), (8.0, 2.38, 5.0, 5.9, False), (10.0, 1.82, 6.0, 6.5, True),
    (12.0, 1.52, 6.5, 7.4, False), (16.0, 1.16, 7.2, 8.3, True), (20.0, 0.955, 7.8, 9.1, False),
    (25.0, 0.743, 8.7, 10.4, True), (35.0, 0.527, 9.6, 11.6, False),
)
_AWG_ROWS = (
    # AWG, area mm2 rounded as it is sold (ASTM B258), OD max thin wall mm, OD max thick wall mm (SAE J1128, +-0.2 mm)
    (20, 0.518, 1.9, 2.3), (18, 0.823, 2.2, 2.5), (16, 1.31, 2.4, 2.8), (14, 2.08, 2.8, 3.1), (12, 3.31, 3.3, 3.7),
    (10, 5.26, 4.1, 4.5), (8, 8.37, 5.2, 6.0), (6, 13.3, 6.6, 7.6), (4, 21.2, 8.0, 9.4), (2, 33.6, 9.5, 11.4),
)
RHO20_OHM_MM2_PER_M = 1 / 58  # annealed copper, IEC 60028
AWG_LAY_FACTOR = 1.04  # 2 % for the lay of bunched strands, 2 % that the maker may be under (ASTM B174)
CONDUCTORS = tuple(sorted((
    *(Conductor(a, r / 1000, thin, thick, sure) for a, r, thin, thick, sure in _ROWS),
    *(Conductor(a, RHO20_OHM_MM2_PER_M / a * AWG_LAY_FACTOR, thin, thick, False, gauge)
      for gauge, a, thin, thick in _AWG_ROWS)), key=lambda c: c.area_mm2))
BY_AREA = {c.area_mm2: c for c in CONDUCTORS}
AREAS_MM2 = tuple(c.area_mm2 for c in CONDUCTORS)
# Nominal sizes of SAE J1128 by their number: smaller than AWG of the same number, but for 22.
SAE = {0.35: 22, 0.5: 20, 1.0: 16, 2.0: 14, 3.0: 12, 5.0: 10, 8.0: 8}

# Sizes an automatic choice takes: those every supplier keeps. The others may be fixed by hand.
STOCK_AREAS_MM2 = (0.5, 0.75, 1.0, 1.5, 2.0, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0)
STOCK_AWG_MM2 = tuple(a for _, a, _, _ in _AWG_ROWS)
STOCKS = {"metric": STOCK_AREAS_MM2, "AWG": STOCK_AWG_MM2}


@dataclass(frozen=True)
class Insulation:
    """An insulation class: continuous, 240 h and 6 h temperatures, degrees Celsius; conductivity W/(m.K)."""

    code: str
    continuous_c: float
    k_w_per_mk: float
    source: str

    @property
    def overload_c(self) -> float:
        """ISO 6722-1 thermal overload, 6 h: class + 50 K."""
        return self.continuous_c + 50


_ISO = "ISO 6722-1 temperature class (check the current edition)"
INSULATIONS = {
    "A": Insulation("A", 85, 0.20, _ISO), "B": Insulation("B", 100, 0.20, _ISO),
    "105": Insulation("105", 105, 0.20, "105 °C insulation class; overload steps as for ISO 6722-1"),
    "C": Insulation("C", 125, 0.286, _ISO), "D": Insulation("D", 150, 0.286, _ISO),
}


SMALL_TERMINAL_MM2 = 2.5


def termination_ohm(rule_mohm: float, area_mm2: float) -> float:
    """Resistance of one end: the house rule's up to 2.5 mm2, less in proportion above (larger terminals; assumed)."""
    return rule_mohm / 1000 * min(1.0, SMALL_TERMINAL_MM2 / area_mm2)


def resistance_ohm_per_m(area_mm2: float, temperature_c: float) -> float:
    """Resistance of a listed size at a temperature.

    >>> resistance_ohm_per_m(0.35, 105)
    0.07257232
    """
    return BY_AREA[area_mm2].r20_ohm_per_m * (1 + ALPHA20_PER_K * (temperature_c - 20))


def awg_diameter_mm(gauge: int) -> float:
    """Solid diameter of an AWG size (ASTM B258); 1/0 is 0, 2/0 is -1."""
    return 0.127 * math.pow(92.0, (36 - gauge) / 39)


def awg_area_mm2(gauge: int) -> float:
    """Area of an AWG size, mm2 (ASTM B258)."""
    return math.pi * awg_diameter_mm(gauge) ** 2 / 4


def gauge_label(area_mm2: float) -> str:
    """What a size is called by number: AWG where it is one, SAE where it is the nominal size of one, else the even AWG
    size nearest in area, with "≈" when it differs by more than 3 %."""
    listed = BY_AREA.get(area_mm2)
    if listed is not None and listed.gauge is not None:
        return f"{listed.gauge} AWG"
    if area_mm2 in SAE:
        return f"SAE {SAE[area_mm2]}"
    return awg_label(area_mm2)


def awg_label(area_mm2: float) -> str:
    """The even AWG size nearest in area, with "≈" when it differs by more than 3 %."""
    gauge = min(range(-2, 27, 2), key=lambda g: abs(math.log(awg_area_mm2(g) / area_mm2)))
    name = f"{1 - gauge}/0" if gauge < 1 else str(gauge)
    close = abs(awg_area_mm2(gauge) / area_mm2 - 1) <= 0.03
    return f"{'' if close else '≈'}{name} AWG"


def copper_mass_g(area_mm2: float, length_m: float) -> float:
    """Mass of the copper in a wire, grams, from the guaranteed area: ideal copper over R20."""
    effective_mm2 = IDEAL_OHM_MM2_PER_M / BY_AREA[area_mm2].r20_ohm_per_m
    return effective_mm2 * length_m * COPPER_DENSITY_G_PER_CM3
