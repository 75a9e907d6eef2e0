"""Why a wire of a size will do, or will not: the one argument that sizing, rules, candidates, workings and touches ask.

A wire must carry what the plan asks of it in every situation (`use_a`), in the air it lies in, within its class less
the house margin. And it must stand what a fault or an overload can drive through it before something ends that (its
`Guard`): at 1.10 times the opener's rating, carried for hours, within its class; at 1.35 times, carried for ten
minutes, within class + 25 K; and from there to the prospective current the slowest opener acts before the conductor
reaches class + 50 K from the temperature of 0.8 times the rating. What the wire carries besides flows on in all three.
A wire that nothing guards is judged by what the next opener behind it lets through, and by the sum of several. Where a
fault goes on after its first opener, all its stages together must leave the conductor below class + 50 K.
Temperatures are those of conductor.py; below 1 s the wire's time is the adiabatic one, which is always the shorter.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..doc.rules import HouseRules
from ..materials import fuses
from ..materials.conductors import IDEAL_OHM_MM2_PER_M
from ..physics import heat, overload
from ..wiring.conductor import ConductorAt, Conductors
from .openers import ELECTRONIC_SLOWEST, OVERLOAD_MULTIPLE, PRELOAD, Guard, Opener
from .story import Course

Array = NDArray[np.float64]
# what an own choice wants to spare at 1.10 times the rating: the heat model is good to about 15 %
PROTECTION_SPARE_K = 10.0
SHORT_TERM_K, OVERLOAD_K = 25.0, 50.0  # above the class, ISO 6722-1: 240 h and 6 h
GATES = {kind: tuple(sorted({OVERLOAD_MULTIPLE, *(m for m, _ in slowest), *(m for m, _ in ELECTRONIC_SLOWEST)}))
         for kind, slowest in (*((k, band.slowest) for k, band in fuses.BANDS.items()), ("electronic", fuses.SLOWEST))}
BETWEEN = (1.45, 1.8, 2.35, 2.7, 3.0, 4.5)  # looked at besides the gates where the adiabatic time does not settle it
MOST_A = 10_000.0
CURVE_MULTIPLES = (1.01, 1.03, 1.06, 1.1, 1.15, 1.2, 1.3, 1.4, 1.55, 1.7, 1.9, 2.2, 2.6, 3.2, 4.0, 5.0, 7.0, 10.0)


@dataclass(frozen=True)
class Duty:
    """What is asked of one wire: the wire at a size, its air (neighbours included), its current in use, and its
    guard."""

    wire: ConductorAt
    air_c: float
    use_a: float
    guard: Guard | None

    def at(self, wire: ConductorAt) -> "Duty":
        """The same asked of another size."""
        return replace(self, wire=wire)


@dataclass(frozen=True)
class Stands:
    """How a wire stands its duty: temperatures in C in use, at 1.10 and 1.35 times its guard, and with several at once.

    `limit_a` is the current that brings it to its class; `fails_from_a` the least fault current at which its guard may
    act too late (None: at none that can flow); `late` a fault of several stages that heats it too much before it ends.
    Without a guard the temperatures behind it are those of the air.
    """

    duty: Duty
    use_c: float
    steady_c: float
    overload_c: float
    several_c: float
    limit_a: float
    fails_from_a: float | None
    late: "Heated | None" = None

    @property
    def class_c(self) -> float:
        """Its insulation's class."""
        return self.duty.wire.cover.continuous_c

    @property
    def protected(self) -> bool:
        """Whether nothing that its guard lets through for hours, minutes or an instant damages it."""
        return (self.steady_c <= self.class_c and self.overload_c <= self.class_c + SHORT_TERM_K
                and self.fails_from_a is None and self.late is None)

    @property
    def strength(self) -> float | None:
        """What the wire stands over what its guard lets through for hours; None without a guard."""
        guard = self.duty.guard
        return self.limit_a / guard.steady_a if guard else None

    def keeps_cool(self, rules: HouseRules) -> bool:
        """Whether it keeps the house margin to its class in use."""
        return self.use_c <= self.class_c - rules.thermal_margin_k + 1e-6


def stands(duties: Sequence[Duty]) -> list[Stands]:
    """Every duty judged."""
    if not duties:
        return []
    wires, air = Conductors(d.wire for d in duties), np.array([d.air_c for d in duties])
    heats = Heats.of(wires, currents([d.use_a for d in duties], [d.guard for d in duties]), air)
    allowed = wires.allowed_a(wires.class_c, air)
    return [Stands(d, float(u), float(s), float(o), float(n), float(a), late_from_a(d.wire, d.guard, d.air_c, float(p)),
                   late_course(d.wire, d.guard, d.air_c, float(p)))
            for d, u, s, o, n, a,
            p in zip(duties, heats.use_c, heats.steady_c, heats.overload_c, heats.several_c, allowed,
                                           heats.preload_c, strict=True)]


