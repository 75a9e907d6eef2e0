"""Lamps on a magneto's lighting coil: their volts over speed, and what hangs on the coil besides."""

from collections.abc import Iterator

from ..amounts import percent
from ..budget.lighting import life_share
from ..figures.figures import Figures
from ..figures.lamps import on_ac
from ..findings import Finding, Severity
from ..parts.coil import Coil
from ..parts.load import LIGHT_EXPONENT, LoadPart
from ..plan.standing import resting_on
from .loads import DIM_FRAC
from .registry import Say, rule

OVER_VOLTS_FRAC, DESTROYED_FRAC = 1.10, 1.30
LAMP_SOURCE = "Magneto lighting of docs/physics.md: V falls on the coil's reactance; lamp life as V^-13"


def _lamps(figures: Figures) -> list[LoadPart]:
    return [p for p in figures.plan.loads if figures.lamps and p.id in figures.lamps.lamps]


def _as_known(figures: Figures) -> tuple[Severity, str]:
    """How grave a lamp's volts are, and what is said with them: a note while nobody has measured the coil."""
    usual = [e for e, field, _ in resting_on(figures.plan) if figures.plan.is_one(e, Coil)
             and field in ("emf_mv_per_rpm", "reactance_mohm_per_rpm")]
    return ("note", " So say the coil's usual figures: measure its volts first.") if usual else ("caution", "")


@rule(
    "lamp.over-volts",
    meaning="At speed a lamp on the magneto sees more than its rated voltage: its life is a fraction of normal.",
    cure="A lamp of a higher voltage chosen on purpose, the rated watts in full, or an AC regulator.",
    source=LAMP_SOURCE)
def over_volts(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lamp volts at cruise against 110 % of nominal."""
    fastest = figures.plan.machine.fastest
    cruise = figures.plan.machine.rpm(fastest)
    grave, ends = _as_known(figures)
    for lamp in _lamps(figures):
        assert figures.lamps is not None
        volts = figures.lamps.at(lamp.id, cruise)
        if volts > OVER_VOLTS_FRAC * lamp.at_v:
            yield say(grave, (lamp.id,), (
                f"{lamp.name} ({lamp.at_v:g} V) sees {volts:.1f} V at {cruise:g} rpm: its life is about "
                f"{percent(life_share(volts, lamp.at_v))} of normal.{ends}"), "energy",
                f"lamp_v/{lamp.id}/{fastest}")


@rule(
    "lamp.dim",
    meaning="At idle a lamp on the magneto is well under its rated voltage: it gives little light.",
    cure="A lamp of lower voltage or watts, a higher idle, a stronger coil.",
    source="Light as V^3.4")
def dim(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lamp volts at idle against 75 % of nominal."""
    idle = figures.plan.machine.idle_rpm
    for lamp in _lamps(figures):
        assert figures.lamps is not None
        volts = figures.lamps.least_at(lamp.id, idle)
        if volts < DIM_FRAC * lamp.at_v:
            yield say("advice", (lamp.id,), (
                f"{lamp.name} sees {volts:.1f} V at idle: about "
                f"{percent((volts / lamp.at_v) ** LIGHT_EXPONENT)} of its light."),
                "energy",
                f"lamp_v/{lamp.id}/idle")


@rule(
    "lamp.takes-others",
    meaning="When one lamp fails the coil's current goes through the others, whose voltage rises until they fail too.",
    cure="An AC regulator sized for the full current; carry spare lamps of the rated watts.",
    source=LAMP_SOURCE)
def takes_others(figures: Figures, say: Say) -> Iterator[Finding]:
    """Volts of the remaining lamps at town speed when one fails."""
    if figures.lamps is None:
        return
    town = figures.plan.machine.town_rpm
    grave, ends = _as_known(figures)
    for gone in _lamps(figures):
        worst = max(((figures.lamps.at_failed(gone.id, p.id, town), p) for p in _lamps(figures) if p.id != gone.id),
                    key=lambda pair: pair[0] / pair[1].at_v, default=None)
        if worst and worst[0] > DESTROYED_FRAC * worst[1].at_v:
            yield say(grave, (gone.id, worst[1].id), (
                f"If {gone.name} fails, {worst[1].name} sees {worst[0]:.1f} V at {town:g} rpm and fails within "
                f"{_soon(life_share(worst[0], worst[1].at_v))}.{ends}"), "energy",
                f"lamp_failed/{gone.id}/{worst[1].id}")


@rule(
    "lamp.higher-volts",
    meaning="A lamp of a higher voltage than the coil's is used on purpose, so that it survives over-revving.",
    cure="Nothing is wrong: it is a little dim at idle.",
    source="Magneto practice: lamps a little above nominal")
def higher_volts(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lamps rated above the system's voltage."""
    for lamp in _lamps(figures) if figures.source.key == "magneto" else ():
        if lamp.at_v > figures.plan.machine.system_v * 1.02:
            yield say("note", (lamp.id,), (
                f"{lamp.name} is a {lamp.at_v:g} V lamp on a {figures.plan.machine.system_v} V coil: chosen to survive "
                "over-revving."), "accessory")


@rule(
    "lamp.not-filament",
    meaning="An accessory that is no filament lamp is on the magneto's AC: it needs a rectifier of its own, and it "
            "no longer loads the coil for the others.",
    cure="A rectifier and capacitor of its own, or a filament lamp.",
    source=LAMP_SOURCE)
def not_filament(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads on a coil that are no lamps or resistors, and have no rectifier."""
    for load in figures.plan.loads:
        if on_ac(figures, load) and load.behaviour in ("power", "current") and not load.rectified:
            yield say("caution", (load.id,), (
                f"{load.name} would be on AC from the magneto: it needs a rectifier of its own, and the other lamps "
                "see more."), "accessory")


@rule(
    "lamp.rectified",
    meaning="An accessory on the magneto's AC has a rectifier of its own: it gets the AC's peak, and loads the coil "
            "less than a filament would.",
    cure="Nothing is wrong: see that its window reaches that far.",
    source="A full-wave bridge and capacitor: 1.41 times the rms volts less two diodes of 0.7 V (usual)")
def rectified(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads on a coil behind rectifiers of their own."""
    for load in figures.plan.loads:
        if on_ac(figures, load) and load.rectified:
            yield say("note", (load.id,), (
                f"{load.name} gets DC from its own rectifier, up to 1.4 times the coil's volts less 1.4 V; the other "
                "lamps see more than beside a filament."), "accessory")


def _soon(share: float) -> str:
    """Words for a small share of a lamp's usual 500 hours."""
    hours = 500 * share
    if hours < 1 / 60:
        return "seconds"
    return f"{hours * 60:.0f} minutes" if hours < 1 else f"{hours:.0f} hours"
