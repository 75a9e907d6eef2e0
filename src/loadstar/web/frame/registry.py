"""The stations, as they are entered when the application starts. Run list, keys, addresses, marks and search follow
from them."""

from collections.abc import Iterable
from typing import Any

from loadstar.core.findings import Subject
from loadstar.core.jobs import JOBS

from .frame import Frame
from .station import Station

MARKED = ("stop", "caution", "advice")
STATIONS: dict[str, Station] = {}  # by key, in the order of their numbers
REST = "survey"  # where a search leads for what no station has claimed


def enter(stations: Iterable[Station]) -> None:
    """These are all there are."""
    STATIONS.clear()
    STATIONS.update((station.key, station) for station in sorted(stations, key=lambda s: s.number))


def listed() -> list[Station]:
    """Those of the run list."""
    return [station for station in STATIONS.values() if station.number]


def of_subject(subject: Subject) -> Station:
    """Where something of a plan is looked at."""
    return next(s for s in listed() if subject in s.subjects)


def of_kind(kind: str) -> str:
    """The key of the station that shows elements of a kind."""
    return next((s.key for s in listed() if kind in s.kinds), REST)


def run_list(frame: Frame) -> list[dict[str, Any]]:
    """The stations with their marks: what is found there by severity, or whether anything is there yet. Those that the
    plan's job needs come first, in its order."""
    made, turn = [], list(JOBS[frame.plan.job].pages)
    for station in sorted(listed(), key=lambda s: turn.index(s.key) if s.key in turn else len(turn)):
        here = [f for f in frame.findings if f.subject in station.subjects]
        counts = [(s, n) for s in MARKED if (n := sum(1 for f in here if f.severity == s))]
        made.append({"key": station.key, "name": station.name, "number": station.number,
                     "here": station.key == frame.station, "aside": station.key not in turn,
                     "link": frame.link(station.key), "counts": counts,
                     "mark": _mark(station, frame)})
    return made


def _mark(station: Station, frame: Frame) -> str:
    """A station's mark in words, where nothing is found there."""
    if station.mark is not None:
        return station.mark(frame.row.summary) or "nothing yet"
    return "clear" if station.begun(frame.plan) else "nothing yet"
