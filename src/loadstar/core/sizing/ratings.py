"""Fuse ratings and way settings: what speaks against one, and the smallest that will do."""

from dataclasses import dataclass

from ..materials import fuses
from ..parts.load import LoadPart
from ..parts.tap import Tap
from ..wiring.topology import Topology
from .inrush import curve_of, inrush_through
from .openers import ELECTRONIC_FASTEST
from .short import may_open


@dataclass(frozen=True)
class RatingFault:
    """Why a rating will not do: "share", "inrush" or "cranking", with the figure and the limit."""

    why: str
    has: float
    limit: float


def rating_faults(topology: Topology, fuse: str, rating_a: float, peak_a: float,
                  short_a: float = 0.0) -> list[RatingFault]:
    """What speaks against a rating at a continuous current: its share, the inrush of what comes on together behind it,
    and what it carries while the starter turns."""
    plan, part = topology.plan, topology.parts[fuse]
    assert part.protection is not None, fuse
    if part.protection.kind == "electronic":  # no ageing, and inrush is let through by its soft start
        most_a = max(peak_a, short_a / ELECTRONIC_FASTEST[0][0])  # for seconds it carries a little more
        return [RatingFault("share", most_a / rating_a, 1.0)] if most_a > rating_a else []
    found = []
    carries = fuses.rerated_a(rating_a, plan.ambient_at(part.place))
    if peak_a > plan.rules.fuse_share_frac * carries:
        found.append(RatingFault("share", peak_a / carries, plan.rules.fuse_share_frac))
    inrush, curve = inrush_through(topology, fuse, rating_a), curve_of(topology, fuse)
    if inrush and inrush.a2s > inrush.bears_a2s(rating_a, curve):
        found.append(RatingFault("inrush", inrush.a2s, inrush.bears_a2s(rating_a, curve)))
    if short_a > carries and may_open(carries, short_a, curve):
        found.append(RatingFault("cranking", short_a, carries))
    return found


def least_rating(topology: Topology, fuse: str, peak_a: float, above_a: float = 0.0, short_a: float = 0.0) -> float:
    """The smallest rating (a module's way: setting) that passes and is larger than `above_a`; where none passes, the
    smallest that carries its share, or the largest there is."""
    part = topology.parts[fuse]
    assert part.protection is not None, fuse
    every = part.protection.steps_a
    steps = [r for r in every if r > above_a]
    owner = topology.plan.is_one(part.made_for or "", LoadPart)
    if owner is not None and owner.maker_fuse_a is not None and owner.maker_fuse_a > above_a and not rating_faults(
            topology, fuse, owner.maker_fuse_a, peak_a, short_a):
        return owner.maker_fuse_a  # as its maker asks, where that does not open needlessly
    for rating in steps:
        if not rating_faults(topology, fuse, rating, peak_a, short_a):
            return rating
    carries = [r for r in steps if all(f.why == "inrush" for f in rating_faults(topology, fuse, r, peak_a, short_a))]
    return carries[0] if carries else every[-1]


def goes_dark(topology: Topology, upstream: str, branch: str) -> tuple[str, ...]:
    """Who else goes dark when what protects upstream of a branch opens with it: names of other loads, and the machine's
    own users."""
    mine = {p.id for p in topology.loads_fed_through.get(branch, ())}
    others = [p.name for p in topology.loads_fed_through.get(upstream, ()) if p.id not in mine]
    part = topology.plan.is_one(upstream, Tap)
    if part is not None and part.others_a > 0:
        others.append(part.others or f"the machine's own users of {part.name}")
    return tuple(others)


def selective_above_a(topology: Topology, fuse: str, rating_a: dict[str, float]) -> float:
    """The largest rating behind a fuse that it has to exceed, so that a fault in one branch leaves the others alive; 0
    for none."""
    served = len(topology.loads_fed_through.get(fuse, ()))  # what a branch serves, what lies before it serves too
    return max((rating_a[branch] for branch in topology.protected_behind.get(fuse, ())
                if branch in rating_a and len(topology.loads_fed_through.get(branch, ())) < served), default=0.0)
