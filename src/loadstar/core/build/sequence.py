"""The best order of some operations: fewest changes of place (five each) and of tool or die (one each).

Everything that can be done at a place with a tool is done there before anything else: it costs nothing and only frees
more, so that an order is a row of places with tools. All such rows are looked through, the cheapest first, as long as
they are few; else the best of each length are gone on with.
"""

import heapq
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from .. import limits
from .operations import Operation

PLACE_COST, TOOL_COST = 5, 1
MOST_STATES, BEAM = 200_000, 200


@dataclass(frozen=True)
class Order:
    """Operations in order, what changing place and tool costs, and whether no cheaper order exists."""

    keys: tuple[str, ...]
    cost: int
    proven: bool


class Circle(ValueError):
    """Operations wait for one another in a circle; `keys` names them."""

    def __init__(self, keys: tuple[str, ...]) -> None:
        super().__init__(", ".join(keys))
        self.keys = keys


def cost(operations: Sequence[Operation]) -> int:
    """What the changes of an order cost; the first place and tool are free."""
    return sum(PLACE_COST * (a.where != b.where) + TOOL_COST * (a.tool != b.tool)
               for a, b in pairwise(operations))


def best(operations: Iterable[Operation], before: Mapping[str, frozenset[str]], most: int = MOST_STATES) -> Order:
    """The cheapest order; of equally cheap ones that whose keys come first. What has to come before and is not among
    them is taken as done. Where the time is over the nearest is taken each time. Raises Circle where there is none."""
    every = sorted(operations, key=lambda o: o.key)
    if not every:
        return Order((), 0, True)
    search = _Search(every, before)
    try:
        found = search.exact(most) or search.beam()
    except limits.TooLarge:
        found = search.greedy()
    moves, total, proven = found
    return Order(search.keys(moves), total, proven)


class _Search:
    """Operations as bits of a number; a state is what has been done, and where with what."""

    def __init__(self, every: Sequence[Operation], before: Mapping[str, frozenset[str]]) -> None:
        self.every = every
        number = {o.key: n for n, o in enumerate(every)}
        self.waits = [sum(1 << number[k] for k in before.get(o.key, ()) if k in number) for o in every]
        self.stations = sorted({(o.where, o.tool) for o in every})
        at = {s: n for n, s in enumerate(self.stations)}
        self.at = [at[o.where, o.tool] for o in every]
        self.mine = [[n for n, s in enumerate(self.at) if s == k] for k in range(len(self.stations))]
        self.whole = (1 << len(every)) - 1
        self.at_place = {p: sum(1 << n for n, o in enumerate(every) if o.where == p) for p in {o.where for o in every}}
        self.with_tool = {t: sum(1 << n for n, o in enumerate(every) if o.tool == t) for t in {o.tool for o in every}}
        self._closed: dict[tuple[int, int], int] = {}

    def closed(self, done: int, station: int) -> int:
        """What is done once everything that can be done at a station has been."""
        key = done, station
        if key not in self._closed:
            fresh = True
            while fresh:
                fresh = False
                for n in self.mine[station]:
                    if not done >> n & 1 and self.waits[n] & ~done == 0:
                        done |= 1 << n
                        fresh = True
            self._closed[key] = done
        return self._closed[key]

    def open(self, done: int) -> list[int]:
        """The stations at which something can be done."""
        return sorted({self.at[n] for n in range(len(self.every))
                       if not done >> n & 1 and self.waits[n] & ~done == 0})

    def change(self, was: int, now: int) -> int:
        """What it costs to go from one to another; -1: from nowhere."""
        if was < 0:
            return 0
        (place, tool), (to, with_) = self.stations[was], self.stations[now]
        return PLACE_COST * (place != to) + TOOL_COST * (tool != with_)

    def at_least(self, done: int, was: int) -> int:
        """What is left to pay at the least: every place and every tool with something left is come to once more."""
        left = self.whole & ~done
        place, tool = self.stations[was] if was >= 0 else ("", "")
        found = sum(PLACE_COST for p, mask in self.at_place.items() if mask & left and p != place)
        found += sum(TOOL_COST for t, mask in self.with_tool.items() if mask & left and t != tool)
        return found if was >= 0 else max(0, found - PLACE_COST - TOOL_COST)

    def exact(self, most: int) -> tuple[tuple[int, ...], int, bool] | None:
        """The cheapest first, by what it has cost and will cost at the least; None where there are too many states."""
        heap: list[tuple[int, tuple[int, ...], int, int, int]] = [(0, (), 0, 0, -1)]
        seen: set[tuple[int, int]] = set()
        while heap:
            _, moves, so_far, done, was = heapq.heappop(heap)
            if done == self.whole:
                return moves, so_far, True
            if (done, was) in seen:
                continue
            seen.add((done, was))
            limits.check()
            if len(seen) > most:
                return None
            stations = self.open(done)
            if not stations:
                raise Circle(tuple(o.key for n, o in enumerate(self.every) if not done >> n & 1))
            for s in stations:
                cost, then = so_far + self.change(was, s), self.closed(done, s)
                heapq.heappush(heap, (cost + self.at_least(then, s), (*moves, s), cost, then, s))
        raise AssertionError("a state leads on, or is the last")

    def beam(self) -> tuple[tuple[int, ...], int, bool]:
        """The best few of each length."""
        row: list[tuple[int, tuple[int, ...], int, int]] = [(0, (), 0, -1)]
        finished: list[tuple[int, tuple[int, ...]]] = []
        while row:
            limits.check()
            found: dict[tuple[int, int], tuple[int, tuple[int, ...], int, int]] = {}
            for so_far, moves, done, was in row:
                if done == self.whole:
                    finished.append((so_far, moves))
                    continue
                for s in self.open(done):
                    state = so_far + self.change(was, s), (*moves, s), self.closed(done, s), s
                    key = state[2], s
                    if key not in found or state[:2] < found[key][:2]:
                        found[key] = state
            row = sorted(found.values(), key=lambda state: (state[0] - 2 * state[2].bit_count(), state[1]))[:BEAM]
            if not row and not finished:
                raise Circle(tuple(o.key for o in self.every))
        total, moves = min(finished)
        return moves, total, False

    def greedy(self) -> tuple[tuple[int, ...], int, bool]:
        """The nearest station each time: for what is too large to look through."""
        done, was, total, moves = 0, -1, 0, []
        while done != self.whole:
            stations = self.open(done)
            if not stations:
                raise Circle(tuple(o.key for n, o in enumerate(self.every) if not done >> n & 1))
            nearest = min(stations, key=lambda s: (self.change(was, s), s))
            total += self.change(was, nearest)
            moves.append(nearest)
            done, was = self.closed(done, nearest), nearest
        return tuple(moves), total, False

    def keys(self, moves: Sequence[int]) -> tuple[str, ...]:
        """The operations of a row of stations, each as soon as it can be."""
        done, found = 0, []
        for station in moves:
            fresh = True
            while fresh:
                fresh = False
                for n in self.mine[station]:
                    if not done >> n & 1 and self.waits[n] & ~done == 0:
                        done |= 1 << n
                        found.append(self.every[n].key)
                        fresh = True
        return tuple(found)