@dataclass(frozen=True)
class Heats:
    """Temperatures of many wires at once, C: in use, at 1.10 and 1.35 times their guards, several at once, and before a
    fault."""

    use_c: Array
    steady_c: Array
    overload_c: Array
    several_c: Array
    preload_c: Array

    @classmethod
    def of(cls, wires: Conductors, currents_a: Array, air_c: Array) -> "Heats":
        """Solve them for `currents` of the same wires."""
        return cls(*wires.temperature_c(currents_a, air_c))

    def cool(self, class_c: Array, rules: HouseRules) -> NDArray[np.bool_]:
        """Which keep everything that an own choice keeps, the timing of faults apart."""
        return np.asarray((self.use_c <= class_c - rules.thermal_margin_k)
                          & (self.steady_c <= class_c - PROTECTION_SPARE_K)
                          & (self.overload_c <= class_c + SHORT_TERM_K) & (self.several_c <= class_c))


def currents(use_a: Sequence[float], guards: Sequence[Guard | None]) -> Array:
    """What wires carry in use and behind their guards, as rows in the order of `Heats`."""
    lets = [(use, 0.0, 0.0, 0.0, 0.0) if g is None else (
        use, g.steady_a, g.lets_a(g.overload_multiple), g.several_lets_a, g.lets_a(PRELOAD))
        for use, g in zip(use_a, guards, strict=True)]
    return np.array(lets, float).reshape(-1, 5).T


def late_from_a(wire: ConductorAt, guard: Guard | None, air_c: float, preload_c: float) -> float | None:
    """The least current at which the guard may act too late, if a fault can drive so much; None otherwise.

    Temperatures are rounded up to 5 K, so that like wires share one computation: to the safe side.
    """
    if guard is None or guard.opener.kind == "limit":
        return None
    top = round(wire.cover.overload_c) - 1
    air = min(5 * math.ceil(air_c / 5), top)
    start = max(min(5 * math.ceil(min(preload_c, 999.0) / 5), top), air)
    others = 0.5 * math.ceil(guard.others_a / 0.5)
    found = _first_too_late_a(wire, _rounded(guard.opener), _rounded(guard.helper) if guard.helper else None, others,
                              air, start)
    return found if found <= guard.fault_a * (1 + 1e-9) else None


@dataclass(frozen=True)
class Heated:
    """A course of a fault, and how warm it leaves a wire at the end of each of its steps that ends, C."""

    course: Course
    after_c: tuple[float, ...]


def heated(wire: ConductorAt, told: Sequence[Course], air_c: float, start_c: float) -> list[Heated]:
    """How warm each course leaves a wire that begins it at `start_c`."""
    most = max((len(c.steps) for c in told), default=0)
    amps, seconds = np.zeros((most, len(told))), np.zeros((most, len(told)))
    for j, course in enumerate(told):
        for i, step in enumerate(course.steps):
            if math.isfinite(step.seconds):
                amps[i, j], seconds[i, j] = step.wire_a, step.seconds
    if not most:
        return []
    after = overload.temperatures_after_c(amps, seconds, wire.insulated, start_c, air_c)
    return [Heated(c, tuple(after[:sum(math.isfinite(s.seconds) for s in c.steps), j].tolist()))
            for j, c in enumerate(told)]


def late_course(wire: ConductorAt, guard: Guard | None, air_c: float, preload_c: float) -> Heated | None:
    """Of the courses of a wire's worst fault of several stages the first, from a dead short on, that brings it over
    class + 50 K; None where none does."""
    if guard is None or not guard.courses:
        return None
    start, top = min(preload_c, wire.cover.overload_c - 1), wire.cover.overload_c
    effective = IDEAL_OHM_MM2_PER_M / wire.r20_ohm_per_m
    # The copper alone is always the warmer, and what it stands for good never heats it over: else the model is asked.
    never_a, _ = _damage_curve(wire, min(5 * math.ceil(air_c / 5), round(top) - 1), round(top) - 1)
    near = tuple(c for c in guard.courses if c.most_a > never_a
                 and float(overload.adiabatic_c(start, c.wire_a2s, effective)) > top)
    return next((h for h in heated(wire, near, air_c, start) if max(h.after_c, default=-math.inf) > top), None)


def _rounded(opener: Opener) -> Opener:
    return Opener("", opener.kind, opener.rating_a, round(opener.share, 3))


