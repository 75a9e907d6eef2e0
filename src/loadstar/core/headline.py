"""The five figures that are always in sight, as the machine's supply has them."""

from collections.abc import Callable
from dataclasses import dataclass

from .analysis import Analysis
from .doc.states import RUNNING, STATE_NAMES, States
from .figures.extremes import hottest_wire, weakest_wire
from .figures.lamps import hardest_lamp, worst_when_one_fails
from .figures.packs import bms_margin_a
from .findings import Severity, Subject, worst
from .refs import FigureKey


@dataclass(frozen=True)
class Head:
    """One of them: its words, value and unit (None: `detail` says why there is none), and how grave what is found about
    it is.

    `limit` is what it must not pass, in its own unit; None where it has none. `limit_c` is a limit that stands in the
    words as "{limit}". `subject` is where it is looked at, `select` the element that it is of.
    """

    label: str
    value: float | None
    unit: str
    detail: str = ""
    severity: Severity | None = None
    subject: Subject = "energy"
    select: str = ""
    working: str = ""
    is_span: bool = False
    limit_c: float | None = None
    limit: float | None = None


def headline(analysis: Analysis, state: States) -> tuple[Head, ...]:
    """What is given or left, the lowest load, the hottest wire, the weakest protection, and how long it lasts."""
    left, lasts = _BY_SUPPLY.get(analysis.source.key, (_margin, _parked))
    return left(analysis, state), _lowest(analysis, state), _hottest(analysis,
                                                                     state), _weakest(analysis), lasts(analysis, state)


def _severity(analysis: Analysis, element: str, rule: str) -> Severity | None:
    return worst([f for f in analysis.by_element.get(element, ()) if f.rule.startswith(rule)])


def _caution(analysis: Analysis, *rules: str) -> Severity | None:
    return "caution" if any(f.rule in rules for f in analysis.findings) else None


def _margin(analysis: Analysis, state: States) -> Head:
    if analysis.plan.generator is None and analysis.source.key != "total_loss":
        return Head("Charging margin", None, "A", "no generator yet", subject="machine")
    margin = analysis.ledgers[state].margin_a
    words = "battery discharges" if margin < 0 else "charges"
    return Head(f"Margin, {STATE_NAMES[state].lower()}: {words}", margin, "A",
                severity="caution" if state in RUNNING and margin < 0 else None, limit=0.0,
                working=FigureKey.of("margin", state))


def _pack_margin(analysis: Analysis, state: States) -> Head:
    return Head("Pack current reserve, full power", bms_margin_a(analysis), "A",
                severity=_caution(analysis, "pack.bms", "pack.cuts-out"), limit=0.0,
                working=FigureKey.of("bms_margin"))


def _hardest_lamp(analysis: Analysis, state: States) -> Head:
    if analysis.lamps is None:
        return Head("Highest lamp voltage", None, "V", "no lamp yet", subject="accessory")
    lamp, volts = hardest_lamp(analysis)
    when = STATE_NAMES[analysis.plan.machine.fastest].lower()
    return Head(f"Highest lamp voltage, {when}: {lamp.name}", volts, "V",
                severity=_severity(analysis, lamp.id, "lamp.over"),
                limit=lamp.window_high_v,
                working=FigureKey.of("lamp_v", lamp.id, analysis.plan.machine.fastest))


def _lowest(analysis: Analysis, state: States) -> Head:
    lowest = analysis.volts.lowest_load((state,))
    if lowest is None:
        return Head("Lowest load voltage", None, "V", f"none live, {STATE_NAMES[state].lower()}", subject="circuit")
    load, _, volts = lowest
    return Head(f"Lowest voltage, {STATE_NAMES[state].lower()}: {load.name}", volts, "V",
                severity=_severity(analysis, load.id, "load."), limit=load.window_low_v,
                subject="circuit", select=load.id, working=FigureKey.of("load_v", load.id, state))


def _hottest(analysis: Analysis, state: States) -> Head:
    hottest = hottest_wire(analysis, state) if analysis.states else None
    if hottest is None:
        return Head("Hottest wire", None, "°C", "no wires yet", subject="circuit")
    wire, warm = hottest
    return Head(f"Hottest wire, {STATE_NAMES[state].lower()}: {wire} (limit {{limit}})", warm, "°C",
                severity=_severity(analysis, wire, "wire.too-hot"),
                subject="circuit", select=wire, working=FigureKey.of("wire_c", wire, state),
                limit_c=analysis.wires[wire].class_c, limit=analysis.wires[wire].class_c)


def _weakest(analysis: Analysis) -> Head:
    weakest = weakest_wire(analysis)
    if weakest is None:
        return Head("Weakest protection", None, "×", "no fuse yet", subject="circuit")
    wire, strength = weakest
    guard = analysis.wires[wire].guard
    return Head(f"Weakest protection: {wire} by {guard.fuse if guard else 'nothing'} (min. 1.00)", strength, "×",
                severity=_severity(analysis, wire, "wire.not-protected"), subject="circuit", select=wire, limit=1.0,
                working=FigureKey.of("strength", wire))


def _parked(analysis: Analysis, state: States) -> Head:
    if analysis.parked is None:
        return Head("Parking time until no start", None, "days", "no battery yet", subject="machine")
    cranks = analysis.plan.machine.cranking_a > 0
    return Head("Parking time until no start" if cranks else "Parking time until flat", analysis.parked.days * 24, "h",
                severity=_caution(analysis, "budget.parked", "budget.crank"),
                limit=analysis.plan.rules.parked_days * 24,
                working=FigureKey.of("parked"), is_span=True)


def _range(analysis: Analysis, state: States) -> Head:
    assert analysis.pack is not None
    return Head("Range with accessories", analysis.pack.range_km, "km", working=FigureKey.of("range"))


def _runs_for(analysis: Analysis, state: States) -> Head:
    assert analysis.total_loss is not None
    return Head("Battery only: runs for", analysis.total_loss.usable_min / 60, "h", working=FigureKey.of("total_loss"),
                is_span=True)


def _one_fails(analysis: Analysis, state: States) -> Head:
    found = worst_when_one_fails(analysis) if analysis.lamps else None
    if found is None:
        return Head("Lamp voltage if one fails", None, "V", "fewer than two lamps", subject="accessory")
    gone, other, volts = found
    return Head(f"{other.name} voltage, town, if {gone.name} fails", volts, "V",
                severity=_severity(analysis, gone.id, "lamp.takes"), limit=other.window_high_v,
                working=FigureKey.of("lamp_failed", gone.id, other.id))


Figure = Callable[[Analysis, States], Head]
_BY_SUPPLY: dict[str, tuple[Figure, Figure]] = {
    "pack": (_pack_margin, _range), "magneto": (_hardest_lamp, _one_fails), "total_loss": (_margin, _runs_for)}
