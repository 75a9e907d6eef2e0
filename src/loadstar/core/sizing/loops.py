"""What lies in the loop of each fault: fuses, electronic outputs and limits, what they carry of it, and what nobody has
found."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from ..materials.fuses import BANDS, Curve
from ..wiring.results import Choices
from .digits import in_nine_digits
from .flows import LEAST_SHARE, OPENER_SHARE, FaultCase, Flows, Ways
from .openers import Kind, Opener, overload_of, slowest_times_s
from .places import FaultPlaces

Array = NDArray[np.float64]
IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
OPENS: tuple[Kind, ...] = (*get_args(Curve), "electronic")
KINDS: tuple[Kind, ...] = (*OPENS, "limit")
FUSED = np.arange(len(BANDS))  # those of them that are fuses
OVERLOADS = np.array([overload_of(kind) for kind in KINDS])  # carried for minutes, of the rating
WHOLE = 1 - 1e-6  # an opener that carries this much of a fault ends it
LOOKED_AT = np.geomspace(0.02, 1.0, 10)  # of a dead fault's current: which of two kinds is the first there
LONGEST_S = 600.0


@dataclass
class Ends:
    """What ends each fault of a case. `least` are by (kind, fault) the amps of fault current at which an opener carries
    its rating, infinite where none is in the loop, and `first` which opener; `total`, `kind` and `which` the least of
    all kinds. `hidden` are faults that pass a factory fuse nobody has found, `veil` which."""

    least: Array
    first: IntArray
    total: Array
    kind: IntArray
    which: IntArray
    hidden: BoolArray
    veil: dict[int, str]

    def helper(self, at: IntArray) -> tuple[Array, IntArray]:
        """Of faults what of the other kind opens beside the first: its amps of fault current, infinite for none, and
        which."""
        kind, faults = self.kind[at], np.arange(len(at))
        others = self.least[: len(OPENS), at]
        others[np.minimum(kind, len(OPENS) - 1), faults] = np.inf  # of its own kind
        others[:, kind >= len(OPENS)] = np.inf  # a limiter is helped by nothing
        nearest = np.argmin(others, axis=0)
        return others[nearest, faults], self.first[nearest, at]


class Loops:
    """The openers of a plan, and where they are."""

    def __init__(self, finder: FaultPlaces, choices: Choices) -> None:
        self.finder, self.topology = finder, finder.topology
        self.openers = openers(finder, choices)
        self.names = [o.part for o in self.openers]
        rows: dict[str, int] = {name: i for i, name in enumerate(finder.contacts)}
        self.row = np.array([rows.get(o.part, -1) for o in self.openers], int)
        self.rating = np.array([o.rating_a for o in self.openers])
        self.kind = np.array([KINDS.index(o.kind) for o in self.openers], int)
        self.there = [k for k in range(len(OPENS)) if (self.kind == k).any()]  # kinds that open something
        self.unknown_row = {rows[p.id]: p.id for p in self.topology.taps_unknown if p.id in rows}

    def ends(self, way: Ways, flows: Flows, case: FaultCase, amps: Array) -> Ends:
        """What ends each fault of a case; `amps` are what they draw."""
        least, first = self._openers_of(way, flows, case)
        self._drop_idle(least, first, amps)
        total = np.min(least, axis=0, initial=np.inf)
        kind = np.argmin(least, axis=0)
        which = first[kind, np.arange(len(total))]
        passes, veil = self._passes_unknown(way, flows)
        return Ends(least, first, total, kind, which, np.isinf(total) & passes, veil)

    def _drop_idle(self, least: Array, first: IntArray, amps: Array) -> None:
        """An opener that carries a part of a fault, and too little of it to open, ends nothing."""
        for k in self.there:
            with np.errstate(invalid="ignore", divide="ignore"):
                part = np.where(np.isfinite(least[k]), self.rating[first[k]] / least[k], 1.0)
            least[k, (part < WHOLE) & (amps <= OVERLOADS[k] * least[k])] = np.inf

    def next(self, ends: Ends, amps: Array) -> Iterator[tuple[int, BoolArray]]:
        """Openers that open first in some faults without ending them, each with those faults. Of one kind the same is
        the first at every current; of several kinds each is looked at where it is at some current."""
        least, first = ends.least, ends.first
        for k in self.there:
            with np.errstate(invalid="ignore", divide="ignore"):
                part = np.where(np.isfinite(least[k]), self.rating[first[k]] / least[k], 1.0)
                goes_on = (amps > 0) & (part < WHOLE)
                if not goes_on.any():
                    continue
                at = amps * LOOKED_AT[:, None]
                own = slowest_times_s(OPENS[k], at / least[k])
                first_of_all = np.isfinite(own)
                for other in self.there:
                    if other != k:
                        first_of_all &= own <= slowest_times_s(OPENS[other], at / least[other])
            goes_on &= first_of_all.any(axis=0)
            for opener in np.unique(first[k][goes_on]).tolist():
                yield opener, goes_on & (first[k] == opener)

    def opens_s(self, ends: Ends, amps: Array) -> Array:
        """How long the first opener of each dead fault lets it last, at most LONGEST_S."""
        with np.errstate(invalid="ignore"):
            times = [slowest_times_s(OPENS[k], amps / ends.least[k]) for k in self.there]
        return np.asarray(np.clip(np.min(times, axis=0, initial=np.inf), 0.0, LONGEST_S)) if times else np.full(
            len(amps), LONGEST_S)

    def _openers_of(self, way: Ways, flows: Flows, case: FaultCase) -> tuple[Array, IntArray]:
        """Of the openers of each kind in each fault's loop the one furthest above its rating: by (kind, fault) the amps
        of fault current at its rating, and which; infinite where none is in the loop."""
        faults = len(self.finder.plus)
        least, first = np.full((len(KINDS), faults), np.inf), np.zeros((len(KINDS), faults), int)
        through = self._through(way, flows, case)
        number = np.full(len(self.finder.contacts) + 1, -1)
        number[self.row[self.row >= 0]] = np.flatnonzero(self.row >= 0)
        own_at, own = way.fault, number[way.edge]
        for k in range(len(KINDS)):
            mine = np.flatnonzero(self.kind == k)
            if not len(mine):
                continue
            with np.errstate(divide="ignore"):
                carried = in_nine_digits(np.where(through[mine] > OPENER_SHARE,
                                                  self.rating[mine, None] / np.maximum(through[mine], 1e-9), np.inf))
            best = np.argmin(carried, axis=0)
            least[k], first[k] = np.min(carried, axis=0)[way.of], mine[best][way.of]
            here = (own >= 0) & (self.kind[np.maximum(own, 0)] == k)
            at, fuse = own_at[here], own[here]
            # the least rating is written last, and of alike ones the newest
            order = np.lexsort((fuse, -self.rating[fuse]))
            at, fuse = at[order], fuse[order]
            branch, named = np.full(faults, np.inf), np.zeros(faults, int)
            branch[at], named[at] = self.rating[fuse], fuse
            nearer = branch <= least[k] * (1 + 1e-9)  # of alike ones in series the one nearer to the fault is named
            least[k], first[k] = np.where(nearer, branch, least[k]), np.where(nearer, named, first[k])
        return least, first

    def _through(self, way: Ways, flows: Flows, case: FaultCase) -> Array:
        """Share of a fault that each opener carries by way of the core, by (opener, pair of core probes)."""
        found = np.zeros((len(self.names), len(way.a)))
        inside = (self.row >= 0) & case.closed[np.maximum(self.row, 0)]
        found[inside] = flows.shares(self.finder.system, way, self.row[inside])
        group, at = self.finder.group, self.finder.system.index
        main = group[at[self.topology.positive]]
        for i, name in enumerate(self.names):
            if self.row[i] >= 0:
                continue
            limit = self.finder.limits.get(name)
            if limit is None:  # a fuse that is on nobody's way
                continue
            if limit.reach == "behind":  # it feeds what copper joins to it and not to the main supply
                output = self.topology.inside[name].output
                assert output, name
                own = group[at[self.topology.node(output[0])]]
                found[i] = (group[way.probes[way.a]] == own) & (own != main)
            else:
                found[i] = 1.0 if limit.reach == "all" or case.alone == name else 0.0
        return found

    def _passes_unknown(self, way: Ways, flows: Flows) -> tuple[BoolArray, dict[int, str]]:
        """Faults whose current passes a factory fuse that nobody has found, and which one."""
        hidden = np.zeros(len(self.finder.plus), bool)
        veil: dict[int, str] = {}
        for row, tap in self.unknown_row.items():
            mine = np.zeros(len(hidden), bool)
            mine[way.fault[way.edge == row]] = True
            if np.isfinite(flows.ohm[row]):
                mine |= (flows.shares(self.finder.system, way, np.array([row]))[0] > LEAST_SHARE)[way.of]
            for f in np.flatnonzero(mine & ~hidden).tolist():
                veil[f] = tap
            hidden |= mine
        return hidden, veil


def openers(places: FaultPlaces, choices: Choices) -> list[Opener]:
    """Everything that may end or limit a fault's current: what makes a supply of its own last."""
    found = []
    for part in places.topology.parts.values():
        if (protects := part.protection) is not None:
            rating = choices.rating_a[part.id] if protects.chosen else protects.stated_a
            assert rating is not None
            found.append(Opener(part.id, protects.opener, rating, 1.0))
    found += [Opener(part, "limit", limit.most_a, 1.0)
              for part, limit in places.limits.items() if limit.reach != "behind"]
    return found + [Opener(part, "limit", limit.most_a, 1.0)
                    for part, limit in places.limits.items() if limit.reach == "behind"]
