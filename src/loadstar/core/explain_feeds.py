"""The working of figures about plugs, triggers, relays and touches to the frame."""

import math
from collections.abc import Callable

from .analysis import Analysis
from .feeds.compare import JUDGED_V, on_tap_a
from .materials import fuses
from .materials.conductors import ALPHA20_PER_K
from .plan.model import Relay, Tap
from .rules.contacts import coil_a, running_v, triggered_by
from .wiring.states import hot_pull_in_v
from .working import Input, Working, summed

STATED = "stated in the plan"


def tap_a(analysis: Analysis, tap: str) -> Working:
    """Everything on a plug that may be on together, at 12.0 V."""
    part = _tap(analysis, tap)
    terms = [(analysis.asked_a(p, JUDGED_V), p.name) for p in analysis.plan.loads if p.feed == tap]
    if part.others_a:
        terms.insert(0, (part.others_a, "the machine's own users"))
    formula, inputs = summed("I", terms, "A", f"at {JUDGED_V:.1f} V")
    return Working(f"On {part.name} together", "I", on_tap_a(analysis.plan, tap), "A", formula, tuple(inputs),
                   f"Its rating is {part.rated_a:g} A. Judged at {JUDGED_V:.1f} V, where converters draw most.")


def _tap(analysis: Analysis, tap: str) -> Tap:
    part = analysis.topology.parts[tap]
    if not isinstance(part, Tap):
        raise KeyError(tap)
    return part


def trigger_a(analysis: Analysis, tap: str) -> Working:
    """Coil current on a found wire."""
    part, volts = _tap(analysis, tap), running_v(analysis)
    relays = triggered_by(analysis, part)
    if not relays:
        raise KeyError(tap)
    inputs = [Input(f"R_{n}", k.coil_ohm, "Ω", f"coil of {k.name}", STATED) for n, k in enumerate(relays, 1)]
    return Working(f"Coils on {part.name}", "I", sum(coil_a(k, volts) for k in relays), "A",
                   " + ".join(f"U / {i.symbol}" for i in inputs), (Input("U", volts, "V", "running", "set-point"), *inputs),
                   f"It is believed good for {part.rated_a:g} A.")


def pull_in(analysis: Analysis, relay: str) -> Working:
    """Voltage at which a relay pulls in, its coil as warm as its place."""
    part = analysis.topology.parts[relay]
    if not isinstance(part, Relay):
        raise KeyError(relay)
    warm = analysis.plan.ambient_at(part.place)
    return Working(f"{part.name} pulls in at", "U", hot_pull_in_v(analysis.plan, part), "V",
                   "U_20 * (1 + a * (T - 20))", (
                       Input("U_20", part.pull_in_v, "V", "at 20 °C", STATED),
                       Input("a", ALPHA20_PER_K, "1/K", "copper", "IEC 60028"), Input("T", warm, "°C", "where it sits", STATED)))


def chafe(analysis: Analysis, wire: str) -> Working:
    """The slowest opening for a touch at a wire's far end."""
    touch = analysis.chafes[wire]
    if touch.guard is None or touch.guard.electronic or math.isinf(touch.opens_s):
        raise KeyError(wire)
    if touch.guard.opener.slowest_s(touch.far_a - touch.guard.others_a) > touch.opens_s:
        raise KeyError(wire)  # an electronic way in series is the faster
    multiple = (touch.far_a - touch.guard.others_a) / touch.guard.share / touch.guard.rating_a
    fuse = analysis.topology.parts[touch.guard.fuse].name
    below, above = fuses.gates(fuses.SLOWEST, multiple)
    note = (f"A touch at the near end draws {touch.near_a:.0f} A. The wire stands the far-end current {touch.damage_s:.2g} s."
            if math.isfinite(touch.damage_s) else f"A touch at the near end draws {touch.near_a:.0f} A; the wire stands either.")
    base = (Input("m", multiple, "", f"{touch.far_a:.1f} A at the far end, over the rating of {fuse}", "fault solution"),
            Input("m_1", below[0], "", "gate below", fuses.SOURCE), Input("t_1", below[1], "s", "longest there", fuses.SOURCE))
    if above is None:
        return Working(f"{fuse} opens after at most", "t", touch.opens_s, "s", "t_1 * (m_1 / m) ** 2", base, note)
    return Working(f"{fuse} opens after at most", "t", touch.opens_s, "s",
                   "t_1 * (t_2 / t_1) ** (ln(m / m_1) / ln(m_2 / m_1))",
                   (*base, Input("m_2", above[0], "", "gate above", fuses.SOURCE),
                    Input("t_2", above[1], "s", "longest there", fuses.SOURCE)), note)


EXPLAINED: dict[str, Callable[..., Working]] = {"tap": tap_a, "trigger": trigger_a, "pull_in": pull_in, "chafe": chafe}


def keys(analysis: Analysis) -> list[str]:
    """Every key of this module that can be asked of an analysis."""
    found = [f"{kind}/{p.id}" for p in analysis.plan.parts if isinstance(p, Tap) for kind in ("tap", "trigger")]
    found += [f"pull_in/{p.id}" for p in analysis.plan.parts if isinstance(p, Relay)]
    return found + [f"chafe/{w}" for w in analysis.chafes]
