"""Which column a bar stands in: from the supply's positive to what takes, and from there back to its negative.

Bars from which a positive is reached without going through what takes stand left of it, as far as the longest way to
them has things in line; all others stand right of it, as far from the right edge as the longest way from them.
"""

from collections import defaultdict
from collections.abc import Container
from dataclasses import dataclass

from .items import TAKES, Chain, Circuitry


@dataclass(frozen=True)
class Ranked:
    """Chains, each from left to right; the column that each bar stands before; how many columns there are, and those
    in the middle, for what takes."""

    chains: tuple[Chain, ...]
    column: dict[str, int]
    columns: int
    middle: range


def ranked(circuit: Circuitry) -> Ranked:
    """The columns of a plan."""
    roots = circuit.topology.roots
    feed = _near(circuit, [r.positive for r in roots], {r.negative for r in roots})
    back = _near(circuit, [r.negative for r in roots], feed.keys())
    _islands(circuit, feed, back)
    chains = tuple(_turned(chain, feed, back) for chain in circuit.chains)
    left = _longest([(c.a, c.b, len(c.items)) for c in chains if c.b in feed and c.a != c.b], feed)
    right = _longest([(c.b, c.a, len(c.items)) for c in chains if c.a in back and c.a != c.b], back)
    through = [c for c in chains if c.a in feed and c.b in back]
    stubs = [c for c in chains if c.a == c.b]
    first = max([*left.values(), *(left[c.a] + c.loads.start for c in through),
                 *(left[c.a] + len(c.items) for c in stubs if c.a in feed)], default=0)
    wide = max((len(c.loads) for c in through), default=0)
    deep = max([*right.values(), *(right[c.b] + len(c.items) - c.loads.stop for c in through),
                *(right[c.a] + len(c.items) for c in stubs if c.a in back)], default=0)
    last = first + wide + deep
    column = {**left, **{node: last - depth for node, depth in right.items()}}
    return Ranked(chains, column, last, range(first, first + wide))


def _near(circuit: Circuitry, starts: list[str], ends: Container[str]) -> dict[str, int]:
    """Every node that is reached without going through what takes, in the order in which it is; `ends` are not gone
    into."""
    found = {node: n for n, node in enumerate(dict.fromkeys(starts)) if node in circuit.joined}
    queue = list(found)
    for node in queue:
        for item in circuit.joined[node]:
            if item.kind not in TAKES and item.b not in found and item.b not in ends:
                found[item.b] = len(found)
                queue.append(item.b)
    return found


def _islands(circuit: Circuitry, feed: dict[str, int], back: dict[str, int]) -> None:
    """What lies between two that take, or hangs on nothing, goes with the feed."""
    for node in circuit.joined:
        if node not in feed and node not in back:
            for other in _near(circuit, [node], {**feed, **back}):
                feed[other] = len(feed)


def _turned(chain: Chain, feed: dict[str, int], back: dict[str, int]) -> Chain:
    """From the supply's positive towards its negative."""
    a, b = chain.a, chain.b
    if a in feed and b in feed:
        right_way = feed[a] <= feed[b]
    elif a in back and b in back:
        right_way = back[a] >= back[b]
    else:
        right_way = a in feed
    return chain if right_way else chain.turned


def _longest(ways: list[tuple[str, str, int]], order: dict[str, int]) -> dict[str, int]:
    """For every node the most things in line from where it begins."""
    onward: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for a, b, many in ways:
        if order.get(a, -1) <= order[b] and a in order:
            onward[a].append((b, many))
    found = dict.fromkeys(order, 0)
    for node in sorted(order, key=order.__getitem__):
        for other, many in onward[node]:
            found[other] = max(found[other], found[node] + many)
    return found
