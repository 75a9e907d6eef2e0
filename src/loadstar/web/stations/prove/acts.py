"""What is sent from the Prove station: readings, typed or from the meter; practice. The plan is not changed by it."""

import math

from django.conf import settings
from django.http import Http404

from loadstar.core.plan import document
from loadstar.core.prove.measure import Step
from loadstar.core.prove.predict import OPEN_BEGINS_OHM, Quantity
from loadstar.core.prove.readings import UNPOWERED, Probe
from loadstar.core.prove.results import holds, latest
from loadstar.core.prove.set import with_off
from loadstar.core.prove.told import told
from loadstar.core.quantities import NoQuantity, read
from loadstar.exchange import instrument

from ...evidence import proving as known
from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...frame.units import figure
from ...records import store
from ...records import work as records
from ...records.readings import take_readings
from . import training

OVER_TIMES, MOST_A, MOST_OHM = 2.0, 300.0, 5e7
THOUSAND = (300.0, 3000.0)  # off by so many times it is another unit, or asked about once


def number(frame: Frame, typed: str, quantity: Quantity, *, apart: bool = False, unit: str = "") -> float:
    """What a meter showed, as it was typed: in the `unit` asked for or one named with it; "OL" is an open circuit.
    Again, with a sentence, where it is none or cannot be; `apart`: of something unplugged, which may have other
    volts."""
    text = typed.strip()
    if quantity == "ohm" and text.lower() in ("ol", "o.l", "open", "inf"):
        return math.inf
    try:
        value = read(text, quantity, unit)
    except NoQuantity as error:
        raise _again(frame, str(error) + (' An open circuit is "OL".' if quantity == "ohm" else "")) from error
    if quantity == "ohm" and (value < 0 or value > MOST_OHM):
        raise _again(frame, "Ohms are never negative: swap nothing, switch the supply off and read again." if value < 0
                     else 'Beyond any meter\'s range: an open circuit is "OL".')
    highest = max((abs(r.posts_v) for r in frame.analysis.volts.rows if math.isfinite(r.posts_v)), default=12.0)
    if quantity == "V" and not apart and abs(value) > OVER_TIMES * max(highest, 1.0):
        raise _again(frame, f"{value:g} V cannot be on a machine of {highest:.0f} V: millivolts, or another range?")
    if quantity == "A" and abs(value) > MOST_A:
        raise _again(frame, f"{value:g} A is more than any meter here carries: milliamps?")
    return value


def _asked(frame: Frame, step: Step, typed: str, value: float) -> None:
    """Asked once where a reading is off by about a thousand: the unit was another, or it is so. Again, until the same
    is sent a second time."""
    expected = step.expects.value
    if not (value and expected and math.isfinite(value) and math.isfinite(expected)) or (
            frame.request.POST.get("sure") == typed.strip()):
        return
    times = abs(value / expected)
    if not any(THOUSAND[0] <= t <= THOUSAND[1] for t in (times, 1 / times)):
        return
    said = typed.strip() if any(map(str.isalpha, typed)) else f"{typed.strip()} {step.unit}"
    unit = {"ohm": "Ω"}.get(step.quantity, step.quantity)
    raise Again(422, told=f"{said}? {figure(expected, unit)} is expected. If it is so, enter it once more.",
                typed=frame.request.POST.dict(), asked=typed.strip())


def _again(frame: Frame, told: str) -> Again:
    return Again(422, told=told, typed=frame.request.POST.dict())


def _read(frame: Frame) -> str:
    """The reading of a step of the plan, typed or taken from the meter."""
    base = frame.made_on
    made_on = frame.analysis if base == frame.loaded.number else _older(frame, base)
    readings = records.readings(frame.row)
    step = next((s for s in known.plan_of(frame, readings) if s.key == frame.request.POST.get("step", "")), None)
    if step is None:
        raise Again(422, told="That step is no longer in this plan: it was changed meanwhile. Nothing was kept.")
    step = with_off(frame.analysis, step, frame.request.POST.get("off", "").split())
    probe = Probe(step.quantity, step.row, step.red, step.black)
    value, name = _value(frame, probe, apart=step.apart, unit=step.unit)
    if not name:
        _asked(frame, step, frame.request.POST.get("value", ""), value)
    prediction, plain = step.expects, step.plain
    if made_on is not frame.analysis and step.quantity != "A" and not (step.apart or step.off):
        prediction = known.expected(made_on, probe) or step.expects
        plain = prediction.value
    records.keep(frame.row, frame.membership.person, base, step=step.key, quantity=step.quantity, row=step.row,
                 red=step.red, black=step.black, value=value, expected=prediction.value, spread=prediction.spread,
                 plain=plain, instrument=name, off=" ".join(step.off))
    _noted(frame)
    frame.kept["n"] = ""
    out = prediction.verdict(value) == "out" and step.proves and step.quantity != "A"
    return frame.link(n=str(_number(frame, step)) if out else "", sel="")


