"""Which figures of a plan nobody has stated or found yet, and between what they usually lie."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ..doc.places import Run
from ..doc.types import Marked
from ..materials.accessories import ACCESSORIES
from ..materials.typical import CELL_V, Band, Electric, Engine, Magneto, SizeClass, size_class
from ..parts.base import Part
from ..parts.can import as_found_wire
from .model import Plan

MACHINE = "machine"  # stands for an id where a figure is the machine's own
OPEN = ("typical", "believed")
# How a figure is known, as pages and papers say it.
STANDING_WORDS = {"typical": "typical", "believed": "not confirmed", "stated": "entered", "found": "measured"}
# Where no table has a band: how far such a figure lies from what is usual, or believed of another machine.
SPREADS: dict[str, tuple[float, float]] = {
    "length_m": (0.8, 1.3), "source_mohm": (0.5, 2.0), "rated_a": (0.5, 1.5), "power_w": (0.7, 1.3),
    "amount": (0.7, 1.3), "phase_ohm": (0.7, 1.4)}


@dataclass(frozen=True)
class Unknown:
    """A figure that is only usual or believed: whose, which, as it stands, and between what it may lie."""

    element: str
    field: str
    standing: str
    value: float
    band: Band

    @property
    def known_as(self) -> str:
        """How it is known, in words."""
        return STANDING_WORDS[self.standing]

    @property
    def key(self) -> str:
        """Its address: "G1.rating1_w"."""
        return f"{self.element}.{self.field}"


def kind_of(element: Marked) -> str:
    """What sort of thing has the figure: the kind of a part, "run" or "machine"."""
    if isinstance(element, Part):
        return element.kind
    return "run" if isinstance(element, Run) else MACHINE


def unknowns(plan: Plan) -> tuple[Unknown, ...]:
    """Every figure that is typical or believed and of which it is known between what it may lie."""
    found = []
    for element, name in _marked(plan):
        for field, standing in _open(element):
            value = getattr(element, field)
            band = band_of(plan, element, field)
            if band is not None and band.low < band.high:
                found.append(Unknown(name, field, standing, float(value), band))
    return tuple(found)


def resting_on(plan: Plan) -> tuple[tuple[str, str, str], ...]:
    """Every figure that is typical or believed, with or without a band: element, field, standing."""
    return tuple((name, field, standing) for element, name in _marked(plan) for field, standing in _open(element))


def _marked(plan: Plan) -> Iterator[tuple[Marked, str]]:
    yield plan.machine, MACHINE
    every: tuple[Run | Part, ...] = (*plan.runs, *plan.parts)
    yield from ((element, element.id) for element in every)


def _open(element: Marked) -> Iterator[tuple[str, str]]:
    """Its figures that are only usual or believed. Of a pin that is believed, what it may give is believed."""
    marks = dict(element.marks)
    if isinstance(element, Part) and (found := as_found_wire(element)):
        if found.function != "feed":
            return
        if found.standing == "believed":
            marks.setdefault("rated_a", "believed")
    for field, standing in marks.items():
        if standing in OPEN and isinstance(getattr(element, field), int | float):
            yield field, standing


def band_of(plan: Plan, element: Marked, field: str) -> Band | None:
    """Between what a figure lies for such a thing: by the machine's size class or the list of accessories, else by how
    far such figures spread; None where that is not known."""
    if isinstance(element, Part) and element.listed_as in ACCESSORIES:
        return ACCESSORIES[element.listed_as].bands().get(field)
    if element in plan.packs[1:]:
        return None  # one that is added may be of any size
    size = size_class(plan.machine.kind, plan.machine.size)
    listed = _BANDS.get((kind_of(element), field))
    if size is not None and listed is not None and (band := listed(size, element)) is not None:
        return band
    if field in SPREADS and element.standing_of(field) != "found":
        low, high = SPREADS[field]
        value = float(getattr(element, field))
        return Band(low * value, value, high * value)
    return None


def _engine(pick: Callable[[Engine, SizeClass], Band]) -> Callable[[SizeClass, Marked], Band | None]:
    return lambda size, element: pick(size.figures, size) if isinstance(size.figures, Engine) else None


def _electric(pick: Callable[[Electric, SizeClass, Marked], Band | None]) -> Callable[[SizeClass, Marked], Band | None]:
    return lambda size, element: pick(size.figures, size, element) if isinstance(size.figures, Electric) else None


def _magneto(pick: Callable[[Magneto], Band]) -> Callable[[SizeClass, Marked], Band | None]:
    return lambda size, element: pick(size.figures) if isinstance(size.figures, Magneto) else None


def _own(size: SizeClass, element: Marked) -> Band | None:
    usual = getattr(element, "usual", "")
    if not isinstance(size.figures, Engine) or not usual:
        return None
    return size.figures.own_w(usual).half(size.half)


def _idle_w(figures: Engine, size: SizeClass) -> Band:
    usual_w = figures.generator_w.half(size.half).usual
    return figures.idle_share.times(usual_w)


def _cell_ah(figures: Electric, size: SizeClass, element: Marked) -> Band:
    return figures.pack_wh.times(1 / (size.series * CELL_V * getattr(element, "parallel", 1)))


_BANDS: dict[tuple[str, str], Callable[[SizeClass, Marked], Band | None]] = {
    ("generator", "rating1_w"): _engine(_idle_w),
    ("generator", "rating2_w"): _engine(lambda f, size: f.generator_w.half(size.half)),
    ("battery", "capacity_ah"): _engine(lambda f, size: f.battery_ah.half(size.half)),
    ("battery", "internal_mohm"): _engine(lambda f, size: f.internal_mohm.half(size.half)),
    (MACHINE, "cranking_a"): _engine(lambda f, size: f.cranking_a.half(size.half)),
    ("own", "power_w"): _own,
    ("pack", "cell_ah"): _electric(_cell_ah),
    ("pack", "cell_mohm"): _electric(lambda f, size, _: f.cell_mohm),
    ("pack", "bms_continuous_a"): _electric(lambda f, size, _: f.bms_a),
    ("drive", "full_w"): _electric(lambda f, size, _: f.full_w),
    ("port", "limit_w"): _electric(lambda f, size, _: f.light_port_w),
    ("coil", "emf_mv_per_rpm"): _magneto(lambda f: f.emf_mv_per_rpm),
    ("coil", "reactance_mohm_per_rpm"): _magneto(lambda f: f.reactance_mohm_per_rpm),
    ("coil", "winding_ohm"): _magneto(lambda f: f.winding_ohm),
}
