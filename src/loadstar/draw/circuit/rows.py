"""The chains of a circuit drawing one under the other: what shares a bar lies together, on as many sheets as it takes,
and on each so that bars are short and few lines cross them.
"""

from collections import defaultdict
from collections.abc import Sequence

from .items import Chain
from .ranks import Ranked

CROSSING = 4  # rows that a bar may be longer rather than be crossed once more
PASSES = 4
FIRST = {"cell": 0, "generator": 0, "output": 1}  # what feeds stands over what it feeds


def in_order(ranked: Ranked) -> list[Chain]:
    """From each bar's rows to those of the bars that they lead to; ways back after what they lead back from."""
    at: dict[str, list[Chain]] = defaultdict(list)
    for chain in ranked.chains:
        at[chain.a].append(chain)
    middle = ranked.middle
    ways_back = {c for c in ranked.chains if ranked.column[c.a] >= middle.stop and c.a != c.b}
    rows: list[Chain] = []
    seen: set[str] = set()
    for start in sorted(at, key=lambda node: ranked.column[node]):
        ahead = [start]
        while ahead:
            node = ahead.pop()
            if node in seen:
                continue
            seen.add(node)
            here = [c for c in at[node] if c not in ways_back]
            here.sort(key=lambda c: (min(FIRST.get(i.kind, 2) for i in c.items), c.b in at and c.b not in seen))
            rows += here
            ahead += [c.b for c in reversed(here) if ranked.column[c.b] < middle.stop]
    return _with_ways_back(rows, sorted(ways_back, key=lambda c: (ranked.column[c.a], c.items[0].element)))


def _with_ways_back(rows: list[Chain], ways_back: list[Chain]) -> list[Chain]:
    """Each way back after the last row that ends where it begins."""
    for chain in ways_back:
        last = max((n for n, row in enumerate(rows) if chain.a in (row.a, row.b)), default=len(rows) - 1)
        rows.insert(last + 1, chain)
    return rows


def straightened(rows: list[Chain], ranked: Ranked) -> list[Chain]:
    """A sheet's rows so that what it costs is no less with any one of them elsewhere, or nearly."""
    best = _cost(rows, ranked)
    for _ in range(PASSES):
        before = best
        for chain in list(rows):
            without = [c for c in rows if c is not chain]
            tried = [(_cost(placed, ranked), n, placed) for n in range(len(rows))
                     for placed in [[*without[:n], chain, *without[n:]]]]
            cost, _, placed = min(tried, key=lambda one: one[:2])
            if cost < best:
                best, rows = cost, placed
        if best == before:
            break
    return rows


def reach(rows: Sequence[Chain]) -> dict[str, tuple[int, int]]:
    """The first and the last row of each bar."""
    first: dict[str, int] = {}
    last: dict[str, int] = {}
    for n, chain in enumerate(rows):
        for node in (chain.a, chain.b):
            first.setdefault(node, n)
            last[node] = n
    return {node: (n, last[node]) for node, n in first.items()}


def _cost(rows: list[Chain], ranked: Ranked) -> int:
    """Rows that the bars reach over, and what crosses them."""
    bars, column = reach(rows), ranked.column
    cost = sum(last - first for first, last in bars.values())
    for n, chain in enumerate(rows):
        left, right = column[chain.a], column[chain.b]
        for node, (first, last) in bars.items():
            if first < n < last and left < column[node] < right and node not in (chain.a, chain.b):
                cost += CROSSING
    return cost
