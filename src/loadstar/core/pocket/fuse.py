"""What fuse a wire may have, and how long a fuse carries what."""

import math
from typing import Annotated, ClassVar

from pydantic import Field

from ..doc.rules import HouseRules
from ..doc.types import AreaMm2, FuseRating
from ..errors import refuse
from ..figures.working import HOUSE, Input, Working
from ..materials.fuses import KINDS, RERATE_PER_K, RERATED_FROM_C, Pattern, opening_times_s, rerated_a
from ..parts.asks import PATTERNS, Ask
from ..sizing.argument import PROTECTION_SPARE_K, Duty, Stands, stands
from ..sizing.openers import Guard, Opener
from ..wiring.conductor import conductor_of
from .base import SIZES, Answer, Question, Table, two_figures

FAULT_A = 200.0  # of a short behind a usual battery
LEAST_FAULT = 1.01  # of the rating: less is no fault
PATTERN = Ask("pattern", "Kind of fuse", kind="choice", choices=PATTERNS)
RATINGS = tuple((f"{a:g}", f"{a:g} A") for a in sorted({a for kind in KINDS.values() for a in kind.ratings_a}))
MULTIPLES = (1.0, 1.1, 1.35, 1.6, 2.0, 3.5, 6.0)


def spoken_s(seconds: float) -> str:
    """A time as it is spoken of."""
    if math.isinf(seconds):
        return "never, by the standard"
    for size, unit in ((3600.0, "h"), (60.0, "min"), (1.0, "s")):
        if seconds >= size:
            return f"{two_figures(seconds / size)} {unit}"
    return f"{two_figures(seconds * 1000)} ms"


class FuseOfWire(Question):
    """The largest fuse that still protects a wire, and the smallest that carries a load."""

    KEY: ClassVar[str] = "fuse"
    TITLE: ClassVar[str] = "What fuse for this wire?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("area_mm2", "Wire", kind="choice", choices=SIZES), PATTERN,
        Ask("ambient_c", "Air around it", "With what the wires beside it add."),
        Ask("fault_a", "A short drives", "200 A behind a usual battery, more behind a pack."),
        Ask("amps_a", "The load draws", "Empty: not asked.", optional=True))

    area_mm2: AreaMm2 = 1.0
    pattern: Pattern = "blade"
    ambient_c: Annotated[float, Field(ge=-30, le=90)] = 40
    fault_a: Annotated[float, Field(ge=5, le=5000)] = FAULT_A
    amps_a: Annotated[float, Field(gt=0, le=500)] | None = None

    def answer(self, rules: HouseRules) -> Answer:
        """Every rating of the kind, judged as in a plan."""
        kind, wire = KINDS[self.pattern], conductor_of(rules, self.area_mm2)
        judged = stands([
            Duty(wire, self.ambient_c, self.amps_a or 0.0,
                 Guard("W", Opener("fuse", kind.curve, rating, 1.0), max(self.fault_a, rating * LEAST_FAULT)))
            for rating in kind.ratings_a])
        why = [_why_not(stand) for stand in judged]
        guards = [rating for rating, reason in zip(kind.ratings_a, why, strict=True) if not reason]
        carries = [rating for rating in kind.ratings_a if self.amps_a is None
                   or self.amps_a <= rules.fuse_share_frac * rerated_a(rating, self.ambient_c)]
        both = [rating for rating in guards if rating in carries]
        rows = tuple((f"{rating:g} A{', ' + shade if (shade := kind.by_rating[rating].colour) else ''}",
                      f"{stand.steady_c:.0f} °C", f"{stand.overload_c:.0f} °C",
                      reason or "protects it",
                      "" if self.amps_a is None else "carries it" if rating in carries else "too small")
                     for rating, stand, reason in zip(kind.ratings_a, judged, why, strict=True))
        table = Table("Every rating", ("Fuse", "At 1.1 times", "At 1.35 times", "Wire", "Load"), rows,
                      kind.ratings_a.index(guards[-1]) if guards else None, kind.source)
        limit = Working("What the wire stands for good", "I_z", judged[0].limit_a, "A", "I_z", (
            Input("I_z", judged[0].limit_a, "A", f"{self.area_mm2:g} mm² at {judged[0].class_c:g} °C in such air",
                  "heat balance of the wire, or the table where that is lower"),))
        return Answer(self._said(kind.words, guards, both), (limit,), (
            "The wire lies by itself: in a loom, its neighbours warm the air around it.",
            f"Take one for the full volts of the supply: it comes for {', '.join(f'{v} V' for v in kind.volts)}."),
            (table,),
            grave=not (both if self.amps_a else guards))

    def _said(self, words: str, guards: list[float], both: list[float]) -> str:
        if not guards:
            return f"None: no {words} protects {self.area_mm2:g} mm² there."
        if self.amps_a is None:
            return f"{guards[-1]:g} A at the most ({words})."
        if not both:
            return f"None: up to {guards[-1]:g} A protects the wire, and that is too small for {self.amps_a:g} A."
        return (f"{both[0]:g} A ({words})." if len(both) == 1
                else f"{both[0]:g} A; {guards[-1]:g} A at the most ({words}).")


