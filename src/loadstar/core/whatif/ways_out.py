"""The generator gives less than is asked for: what would help, and how far. Each way is a step of the plan, or
something that is left off, and its account is worked out anew.

An LED lamp is taken to need a fifth of a filament's watts for the same light (usual for lamps on machines; its maker
says how much it is). A winding of more watts is taken to have as much less resistance.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from scipy.optimize import brentq

from ..budget.ledger import break_even_rpm, ledger
from ..doc.states import States
from ..edits import ChangeElement, Edit, Several, apply
from ..errors import PlanError
from ..parts.generator import Generator
from ..plan.model import Plan

LED_SHARE = 0.2
JUDGED: tuple[States, ...] = ("idle", "town", "cruise")
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


class _Account:
    """The budget of a plan with something made: without what the plan's own budget leaves out, as it is wired to
    nothing."""

    def __init__(self, plan: Plan, account: Plan) -> None:
        self.plan, self.left_out = plan, {p.id for p in plan.parts} - {p.id for p in account.parts}

    def margin_a(self, state: States, plan: Plan, off: frozenset[str] = frozenset()) -> float:
        """Amps left in a state."""
        return ledger(self.counted(plan), state, off).margin_a

    def way(self, words: str, plan: Plan, off: frozenset[str] = frozenset(), edit: Edit | None = None) -> WayOut:
        """What a plan comes to."""
        return WayOut(words, self.margin_a("idle", plan, off), self.margin_a("cruise", plan, off),
                      break_even_rpm(self.counted(plan), off), edit, next(iter(off), ""))

    def counted(self, plan: Plan) -> Plan:
        """A plan as the budget counts it."""
        return plan.model_copy(update={"parts": tuple(p for p in plan.parts if p.id not in self.left_out)})


def ways_out(plan: Plan, account: Plan) -> tuple[WayOut, ...]:
    """All that helps, what leaves most at idle first; none where nothing is short at any speed that is looked at.
    `account` is the plan as its budget counts it (`Figures.account`)."""
    of = _Account(plan, account)
    if account.generator is None or all(of.margin_a(state, plan) >= 0 for state in JUDGED):
        return ()
    now_a = of.margin_a("idle", plan)
    found = [*_switched_off(of), *_as_steps(of)]
    return tuple(sorted((w for w in found if w.idle_a > now_a + 1e-9), key=lambda w: -w.idle_a))


def _switched_off(of: _Account) -> Iterator[WayOut]:
    items = [i for i in ledger(of.plan, "idle").items if i.counts and not i.own and i.id not in of.left_out]
    if heavy := max(items, key=lambda i: i.average_a, default=None):
        yield of.way(f"{heavy.name} off", of.plan, frozenset({heavy.id}))


def _as_steps(of: _Account) -> Iterator[WayOut]:
    for words, edit in (*_led(of.plan), *_shared_heat(of.plan), *_winding(of)):
        try:
            made = apply(of.plan, edit)
        except PlanError:  # it cannot be made on this plan: no way out of it
            continue
        yield of.way(words, made, edit=edit)


def _led(plan: Plan) -> Iterator[tuple[str, Edit]]:
    lamps = [p for p in plan.loads if p.behaviour == "filament" and not plan.by_coil(p)]
    if lamps:
        watts, led = sum(p.power_w for p in lamps), LED_SHARE * sum(p.power_w for p in lamps)
        words = (f"LED in place of {len(lamps)} filament lamp{'s' * (len(lamps) > 1)}: about {led:.0f} W, not "
                 f"{watts:.0f} W")
        yield words, Several(words=words, edits=tuple(
            ChangeElement(id=p.id, values=p.as_led(round(LED_SHARE * p.power_w, 1))) for p in lamps))


def _shared_heat(plan: Plan) -> Iterator[tuple[str, Edit]]:
    warm = [p for p in plan.loads if p.category == "heating" and p.minutes_per_hour > 30]
    if warm:
        words = f"{' and '.join(p.name for p in warm[:3])} on for half of the hour"
        yield words, Several(words=words, edits=tuple(
            ChangeElement(id=p.id, values={"minutes_per_hour": 30}) for p in warm))


def _winding(of: _Account) -> Iterator[tuple[str, Edit]]:
    generator = of.plan.generator
    if generator is None:
        return
    account = ledger(of.counted(of.plan), "idle")

    def spare_a(times: float) -> float:
        made = generator.model_copy(update=_times(generator, times))
        return made.available_a(account.rpm, account.at_v) - account.demand_a - SPARE_A

    if spare_a(1.0) < 0 < spare_a(MOST_TIMES):
        values = _times(generator, float(brentq(spare_a, 1.0, MOST_TIMES, xtol=1e-3)))
        yield (f"A winding of {values['rating2_w']:.0f} W at {generator.rating2_rpm:.0f} rpm, not "
               f"{generator.rating2_w:.0f} W: enough at idle", ChangeElement(id=generator.id, values=values))


def _times(generator: Generator, times: float) -> dict[str, float]:
    return {"rating1_w": round(generator.rating1_w * times, 1), "rating2_w": round(generator.rating2_w * times, 1),
            "phase_ohm": generator.phase_ohm / times}
