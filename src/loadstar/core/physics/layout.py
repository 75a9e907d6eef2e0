"""A network as arrays: nodes by number, elements by their ends."""

import numpy as np

from .elements import Network, NetworkError
from .laws import ConverterLaw, LoadLaw


class Layout:
    """A network's elements as arrays of node numbers, two rows each: resistors `r`, sources `s`, loads `e`, diodes `d`,
    converters' outputs `co` and inputs `ci`; `k` are all with a current of their own."""

    def __init__(self, network: Network) -> None:
        self.network = net = network
        bad = tuple(r.name for r in net.resistors if not r.ohm > 0)
        if bad:
            raise NetworkError("a resistance of zero or less", bad)
        pairs = ([(r.a, r.b) for r in net.resistors], [(s.plus, s.minus) for s in net.sources],
                 [(e.plus, e.minus) for e in net.loads], [(d.a, d.b) for d in net.diodes],
                 [(c.out_plus, c.out_minus) for c in net.converters], [(c.in_plus, c.in_minus) for c in net.converters])
        self.nodes = tuple(dict.fromkeys([net.reference, *(n for group in pairs for pair in group for n in pair)]))
        self.index = at = {name: i for i, name in enumerate(self.nodes)}
        self.r, self.s, self.e, self.d, self.co, self.ci = (
            np.array([(at[a], at[b]) for a, b in group], np.int64).reshape(-1, 2).T for group in pairs)
        self.k = np.concatenate([self.s, self.d, self.co], axis=1)  # everything with a current of its own
        self.n, self.size = len(self.nodes), len(self.nodes) + self.k.shape[1]
        self.names = (*(r.name for r in net.resistors), *(s.name for s in net.sources), *(e.name for e in net.loads),
                      *(d.name for d in net.diodes), *(c.name for c in net.converters),
                      *(f"{c.name}.in" for c in net.converters))
        self.law, self.converter_law = LoadLaw(net.loads), ConverterLaw(net.converters)
        self.diode_v, self.diode_ohm = (np.array([getattr(d, f) for d in net.diodes], float) for f in ("drop_v", "ohm"))