def _why_not(stand: Stands) -> str:
    """Why a plan would not take a fuse for the wire; "" where it would."""
    if not stand.protected:
        return "does not protect it"
    return "only just protects it" if stand.steady_c > stand.class_c - PROTECTION_SPARE_K else ""


class FuseCarries(Question):
    """What a fuse does with a current."""

    KEY: ClassVar[str] = "carries"
    TITLE: ClassVar[str] = "How long does this fuse carry it?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        PATTERN, Ask("rating_a", "Rating", kind="choice", choices=RATINGS), Ask("amps_a", "Current"),
        Ask("ambient_c", "Air around it"))

    pattern: Pattern = "blade"
    rating_a: FuseRating = 10
    amps_a: Annotated[float, Field(gt=0, le=5000)] = 20
    ambient_c: Annotated[float, Field(ge=-30, le=90)] = 25

    def answer(self, rules: HouseRules) -> Answer:
        """By the band of its standard."""
        kind = KINDS[self.pattern]
        if self.rating_a not in kind.ratings_a:
            come = ", ".join(f"{a:g}" for a in kind.ratings_a)
            raise refuse("", "rating_a", f"A {kind.words} comes for {come} A.")
        soonest, latest = opening_times_s(self.amps_a, self.rating_a, kind.curve)
        if math.isinf(soonest):
            said = "For good."
        elif math.isinf(latest):
            said = f"It can open after {spoken_s(soonest)}, or not at all."
        else:
            said = f"It opens after {spoken_s(soonest)} to {spoken_s(latest)}."
        rows = tuple((f"{m:g} times: {m * self.rating_a:.3g} A",
                      *(spoken_s(t) for t in opening_times_s(m * self.rating_a, self.rating_a, kind.curve)))
                     for m in MULTIPLES)
        stands_a = rerated_a(self.rating_a, self.ambient_c)
        rating = Input("I_n", self.rating_a, "A", "its rating", "printed on it")
        figures = (
            Working("The current against its rating", "m", self.amps_a / self.rating_a, "×", "I / I_n", (
                Input("I", self.amps_a, "A", "the current", "asked"), rating)),
            Working("What it stands there", "I_s", stands_a, "A", "I_n * (1 - f * (T - T_0))", (
                rating, Input("f", RERATE_PER_K, "1/K", "less for each degree (typical)", kind.source),
                Input("T", self.ambient_c, "°C", "air around it", "asked"),
                Input("T_0", RERATED_FROM_C, "°C", "that its rating is for", kind.source))),
            Working("What a load may draw from it for good", "I_l", rules.fuse_share_frac * stands_a, "A", "s * I_s", (
                Input("s", rules.fuse_share_frac, "", "share of it", HOUSE),
                Input("I_s", stands_a, "A", "what it stands there", "above"))))
        band = Table("Its band", ("Current", "Soonest", "Latest"), rows, None, kind.source)
        return Answer(said, figures, (), (band,), grave=math.isfinite(soonest))
