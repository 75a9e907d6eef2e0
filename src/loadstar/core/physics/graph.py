"""Which nodes of a graph are joined? For the small graphs of a plan, solved anew many times."""

import numpy as np
from numpy.typing import NDArray

IntArray = NDArray[np.int64]


def components(edges: IntArray, nodes: int) -> tuple[int, IntArray]:
    """Connected groups of the nodes 0 .. `nodes` - 1 under edges (a row of ends each): how many, and each node's group.

    Every node takes the least number that it is joined to; following that number's own doubles the reach in each turn.
    """
    a, b = edges
    label = np.arange(nodes)
    while True:
        low = np.minimum(label[a], label[b])
        fresh = label.copy()
        for ends in (label[a], label[b]):
            np.minimum.at(fresh, ends, low)
        fresh = fresh[fresh[fresh]]
        if np.array_equal(fresh, label):
            break
        label = fresh
    first, group = np.unique(label, return_inverse=True)
    return len(first), np.asarray(group.ravel(), np.int64)
