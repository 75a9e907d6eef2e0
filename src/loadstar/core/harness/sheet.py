"""Every harness of a plan on one sheet, in millimetres: what board, paper and file have in common."""

import math
from dataclasses import dataclass

from .fittings import Fitting
from .loom import Loom

EDGE_MM, BETWEEN_MM, LEAST_HIGH_MM = 40.0, 80.0, 120.0


@dataclass(frozen=True)
class Piece:
    """A stretch on the sheet: its run, both ends in mm (y downwards), how thick it is, and where it is tied."""

    run: str
    x0: float
    y0: float
    x1: float
    y1: float
    thick_mm: float
    ties: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Sits:
    """A connector or splice on the sheet: where, and which way its run goes there (a unit vector)."""

    fitting: Fitting
    x: float
    y: float
    along: tuple[float, float]


@dataclass(frozen=True)
class Sheet:
    """Everything on the board in mm: its size, the stretches, where each place lies, and connectors and splices."""

    wide_mm: float
    high_mm: float
    pieces: tuple[Piece, ...]
    at: dict[str, tuple[float, float]]
    sits: tuple[Sits, ...] = ()


def sheet(loom: Loom) -> Sheet:
    """Every harness of a plan on one sheet, one below the other. Raises board.Loop where one cannot lie flat."""
    pieces: list[Piece] = []
    at: dict[str, tuple[float, float]] = {}
    top, wide = EDGE_MM, 0.0
    for board in loom.boards:
        xs, ys = zip(*board.at.values(), strict=True)
        left, high = EDGE_MM - min(xs), top + max(ys)
        at |= {p: (x + left, high - y) for p, (x, y) in board.at.items()}
        for piece in board.laid:
            (x0, y0), (x1, y1) = at[piece.a], at[piece.b]
            here = loom.by_run[piece.run]
            length = here.length_mm
            begin = (x0, y0), (x1, y1)
            if here.run.a != piece.a:
                begin = begin[1], begin[0]
            ties = tuple((begin[0][0] + (begin[1][0] - begin[0][0]) * t / length,
                          begin[0][1] + (begin[1][1] - begin[0][1]) * t / length) for t in loom.ties_mm(piece.run))
            pieces.append(Piece(piece.run, x0, y0, x1, y1, here.covered_mm, ties))
        wide = max(wide, max(xs) - min(xs))
        top = high - min(ys) + BETWEEN_MM
    return Sheet(wide + 2 * EDGE_MM, max(top - BETWEEN_MM + EDGE_MM, LEAST_HIGH_MM), tuple(pieces), at,
                 tuple(_sits(loom, f, at) for f in loom.fittings))


def _sits(loom: Loom, fitting: Fitting, at: dict[str, tuple[float, float]]) -> Sits:
    run, place = loom.by_run[fitting.run].run, fitting.part.place
    (x0, y0), (x1, y1) = at[place], at[run.b if place == run.a else run.a]
    long_mm = math.hypot(x1 - x0, y1 - y0)
    along = (x1 - x0) / long_mm, (y1 - y0) / long_mm
    return Sits(fitting, x0 + along[0] * fitting.at_mm, y0 + along[1] * fitting.at_mm, along)
