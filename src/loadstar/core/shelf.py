"""What of an order list lies on the workshop's shelf, what has to be bought, and what that costs.

A line of the shelf is for what an order list calls the same. Money is in the workshop's own currency, which nobody has
to name; what has no price is counted and said, not taken for nothing.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from .order import Item, Order


@dataclass(frozen=True)
class Stock:
    """One kind of thing on the shelf: `what` as order lists call it, own order number and supplier in words, price of a
    piece or metre (None: not known), pieces or metres in a pack, how much is there, and the least that should be.
    `reels` are the lengths of what lies there by the reel and off-cut (m; empty: it is one piece), `set_aside` what
    other plans have reserved of it."""

    what: str
    number: str = ""
    supplier: str = ""
    price: float | None = None
    pack: float = 1.0
    here: float = 0.0
    least: float = 0.0
    reels: tuple[float, ...] = ()
    set_aside: float = 0.0

    @property
    def free(self) -> float:
        """What is there and nobody else has reserved."""
        return max(0.0, self.here - self.set_aside)

    @property
    def lengths(self) -> tuple[float, ...]:
        """Reels and off-cuts, m."""
        return self.reels or ((self.here,) if self.here else ())

    @property
    def is_low(self) -> bool:
        """Whether less is there than should be."""
        return self.here < self.least


@dataclass(frozen=True)
class Line:
    """An item against the shelf: what is there of it (None: the shelf has no such line), what is taken of what others
    have not reserved, what is to be bought in whole packs, and what that costs (None: no price)."""

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
    taken = min(stock.free, item.order)
    short = round(item.order - taken, 6)
    buy = math.ceil(round(short / stock.pack, 6)) * stock.pack if short > 0 else 0.0
    return Line(item, stock, taken, buy, None if stock.price is None else buy * stock.price)


def pair_cost(prices: Mapping[str, float | None], pair: str, terminals: Iterable[str]) -> float | None:
    """What a connector with its terminals costs by the shelf's prices, one terminal for each wire; None where any of
    them has no price."""
    found = [prices.get(what) for what in (pair, *terminals)]
    known = [price for price in found if price is not None]
    return sum(known) if len(known) == len(found) else None
