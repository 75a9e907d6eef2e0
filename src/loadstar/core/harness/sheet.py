"""Every harness of a plan on one sheet, in millimetres: what board, paper and file have in common."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from .arrange import arranged
from .board import Board, Laid, lay_out
from .fittings import Fitting
from .loom import Loom
from .nails import Leaving, nails
from .tiling import MARGIN_MM, paper_mm

EDGE_MM, BETWEEN_MM, LEAST_HIGH_MM = 40.0, 80.0, 120.0
BEND_DIAMETERS = 10.0  # a harness is bent round no less than so many of its diameters
NOTHING_MM = 0.5  # less is not folded
LEAST_DRAWN_MM = 150.0  # of a run that is folded: its two ends, with what sits there
Point = tuple[float, float]


@dataclass(frozen=True)
class Piece:
    """A stretch on the sheet: its run, both ends in mm (y downwards), how thick it is, where it is tied, how far off
    its first end its outline begins (half of what it leaves), and how much of it is folded."""

    run: str
    x0: float
    y0: float
    x1: float
    y1: float
    thick_mm: float
    ties: tuple[Point, ...]
    begins_mm: float = 0.0
    folded_mm: float = 0.0

    @property
    def bend_mm(self) -> float:
        """The least radius that it is bent round."""
        return BEND_DIAMETERS * self.thick_mm

    @property
    def outline(self) -> tuple[Point, Point, Point, Point]:
        """Its four corners."""
        long_mm = math.dist((self.x0, self.y0), (self.x1, self.y1))
        dx, dy = (self.x1 - self.x0) / long_mm, (self.y1 - self.y0) / long_mm
        begin, end = min(self.begins_mm, long_mm / 2), long_mm
        off_x, off_y = -dy * self.thick_mm / 2, dx * self.thick_mm / 2
        (ax, ay), (bx, by) = ((self.x0 + dx * far, self.y0 + dy * far) for far in (begin, end))
        return (ax + off_x, ay + off_y), (bx + off_x, by + off_y), (bx - off_x, by - off_y), (ax - off_x, ay - off_y)


@dataclass(frozen=True)
class Sits:
    """A connector or splice on the sheet: where, and which way its run goes there (a unit vector)."""

    fitting: Fitting
    x: float
    y: float
    along: tuple[float, float]


@dataclass(frozen=True)
class Sheet:
    """Everything on the board in mm: its size, the stretches, where each place lies, connectors and splices, nails."""

    wide_mm: float
    high_mm: float
    pieces: tuple[Piece, ...]
    at: dict[str, Point]
    sits: tuple[Sits, ...] = ()
    nails: tuple[Point, ...] = ()


def sheet(loom: Loom, paper: str = "A4", bench_mm: float | None = None) -> Sheet:
    """Every harness of a plan on one sheet, one below the other, its branches turned for the paper. On a bench that is
    only so long, runs are folded. Raises board.Loop where one cannot lie flat."""
    drawn = {s.run: s.length_mm for s in loom.stretches}
    boards = loom.boards
    if bench_mm is not None:
        drawn = _folded(boards, bench_mm - 2 * EDGE_MM)
        boards = lay_out(replace(s, length_mm=drawn[s.run]) for s in loom.stretches)
    wide_mm, high_mm = paper_mm(paper, 0.0)
    boards = tuple(arranged(board, (wide_mm - 2 * MARGIN_MM, high_mm - 2 * MARGIN_MM)) for board in boards)
    at, wide, high = _placed(boards)
    pieces = tuple(_piece(loom, board, one, at, drawn[one.run]) for board in boards for one in board.laid)
    return Sheet(wide, high, pieces, at, tuple(_sits(loom, f, at, drawn) for f in loom.fittings), _nails(pieces, at))


def _placed(boards: Sequence[Board]) -> tuple[dict[str, Point], float, float]:
    """Where every place lies, y downwards, one harness below the other; how wide and high that is."""
    at: dict[str, Point] = {}
    top, wide = EDGE_MM, 0.0
    for board in boards:
        xs, ys = zip(*board.at.values(), strict=True)
        left, high = EDGE_MM - min(xs), top + max(ys)
        at |= {p: (x + left, high - y) for p, (x, y) in board.at.items()}
        wide = max(wide, max(xs) - min(xs))
        top = high - min(ys) + BETWEEN_MM
    return at, wide + 2 * EDGE_MM, max(top - BETWEEN_MM + EDGE_MM, LEAST_HIGH_MM)


def _piece(loom: Loom, board: Board, laid: Laid, at: dict[str, Point], drawn_mm: float) -> Piece:
    """A stretch as it lies on the sheet. A branch begins half a diameter off what it leaves."""
    here = loom.by_run[laid.run]
    first, last = (at[laid.a], at[laid.b]) if here.run.a == laid.a else (at[laid.b], at[laid.a])
    ties = tuple(_along(first, last, there / drawn_mm) for tie in loom.ties_mm(laid.run)
                 if (there := _drawn_at(tie, here.length_mm, drawn_mm)) is not None)
    beside = [loom.by_run[one.run].covered_mm for one in board.laid if one is not laid and laid.a in (one.a, one.b)]
    leaves = len(beside) > 1 and (laid.a, laid.b) not in pairwise(board.trunk)
    return Piece(laid.run, *at[laid.a], *at[laid.b], here.covered_mm, ties, max(beside) / 2 if leaves else 0.0,
                 here.length_mm - drawn_mm if drawn_mm < here.length_mm - NOTHING_MM else 0.0)


def _drawn_at(mm: float, length_mm: float, drawn_mm: float) -> float | None:
    """Where something so far along a run is drawn; None where that is in its fold, which is in the middle."""
    if mm <= drawn_mm / 2:
        return mm
    return mm - (length_mm - drawn_mm) if mm >= length_mm - drawn_mm / 2 else None


def _along(first: Point, last: Point, share: float) -> Point:
    return first[0] + (last[0] - first[0]) * share, first[1] + (last[1] - first[1]) * share


def _folded(boards: Sequence[Board], most_mm: float) -> dict[str, float]:
    """How long each run is drawn so that no trunk is longer than that: the longest are folded first, none below
    `LEAST_DRAWN_MM`."""
    drawn: dict[str, float] = {}
    for board in boards:
        lengths = {one.run: one.length_mm for one in board.laid}
        steps = list(pairwise(board.trunk))
        trunk = [one.length_mm for one in board.laid if (one.a, one.b) in steps]
        cap = _cap(trunk, most_mm)
        drawn |= {run: min(length, max(cap, LEAST_DRAWN_MM)) for run, length in lengths.items()}
    return drawn


def _cap(lengths: Sequence[float], most_mm: float) -> float:
    """What each length may at most be for all of them to come to no more than that."""
    left, ahead = most_mm, sorted(lengths)
    for i, length in enumerate(ahead):
        share = left / (len(ahead) - i)
        if length > share:
            return share
        left -= length
    return math.inf


def _nails(pieces: Sequence[Piece], at: dict[str, Point]) -> tuple[Point, ...]:
    """Nails around every place."""
    leaving: dict[str, list[Leaving]] = {place: [] for place in at}
    names = {there: place for place, there in at.items()}
    for piece in pieces:
        (x0, y0), (x1, y1) = (piece.x0, piece.y0), (piece.x1, piece.y1)
        leaving[names[x0, y0]].append(Leaving(math.atan2(y1 - y0, x1 - x0), piece.thick_mm / 2))
        leaving[names[x1, y1]].append(Leaving(math.atan2(y0 - y1, x0 - x1), piece.thick_mm / 2))
    return tuple((x + dx, y + dy) for place, (x, y) in at.items() for dx, dy in nails(leaving[place]))


def _sits(loom: Loom, fitting: Fitting, at: dict[str, Point], drawn: dict[str, float]) -> Sits:
    run, place = loom.by_run[fitting.run].run, fitting.part.place
    (x0, y0), (x1, y1) = at[place], at[run.b if place == run.a else run.a]
    long_mm = math.hypot(x1 - x0, y1 - y0)
    along = (x1 - x0) / long_mm, (y1 - y0) / long_mm
    there = min(fitting.at_mm, drawn[fitting.run] / 2)  # what sits in a fold is drawn at it
    return Sits(fitting, x0 + along[0] * there, y0 + along[1] * there, along)
