"""The generator gives less than is asked for: what would help, and how far. Each way is a step of the plan, or
something that is left off, and its account is worked out anew.

An LED lamp is taken to need a fifth of a filament's watts for the same light (usual for lamps on machines; its maker
says how much it is). A winding of more watts is taken to have as much less resistance.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from scipy.optimize import brentq

from ..budget.ledger import break_even_rpm, ledger
from ..edits import ChangeElement, Edit, Several, apply
from ..errors import PlanError
from ..parts.generator import Generator
from ..plan.model import Plan

LED_SHARE = 0.2
MOST_TIMES = 6.0  # as strong as now: beyond that no winding is offered
SPARE_A = 0.05  # so much is left over with the winding that is named


@dataclass(frozen=True)
class WayOut:
    """One: in words, amps left at idle and at cruise (negative: short), the speed from which the generator gives what
    is asked (None: no speed), the step that makes it (None: nothing is changed), and what is left off for it."""

    words: str
    idle_a: float
    cruise_a: float
    floats_rpm: float | None
    edit: Edit | None = None
    off: str = ""


def is_short(plan: Plan) -> bool:
    """Whether anything is short at any speed that is looked at."""
    return plan.generator is not None and any(ledger(plan, state).margin_a < 0 for state in ("idle", "town", "cruise"))


def ways_out(plan: Plan) -> tuple[WayOut, ...]:
    """All that helps, what leaves most at idle first; none where nothing is short."""
    if not is_short(plan):
        return ()
    now_a = ledger(plan, "idle").margin_a
    found = [*_switched_off(plan), *_as_steps(plan)]
    return tuple(sorted((w for w in found if w.idle_a > now_a + 1e-9), key=lambda w: -w.idle_a))


def _switched_off(plan: Plan) -> Iterator[WayOut]:
    items = [i for i in ledger(plan, "idle").items if i.counts and not i.own]
    if heavy := max(items, key=lambda i: i.average_a, default=None):
        off = frozenset({heavy.id})
        yield WayOut(f"{heavy.name} off", ledger(plan, "idle", off).margin_a, ledger(plan, "cruise", off).margin_a,
                     break_even_rpm(plan, off), off=heavy.id)


def _as_steps(plan: Plan) -> Iterator[WayOut]:
    for words, edit in (*_led(plan), *_shared_heat(plan), *_winding(plan)):
        try:
            made = apply(plan, edit)
        except PlanError:  # it cannot be made on this plan: no way out of it
            continue
        yield WayOut(words, ledger(made, "idle").margin_a, ledger(made, "cruise").margin_a, break_even_rpm(made), edit)


def _led(plan: Plan) -> Iterator[tuple[str, Edit]]:
    lamps = [p for p in plan.loads if p.behaviour == "filament" and not plan.by_coil(p)]
    if lamps:
        watts, led = sum(p.power_w for p in lamps), LED_SHARE * sum(p.power_w for p in lamps)
        words = (f"LED in place of {len(lamps)} filament lamp{'s' * (len(lamps) > 1)}: about {led:.0f} W, not "
                 f"{watts:.0f} W")
        yield words, Several(words=words, edits=tuple(ChangeElement(id=p.id, values={
            "amount": round(LED_SHARE * p.power_w, 1), "unit": "W", "behaviour": "power", "inrush_a": 0, "inrush_ms": 0,
            "window_low_v": round(0.7 * p.at_v, 2), "window_high_v": round(1.35 * p.at_v, 2)}) for p in lamps))


def _shared_heat(plan: Plan) -> Iterator[tuple[str, Edit]]:
    warm = [p for p in plan.loads if p.category == "heating" and p.minutes_per_hour > 30]
    if warm:
        words = f"{' and '.join(p.name for p in warm[:3])} on for half of the hour"
        yield words, Several(words=words, edits=tuple(
            ChangeElement(id=p.id, values={"minutes_per_hour": 30}) for p in warm))


def _winding(plan: Plan) -> Iterator[tuple[str, Edit]]:
    generator = plan.generator
    if generator is None:
        return

    def spare_a(times: float) -> float:
        made = generator.model_copy(update=_times(generator, times))
        account = ledger(plan, "idle")
        return made.available_a(account.rpm, account.at_v) - account.demand_a - SPARE_A

    if spare_a(1.0) < 0 < spare_a(MOST_TIMES):
        values = _times(generator, float(brentq(spare_a, 1.0, MOST_TIMES, xtol=1e-3)))
        yield (f"A winding of {values['rating2_w']:.0f} W at {generator.rating2_rpm:.0f} rpm, not "
               f"{generator.rating2_w:.0f} W: enough at idle", ChangeElement(id=generator.id, values=values))


def _times(generator: Generator, times: float) -> dict[str, float]:
    return {"rating1_w": round(generator.rating1_w * times, 1), "rating2_w": round(generator.rating2_w * times, 1),
            "phase_ohm": generator.phase_ohm / times}
