"""What of an order list lies on the workshop's shelf, what has to be bought, and what that costs.

A line of the shelf is for what an order list calls the same. Money is in the workshop's own currency, which nobody has
to name; what has no price is counted and said, not taken for nothing.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from .order import Item, Order


@dataclass(frozen=True)
class Stock:
    """One kind of thing on the shelf: `what` as order lists call it, own order number and supplier in words, price of a
    piece or metre (None: not known), pieces or metres in a pack, how much is there, and the least that should be."""

    what: str
    number: str = ""
    supplier: str = ""
    price: float | None = None
    pack: float = 1.0
    here: float = 0.0
    least: float = 0.0

    @property
    def is_low(self) -> bool:
        """Whether less is there than should be."""
        return self.here < self.least


@dataclass(frozen=True)
class Line:
    """An item against the shelf: what is there of it (None: the shelf has no such line), what is taken from it, what is
    to be bought in whole packs, and what that costs (None: no price)."""

    item: Item
    stock: Stock | None
    taken: float
    buy: float
    cost: float | None


@dataclass(frozen=True)
class Needs:
    """An order list against the shelf."""

    lines: tuple[Line, ...]

    @property
    def cost(self) -> float:
        """What is to be bought and has a price."""
        return sum(line.cost for line in self.lines if line.cost is not None)

    @property
    def unpriced(self) -> int:
        """How many lines are to be bought and have no price."""
        return sum(line.buy > 0 and line.cost is None for line in self.lines)


def against(order: Order, shelf: Iterable[Stock]) -> Needs:
    """Every item: what the shelf has goes first, the rest is bought in whole packs."""
    known = {stock.what: stock for stock in shelf}
    return Needs(tuple(_line(item, known.get(item.what)) for item in order.items))


def _line(item: Item, stock: Stock | None) -> Line:
    if stock is None:
        return Line(item, None, 0.0, item.order, None)
    taken = min(stock.here, item.order)
    short = round(item.order - taken, 6)
    buy = math.ceil(round(short / stock.pack, 6)) * stock.pack if short > 0 else 0.0
    return Line(item, stock, taken, buy, None if stock.price is None else buy * stock.price)
