"""Volts downwards and metres along: the scale of a descent."""

from dataclasses import dataclass

from .walk import Walk

LEFT, RIGHT, TOP = 74.0, 14.0, 24.0
STEP_W = 10.0
CLIFF = 86.0
LEAST_SPAN_V = 0.12
LEAST_BAND = 112.0


@dataclass(frozen=True)
class Scale:
    """Metres and volts to picture units; the return band lies below the cliff."""

    width: float
    feed_top: float
    feed_high_v: float
    feed_bottom: float
    back_top: float
    back_high_v: float
    back_bottom: float
    per_v: float
    length_m: float

    def x(self, metres: float) -> float:
        """Along."""
        return LEFT + (self.width - LEFT - RIGHT) * metres / self.length_m

    def feed_y(self, volts: float) -> float:
        """Height in the feed band."""
        return self.feed_top + (self.feed_high_v - volts) * self.per_v

    def back_y(self, volts: float) -> float:
        """Height in the return band."""
        return self.back_top + (self.back_high_v - volts) * self.per_v


def scale_of(way: Walk, width: float, height: float) -> Scale:
    """One scale of volts for both bands, chosen so that they fill the height."""
    feed_v = max(way.feed[0].v0 - way.feed[-1].v1, 0.0)
    back_v = max(way.back[0].v0 - min(way.back[-1].v1, 0.0), 0.0)
    room = height - TOP - CLIFF - 30
    pad = 30.0
    usable = room - 4 * pad
    span = max(feed_v + back_v, LEAST_SPAN_V)
    per_v = usable / span
    feed_h = max(feed_v * per_v + 2 * pad, LEAST_BAND)
    back_h = max(room - feed_h, LEAST_BAND)
    if feed_h + back_h > room:
        feed_h = room - back_h
        per_v = min(per_v, (feed_h - 2 * pad) / max(feed_v, 1e-9), (back_h - 2 * pad) / max(back_v, 1e-9))
    high = way.feed[0].v0 + pad / per_v
    back_high = way.back[0].v0 + pad / per_v
    return Scale(width, TOP, high, TOP + feed_h, TOP + feed_h + CLIFF, back_high, TOP + feed_h + CLIFF + back_h, per_v,
                 max(way.length_m, 0.1))
