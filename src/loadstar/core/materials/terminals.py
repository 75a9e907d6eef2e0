"""Terminals by family: what wire each takes, how it is stripped and crimped, what it carries.

Typical of each kind, from general knowledge, rounded; no row is a make's. What is printed on the part and in its
maker's sheet comes first. Pull-out forces are IEC 60352-2's.
"""

import math
from dataclasses import dataclass
from typing import Literal, NamedTuple, get_args

import numpy as np

SOURCE = "typical of such terminals, assumed; see the maker's sheet"
PULL_SOURCE = "IEC 60352-2, least pull-out force; between two sizes the larger one's"
ANY_OD_MM = (0.0, math.inf)
RATED_AT_C = 40.0
# What a wire can end in: of each family there are terminals for different sizes.
Family = Literal["ring M4", "ring M5", "ring M6", "ring M8", "ring M10", "blade 2.8", "blade 4.8", "blade 6.3",
                 "blade 9.5", "bullet 3.9", "sealed small", "sealed 1.5", "sealed 2.8", "sealed 6.3", "splice",
                 "high current", "fuse holder", "ferrule"]
SEALED: tuple[Family, ...] = ("sealed small", "sealed 1.5", "sealed 2.8", "sealed 6.3")  # of connectors, smallest first
Shape = Literal["ring", "blade", "bullet", "pin", "barrel", "cup", "holder"]


@dataclass(frozen=True)
class Terminal:
    """One terminal: the cross-sections that its barrel takes (mm², several wires added up), the outer diameters that
    its insulation wings or seal take (mm), strip length (mm) with what it may be off, amps at 40 °C by wire size,
    contact resistance new and aged (mΩ), how many crimps it has (none: soldered), what it stands (°C). One that is
    `insulated` has a coloured sleeve on it, which is crimped with the core.
    """

    key: str
    name: str
    family: Family
    shape: Shape
    area_mm2: tuple[float, float]
    od_mm: tuple[float, float]
    strip_mm: float
    amps: tuple[tuple[float, float], ...]
    mohm: tuple[float, float]
    stages: int = 2
    sealed: bool = False
    most_c: float = 105
    strip_off_mm: float = 0.5
    insulated: bool = False

    def table_a(self, area_mm2: float) -> float:
        """Amps at 40 °C with a wire of this size."""
        sizes, amps = zip(*self.amps, strict=True)
        return float(np.interp(area_mm2, sizes, amps))

    def rated_a(self, area_mm2: float, air_c: float) -> float:
        """What it carries with a wire of this size in air of so many degrees: by its table, straight between its sizes,
        less by the root of what is left to its own limit. 0 where the air alone reaches that."""
        at = self.table_a(area_mm2)
        left = (self.most_c - air_c) / (self.most_c - RATED_AT_C)
        return at * math.sqrt(min(left, 1.0)) if left > 0 else 0.0


_RING_MM2 = ((0.35, 1.5), (1.5, 2.5), (2.5, 6.0), (6.0, 10.0), (10.0, 16.0), (16.0, 25.0), (25.0, 35.0))
_RING_A = ((0.35, 8.0), (0.5, 12.0), (1.0, 20.0), (1.5, 25.0), (2.5, 35.0), (4.0, 45.0), (6.0, 60.0), (10.0, 80.0),
           (16.0, 110.0), (25.0, 150.0), (35.0, 180.0))  # as the wire
FAMILY_OF_STUD: dict[int, Family] = {4: "ring M4", 5: "ring M5", 6: "ring M6", 8: "ring M8", 10: "ring M10"}


def _rings() -> tuple[Terminal, ...]:
    found = []
    for stud in FAMILY_OF_STUD:
        for low, high in _RING_MM2:
            lug = low >= 6
            found.append(Terminal(
                f"ring M{stud} {high:g}", f"{'tube lug' if lug else 'ring'} M{stud}, {low:g} to {high:g} mm²",
                FAMILY_OF_STUD[stud], "ring", (low, high), ANY_OD_MM, 11.0 if lug else 6.0, _RING_A, (0.3, 2.0),
                1 if lug else 2, most_c=125, strip_off_mm=1.0))
    return tuple(found)


# Pre-insulated: by the colour of their sleeve, the wires that they take and the insulation that goes into them, mm.
_COLOURED = (("red", (0.5, 1.5), 3.2), ("blue", (1.5, 2.5), 4.2), ("yellow", (2.5, 6.0), 6.3))


