"""A drawing printed at its true size over pages of paper that are joined at their overlaps."""

import math
from dataclasses import dataclass

from ..amounts import percent

MARGIN_MM, OVERLAP_MM = 10.0, 10.0
ROLL, ROLL_MM = "A0 roll", 841.0
PAPERS_MM: dict[str, tuple[float, float]] = {
    "A4": (297.0, 210.0), "A3": (420.0, 297.0), "Letter": (279.4, 215.9), "A5": (210.0, 148.0), "A2": (594.0, 420.0),
    "A1": (841.0, 594.0), "A0": (1189.0, 841.0), ROLL: (4000.0, ROLL_MM)}
TRIES = 9  # each way, for where the first page begins
BAR_MM = 100.0  # of the test page
BAR_OFF_FRAC = 0.03  # a printer that is further off than this is not set to true size


Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Tile:
    """One page: its column and row (from the top left), and the corner of what it shows, mm of the drawing."""

    column: int
    row: int
    x_mm: float
    y_mm: float

    @property
    def name(self) -> str:
        """Column as a number, row as letters: "B3"."""
        letters, row = "", self.row + 1
        while row:
            row, letter = divmod(row - 1, 26)
            letters = chr(65 + letter) + letters
        return f"{letters}{self.column + 1}"


@dataclass(frozen=True)
class Tiling:
    """All pages of a drawing on a paper: what each shows, columns and rows, and those with something on them.
    `sheet_mm` is the paper itself, `begins_mm` how far before the drawing's corner the first page begins."""

    paper: str
    wide_mm: float
    high_mm: float
    columns: int
    rows: int
    tiles: tuple[Tile, ...]
    sheet_mm: tuple[float, float]
    begins_mm: tuple[float, float] = (0.0, 0.0)

    @property
    def seams_mm(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Where pages are cut when they are joined: across and down, in the middle of each overlap."""
        return tuple(tuple(n * (side - OVERLAP_MM) + OVERLAP_MM / 2 - begins for n in range(1, many))
                     for side, many, begins in zip((self.wide_mm, self.high_mm), (self.columns, self.rows),
                                                   self.begins_mm, strict=True))  # type: ignore[return-value]


def paper_mm(paper: str, long_mm: float) -> tuple[float, float]:
    """A paper's width and height; a roll is as wide as the drawing is long, up to what it has."""
    wide, high = PAPERS_MM[paper]
    return (min(wide, max(ROLL_MM, long_mm + 2 * MARGIN_MM)), high) if paper == ROLL and long_mm else (wide, high)


def pages(extent_mm: float, paper_mm: float) -> int:
    """How many pages one way: 2,380 mm on 297 mm are 9."""
    return max(1, math.ceil((extent_mm - OVERLAP_MM) / (paper_mm - 2 * MARGIN_MM - OVERLAP_MM) - 1e-9))


def tiled(paper: str, extent_mm: tuple[float, float], boxes: tuple[Box, ...],
          begins_mm: tuple[float, float] | None = None) -> Tiling:
    """The pages for a drawing of this width and height. `boxes` (left, top, right, bottom) are what is on it: a page
    that none of them touches is left out. Where the first page begins is tried out, unless it is said."""
    sheet = paper_mm(paper, extent_mm[0])
    wide, high = (side - 2 * MARGIN_MM for side in sheet)
    begun = [begins_mm] if begins_mm is not None else [
        (x * (wide - OVERLAP_MM) / TRIES, y * (high - OVERLAP_MM) / TRIES) for x in range(TRIES) for y in range(TRIES)]
    found = [_from(paper, sheet, extent_mm, boxes, begins) for begins in begun]
    return min(found, key=lambda one: (len(one.tiles), one.columns * one.rows))


def _from(paper: str, sheet: tuple[float, float], extent_mm: tuple[float, float], boxes: tuple[Box, ...],
          begins_mm: tuple[float, float]) -> Tiling:
    """The pages where the first begins so far before the drawing."""
    wide, high = (side - 2 * MARGIN_MM for side in sheet)
    columns, rows = (pages(extent + begins, side)
                     for extent, side, begins in zip(extent_mm, sheet, begins_mm, strict=True))
    step_x, step_y = wide - OVERLAP_MM, high - OVERLAP_MM
    touched = set()
    for x0, y0, x1, y1 in boxes:
        first, last = _span(x0 + begins_mm[0], x1 + begins_mm[0], step_x, columns)
        top, bottom = _span(y0 + begins_mm[1], y1 + begins_mm[1], step_y, rows)
        touched |= {(row, column) for row in range(top, bottom + 1) for column in range(first, last + 1)}
    tiles = tuple(Tile(column, row, column * step_x - begins_mm[0], row * step_y - begins_mm[1])
                  for row, column in sorted(touched))
    return Tiling(paper, wide, high, columns, rows, tiles, sheet, begins_mm)


def _span(low_mm: float, high_mm: float, step_mm: float, many: int) -> tuple[int, int]:
    """The first and the last page that shows something from here to there. What lies within the half of an overlap that
    two pages both show is on the one before."""
    half = OVERLAP_MM / 2
    first, last = (math.floor((at - half) / step_mm) for at in (low_mm, high_mm))
    return max(0, min(first, many - 1)), max(0, min(last, many - 1))


def correction(measured_mm: float) -> float:
    """What a print has to be scaled by, for a bar that measures so much. Raises ValueError, with a sentence, beyond 3 %
    either way."""
    if not (1 - BAR_OFF_FRAC) * BAR_MM <= measured_mm <= (1 + BAR_OFF_FRAC) * BAR_MM:
        raise ValueError(f"The bar is {BAR_MM:g} mm when the page is printed at its true size; {measured_mm:g} mm is "
                         f"more than {percent(BAR_OFF_FRAC)} off. Print it at 100 %, not fitted to the page, and "
                         "measure again.")
    return BAR_MM / measured_mm