@lru_cache(maxsize=20_000)
def _first_too_late_a(wire: ConductorAt, opener: Opener, helper: Opener | None, others_a: float, air_c: int,
                      start_c: int) -> float:
    """The least current through the wire at which it is damaged before opener or helper acts; infinite when there is
    none."""
    guard = Guard("", opener, MOST_A, helper=helper, others_a=others_a)
    currents = [min(guard.lets_a(m), MOST_A) for m in GATES[opener.kind]]
    if helper is not None:
        currents += [min(m * helper.rating_a * helper.share + others_a, MOST_A) for m in GATES[helper.kind]]
    currents = sorted(c for c in {*currents, MOST_A} if c >= guard.lets_a(guard.overload_multiple))
    # Between two gates opener and adiabatic time are both straight on logarithmic scales: at the gates all is seen.
    if all(guard.slowest_s(amps) <= adiabatic_s(wire, amps, start_c) for amps in currents):
        return math.inf
    fine = sorted({*currents, *(guard.lets_a(m) for m in BETWEEN)})
    return next((amps for amps in fine if guard.slowest_s(amps) > damage_s(wire, amps, air_c, start_c)), math.inf)


def adiabatic_s(wire: ConductorAt, amps: float, start_c: float) -> float:
    """Seconds until a current heats the wire to class + 50 K if no heat left it (IEC 60364-4-43), by its guaranteed
    copper."""
    k = float(overload.adiabatic_k(start_c, wire.cover.overload_c))
    return (k * IDEAL_OHM_MM2_PER_M / wire.r20_ohm_per_m / max(amps, 1e-9)) ** 2


def damage_s(wire: ConductorAt, amps: float, air_c: float, start_c: float) -> float:
    """Seconds until a current heats the wire to class + 50 K; infinite where it stands it for good."""
    never_a, curve = _damage_curve(wire, air_c, start_c)
    if amps <= never_a:
        return math.inf
    if amps >= curve[-1][0]:
        return adiabatic_s(wire, amps, start_c)
    x, y = zip(*curve, strict=True)
    return math.exp(float(np.interp(math.log(amps), np.log(x), np.log(y))))


@lru_cache(maxsize=2_000)
def _damage_curve(wire: ConductorAt, air_c: float, start_c: float) -> tuple[float, tuple[tuple[float, float], ...]]:
    """The current it stands for good, and points (amps, seconds) above that."""
    one = Conductors([wire])
    never = float(heat.ampacity_a(one.r20, one.d, one.od, one.overload_c, air_c, one.k)[0])
    amps = np.array(CURVE_MULTIPLES) * max(never, 0.1)
    seconds = overload.time_to_temperature_s(amps, wire.insulated, wire.cover.overload_c, max(start_c, air_c), air_c)
    there = np.isfinite(seconds)
    return never, tuple(zip(amps[there].tolist(), seconds[there].tolist(), strict=True))


def opens_s(guard: Guard | None, wire_a: float) -> float:
    """Longest time that a touch of a wire lasts; infinite where nothing before it sees it."""
    return guard.slowest_s(wire_a) if guard and guard.before else math.inf


class Curves:
    """A wire's damage curve and its guard's band over current: the points of the coordination picture.

    `fastest`, `slowest` and `damage` are (A in the wire, s); `fault_a` the largest current that a fault can drive here,
    `touch_a` that of a touch at the far end, `fails_from_a` where the slowest opener comes too late.
    """

    POINTS = 48

    def __init__(self, found: Stands, touch_a: float) -> None:
        guard, wire = found.duty.guard, found.duty.wire
        assert guard is not None
        self.rated_a = guard.lets_a(1.0)
        self.fault_a, self.touch_a, self.fails_from_a = guard.fault_a, touch_a, found.fails_from_a
        amps = np.geomspace(self.rated_a, max(guard.fault_a, self.rated_a * 6) * 1.3, self.POINTS).tolist()
        start = min(self._start_c(found, guard), wire.cover.overload_c - 1)
        self.fastest = tuple((a, t) for a in amps if math.isfinite(t := guard.fastest_s(a)))
        self.slowest = tuple((a, t) for a in amps if math.isfinite(t := guard.slowest_s(a)))
        self.damage = tuple((a, t) for a in amps if math.isfinite(t := damage_s(wire, a, found.duty.air_c, start)))

    @staticmethod
    def _start_c(found: Stands, guard: Guard) -> float:
        return float(Conductors([found.duty.wire]).temperature_c(guard.lets_a(PRELOAD), found.duty.air_c)[0])
