"""The workshop's shelf as a table: RFC 4180, UTF-8, semicolons or commas. All of it is taken, or none.

Columns: what, number, supplier, price, pack, here, least, reels. Only `what` has to be there; empty is not said.
`reels` are the lengths of what lies there by the reel, with spaces between; together they are what is `here`.
"""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass

from loadstar.core.quantities import NoQuantity, read
from loadstar.core.shelf import Stock

from .survey import harmless

COLUMNS = ("what", "number", "supplier", "price", "pack", "here", "least", "reels")
MOST_ROWS, MOST_REELS, MOST_CHARACTERS, MOST_FIGURE, MOST_TOLD = 5000, 40, 160, 1e6, 8
NEAR_FRAC = 0.01  # by which reels and what is said to be here may differ


@dataclass(frozen=True)
class Read:
    """Lines of a shelf, and what is wrong with the table, in sentences; with any of those there are no lines."""

    stock: tuple[Stock, ...]
    faults: tuple[str, ...]


def to_csv(shelf: Iterable[Stock]) -> str:
    """A line for each kind of thing."""
    text = io.StringIO()
    table = csv.writer(text, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for stock in shelf:
        price = "" if stock.price is None else f"{stock.price:g}"
        table.writerow([harmless(cell) for cell in (stock.what, stock.number, stock.supplier, price, f"{stock.pack:g}",
                                                    f"{stock.here:g}", f"{stock.least:g}",
                                                    " ".join(f"{m:g}" for m in stock.reels))])
    return text.getvalue()


def from_csv(text: str) -> Read:
    """A shelf from a table."""
    lines = text.removeprefix("\ufeff").splitlines()
    if not lines:
        return Read((), ("The table is empty.",))
    rows = list(csv.reader(lines, delimiter=";" if lines[0].count(";") > lines[0].count(",") else ","))
    head = [cell.strip().lower() for cell in rows[0]]
    if "what" not in head:
        return Read((), (f"The first line names the columns: {', '.join(COLUMNS)}. There is no \"what\".",))
    if strange := [cell for cell in head if cell and cell not in COLUMNS]:
        return Read((), (f"There is no column \"{strange[0][:40]}\"; these are {', '.join(COLUMNS)}.",))
    if len(rows) - 1 > MOST_ROWS:
        return Read((), (f"The table has {len(rows) - 1:,} lines; Loadstar takes up to {MOST_ROWS:,}.",))
    found: dict[str, Stock] = {}
    faults = []
    for n, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            stock = _stock(dict(zip(head, (cell.strip() for cell in row), strict=False)))
        except ValueError as error:
            faults.append(f"Line {n}: {error}")
            continue
        if stock.what in found:
            faults.append(f"Line {n}: {stock.what[:40]} is there twice.")
        found[stock.what] = stock
    if len(faults) > MOST_TOLD:
        faults = [*faults[:MOST_TOLD], f"And {len(faults) - MOST_TOLD} more lines have errors."]
    return Read((), tuple(faults)) if faults else Read(tuple(found.values()), ())


def _stock(cells: dict[str, str]) -> Stock:
    texts = {name: _text(cells.get(name, ""), name) for name in ("what", "number", "supplier")}
    if not texts["what"]:
        raise ValueError("it does not say what it is.")
    price = _figure(cells.get("price", ""), "price")
    pack = _figure(cells.get("pack", ""), "pack")
    if pack is not None and pack <= 0:
        raise ValueError("a pack holds more than nothing.")
    here, reels = _figure(cells.get("here", ""), "here"), _reels(cells.get("reels", ""))
    if reels and here is not None and abs(sum(reels) - here) > NEAR_FRAC * here:
        raise ValueError(f"its reels are {sum(reels):g} m together, and {here:g} are said to be here.")
    return Stock(texts["what"], texts["number"], texts["supplier"], price, 1.0 if pack is None else pack,
                 sum(reels) if here is None else here, _figure(cells.get("least", ""), "least") or 0.0, reels)


def _reels(cell: str) -> tuple[float, ...]:
    found = tuple(_figure(one, "reels") or 0.0 for one in cell.split())
    if len(found) > MOST_REELS:
        raise ValueError(f"it has {len(found)} reels; {MOST_REELS} are the most.")
    if any(metres <= 0 for metres in found):
        raise ValueError("a reel has more than nothing on it.")
    return found


def _text(cell: str, name: str) -> str:
    if len(cell) > MOST_CHARACTERS:
        raise ValueError(f"{name} has {len(cell)} characters; {MOST_CHARACTERS} are the most.")
    if any(ord(sign) < 32 for sign in cell):
        raise ValueError(f"{name} holds signs that cannot be shown.")
    return cell.removeprefix("'") if harmless(cell[1:]) != cell[1:] else cell  # as it was made harmless


def _figure(cell: str, name: str) -> float | None:
    if not cell:
        return None
    try:
        value = read(cell)
    except NoQuantity:
        raise ValueError(f"{cell[:20]} is no number for {name}.") from None
    if not 0 <= value <= MOST_FIGURE:
        raise ValueError(f"{cell[:20]} for {name} is outside 0 to {MOST_FIGURE:,.0f}.")
    return value
