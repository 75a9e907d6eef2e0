"""What does a permanent-magnet generator with a rectifier give into a battery at an engine speed?

Each phase is an EMF (peak k n) behind its resistance R and reactance x n; an ideal rectifier works into the battery
voltage plus two diode drops. Three-phase: closed solutions exist when every phase conducts always (high speed) and
when the line pulses are separate (just above cut-in); between them the current is taken as linear in speed, within
2 % of its upper end. Single-phase: both regimes are closed. Fundamental-wave formulas (Caliskan, Perreault, Jahns and
Kassakian 2003) serve only as a first guess when k and x are found from two ratings. Checked against circuit-simulator
transients from 1150 to 9000 rpm: within 2 % above 1.5 times cut-in speed.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

from scipy.optimize import brentq, least_squares


class GeneratorError(ValueError):
    """The ratings given fit no machine of this kind."""


@dataclass(frozen=True)
class Winding:
    """Identified generator. k: peak EMF per phase and rpm, V; x: reactance per phase and rpm, ohm; R hot, ohm."""

    k_v_per_rpm: float
    x_ohm_per_rpm: float
    r_ohm: float
    phases: int = 3


def output_a(winding: Winding, rpm: float, v_dc: float) -> float:
    """Rectified mean current into `v_dc` (battery volts plus both diode drops, taken to 0.01 V), A."""
    if rpm <= 0:
        return 0.0
    v_dc = round(v_dc, 2)  # below the model's accuracy; states near each other then share the regimes' limits
    if winding.phases == 1:
        return _single_phase_a(winding, rpm, v_dc)
    for regime in (_three_phase_pulsed, _three_phase_continuous):
        if (closed := regime(winding, rpm, v_dc)) is not None:
            return closed
    low, high, low_a, high_a = _three_phase_bridge(winding, v_dc)
    return low_a + (high_a - low_a) * (rpm - low) / (high - low)


def half_wave_a(winding: Winding, rpm: float, v_dc: float) -> float:
    """Mean current of a single-phase winding through one diode: one pulse a turn, into `v_dc` (battery and one
    drop)."""
    e = winding.k_v_per_rpm * rpm
    if rpm <= 0 or e <= v_dc:
        return 0.0
    return _pulse(e, v_dc, winding.r_ohm, winding.x_ohm_per_rpm * rpm)[2] / (2 * math.pi)


def rectified_a(winding: Winding, rpm: float, posts_v: float, diode_v: float, half: bool) -> float:
    """Mean current into the battery at its posts' voltage: full wave (two diodes in series) or half wave (one)."""
    if half and winding.phases == 1:
        return half_wave_a(winding, rpm, round(posts_v + diode_v, 2))
    return output_a(winding, rpm, posts_v + 2 * diode_v)


def _three_phase_continuous(w: Winding, rpm: float, v: float) -> float | None:
    """Every phase conducts always (six-step); None where that does not hold."""
    e, x, r = w.k_v_per_rpm * rpm, w.x_ohm_per_rpm * rpm, w.r_ohm
    a, z, phi = r / x, math.hypot(r, x), math.atan2(x, r)
    decay, u = math.exp(-a * math.pi / 3), v / (3 * r)
    i0 = -u * (1 - decay**2) / (1 - decay + decay**2)
    sin_b = i0 * z / e
    if abs(sin_b) > 1:
        return None
    b = math.asin(sin_b)
    if e * math.sin(phi + b) < v / 3:
        return None
    i1 = i0 * decay + u * (1 - decay)
    return 3 / math.pi * (e / z * math.cos(b) - 2 * u * math.pi / 3 - (i1 - 2 * u) * (1 - decay) / a)


def _pulse(e: float, v: float, r: float, x: float) -> tuple[float, float, float]:
    """One rectifier pulse of e sin(th) - v through r and x: start and end angle, charge (A.rad)."""
    start = math.asin(v / e)
    z, phi, a = math.hypot(r, x), math.atan2(x, r), r / x

    def current(th: float) -> float:
        free = e / z * math.sin(th - phi) - v / r
        return free - (e / z * math.sin(start - phi) - v / r) * math.exp(-a * (th - start))

    # The current rises from `start`, peaks, and dies before a full turn.
    peak = math.pi - start
    end = brentq(current, peak, start + 2 * math.pi - 1e-9) if current(peak) > 0 else start
    if end <= start:
        return start, start, 0.0
    # Integral of r i + x di/dt = e sin th - v over a pulse that begins and ends at zero current.
    charge = (e * (math.cos(start) - math.cos(end)) - v * (end - start)) / r
    return start, end, charge


