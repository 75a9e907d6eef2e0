"""Leads that are to share pins, as lines of a table: name, net, regulator, amps, mm², millivolts that it tolerates,
volts, the lead it is twisted with, "apart". Between them semicolons or tabs; empty is not said.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from loadstar.core.ends.pins import Lead
from loadstar.core.materials.conductors import AREAS_MM2
from loadstar.core.quantities import read as read_quantity

MOST_LINES, MOST_WORDS = 200, 60
COLUMNS = ("name", "net", "regulator", "amps", "mm²", "mV", "volts", "twisted with", "apart")
FIGURES = {3: ("A", 0.0, 200.0), 4: ("mm²", 0.0, 120.0), 5: ("mV", 0.0, 5000.0), 6: ("V", 0.0, 100.0)}
# An e-bike controller whose plugs are to become one: who gets 5 V from where is what was proved by the meter.
EXAMPLE = """throttle feed;5 V;controller;0.02;0.22;50;5
throttle ground;ground;controller;0,02;0.22;17;5
throttle signal;throttle;controller;0;0.22;10;5
pedal sensor feed;5 V;controller;0.02;0.22;100;5
pedal sensor ground;ground;controller;0.02;0.22;60;5
pedal sensor signal;cadence;controller;0;0.22;;5
display feed;5 V;display;0.05;0.22;50;5
left brake lever;brake;controller;0.01;0.22;;5;;apart
right brake lever;brake;controller;0.01;0.22;;5;;apart
brake ground;ground;controller;0.01;0.22;;5;;apart
lamp feed;lamp 12 V;controller;1.5;0.5;;12
lamp ground;ground;controller;1.5;0.5;;12
horn ground;ground;controller;2.0;0.5;;12
can high;CAN high;controller;0;0.22;;5;can low
can low;CAN low;controller;0;0.22;;5;can high"""


@dataclass(frozen=True)
class Read:
    """The leads of a table, and what is wrong with its lines, in sentences."""

    leads: tuple[Lead, ...]
    faults: tuple[str, ...]


def read(text: str) -> Read:
    """Leads from lines. Where any line will not do, its sentence says why, and no leads are given."""
    lines = [(n, line) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MOST_LINES:
        return Read((), (f"These are {len(lines)} lines; {MOST_LINES} are the most.",))
    leads, faults, names = [], [], set()
    for n, line in lines:
        try:
            lead = _lead([cell.strip() for cell in line.replace("\t", ";").split(";")])
        except ValueError as error:
            faults.append(f"Line {n}: {error}")
            continue
        if lead.name in names:
            faults.append(f"Line {n}: {lead.name} is there twice.")
        names.add(lead.name)
        leads.append(lead)
    faults += [f"{lead.name} is twisted with {lead.twist}, which is not there." for lead in leads
               if lead.twist and lead.twist not in names]
    return Read((), tuple(faults)) if faults else Read(tuple(leads), ())


def write(leads: Iterable[Lead]) -> str:
    """Leads as lines that `read` takes again."""
    return "\n".join(";".join((
        _plain(lead.name), _plain(lead.net), _plain(lead.regulator), f"{lead.amps:g}", f"{lead.area_mm2:g}",
        "" if math.isinf(lead.tolerates_v) else f"{lead.tolerates_v * 1000:g}",
        "" if lead.volts is None else f"{lead.volts:g}", _plain(lead.twist), "apart" if lead.apart else ""))
        for lead in leads)


def _plain(text: str) -> str:
    """A name without what parts the columns."""
    return text.replace(";", ",").replace("\t", " ")


def _lead(cells: list[str]) -> Lead:
    if len(cells) > len(COLUMNS):
        raise ValueError(f"it has {len(cells)} columns; these are {len(COLUMNS)}: {', '.join(COLUMNS)}.")
    name, net, regulator, *_ = cells = cells + [""] * (len(COLUMNS) - len(cells))
    if not name or not net:
        raise ValueError("a lead has a name, and the net that it was proved to be on.")
    if any(len(cell) > MOST_WORDS for cell in cells):
        raise ValueError(f"up to {MOST_WORDS} characters in a column.")
    if cells[8] not in ("", "apart"):
        raise ValueError(f'the last column is "apart" or empty, not {cells[8][:20]}.')
    found = {at: _figure(cells[at], at) for at in FIGURES}
    amps, area, millivolts, volts = (found[at] for at in FIGURES)
    if area is not None and area not in AREAS_MM2:
        raise ValueError(f"{area:g} mm² is no listed size of wire.")
    return Lead(name, net, regulator, amps or 0.0, area or 0.5, math.inf if millivolts is None else millivolts / 1000,
                volts, cells[7], bool(cells[8]))


def _figure(cell: str, at: int) -> float | None:
    unit, least, most = FIGURES[at]
    if not cell:
        return None
    value = read_quantity(cell, unit)
    if not least <= value <= most:
        raise ValueError(f"{value:g} {unit} is outside {least:g} to {most:g}.")
    return value
