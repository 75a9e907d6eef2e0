"""Template tags: figures in the person's units, links that keep state and selection."""

import json
import re
from datetime import datetime
from typing import Any

from django import template
from django.urls import reverse
from django.utils.html import format_html
from django.utils.safestring import SafeString

from loadstar.core import amounts
from loadstar.core.doc.machine import JobKind
from loadstar.core.doc.states import LIVES_WITH, STATE_NAMES, Live
from loadstar.core.edits import SetJob
from loadstar.core.findings import Subject
from loadstar.core.headline import Head
from loadstar.core.jobs import JOBS
from loadstar.core.quantities import converted
from loadstar.core.refs import FigureKey
from loadstar.core.whatif.outlook import Span

from . import registry, tour
from .forms import FEED_WORDS
from .units import Units, decimals_of, duration, figure

register = template.Library()
GLYPHS = {"stop": "■", "caution": "▲", "advice": "◆", "note": "○"}
AMOUNT = re.compile(r"(\d) (A|V|W|mm)\b")
WORDS = {"stop": "stop", "caution": "caution", "advice": "advice", "note": "note"}


def _units(context: Any) -> Units:
    frame = context.get("frame")
    return frame.units if frame is not None else context.get("units") or Units()


@register.simple_tag(takes_context=True)
def q(context: Any, value: float | None, unit: str = "", decimals: int | None = None) -> str:
    """A figure of the core in the person's unit."""
    units = _units(context)
    if value is None:
        return "unknown"
    return figure(units.shown(value, unit), units.unit(unit), decimals)


@register.simple_tag(takes_context=True)
def metered(context: Any, value: float, unit: str, decimals: int) -> str:
    """A reading as the meter shows it: of a current that is asked for in mA so many of these."""
    return q(context, converted(value, "A", unit) if unit == "mA" else value, unit, decimals)


@register.simple_tag(takes_context=True)
def more(context: Any, value: float, unit: str = "", decimals: int | None = None) -> str:
    """A difference, with its sign; one too small for its digits has none."""
    text = q(context, abs(value), unit, decimals)
    return text if not any(digit in text for digit in "123456789") else f"{'+' if value > 0 else '−'}{text}"


@register.simple_tag(takes_context=True)
def area(context: Any, area_mm2: float) -> str:
    """A wire size with both its names."""
    return _units(context).area_text(area_mm2)


@register.filter
def bound(words: str) -> str:
    """Words in which no unit comes away from its amount."""
    return AMOUNT.sub("\\1\u00a0\\2", words)


@register.simple_tag
def stated(value: float, unit: str = "") -> str:
    """A figure that somebody typed, as it was typed."""
    return f"{value:g}\u00a0{unit}".rstrip("\u00a0")


@register.filter
def hours(value: float | None) -> str:
    """A span given in hours."""
    return duration(value)


@register.filter
def days(value: float | None) -> str:
    """A span given in days."""
    return duration(None if value is None else value * 24)


@register.filter
def feed_words(kind: str) -> str:
    """How an accessory hangs on a feed of a kind."""
    return FEED_WORDS.get(kind, kind)


@register.filter
def lives_with(live: Live) -> str:
    """When something lives, in words: "with the key"."""
    return LIVES_WITH[live]


@register.filter
def percent(value: float | None) -> str:
    """A share as per cent."""
    return "unknown" if value is None else amounts.percent(value, 1).replace(" ", "\u00a0")


@register.filter
def state_name(state: str) -> str:
    """A state's name in words."""
    return STATE_NAMES.get(state, state)


@register.filter
def get(table: Any, key: Any) -> Any:
    """A table's entry."""
    return table.get(key)


@register.simple_tag
def severity(kind: str, count: int | None = None) -> SafeString:
    """Glyph and word (or count) of a severity; never colour alone."""
    shown = f" {count}" if count is not None else f" {WORDS[kind]}"
    return format_html('<span class="sev sev-{}"><span aria-hidden="true">{}</span>{}{}</span>', kind, GLYPHS[kind],
                       format_html('<span class="sr-only">{}</span>', WORDS[kind]) if count is not None else "", shown)


@register.simple_tag(takes_context=True)
def link(context: Any, station: str = "", **changes: Any) -> str:
    """The address of a station of the open plan, with state and selection kept unless changed."""
    return str(context["frame"].link(station, **changes))


@register.simple_tag(takes_context=True)
def act(context: Any, what: str) -> str:
    """The address that one of the station's own forms is sent to."""
    frame = context["frame"]
    return reverse("act", kwargs={**frame.base, "station": frame.station, "what": what})


@register.simple_tag(takes_context=True)
def run_list(context: Any) -> list[dict[str, Any]]:
    """The stations with their marks."""
    return registry.run_list(context["frame"])


@register.simple_tag(takes_context=True)
def states_matter(context: Any) -> bool:
    """Whether what the open page shows is of a state."""
    return registry.STATIONS[context["frame"].station].by_state