def _three_phase_pulsed(w: Winding, rpm: float, v: float) -> float | None:
    """Separate line pulses; 0 below cut-in, None where the pulses would overlap."""
    e = w.k_v_per_rpm * rpm
    if math.sqrt(3) * e <= v:
        return 0.0
    start, end, charge = _pulse(math.sqrt(3) * e, v, 2 * w.r_ohm, 2 * w.x_ohm_per_rpm * rpm)
    limit = start + math.pi / 3
    if v / (3 * e) <= 1:
        limit = min(limit, math.acos(-v / (3 * e)))
    return 3 / math.pi * charge if end <= limit + 1e-12 else None


@lru_cache(maxsize=512)
def _three_phase_bridge(w: Winding, v: float) -> tuple[float, float, float, float]:
    """Speeds that end the pulsed and begin the continuous regime, and the currents there."""
    cut_in = v / (math.sqrt(3) * w.k_v_per_rpm)

    def last_true(function: object, low: float, high: float) -> float:
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (middle, high) if function(middle) else (low, middle)  # type: ignore[operator]
        return low

    low = last_true(lambda n: _three_phase_pulsed(w, n, v) is not None, cut_in, 2 * cut_in)
    top = 2 * cut_in
    while _three_phase_continuous(w, top, v) is None:
        top *= 1.5
        if top > 1e6:
            raise GeneratorError("the winding never conducts continuously: its ratings do not fit together")
    high = last_true(lambda n: _three_phase_continuous(w, n, v) is None, cut_in, top) * (1 + 1e-12)
    return low, high, _three_phase_pulsed(w, low, v) or 0.0, _three_phase_continuous(w, high, v) or 0.0


def _single_phase_a(w: Winding, rpm: float, v: float) -> float:
    e = w.k_v_per_rpm * rpm
    if e <= v:
        return 0.0
    always = _single_continuous(w, rpm, v)
    return always if always is not None else _pulse(e, v, w.r_ohm, w.x_ohm_per_rpm * rpm)[2] / math.pi


def _single_continuous(w: Winding, rpm: float, v: float) -> float | None:
    """The winding conducts always; None where that does not hold."""
    e, x, r = w.k_v_per_rpm * rpm, w.x_ohm_per_rpm * rpm, w.r_ohm
    a, z, phi = r / x, math.hypot(r, x), math.atan2(x, r)
    i0 = -(v / r) * math.tanh(a * math.pi / 2)
    if abs(i0 * z / e) > 1:
        return None
    b = math.asin(i0 * z / e)
    if e * math.sin(phi + b) < v:
        return None
    decay = math.exp(-a * math.pi)
    return (2 * e * math.cos(b) / z - math.pi * v / r - (i0 - v / r) * (1 - decay) / a) / math.pi


@lru_cache(maxsize=256)
def identify(ratings: tuple[tuple[float, float], ...], r_ohm: float, posts_v: float, diode_v: float, phases: int,
             half: bool = False) -> Winding:
    """k and x from two ratings ((rpm, A), (rpm, A)) at `posts_v`, by root finding on the model itself.

    Raises GeneratorError when no winding fits: the faster rating must give more, but less than in proportion.
    """
    (n1, i1), (n2, i2) = sorted(ratings)
    if not (n1 > 0 and 0 < i1 < i2 and n1 < n2):
        raise GeneratorError("the output at the higher speed must be above that at the lower")
    k, x = _first_guess(((n1, 2 * i1 if half else i1), (n2, 2 * i2 if half else i2)), r_ohm, posts_v + 2 * diode_v,
                        phases)

    def misfit(logs: object) -> list[float]:
        winding = Winding(math.exp(logs[0]), math.exp(logs[1]), r_ohm, phases)  # type: ignore[index]
        return [(rectified_a(winding, n, posts_v, diode_v, half) - i) / i2 for n, i in ((n1, i1), (n2, i2))]

    try:
        found = least_squares(misfit, [math.log(k), math.log(x)], xtol=1e-13, ftol=1e-13, gtol=1e-13)
    except (GeneratorError, ValueError, OverflowError) as error:
        raise GeneratorError("no winding of this kind gives these two outputs") from error
    if max(abs(part) for part in misfit(found.x)) > 1e-3:
        raise GeneratorError("no winding of this kind gives these two outputs")
    return Winding(math.exp(found.x[0]), math.exp(found.x[1]), r_ohm, phases)


def _first_guess(ratings: tuple[tuple[float, float], tuple[float, float]], r: float, v: float,
                 phases: int) -> tuple[float, float]:
    """Fundamental-wave solution, linear in k^2 and x^2."""
    shape = math.pi / 3 if phases == 3 else math.pi / 2
    v1 = (2 if phases == 3 else 4) * v / math.pi
    (n1, i1), (n2, i2) = ratings
    a1, a2 = shape * i1, shape * i2
    y1, y2 = ((v1 + r * a1) / n1) ** 2, ((v1 + r * a2) / n2) ** 2
    x2 = (y1 - y2) / (a2**2 - a1**2)
    k2 = y1 + x2 * a1**2
    if x2 <= 0 or k2 <= 0:
        raise GeneratorError("the output rises more than in proportion to speed: check the two ratings")
    return math.sqrt(k2), math.sqrt(x2)


