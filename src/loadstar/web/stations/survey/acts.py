"""What is sent from the Survey: each takes one form, makes one edit, and shows the page again."""

import math
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404

from loadstar.core.edits import AddElement, ChangeElement, Edit, Several, Vouch
from loadstar.core.edits.another import TakeSurvey
from loadstar.core.edits.base import name_of
from loadstar.core.edits.plugs import PutPins
from loadstar.core.edits.standing import marked
from loadstar.core.edits.survey import MOST_MM, SetScale
from loadstar.core.errors import PlanError, refuse
from loadstar.core.plan.model import Plan
from loadstar.core.quantities import OF_UNIT, NoQuantity, read
from loadstar.core.survey.measures import Shown, measure_of
from loadstar.core.survey.shows import state_words
from loadstar.exchange import instrument
from loadstar.exchange import survey as exchange

from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...records import store
from ...records.beside import photograph
from ...records.models import KeptSurvey, Photo
from ...records.photos import shown_by
from ...records.readings import take_readings
from ...workshop.access import member_view
from ...workshop.models import Membership
from .. import on_map
from . import marks
from .sheet import beeps_of, named, plug_form, reading_form, value_form

FORM_PARTS = {"place": "map", "scale": "map", "plug": "plugs", "photo": "plugs", "mark": "plugs",
              "seen": "plugs", "reading": "readings",
              "probe": "probe", "meter": "probe", "figure": "measure",
              "table": "tables", "pins": "reuse", "file": "reuse", "keep": "reuse", "take": "reuse"}


MOST_SHOWN = 1e6


def open_part(frame: Frame, what: str) -> None:
    """Keep the part of the survey open that a form is of."""
    frame.kept |= {"view": frame.kept["view"] or FORM_PARTS[what]}


def _edit(frame: Frame, change: Edit) -> Plan:
    return store.edit(frame.row, frame.membership.person, frame.made_on, change).plan


def _scale(frame: Frame) -> str:
    post, lengths = frame.request.POST, []
    for name in ("wheelbase_mm", "length_mm"):
        text = post.get(name, "").strip()
        try:
            number = read(text, "mm") if text else None
        except NoQuantity:
            number = math.nan
        if number is not None and not 0 < number <= MOST_MM:
            raise refuse("", name, f"{post[name][:20]} is no number of millimetres from 1 to {MOST_MM:,}.")
        lengths.append(number)
    wheelbase, length = lengths
    _edit(frame, SetScale(wheelbase_mm=None if length else wheelbase, a=post.get("a", ""), b=post.get("b", ""),
                          length_mm=length))
    return frame.link()


def _with(frame: Frame, form: Any, name: str, act: Callable[[], Any]) -> Any:
    """Carry out what a form asks for; when it is refused, or somebody was faster, the form comes back as it was
    sent."""
    if not form.is_valid():
        raise Again(**{name: form})
    try:
        return act()
    except PlanError as error:
        form.place_faults(error.faults)
        raise Again(**{name: form}) from error
    except store.Conflict as conflict:
        frame.conflict, frame.loaded = conflict, store.load(frame.row)
        raise Again(409, **{name: form}) from conflict


def _plug(frame: Frame) -> str:
    plan, post = frame.plan, frame.request.POST
    try:
        plug = plan.plug(post["id"]) if post.get("id") else None
    except KeyError:
        frame.notice = "This connector is no longer in the plan: somebody took it out. Nothing has been changed."
        raise Again(409) from None
    sheet = plug_form(plan, frame.units, plug, post)
    made: Plan = _with(frame, sheet, "sheet", lambda: _edit(frame, sheet.edit()))
    before = {p.id for p in plan.plugs}
    new = next((p.id for p in made.plugs if p.id not in before), plug.id if plug else "")
    return frame.link(sel="", add="plug") if post.get("then") == "next" else frame.link(sel=new)


def _reading(frame: Frame) -> str:
    form = reading_form(frame.plan, frame.units, frame.request.POST)
    _with(frame, form, "entry",
          lambda: _take_in(frame, {**form.values(), "instrument": form.values()["instrument"] or ""}))
    return frame.link()


def _probe(frame: Frame) -> str:
    """The reading that was asked for: typed, or one of the buttons beside the field."""
    post = frame.request.POST.copy()
    if post.get("shows"):
        post["value"] = post["shows"]
    form = value_form(post)
    _with(frame, form, "entry", lambda: _take_in(frame, {"value": form.values()["value"], **_asked(post)}))
    return frame.link(sel="")


def _asked(post: Any) -> dict[str, str]:
    return {key: post.get(key, "") for key in ("element", "quantity", "state")}


def _take_in(frame: Frame, reading: dict[str, Any]) -> None:
    take_readings(frame.row, frame.membership.person, frame.made_on, [reading])


def _meter(frame: Frame) -> str:
    """The same, read from the meter on its socket: at a pin or found wire, or at the supply's posts."""
    asked, plan = _asked(frame.request.POST), frame.plan
    part = next((p for p in plan.parts if p.id == asked["element"] and (p.FUSED_BEFORE or p is plan.supply)), None)
    if part is None or not settings.METER or asked["quantity"] not in instrument.ASK or asked[
        "state"] not in state_words(plan):
        raise Http404
    try:
        value, name = instrument.take(settings.METER, asked["quantity"], part.name if part.FUSED_BEFORE else "battery",
                                      asked["state"])
    except instrument.InstrumentError as error:
        frame.notice = str(error)
        raise Again(502) from error
    _take_in(frame, {**asked, "value": value, "instrument": name})
    return frame.link(sel="")


