"""Fuse ratings and way settings: what speaks against one, and the smallest that will do."""

from dataclasses import dataclass

from ..materials import fuses
from ..plan.model import FusePart, LoadPart, Tap, Way
from ..wiring.circuit import Topology
from .inrush import inrush_through

WAY_STEPS_A = (1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 12.5, 15.0, 20.0, 25.0, 30.0)  # settings of a module's way


@dataclass(frozen=True)
class RatingFault:
    """Why a rating will not do: "share" or "inrush", with the figure and the limit."""

    why: str
    has: float
    limit: float


def rating_faults(topology: Topology, fuse: str, rating_a: float, peak_a: float) -> list[RatingFault]:
    """What speaks against a rating at a continuous current: its share, and the inrush of what comes on together behind it."""
    plan, part = topology.plan, topology.parts[fuse]
    if isinstance(part, Way):  # it limits by electronics: no ageing, and inrush is let through by its soft start
        return [RatingFault("share", peak_a / rating_a, 1.0)] if peak_a > rating_a else []
    found = []
    carries = fuses.rerated_a(rating_a, plan.ambient_at(part.place))
    if peak_a > plan.rules.fuse_share_frac * carries:
        found.append(RatingFault("share", peak_a / carries, plan.rules.fuse_share_frac))
    inrush = inrush_through(topology, fuse, rating_a)
    if inrush and inrush.a2s > inrush.bears_a2s(rating_a):
        found.append(RatingFault("inrush", inrush.a2s, inrush.bears_a2s(rating_a)))
    return found


def least_rating(topology: Topology, fuse: str, peak_a: float, above_a: float = 0.0) -> float:
    """The smallest rating (a module's way: setting) that passes and is larger than `above_a`; where none passes, the smallest that
    carries its share, or the largest there is."""
    part = topology.parts[fuse]
    steps = [r for r in (WAY_STEPS_A if isinstance(part, Way) else fuses.RATINGS_A) if r > above_a]
    owner = topology.parts.get(part.made_for or "")
    if isinstance(owner, LoadPart) and owner.maker_fuse_a is not None and owner.maker_fuse_a > above_a and not rating_faults(
            topology, fuse, owner.maker_fuse_a, peak_a):
        return owner.maker_fuse_a  # as its maker asks, where that does not open needlessly
    for rating in steps:
        if not rating_faults(topology, fuse, rating, peak_a):
            return rating
    carries = [r for r in steps if all(f.why != "share" for f in rating_faults(topology, fuse, r, peak_a))]
    return carries[0] if carries else (WAY_STEPS_A if isinstance(part, Way) else fuses.RATINGS_A)[-1]


def fixed_rating_a(topology: Topology, element: str) -> float | None:
    """The rating of what protects by its own: fixed by hand, or found on the machine; None for others and for what is open."""
    part = topology.parts.get(element)
    if isinstance(part, FusePart):
        return part.rating_a
    if isinstance(part, Way):
        return part.limit_a
    return part.fused_a if isinstance(part, Tap) and not part.unfused else None


def goes_dark(topology: Topology, upstream: str, branch: str) -> tuple[str, ...]:
    """Who else goes dark when what protects upstream of a branch opens with it: names of other loads, and the machine's own users."""
    mine = {p.id for p in topology.loads_fed_through.get(branch, ())}
    others = [p.name for p in topology.loads_fed_through.get(upstream, ()) if p.id not in mine]
    part = topology.parts[upstream]
    if isinstance(part, Tap) and part.others_a > 0:
        others.append(part.others or f"the machine's own users of {part.name}")
    return tuple(others)


def selective_above_a(topology: Topology, fuse: str, rating_a: dict[str, float]) -> float:
    """The largest rating behind a fuse that it has to exceed, so that a fault in one branch leaves the others alive; 0 for none."""
    served = len(topology.loads_fed_through.get(fuse, ()))  # what a branch serves, what lies before it serves too
    return max((rating_a[branch] for branch in topology.protected_behind.get(fuse, ())
                if branch in rating_a and len(topology.loads_fed_through.get(branch, ())) < served), default=0.0)