def _pre_insulated() -> tuple[Terminal, ...]:
    """Rings, blades and bullets with a sleeve, one crimp; of small blades and bullets no yellow ones are made."""
    kinds: tuple[tuple[Family, str, Shape], ...] = (
        *((family, f"ring M{stud}", "ring") for stud, family in FAMILY_OF_STUD.items()),
        ("blade 4.8", "blade receptacle 4.8", "blade"), ("blade 6.3", "blade receptacle 6.3", "blade"),
        ("bullet 3.9", "bullet 3.9", "bullet"))
    return tuple(
        Terminal(f"{family} {colour}", f"{colour} pre-insulated {name}, {low:g} to {high:g} mm²", family, shape,
                 (low, high), (0.0, fat), 6.0, _RING_A, (0.5, 3.0), 1, most_c=75, insulated=True)
        for family, name, shape in kinds for colour, (low, high), fat in _COLOURED
        if colour != "yellow" or family in (*FAMILY_OF_STUD.values(), "blade 6.3"))


_Row = tuple[tuple[float, float], tuple[float, float], float]  # areas, insulation, strip length


class _Contact(NamedTuple):
    """What contacts of one kind have in common; `most_c` is what they stand."""

    family: Family
    name: str
    shape: Shape
    mohm: tuple[float, float]
    sealed: bool = False
    most_c: float = 105


def _sizes(of: _Contact, rows: tuple[_Row, ...], amps: tuple[tuple[float, float], ...]) -> tuple[Terminal, ...]:
    return tuple(Terminal(f"{of.family} {area[1]:g}", f"{of.name}, {area[0]:g} to {area[1]:g} mm²", of.family, of.shape,
                          area, od, strip, amps, of.mohm, 2, of.sealed, of.most_c) for area, od, strip in rows)


TERMINALS: tuple[Terminal, ...] = (
    *_sizes(_Contact("blade 2.8", "blade receptacle 2.8", "blade", (3, 10)), (((0.35, 1.0), (1.2, 2.4), 4.0),),
             ((0.35, 5.0), (0.5, 7.0), (1.0, 10.0))),
    *_sizes(_Contact("blade 4.8", "blade receptacle 4.8", "blade", (2, 8)), (((0.5, 1.5), (1.5, 3.0), 5.0),),
             ((0.5, 7.0), (0.75, 10.0), (1.5, 15.0))),
    *_sizes(_Contact("blade 6.3", "blade receptacle 6.3", "blade", (1.5, 6)), (
        ((0.5, 1.5), (1.5, 3.0), 5.5), ((1.5, 2.5), (2.2, 3.6), 5.5), ((2.5, 6.0), (2.8, 5.0), 6.5)),
        ((0.5, 9.0), (1.0, 15.0), (2.5, 22.0), (6.0, 30.0))),
    *_sizes(_Contact("blade 9.5", "blade receptacle 9.5", "blade", (0.7, 3)), (
        ((2.5, 4.0), (2.8, 4.4), 7.0), ((4.0, 8.4), (3.5, 5.9), 8.0)),
        ((2.5, 30.0), (4.0, 35.0), (8.0, 55.0))),
    *_sizes(_Contact("bullet 3.9", "bullet 3.9", "bullet", (2, 8)), (
        ((0.5, 1.0), (1.5, 2.4), 5.0), ((1.0, 2.1), (1.9, 3.0), 5.0)),
             ((0.5, 8.0), (1.0, 12.0), (2.0, 18.0))),
    *_sizes(_Contact("sealed small", "sealed small pin", "pin", (3, 10), sealed=True), (
        ((0.5, 1.25), (1.5, 2.4), 3.25),),
             ((0.5, 5.0), (0.75, 7.0), (1.25, 10.0))),
    *_sizes(_Contact("sealed 1.5", "sealed round pin 1.5", "pin", (3, 10), sealed=True), (
        ((0.22, 0.5), (1.1, 1.7), 4.5), ((0.5, 1.0), (1.4, 2.2), 4.5), ((1.0, 1.5), (1.9, 2.6), 5.0)),
        ((0.22, 3.0), (0.5, 7.0), (1.0, 10.0), (1.5, 13.0))),
    *_sizes(_Contact("sealed 2.8", "sealed blade 2.8", "blade", (2, 8), sealed=True, most_c=125), (
        ((0.5, 1.0), (1.5, 2.2), 4.5), ((1.0, 2.5), (1.9, 3.0), 5.0)),
             ((0.5, 8.0), (1.0, 12.0), (2.5, 20.0))),
    *_sizes(_Contact("sealed 6.3", "sealed blade 6.3", "blade", (1, 4), sealed=True, most_c=125), (
        ((1.0, 2.5), (1.9, 3.4), 6.0), ((2.5, 6.0), (2.8, 4.6), 7.0)),
             ((1.0, 15.0), (2.5, 25.0), (6.0, 40.0))),
    *_rings(), *_pre_insulated(),
    *(Terminal(f"splice {high:g}", f"{colour} butt splice, {low:g} to {high:g} mm²", "splice", "barrel", (low, high),
               ANY_OD_MM, 6.5, _RING_A, (1.0, 4.0), 1, most_c=105)
      for low, high, colour in ((0.35, 1.5, "red"), (1.5, 2.5, "blue"), (2.5, 6.0, "yellow"))),
    *(Terminal(f"splice {high:g}", f"copper tube splice, {low:g} to {high:g} mm²", "splice", "barrel", (low, high),
               ANY_OD_MM, 12.0, _RING_A, (0.5, 2.0), 1, most_c=125)
      for low, high in ((6.0, 10.0), (10.0, 16.0), (16.0, 25.0), (25.0, 35.0))),
    Terminal("high current 6", "two-pole high-current, soldered cup, 2.5 to 6 mm²", "high current", "cup", (2.5, 6.0),
             ANY_OD_MM, 4.0, ((2.5, 30.0), (6.0, 50.0)), (0.5, 2.0), 0),
    Terminal("high current 2.5", "two-pole high-current, soldered cup, 0.5 to 2.5 mm²", "high current", "cup",
             (0.5, 2.5), ANY_OD_MM, 4.0, ((0.5, 10.0), (1.5, 20.0), (2.5, 30.0)), (0.5, 2.0), 0),
    Terminal("high current 16", "two-pole high-current 8 mm, soldered cup, 6 to 16 mm²", "high current", "cup",
             (6.0, 16.0), ANY_OD_MM, 8.0, ((6.0, 60.0), (10.0, 90.0), (16.0, 120.0)), (0.3, 1.0), 0),
    *(Terminal(f"holder {high:g}", f"terminal of a blade-fuse holder, {low:g} to {high:g} mm²", "fuse holder", "holder",
               (low, high), ANY_OD_MM, 6.0, ((0.5, 10.0), (1.0, 15.0), (2.5, 20.0), (6.0, 30.0)), (2.0, 6.0))
      for low, high in ((0.5, 2.5), (2.5, 6.0))),
    *(Terminal(f"bolted fuse {high:g}", f"tube lug of a bolted fuse, {low:g} to {high:g} mm²", "fuse holder", "ring",
               (low, high), ANY_OD_MM, 11.0, _RING_A, (0.3, 2.0), 1, most_c=125, strip_off_mm=1.0)
      for low, high in ((6.0, 10.0), (10.0, 16.0), (16.0, 25.0), (25.0, 35.0))),
    *(Terminal(f"ferrule {high:g}", f"ferrule, {low:g} to {high:g} mm²", "ferrule", "barrel", (low, high), ANY_OD_MM,
               8.0 if high < 4 else 10.0, _RING_A, (0.3, 2.0), 1)
      for low, high in ((0.35, 0.5), (0.5, 1.0), (1.0, 1.5), (1.5, 2.5), (2.5, 4.0), (4.0, 6.0), (6.0, 10.0),
                        (10.0, 16.0))),
)
BY_KEY = {t.key: t for t in TERMINALS}
FAMILIES: tuple[Family, ...] = get_args(Family)
assert {t.family for t in TERMINALS} == set(FAMILIES)
assert len(BY_KEY) == len(TERMINALS)

