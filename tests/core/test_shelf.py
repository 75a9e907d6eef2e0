"""What the shelf has goes first, the rest is bought in whole packs: against sums by hand and a plain count."""

import itertools

import pytest

from loadstar.core.order import Item, Order
from loadstar.core.shelf import Line, Stock, against, pair_cost

RED = "1 mm2 red"


def against_one(order: float, **stock) -> Line:
    """One item against one line of the shelf."""
    (line,) = against(Order((Item("Wire", RED, order, order),), ()), [Stock("relay"), Stock(RED, **stock)]).lines
    return line


@pytest.mark.parametrize(("stock", "taken", "buy", "cost"), [
    ({"here": 0, "price": 2.5}, 0, 4, 10.0),
    ({"here": 1.5, "price": 2.5}, 1.5, 3, 7.5),  # 2.5 m are short: three whole metres
    ({"here": 4, "price": 2.5}, 4, 0, 0.0),
    ({"here": 9, "price": 2.5}, 4, 0, 0.0),
    ({"here": 9, "price": 2.5, "set_aside": 6}, 3, 1, 2.5),
    ({"here": 2, "price": 2.5, "set_aside": 6}, 0, 4, 10.0),  # more is set aside than is there
    ({"here": 0, "price": 0.1, "pack": 25}, 0, 25, 2.5),
    ({"here": 3.9, "price": 0.1, "pack": 25}, 3.9, 25, 2.5),
    ({"here": 0, "price": 3.0, "pack": 0.5}, 0, 4, 12.0),
    ({"here": 1}, 1, 3, None),
])
def test_what_is_there_goes_first_and_the_rest_comes_in_whole_packs(stock, taken, buy, cost):
    line = against_one(4.0, **stock)
    assert (line.taken, line.buy) == pytest.approx((taken, buy))
    assert line.cost is None if cost is None else line.cost == pytest.approx(cost)
    assert line.stock.what == line.item.what == RED


def test_packs_against_counting_them():
    """A pack more as long as what is there and bought does not do; in tenths, where sums of floats go wrong first."""
    for order, here, pack in itertools.product(range(0, 40, 3), range(0, 40, 7), (1, 5, 10, 25)):
        bought = 0
        while here + bought < order:
            bought += pack
        assert against_one(order / 10, here=here / 10, pack=pack / 10).buy == pytest.approx(bought / 10)


def test_what_the_shelf_does_not_know_is_bought_and_has_no_price():
    (line,) = against(Order((Item("Wire", RED, 3.0, 4.0),), ()), [Stock("relay", price=2.0)]).lines
    assert (line.stock, line.taken, line.buy, line.cost) == (None, 0.0, 4.0, None)


def test_what_has_no_price_is_counted_and_not_taken_for_nothing():
    items = tuple(Item("Wire", what, 2.0, 2.0) for what in ("a", "b", "c", "d"))
    needs = against(Order(items, ()), [Stock("a", price=3.0), Stock("b"), Stock("c", here=5.0)])
    assert needs.cost == pytest.approx(6.0)
    assert needs.unpriced == 2  # b, and d that the shelf has no line for; of c nothing is bought


def test_free_low_and_by_the_reel():
    assert Stock(RED, here=5, set_aside=2).free == 3
    assert Stock(RED, here=2, set_aside=5).free == 0
    assert [Stock(RED, here=here, least=2).is_low for here in (1.9, 2, 2.1)] == [True, False, False]
    assert Stock(RED, here=7).lengths == (7,)
    assert Stock(RED, here=7, reels=(4, 3)).lengths == (4, 3)
    assert Stock(RED).lengths == ()


def test_a_connector_costs_its_halves_and_a_terminal_a_wire_or_nobody_knows():
    prices = {"pair": 4.0, "pin": 0.25, "socket": 0.5, "seal": None}
    assert pair_cost(prices, "pair", ["pin", "socket", "pin"]) == pytest.approx(5.0)
    assert pair_cost(prices, "pair", []) == 4.0
    assert pair_cost(prices, "pair", ["pin", "seal"]) is None
    assert pair_cost(prices, "pair", ["ring"]) is None
    assert pair_cost({"pin": 1.0}, "pair", ["pin"]) is None
