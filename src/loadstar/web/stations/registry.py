"""The stations, found in the folders beside this file. Run list, keys, addresses, marks and search are derived from
them."""

from importlib import import_module
from pathlib import Path
from typing import Any

from loadstar.core.findings import Subject

from ..frame.frame import Frame
from .station import Station

MARKED = ("stop", "caution", "advice")


def _found() -> dict[str, Station]:
    here = Path(__file__).parent
    every = [import_module(f"{__package__}.{folder.parent.name}").STATION for folder in here.glob("*/__init__.py")]
    return {station.key: station for station in sorted(every, key=lambda s: s.number)}


STATIONS: dict[str, Station] = _found()
LISTED = tuple(s for s in STATIONS.values() if s.number)
REST = "survey"  # where a search leads for what no station has claimed


def of_subject(subject: Subject) -> Station:
    """Where something of a plan is looked at."""
    return next(s for s in LISTED if subject in s.subjects)


def of_kind(kind: str) -> str:
    """The key of the station that shows elements of a kind."""
    return next((s.key for s in LISTED if kind in s.kinds), REST)


def run_list(frame: Frame) -> list[dict[str, Any]]:
    """The stations with their marks: what is found there by severity, or whether anything is there yet."""
    made = []
    for station in LISTED:
        here = [f for f in frame.findings if f.subject in station.subjects]
        counts = [(s, n) for s in MARKED if (n := sum(1 for f in here if f.severity == s))]
        made.append({"key": station.key, "name": station.name, "number": station.number,
                     "here": station.key == frame.station,
                     "link": frame.link(station.key), "counts": counts,
                     "mark": _mark(station, frame)})
    return made


def _mark(station: Station, frame: Frame) -> str:
    """A station's mark in words, where nothing is found there."""
    if station.mark is not None:
        return station.mark(frame.row.summary) or "nothing yet"
    return "clear" if station.begun(frame.plan) else "nothing yet"
