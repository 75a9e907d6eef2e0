"""The angles of a board's branches: turned until nothing lies near anything else and the print takes fewest pages.

The wedges of board.py give a board on which nothing crosses. From there branches are turned, with all that is on them,
and kept where that is better: first what is too near, then pages, then the sheet's area. Two points of the harness may
be as near as a third of the way between them along it, and need no more than `APART_MM`.
"""

import math
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .board import Board, Laid

Array = NDArray[np.float64]
APART_MM, OF_WAY = 60.0, 1 / 3  # between two stretches; of the way between two points along the harness
STEP_MM = 15.0  # between the points that are looked at
TURNS_DEG = (90.0, 45.0, 30.0, 15.0, 5.0)
MOST_PAIRS = 6e7  # pairs of points that are looked at in all
MOST_POINTS = 1500  # a larger board, of very many branches, stays as it is


@dataclass(frozen=True)
class _Points:
    """Where a board is looked at: by stretch, how far along it as a share, and how near each pair may come, mm."""

    of: NDArray[np.int64]
    share: Array
    least: Array


@lru_cache(maxsize=64)
def arranged(board: Board, paper_mm: tuple[float, float]) -> Board:
    """The board with its branches turned for pages of this size (what fits on one, mm)."""
    if sum(s.length_mm for s in board.laid) / STEP_MM > MOST_POINTS:
        return board
    points = _points(board)
    tries = int(MOST_PAIRS / max(1, len(points.of)) ** 2)
    angles = _angles(board)
    trunk = set(zip(board.trunk, board.trunk[1:], strict=False))
    meet = Counter(place for s in board.laid for place in (s.a, s.b))
    free = [i for i, s in enumerate(board.laid) if (s.a, s.b) not in trunk and meet[s.a] > 2]  # a chain stays straight

    def worth(turned: Array) -> tuple[float, int, float]:
        where = _on(points, board, turned)
        wide, high = np.ptp(where, axis=0)
        return _too_near(points, board, turned), _pages(where, paper_mm), round(float((wide + 1) * (high + 1)), 1)

    search = _Search(worth, free, _below(board), tries)
    for turn in TURNS_DEG:
        angles = search.turned(angles, turn)
    return _made(board, angles)


class _Search:
    """Branches turned one after the other, and kept where that is better."""

    def __init__(self, worth: Callable[[Array], tuple[float, int, float]], free: list[int], below: list[list[int]],
                 tries: int) -> None:
        self.worth, self.free, self.below, self.tries = worth, free, below, tries

    def turned(self, angles: Array, turn_deg: float) -> Array:
        """Every branch, with what is on it, so far each way or over to the other side, until none of it is better."""
        best, better = self.worth(angles), True
        while better:
            better = False
            for i in self.free:
                for turn in (math.radians(turn_deg), -math.radians(turn_deg), None):
                    if self.tries <= 0:
                        return angles
                    tried, self.tries = angles.copy(), self.tries - 1
                    tried[self.below[i]] = -tried[self.below[i]] if turn is None else tried[self.below[i]] + turn
                    found = self.worth(tried)
                    if found < best:
                        angles, best, better = tried, found, True
        return angles


def _points(board: Board) -> _Points:
    """Points every `STEP_MM`, and between each two how near they may come."""
    of, share = [], []
    for i, s in enumerate(board.laid):
        steps = max(1, math.ceil(s.length_mm / STEP_MM))
        of += [i] * steps
        share += [(j + 1) / steps for j in range(steps)]
    stretch, part = np.array(of, dtype=np.int64), np.array(share)
    depth, way = _ways(board)
    lengths = np.array([s.length_mm for s in board.laid])
    along = depth[stretch] + part * lengths[stretch]  # from the trunk's beginning
    met = way[stretch[:, None], stretch[None, :]]  # how far from there the two ways part
    met = np.minimum(np.minimum(met, along[:, None]), along[None, :])
    apart = along[:, None] + along[None, :] - 2 * met
    return _Points(stretch, part, np.minimum(APART_MM, apart * OF_WAY))


def _ways(board: Board) -> tuple[Array, Array]:
    """How far from the trunk's beginning each stretch begins, and for each pair how far from there the ways to their
    ends are one (mm)."""
    ends: dict[str, tuple[float, tuple[tuple[int, float], ...]]] = {board.trunk[0]: (0.0, ())}
    trail: list[tuple[tuple[int, float], ...]] = []
    depth = np.zeros(len(board.laid))
    for i, s in enumerate(board.laid):
        begun, before = ends[s.a]
        depth[i] = begun
        trail.append((*before, (i, begun + s.length_mm)))
        ends[s.b] = begun + s.length_mm, trail[-1]
    shared = np.zeros((len(board.laid), len(board.laid)))
    for i, one in enumerate(trail):
        on = dict(one)
        for j, two in enumerate(trail):
            shared[i, j] = max((far for k, far in two if k in on), default=0.0)
    return depth, shared


def _below(board: Board) -> list[list[int]]:
    """For each stretch itself and all that lies beyond it."""
    beyond: dict[str, list[int]] = {}
    for i, s in enumerate(board.laid):
        beyond.setdefault(s.a, []).append(i)
    found: list[list[int]] = [[] for _ in board.laid]
    for i, s in reversed(list(enumerate(board.laid))):
        found[i] = [i, *(k for j in beyond.get(s.b, ()) for k in found[j])]
    return found


def _pages(where: Array, paper_mm: tuple[float, float]) -> int:
    """How many pages have something on them, where the first begins in the drawing's corner."""
    cells = np.floor((where - where.min(axis=0)) / np.array(paper_mm)).astype(np.int64)
    return len(np.unique(cells, axis=0))


def _ends(board: Board, angles: Array) -> tuple[Array, Array]:
    """Both ends of each stretch for these angles, as rows of x and y."""
    at = {board.trunk[0]: board.at[board.trunk[0]]}
    begins, ends = [], []
    for s, angle in zip(board.laid, angles, strict=True):
        x, y = at[s.a]
        at[s.b] = x + s.length_mm * math.cos(angle), y + s.length_mm * math.sin(angle)
        begins.append(at[s.a])
        ends.append(at[s.b])
    return np.array(begins), np.array(ends)


def _on(points: _Points, board: Board, angles: Array) -> Array:
    """Where the points lie, as rows of x and y."""
    begins, ends = _ends(board, angles)
    return begins[points.of] + points.share[:, None] * (ends - begins)[points.of]


def nearness_mm(board: Board) -> float:
    """By how much all points of a board lie nearer together than they should, mm: 0 where none does."""
    return _too_near(_points(board), board, _angles(board))


def _too_near(points: _Points, board: Board, angles: Array) -> float:
    where = _on(points, board, angles)
    apart = np.hypot(*(where[:, None, :] - where[None, :, :]).transpose(2, 0, 1))
    return round(float(np.maximum(0.0, points.least - apart).sum()), 3)


def _angles(board: Board) -> Array:
    return np.array([math.atan2(s.y1 - s.y0, s.x1 - s.x0) for s in board.laid])


def _made(board: Board, angles: Array) -> Board:
    """The board with its stretches at these angles."""
    begins, ends = _ends(board, angles)
    laid = tuple(Laid(s.run, s.a, s.b, *begin, *end)
                 for s, begin, end in zip(board.laid, begins.tolist(), ends.tolist(), strict=True))
    return Board(laid, {board.trunk[0]: board.at[board.trunk[0]], **{s.b: (s.x1, s.y1) for s in laid}}, board.trunk)