def _figure(frame: Frame) -> str:
    """A figure as it was measured, or read from a label, out of what the instrument shows."""
    post, plan = frame.request.POST, frame.plan
    element, field = post.get("element", ""), post.get("field", "")
    measure = measure_of(plan, element, field)
    if measure is None:
        raise Http404
    shown = {s.symbol: _amount(s, post.get(s.symbol, "")) for s in measure.shown}
    value = measure.value(marked(plan, element), shown)
    if measure.by == "label":  # read, not measured: stated, also where it is just what was usual
        as_it_says = ChangeElement(id=element, values={field: value}), Vouch(id=element, fields=(field,))
        _edit(frame, Several(edits=as_it_says, words=f"{name_of(plan, element)}: as labelled"))
    else:
        _take_in(frame, {"element": element, "quantity": "figure", "field": field, "value": value,
                         "instrument": post.get("instrument", "")[:60]})
    return frame.link(view="measure", sel="")


def _amount(shown: Shown, typed: str) -> float:
    """A number as it was typed, with a decimal comma or its unit if need be."""
    try:
        number = read(typed, shown.unit if shown.unit in OF_UNIT else "")
    except NoQuantity:
        number = math.nan
    if not math.isfinite(number) or abs(number) > MOST_SHOWN:
        of = f" in {shown.unit}" if shown.unit else ""
        raise refuse("", shown.symbol, f"Type the {shown.words} as a number{of}.")
    return number


def _table(frame: Frame) -> str:
    post = frame.request.POST
    values: dict[str, Any] = {"name": post.get("name", "").strip()}
    if "terminals" in post:
        values |= {"terminals": named(post["terminals"]),
                   "positions": named(post.get("positions", "")) or ("as it is",)}
    if post.get("id"):
        _edit(frame, ChangeElement(id=post["id"], values={**values, "beeps": beeps_of(post)}))
        return frame.link(sel=post["id"])
    made = _edit(frame, AddElement(what="table", values=values))
    return frame.link(sel=made.tables[-1].id)


def _pins(frame: Frame) -> str:
    """Pins of a table: each connector that it names must be there; then all of them are taken, or none."""
    post, plan = frame.request.POST, frame.plan
    file = frame.request.FILES.get("file")
    if file is not None and (file.size or 0) > exchange.MAX_BYTES:
        raise _too_large(file.size or 0)
    table = exchange.from_csv(file.read() if file is not None else post.get("pasted", ""))
    plugs = {p.name.lower(): p for p in plan.plugs}
    unknown = [name for name in table.pins if name.lower() not in plugs]
    if unknown:
        raise refuse("", "table",
            f"There is no connector {', '.join(unknown[:5])} in this plan: write it down first, or give it the same "
            "name in the table. Nothing has been taken.")
    _edit(frame, PutPins(pins={plugs[name.lower()].id: pins for name, pins in table.pins.items()}))
    taken = sum(len(pins) for pins in table.pins.values())
    messages.success(frame.request,
                     " ".join((f"Pins taken: {taken}. Connectors they belong to: {len(table.pins)}.", *table.remarks)))
    return frame.link(view="plugs", sel="")


def _too_large(size: int) -> PlanError:
    return refuse("", "file", f"The file has {size / 1e6:.1f} MB; at most {exchange.MAX_BYTES // 1024**2} MB are read.")


def _file(frame: Frame) -> str:
    file = frame.request.FILES.get("file")
    if file is None:
        raise refuse("", "file", "Choose a survey file first.")
    if (file.size or 0) > exchange.MAX_BYTES:
        raise _too_large(file.size or 0)
    _edit(frame, TakeSurvey(survey=exchange.from_json(file.read())))
    return frame.link(view="map", sel="")


def _keep(frame: Frame) -> str:
    """This survey, kept by the workshop for the next machine of its family."""
    post = frame.request.POST
    family = post.get("family", "").strip()
    if not family:
        raise refuse("", "family", "Say which family of machines it is for.")
    KeptSurvey.objects.create(workshop=frame.membership.workshop, family=family[:80],
                              years=post.get("years", "").strip()[:40],
                              differences=post.get("differences", "").strip()[:400],
                              document=exchange.survey_of(frame.plan),
                              by=frame.membership.person)
    messages.success(frame.request, f"Kept for {family}.")
    return frame.link()


def _take(frame: Frame) -> str:
    """A kept survey, taken over: every fact believed until it is confirmed here."""
    kept = get_object_or_404(KeptSurvey, pk=frame.number("kept"), workshop=frame.membership.workshop)
    _edit(frame, TakeSurvey(survey=exchange.from_data(kept.document)))
    return frame.link(view="map", sel="")


def _photo(frame: Frame) -> str:
    post = frame.request.POST
    element = post.get("element", "")
    if post.get("away"):
        get_object_or_404(Photo, pk=frame.number("away"), plan=frame.row).delete()
    elif element not in shown_by(frame.plan):
        raise Http404
    else:
        return photograph(frame.membership, frame.row, element, post.get("caption", ""),
                          frame.request.FILES.get("photo"), frame.link(sel=element))
    return frame.link(sel=element)


@member_view
def photo(request: HttpRequest, membership: Membership, plan: int, number: int) -> HttpResponse:
    """A photograph, only to members of its workshop."""
    found = get_object_or_404(Photo, pk=number, plan_id=plan, plan__workshop=membership.workshop)
    answer = HttpResponse(bytes(found.image), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=3600"
    return answer


ACTS: dict[str, Act] = {
    "place": on_map.put, "scale": _scale, "plug": _plug, "reading": _reading, "probe": _probe, "meter": _meter,
    "table": _table, "pins": _pins, "figure": _figure,
    "file": _file, "keep": _keep, "take": _take, "photo": _photo, "mark": marks.put, "seen": marks.seen}