Symbol = tuple[str, float, str, str, str]
Explained = tuple[str, list[Symbol]]
PULSE = "(k * n / 1000 * (cos(th_0) - cos(th_1)) - V * (th_1 - th_0)) / R"


def explain(winding: Winding, rpm: float, v_dc: float, half: bool = False) -> Explained:
    """The formula that gave `output_a` (or, half-wave, `half_wave_a`) at a speed, and its inputs (symbol, value, unit,
    what, source)."""
    k, x, r = winding.k_v_per_rpm, winding.x_ohm_per_rpm, winding.r_ohm
    v_dc = round(v_dc, 2)
    base: list[Symbol] = [
        ("k", k * 1000, "mV/rpm", "peak voltage per phase", "found from the two ratings"),
        ("n", rpm, "rpm", "engine speed", "state"), ("R", r, "Ω", "resistance of a phase, hot", "entered in the plan"),
        ("V", v_dc, "V", "set-point and two diode drops", "entered in the plan")]
    if half and k * rpm > v_dc:
        return f"{PULSE} / (2 * pi)", [*base, *_angles(_pulse(k * rpm, v_dc, r, x * rpm), "EMF")]
    if half or output_a(winding, rpm, v_dc) <= 0:
        return "0 * (k * n / 1000 - V)", [b for b in base if b[0] in "knV"]
    if winding.phases == 1:
        return _single_explained(winding, rpm, v_dc, base)
    return _three_explained(winding, rpm, v_dc, base)


def _angles(pulse: tuple[float, float, float], what: str) -> list[Symbol]:
    return [("th_0", pulse[0], "rad", "pulse begins", f"where the {what} reaches V"),
            ("th_1", pulse[1], "rad", "pulse ends", "where the current is gone")]


def _single_explained(winding: Winding, rpm: float, v_dc: float, base: list[Symbol]) -> Explained:
    e, xn, r = winding.k_v_per_rpm * rpm, winding.x_ohm_per_rpm * rpm, winding.r_ohm
    if _single_continuous(winding, rpm, v_dc) is None:
        return f"{PULSE} / pi", [*base, *_angles(_pulse(e, v_dc, r, xn), "EMF")]
    a, z = r / xn, math.hypot(r, xn)
    i0 = -(v_dc / r) * math.tanh(a * math.pi / 2)
    return ("(2 * k * n / 1000 * cos(b) / Z - pi * V / R - (i_0 - V / R) * (1 - exp(-a * pi)) / a) / pi",
            [*base, ("Z", z, "Ω", "impedance of the winding", "R and x n"), ("a", a, "", "R over reactance", ""),
             ("i_0", i0, "A", "current at the turn", ""), ("b", math.asin(i0 * z / e), "rad", "its angle", "")])


def _three_explained(winding: Winding, rpm: float, v_dc: float, base: list[Symbol]) -> Explained:
    low, high, low_a, high_a = _three_phase_bridge(winding, v_dc)
    if low < rpm < high:
        return ("I_1 + (I_2 - I_1) * (n - n_1) / (n_2 - n_1)",
                [base[1], ("n_1", low, "rpm", "separate pulses end", "generator model"),
                 ("I_1", low_a, "A", "output there", "generator model"),
                 ("n_2", high, "rpm", "every phase conducts always from here", "generator model"),
                 ("I_2", high_a, "A", "output there", "generator model")])
    e, xn, r = winding.k_v_per_rpm * rpm, winding.x_ohm_per_rpm * rpm, winding.r_ohm
    if rpm <= low:
        return ("3 / pi * (sqrt(3) * k * n / 1000 * (cos(th_0) - cos(th_1)) - V * (th_1 - th_0)) / (2 * R)",
                [*base, *_angles(_pulse(math.sqrt(3) * e, v_dc, 2 * r, 2 * xn), "line EMF")])
    a, z = r / xn, math.hypot(r, xn)
    decay, u = math.exp(-a * math.pi / 3), v_dc / (3 * r)
    i0 = -u * (1 - decay**2) / (1 - decay + decay**2)
    six = "six-step solution"
    return ("3 / pi * (k * n / 1000 / Z * cos(b) - 2 * u * pi / 3 - (i_1 - 2 * u) * (1 - exp(-a * pi / 3)) / a)",
            [base[0], base[1], ("Z", z, "Ω", "impedance of a phase", "R and x n"), ("a", a, "", "R over reactance", ""),
             ("u", u, "A", "V / (3 R)", ""),
             ("i_1", i0 * decay + u * (1 - decay), "A", "current at a sixth of a turn", six),
             ("b", math.asin(i0 * z / e), "rad", "angle of the turn", six)])
