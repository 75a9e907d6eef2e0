"""Lamp volts over engine speed on a magneto, with the life limit, and what the others see when one lamp fails."""

from loadstar.core.analysis import Analysis
from loadstar.core.doc.states import RUNNING, STATE_NAMES
from loadstar.core.parts.load import LoadPart
from loadstar.core.rules.lamps import OVER_VOLTS_FRAC

from .chart import Axis, Chart
from .svg import document

TONES = 5
NAMES = 190.0  # room for the lamps' names at the ends of their curves


def chart(analysis: Analysis, gone: str, width: float, height: float) -> Chart | None:
    """The placed picture; `gone` names a lamp that has failed."""
    found, machine = analysis.lamps, analysis.plan.machine
    if found is None:
        return None
    lamps = [p for p in analysis.plan.loads if p.id in found.lamps and p.id != gone]
    rows = found.failed[found.lamps.index(gone)] if gone in found.lamps else found.volts
    nominal = float(machine.system_v)
    top = max(nominal * 1.4, max((float(rows[:, found.lamps.index(p.id)].max()) for p in lamps), default=0.0) * 1.08)
    made = Chart(width, height, Axis(0, found.rpm[-1], "engine speed, rpm", ""),
                 Axis(0, top, "volts (rms) at the lamp", "V"), right=NAMES)
    made.level(nominal, "d-dots")
    made.level(nominal * OVER_VOLTS_FRAC, "c-fails")
    made.end("above: life under 30 %", nominal * OVER_VOLTS_FRAC, "d-bad")
    for state in (s for s in RUNNING if machine.rpm(s) > 0):
        made.upright(machine.rpm(state), "d-dots")
        made.label(state, STATE_NAMES[state], machine.rpm(state), top * 0.04, "d-soft")
    for n, lamp in enumerate(lamps):
        _lamp(made, found.rpm, [float(v) for v in rows[:, found.lamps.index(lamp.id)]], lamp, n)
    return made


def _lamp(made: Chart, rpm: tuple[float, ...], volts: list[float], lamp: LoadPart, n: int) -> None:
    made.curve(list(zip(rpm, volts, strict=True)), f"c-line c-{n % TONES}")
    made.end(f"{lamp.name}, {volts[-1]:.1f} V", volts[-1], f"d-label t-{n % TONES}")


def draw(analysis: Analysis, gone: str = "", *, width: float = 760, height: float = 380) -> str:
    """The picture; empty without lamps on a coil."""
    made = chart(analysis, gone, width, height)
    if made is None:
        return ""
    failed = f", {analysis.topology.parts[gone].name} failed" if gone else ""
    return document((width, height), f"Lamp volts over engine speed{failed}",
                    "Each lamp's voltage from idle to the top speed; the list beside it has the figures.", made.body(),
                    "lamps")
