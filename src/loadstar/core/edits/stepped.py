"""A converter for what is made for 12 V, on a machine with a traction pack."""

from ..doc.states import moved_by
from ..parts.converter import Converter
from ..parts.pack import Pack
from ..parts.port import Port
from ..plan.bodies import BODY_KINDS
from .builder import Builder

CONVERTERS_A = (3, 6, 10, 20, 30)  # that are sold
SPARE, USUAL_V = 1.25, 12
TYPICAL = ("window_low_v", "window_high_v", "rated_a", "efficiency_frac", "idle_w")


def put_converter(b: Builder, watts: float) -> str:
    """A 12 V converter that takes the pack from empty to full, and gives what is asked of it at once; its id."""
    pack = b.plan.packs[0]
    rated = next((a for a in CONVERTERS_A if a >= SPARE * watts / 12), CONVERTERS_A[-1])
    name = BODY_KINDS[b.plan.machine.kind].goes.get("converter")
    place = next((p.id for p in b.plan.places if p.name == name), pack.place)
    return b.add("converter", name=f"12 V converter, {rated} A", place=place, window_low_v=int(pack.empty_v) - 2,
                 window_high_v=int(pack.full_v) + 6, out_v=12, rated_a=rated, typical=TYPICAL)


def stepped_down(b: Builder, feed: str, watts: float) -> str:
    """What feeds a thing of 12 V that is asked for on `feed`: that itself; on a traction pack, or on a converter or
    light port that has not enough left, a converter that has, or a new one."""
    made = b.plan.second_supply(feed)
    if (made is None and not b.plan.is_one(feed, Pack)) or (made is not None and SPARE * watts <= _left_w(b, made)):
        return feed
    there = next((c for c in b.plan.of(Converter) if c.out_v == USUAL_V and SPARE * watts <= _left_w(b, c)), None)
    return there.id if there else put_converter(b, watts)


def _left_w(b: Builder, made: Converter | Port) -> float:
    """What a converter or light port gives besides all that hangs on it; of two beams, or left and right, the
    larger."""
    amps: dict[str, dict[str, float]] = {}
    for load in b.plan.loads:
        if b.plan.hangs_on(load) == made.id:
            group = amps.setdefault(moved_by(load.live) or load.id, {})
            group[load.live] = group.get(load.live, 0.0) + load.draws_a(made.out_v)
    return made.most_w - sum(max(group.values()) for group in amps.values()) * made.out_v
