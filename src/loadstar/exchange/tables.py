"""The page of tables: every figure that Loadstar takes from a standard or takes to be usual, with where it is from."""

from collections.abc import Iterable, Iterator
from dataclasses import fields, is_dataclass
from typing import Any

from loadstar.core.materials import (
    accessories,
    ampacity,
    charging,
    conductors,
    coverings,
    fuses,
    sizes,
    terminals,
    typical,
)
from loadstar.core.physics import battery
from loadstar.core.plan.bodies import BODY_KINDS

BEGINS = """# Tables

Made from `src/loadstar/core/materials` and `plan/bodies.py` by `./loadstar build`. Usual figures are a place to begin
from: a plan marks what it took from here as typical, and what counts is the label, the maker's sheet or your meter.
"""


def _shown(value: Any) -> str:
    """A figure, a band ("120 / 180 / 250": low, usual, high) or several of them."""
    if isinstance(value, typical.Band):
        return f"{value.low:g} / {value.usual:g} / {value.high:g}"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int):
        return f"{value:.10g}"
    if isinstance(value, tuple):
        return ", ".join(_shown(one) for one in value)
    return "" if value is None else str(value)


def _table(title: str, source: str, heads: Iterable[str], rows: Iterable[Iterable[Any]]) -> Iterator[str]:
    heads = list(heads)
    yield from (f"## {title}", "", f"{source[0].upper()}{source[1:].removesuffix('.')}.", "")
    yield f"| {' | '.join(heads)} |"
    yield f"|{'---|' * len(heads)}"
    yield from (f"| {' | '.join(_shown(value) for value in row)} |" for row in rows)
    yield ""


def _listed(title: str, source: str, things: Iterable[Any], **first: Iterable[Any]) -> Iterator[str]:
    """A table of things with the same fields, a column each; `first` is a column before them."""
    things = list(things)
    assert all(is_dataclass(thing) for thing in things)
    named = [f.name for f in fields(things[0])]
    before = zip(*first.values(), strict=True) if first else [() for _ in things]
    rows = ((*extra, *(getattr(thing, name) for name in named))
            for extra, thing in zip(before, things, strict=True))
    return _table(title, source, [*first, *named], rows)


def _wires() -> Iterator[str]:
    yield from _listed("Conductors", conductors.SOURCE, conductors.CONDUCTORS)
    yield from _table("What is stocked", "usual sizes, of which one is chosen", ("sizes", "mm²"),
                      conductors.STOCKS.items())
    yield from _table("SAE numbers", "SAE J1128, nominal areas", ("mm²", "number"), conductors.SAE.items())
    yield from _listed("Insulation", "temperature classes", conductors.INSULATIONS.values())
    yield from _table("The published table of currents", ampacity.SOURCE, ("mm²", "A"), ampacity.ROWS)
    yield from _table("Of every wire", "constants of the page of physics", ("what", "value"), (
        ("temperature coefficient of copper at 20 °C, 1/K", conductors.ALPHA20_PER_K),
        ("ideal copper at 20 °C, Ω mm²/m", conductors.IDEAL_OHM_MM2_PER_M),
        ("annealed copper at 20 °C (IEC 60028), Ω mm²/m", conductors.RHO20_OHM_MM2_PER_M),
        ("resistance of fine tinned strands over bare ones", conductors.TINNED_FACTOR),
        ("copper, g/cm³", conductors.COPPER_DENSITY_G_PER_CM3),
        ("nominal over largest diameter", conductors.OD_NOMINAL_TO_MAX),
        ("strands in their circle", conductors.STRAND_FILL),
        ("lay and tolerance of AWG strands", conductors.AWG_LAY_FACTOR),
        ("terminals have less resistance above, mm²", conductors.SMALL_TERMINAL_MM2)))


def _fuses() -> Iterator[str]:
    yield from _table("Kinds of fuses", "see each", (
        "kind", "for V DC", "breaks A", "opens as", "its wires end in", "source"), (
        (kind.words, " / ".join(str(v) for v in kind.volts), kind.breaks_a, kind.curve, kind.family, kind.source)
        for kind in fuses.KINDS.values()))
    for kind in fuses.KINDS.values():
        yield from _listed(f"Ratings: {kind.words}", kind.source, kind.fuses)
    for curve, band in fuses.BANDS.items():
        for title, points in (("shortest opening times", band.fastest), ("longest opening times", band.slowest)):
            yield from _table(f"{curve.capitalize()}: {title}", band.source, ("times the rating", "s"), points)
    yield from _table("Of every fuse", fuses.SOURCE, ("what", "value"), (
        *((f"carried without opening, times the rating: {c}", band.steady) for c, band in fuses.BANDS.items()),
        ("less per kelvin above 25 °C", fuses.RERATE_PER_K)))


