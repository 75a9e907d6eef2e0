"""A drawing printed at its true size over pages of paper that are joined at their overlaps."""

import math
from dataclasses import dataclass

from ..amounts import percent

MARGIN_MM, OVERLAP_MM = 10.0, 10.0
PAPERS_MM: dict[str, tuple[float, float]] = {"A4": (297.0, 210.0), "A3": (420.0, 297.0), "Letter": (279.4, 215.9)}
BAR_MM = 100.0  # of the test page
BAR_OFF_FRAC = 0.03  # a printer that is further off than this is not set to true size


@dataclass(frozen=True)
class Tile:
    """One page: its column and row (from the top left), and the corner of what it shows, mm of the drawing."""

    column: int
    row: int
    x_mm: float
    y_mm: float

    @property
    def name(self) -> str:
        """Column as a number, row as a letter: "B3"."""
        return f"{chr(65 + self.row)}{self.column + 1}"


@dataclass(frozen=True)
class Tiling:
    """All pages of a drawing on a paper: what each shows, columns and rows, and those with something on them."""

    paper: str
    wide_mm: float
    high_mm: float
    columns: int
    rows: int
    tiles: tuple[Tile, ...]


def pages(extent_mm: float, paper_mm: float) -> int:
    """How many pages one way: 2,380 mm on 297 mm are 9."""
    return max(1, math.ceil((extent_mm - OVERLAP_MM) / (paper_mm - 2 * MARGIN_MM - OVERLAP_MM) - 1e-9))


def tiled(paper: str, extent_mm: tuple[float, float], boxes: tuple[tuple[float, float, float, float], ...]) -> Tiling:
    """The pages for a drawing of this width and height. `boxes` (left, top, right, bottom) are what is on it: a page
    that none of them touches is left out."""
    wide_mm, high_mm = (side - 2 * MARGIN_MM for side in PAPERS_MM[paper])
    columns, rows = (pages(extent, side) for extent, side in zip(extent_mm, PAPERS_MM[paper], strict=True))
    found = []
    for row in range(rows):
        for column in range(columns):
            x, y = column * (wide_mm - OVERLAP_MM), row * (high_mm - OVERLAP_MM)
            if any(x0 < x + wide_mm and x < x1 and y0 < y + high_mm and y < y1 for x0, y0, x1, y1 in boxes):
                found.append(Tile(column, row, x, y))
    return Tiling(paper, wide_mm, high_mm, columns, rows, tuple(found))


def correction(measured_mm: float) -> float:
    """What a print has to be scaled by, for a bar that measures so much. Raises ValueError, with a sentence, beyond 3 %
    either way."""
    if not (1 - BAR_OFF_FRAC) * BAR_MM <= measured_mm <= (1 + BAR_OFF_FRAC) * BAR_MM:
        raise ValueError(f"The bar is {BAR_MM:g} mm when the page is printed at its true size; {measured_mm:g} mm is "
                         f"more than {percent(BAR_OFF_FRAC)} off. Print it at 100 %, not fitted to the page, and "
                         "measure again.")
    return BAR_MM / measured_mm