@register.simple_tag(takes_context=True)
def tour_step(context: Any) -> Any:
    """The tour's step that belongs on the open plan's pages, with its number."""
    frame = context["frame"]
    return tour.step_on(frame.membership.person, frame.row.pk)


@register.simple_tag
def set_job(kind: JobKind) -> dict[str, object]:
    """The edit that says what the work is, as data."""
    return SetJob(job=kind).model_dump(mode="json")


@register.simple_tag(takes_context=True)
def job_words(context: Any) -> str:
    """What the open plan's job is called."""
    return JOBS[context["frame"].plan.job].words


@register.simple_tag
def station_keys() -> str:
    """The keys that lead to the stations."""
    return " ".join(str(station.number) for station in registry.listed())


@register.simple_tag(takes_context=True)
def look(context: Any, subject: Subject, **changes: Any) -> str:
    """The address of the station where something of the plan is looked at."""
    return str(context["frame"].link(registry.of_subject(subject).key, **changes))


@register.simple_tag(takes_context=True)
def head_words(context: Any, head: Head) -> str:
    """The words of a headline figure at the beginning of a sentence, without what it says of now."""
    return head_label(context, head).partition(": ")[0]


@register.simple_tag(takes_context=True)
def head_label(context: Any, head: Head) -> str:
    """The words of a headline figure, with its limit in the person's unit."""
    units = _units(context)
    limit = "" if head.limit_c is None else f"{units.shown(head.limit_c, '°C'):.0f} {units.unit('°C')}"
    return head.label.replace("{limit}", limit)


@register.simple_tag(takes_context=True)
def band(context: Any, head: Head, span: Span | None) -> str:
    """Between what a headline figure lies; "" where nothing leaves it open."""
    if span is None or not span.is_open:
        return ""
    if head.is_span:
        low, high = duration(span.low), duration(span.high)
        if low == high:  # both "over a year": open, and nothing to read
            return ""
        number, _, unit = low.partition("\u00a0")
        return f"{number if unit and high.endswith(unit) else low} to {high}"
    units = _units(context)
    unit = units.unit(head.unit)
    decimals = decimals_of(span.low, span.high, unit=unit)
    low, high = (figure(units.shown(v, head.unit), "", decimals) for v in (span.low, span.high))
    return f"{low} to {high}\u00a0{unit}"


@register.simple_tag(takes_context=True)
def figure_q(context: Any, value: float, unit: str) -> str:
    """A usual or stated figure, in the person's unit: no more digits than anybody knows of it."""
    units = _units(context)
    return figure(units.shown(float(f"{value:.3g}"), unit), units.unit(unit), trimmed=True)


@register.simple_tag(takes_context=True)
def working_link(context: Any, family: str, *arguments: str) -> str:
    """The address of a figure's working: by its family and what it is asked of, or by its key as a finding gives it."""
    return str(context["frame"].working_link(FigureKey.of(family, *arguments)))


@register.filter
def as_json(edit: Any) -> str:
    """An edit as the form field that carries it."""
    return json.dumps(edit)


@register.filter
def remove_edit(element: str) -> dict[str, str]:
    """The edit that takes an element out."""
    return {"kind": "remove", "id": element}


@register.filter
def pin_words(pin: Any) -> str:
    """What a pin is written down as."""
    live = "always live" if pin.live == "always" else LIVES_WITH[pin.live]
    words = {"lamp": "with its lamp", "unknown": "not known yet", "other": "of its own circuit", "unused": "empty",
             "signal": "a signal"}
    return live if pin.function == "feed" else words.get(pin.function, pin.function)


@register.filter
def whole_percent(value: float) -> str:
    """A share as whole per cent."""
    return amounts.percent(value).replace(" ", "\u00a0")


@register.filter
def percent0(value: float) -> str:
    """A share as whole per cent, never 100 while anything is left open."""
    return f"{min(round(value * 100), 99)}\u00a0%"


@register.filter
def when(text: str) -> str:
    """A time by ISO 8601 as people write it."""
    try:
        return f"{datetime.fromisoformat(text):%-d %b %Y, %H:%M}"
    except ValueError:
        return text


NUDGES = {"←": "left", "↑": "up", "↓": "down", "→": "right"}


@register.filter
def nudge_words(arrow: str) -> str:
    """An arrow in words."""
    return f"{NUDGES[arrow]} by 10 mm"


@register.filter
def nudge_id(arrow: str) -> str:
    """An arrow's button, found by the arrow keys."""
    return f"nudge-{NUDGES[arrow]}"


@register.filter
def pretty(formula: str) -> str:
    """A formula as people write it."""
    for code, sign in ((" ** 2", "²"), (" ** k", "^k"), (" * ", " · "), (" - ", " − "), ("alpha", "α"), ("pi", "π")):
        formula = formula.replace(code, sign)
    return formula


@register.filter(name="input")
def input_figure(value: float, unit: str) -> str:
    """An input of a working: enough figures to reckon with again, in the core's own unit."""
    text = f"{value:.5g}".replace("-", "−")
    return f"{text}\u00a0{unit}" if unit else text