def _ends() -> Iterator[str]:
    yield from _listed("Terminals", terminals.SOURCE, terminals.TERMINALS)
    yield from _table("Least pull-out force of a crimp", terminals.PULL_SOURCE, ("mm²", "N"), terminals.PULL_N)
    yield from _table("Dies of crimp tools", "usual of open barrels, assumed; the terminal's sheet comes first",
                      ("what", "value"), (("die width, mm", terminals.DIES_MM),
                                          ("core, times the root of its mm²", terminals.CORE_DIE),
                                          ("wings, times the insulation's diameter", terminals.WINGS_DIE)))


def _coverings() -> Iterator[str]:
    yield from _listed("Braided sleeves", coverings.SOURCE, coverings.SLEEVES)
    yield from _listed("Shrink tube", coverings.SOURCE, coverings.SHRINKS)
    yield from _table("Heat through coverings", "assumed", ("covering", "W/(m K)"), coverings.CONDUCTS.items())
    yield from _table("Of every covering", "assumed", ("what", "value"), (
        ("a sleeve adds, mm", coverings.SLEEVE_ADDS_MM), ("heat sleeve, mm", coverings.HEAT_SLEEVE_MM),
        ("tape: width, mm; overlap; thick, mm",
         (coverings.TAPE_WIDTH_MM, coverings.TAPE_OVERLAP, coverings.TAPE_THICK_MM)),
        ("shrink tube over, under the bundle", (coverings.SHRINK_OVER, coverings.SHRINK_UNDER)),
        ("shrink tube loses of its length", coverings.SHRINK_LOSS)))


def _stores() -> Iterator[str]:
    yield from _table("Rested 12 V lead-acid battery", battery.OCV_SOURCE, ("charge", "V"), battery.LEAD_V)
    for chemistry, curve in battery.CELL_V.items():
        yield from _table(f"Rested cell, {chemistry}", battery.OCV_SOURCE, ("charge", "V"), curve)
    yield from _table("Chemistries", "usual published values",
                      ("chemistry", "self-discharge a month", "Peukert", "V at most", "V at least"),
                      ((key, share, battery.PEUKERT_K[key], charging.MOST_V.get(key), charging.LEAST_V.get(key))
                       for key, share in battery.SELF_DISCHARGE_FRAC_PER_MONTH.items()))
    yield from _table("Of every battery", charging.SET_POINTS, ("what", "value"), (
        ("added to the curve of a flooded one, V", tuple(battery.LEAD_ADD_V.values())),
        ("cells of a 12 V LiFePO4 battery", battery.LFP_CELLS_IN_12V),
        ("a cell's nominal V", tuple(battery.NOMINAL_CELL_V.values())),
        ("never fills below, V", charging.NEVER_FILLS_V),
        ("share of the resistance that does not grow as charge falls", battery.SHEPHERD_FIXED_SHARE)))


def _usual() -> Iterator[str]:
    source = "from general knowledge of such machines, of no make: low, usual and high"
    engines = {"small": typical.SMALL, "middle": typical.MIDDLE, "touring": typical.TOURING,
               "off-road": typical.OFF_ROAD, "utility": typical.UTILITY}
    electric = {"trail": typical.TRAIL, "cargo": typical.CARGO, "deck": typical.DECK}
    magnetos = {"6 V": typical.MAGNETO_6V, "12 V": typical.MAGNETO_12V}
    yield from _listed("Usual machines with an engine", source, engines.values(), machine=engines)
    yield from _listed("Usual machines with a pack", source, electric.values(), machine=electric)
    yield from _listed("Usual lighting coils", source, magnetos.values(), machine=magnetos)
    yield from _table("Cells of a pack", source, ("V", "in series"), typical.CELLS.items())
    yield from _table("Size classes", source, ("machine", "class", "words", "runs on", "V", "half of the band"), (
        (kind, one.key, one.words, one.system, one.system_v, one.half)
        for kind, classes in typical.SIZES.items() for one in classes))
    source = "from general knowledge of such things, of no make; what counts is the label"
    yield from _listed("Usual accessories", source, accessories.ACCESSORIES.values())
    yield from _listed("Usual sizes of parts", sizes.SOURCE, sizes.USUAL.values(), part=sizes.USUAL)


def _bodies() -> Iterator[str]:
    source = "of our own making, of no make: starting points that are moved to where things really are"
    for kind, body in BODY_KINDS.items():
        yield from _listed(f"Places of a {kind}, wheelbase {body.wheelbase_mm:g} mm", source, body.places)
        yield from _table(f"Ways of a {kind}", source, ("from", "to"), body.runs)
        yield from _table(f"What goes where on a {kind}", source, ("what", "place"), body.goes.items())


def tables_page() -> str:
    """Every table, in the order in which they are used."""
    sections = (_wires(), _fuses(), _ends(), _coverings(), _stores(), _usual(), _bodies())
    return "\n".join([BEGINS, *(line for section in sections for line in section)])