def _noted(frame: Frame) -> None:
    """How far the proof now is, for the lists that show it."""
    readings = records.readings(frame.row)
    last, plan = latest(readings), known.plan_of(frame, readings)
    read = [last[s.key] for s in plan if s.key in last and holds(s, last[s.key])]
    records.note_proof(frame.row, len(read), len(plan), sum(r.verdict == "out" for r in read))


def _older(frame: Frame, base: int):  # type: ignore[no-untyped-def]
    """The analysis of the revision that a reading was taken by."""
    if not 1 <= base < frame.loaded.number:
        raise Http404
    return store.load(frame.row, base).analysis


def _number(frame: Frame, step: Step) -> int:
    plan = known.plan_of(frame, records.readings(frame.row))
    return next((n for n, s in enumerate(plan) if s.key == step.key), 0)


def _value(frame: Frame, probe: Probe, *, apart: bool = False, unit: str = "") -> tuple[float, str]:
    """What was typed, or what the meter on its socket says, and with what it was read."""
    post = frame.request.POST
    if post.get("from") == "meter":
        if not settings.METER or apart:  # the meter's machine has nothing unplugged
            raise Http404
        try:
            value, name = instrument.read(settings.METER, probe.quantity, probe.red, probe.black, probe.row,
                                          document.to_bytes(frame.plan))
        except instrument.InstrumentError as error:
            raise Again(502, told=str(error), typed=post.dict()) from error
        return (math.inf if probe.quantity == "ohm" and value >= OPEN_BEGINS_OHM else value), name
    typed = "OL" if post.get("shows") == "OL" else post.get("value", "")
    return number(frame, typed, probe.quantity, apart=apart, unit="mA" if unit == "mA" else ""), ""


def _probe(frame: Frame) -> str:
    """A reading anywhere on a circuit, on the way to its fault."""
    frame.kept["view"] = "find"
    post, plan = frame.request.POST, frame.plan
    load = next((p for p in plan.loads if p.id == post.get("load")), None)
    quantity, row = post.get("quantity", "V"), post.get("row", "")
    if load is None or quantity not in ("V", "ohm") or not frame.analysis.path(load.id).complete:
        raise Http404
    points = {str(p.terminal): p.terminal for p in known.diagnosis(frame.analysis, load.id, known.of_log(frame)).points}
    red, black = points.get(post.get("red", "")), points.get(post.get("black", ""))
    if red is None or black is None or red == black:
        raise _again(frame, "Put the two probes on two points of the circuit.")
    row = UNPOWERED if quantity == "ohm" else row
    probe = Probe("ohm" if quantity == "ohm" else "V", row, red, black)
    prediction = known.expected(frame.analysis, probe)
    if prediction is None:
        raise Http404
    value, name = _value(frame, probe)
    records.keep(frame.row, frame.membership.person, frame.loaded.number, load=load.id, quantity=quantity, row=row,
                 red=red, black=black, value=value, expected=prediction.value, spread=prediction.spread,
                 plain=prediction.value, instrument=name)
    return frame.link(sel=load.id)


def _told(frame: Frame) -> str:
    """What was read at the supply taken into the survey, as readings of the machine."""
    frame.kept["view"] = "result"
    found = told(frame.plan, records.readings(frame.row))
    if not found or frame.plan.supply is None:
        raise Again(422, told="The survey has all of it already.")
    take_readings(frame.row, frame.membership.person, frame.made_on,
                  [one.reading(frame.plan.supply.id) for one in found])
    return frame.link(sel="")


def _mended(frame: Frame) -> str:
    """A circuit's fault has been mended: what was read before says nothing any more."""
    frame.kept["view"] = "find"
    load = next((p for p in frame.plan.loads if p.id == frame.request.POST.get("load")), None)
    if load is None:
        raise Http404
    records.keep(frame.row, frame.membership.person, frame.loaded.number, step=known.MENDED, load=load.id, quantity="",
                 row="", red="", black="", value=0.0, expected=0.0, spread=0.0, plain=0.0)
    return frame.link(sel=load.id)


ACTS: dict[str, Act] = {"read": _read, "probe": _probe, "mended": _mended, "told": _told, **training.ACTS}