# IEC 60352-2: least pull-out force of a crimp, N, by cross-section. Above 10 mm² it has none.
PULL_N = ((0.05, 6), (0.08, 11), (0.12, 15), (0.14, 18), (0.22, 28), (0.25, 32), (0.32, 40), (0.5, 60), (0.75, 85),
          (0.82, 90), (1.0, 108), (1.3, 135), (1.5, 150), (2.1, 200), (2.5, 230), (3.3, 275), (4.0, 310), (5.3, 355),
          (6.0, 360), (8.4, 370), (10.0, 380))


# Nests that crimp tools for open barrels have, mm wide; what fits which barrel is typical, assumed: gauge the crimp.
DIES_MM = (1.0, 1.3, 1.6, 1.9, 2.2, 2.5, 2.8, 3.2, 3.6, 4.0, 4.5, 5.0, 6.0)
CORE_DIE, WINGS_DIE = 1.75, 1.10  # of the root of the core's mm², mm; times the insulation's diameter


@dataclass(frozen=True)
class Dies:
    """Nests for the two stages of an open barrel, mm wide."""

    core_mm: float
    wings_mm: float


def dies(terminal: Terminal, area_mm2: float, od_mm: float) -> Dies | None:
    """The nests that an open barrel is crimped in with such a wire: the next one that tools have; None where it is no
    open barrel, or wider than they come."""
    if terminal.stages != 2:
        return None
    wanted = CORE_DIE * math.sqrt(area_mm2), WINGS_DIE * od_mm
    found = [next((d for d in DIES_MM if d >= w - 0.05), None) for w in wanted]
    return None if found[0] is None or found[1] is None else Dies(found[0], found[1])


def pull_n(area_mm2: float) -> int | None:
    """What a crimp of one wire has to hold, N: of a size between two listed ones the larger one's; None beyond them."""
    return next((force for size, force in PULL_N if size >= area_mm2 - 1e-9), None)
