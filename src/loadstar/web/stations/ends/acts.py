"""What is sent from the Ends station."""

import math
from typing import NoReturn

from loadstar.core.edits import ChangeElement, Edit, Several
from loadstar.core.edits.base import existing
from loadstar.core.ends.joints import joints
from loadstar.core.ends.pins import Consolidation, Contact, consolidate
from loadstar.core.errors import refuse
from loadstar.core.leads import gather, led_through, put_in
from loadstar.core.order import order
from loadstar.core.quantities import NoQuantity, read
from loadstar.core.shelf import against
from loadstar.exchange import leads

from ...frame.frame import Frame
from ...frame.station import Act, Again
from ...records import store
from ...records.shelf import reserve, stock_of, take
from ...workshop.models import Trail
from ...workshop.trail import note

FIGURES = {"most_a": ("A", 0.5, 200.0), "barrel_mm2": ("mm²", 0.2, 120.0), "shared_mohm": ("mΩ", 0.0, 1000.0)}
MOST_SPARE = 20
MOST_UNIT = 40  # letters of what all leads go to


def _termination(frame: Frame) -> str:
    """What wires at a part end in."""
    post = frame.request.POST
    part = existing(frame.plan, post.get("part", ""))
    change = ChangeElement(id=part.id, values={"termination": post.get("termination", "")})
    store.edit(frame.row, frame.membership.person, frame.made_on, change)
    return frame.link(sel=post.get("wire", ""))


def _counterpart(frame: Frame) -> str:
    """What the other half of a connector as found is made with: all its pins' wires end in that."""
    post = frame.request.POST
    frame.kept["view"] = "connectors"
    pins = frame.plan.pins(post.get("plug", ""))
    if not pins:
        raise refuse("", "plug", "No pin of that connector has been written down yet.")
    edits = tuple(ChangeElement(id=pin.id, values={"termination": post.get("termination", "")}) for pin in pins)
    store.edit(frame.row, frame.membership.person, frame.made_on,
               Several(edits=edits, words=f"counterpart of {frame.plan.plug(post['plug']).name} chosen"))
    return frame.link(sel="")


def _pins(frame: Frame) -> NoReturn:
    """The fewest pins for the leads that were typed; nothing is changed by it."""
    typed, _, found = _found(frame)
    raise Again(200, typed=typed, pins=found)


def _found(frame: Frame) -> tuple[dict[str, str], Contact, Consolidation]:
    """What was typed, the contact, and the fewest pins for it."""
    frame.kept["view"] = "pins"
    typed = {name: frame.request.POST.get(name, "") for name in (*FIGURES, "spare", "leads", "at", "together")}
    told, figures = {}, {}
    for name, (unit, least, most) in FIGURES.items():
        figures[name] = _number(typed[name], unit)
        if not least <= figures[name] <= most:
            told[name] = f"{typed[name][:20] or 'Nothing'} is no figure from {least:g} to {most:g} {unit}."
    spare = _number(typed["spare"])
    if spare != int(spare if math.isfinite(spare) else 0.5) or not 0 <= spare <= MOST_SPARE:
        told["spare"] = f"{typed['spare'][:20] or 'Nothing'} is no whole number from 0 to {MOST_SPARE}."
        typed["spare"] = "1"
    read = leads.read(typed["leads"])
    if read.faults or not read.leads:
        told["leads"] = " ".join(read.faults[:6]) or "Enter a lead on each line."
    if told:
        raise Again(422, typed=typed, told=told)
    typed["spare"] = f"{spare:.0f}"
    contact = Contact(figures["most_a"], figures["barrel_mm2"], figures["shared_mohm"] / 1000)
    try:
        return typed, contact, consolidate(read.leads, contact, together=bool(typed["together"]))
    except ValueError as error:
        raise Again(422, typed=typed, told={"leads": str(error)}) from error


def _connect(frame: Frame) -> str:
    """The connectors for the leads that were typed, put into the plan. Leads that the plan has are led through them;
    others are put in with what they come from."""
    typed, contact, found = _found(frame)
    place, of = frame.request.POST.get("place", ""), typed["at"]
    if place not in frame.plan.place_by_id:
        raise refuse("", "place", "Choose the place where they sit.")
    made = joints(found, int(typed["spare"]), together=bool(typed["together"]))
    if not all(joint.ways for joint in made):
        raise Again(422, typed=typed, pins=found, told={"leads": "No connector has so many ways."})
    edits: tuple[Edit, ...]
    if of:
        try:
            edits = led_through(gather(frame.analysis, of), made, contact, of, place)
        except KeyError as error:
            raise Again(422, typed=typed, told={"leads": f"{error.args[0]} is no lead of the plan: take those of the "
                                                         "plan again, or leave that line out."}) from error
    else:
        if frame.plan.supply is None:
            raise Again(422, typed=typed, pins=found, told={"leads": "Enter what feeds the machine under Survey "
                                                                     "first, a battery or a pack."})
        come = frame.request.POST.get("come", "")
        edits = (put_in(frame.plan, made, contact, come if come in frame.plan.place_by_id else place, place,
                        frame.request.POST.get("unit", "").strip()[:MOST_UNIT] or "unit"),)
    store.edit(frame.row, frame.membership.person, frame.made_on,
               Several(edits=edits, words="connectors of fewest pins"))
    return frame.link(view="connectors", sel="")


def _reserve(frame: Frame) -> str:
    """What the shelf has of the order list, set aside for this plan; the plan itself is not changed."""
    frame.kept["view"] = "buy"
    needs = against(order(frame.analysis), stock_of(frame.membership.workshop, frame.row))
    reserve(frame.row, frame.membership.person, {line.item.what: line.taken for line in needs.lines})
    return frame.link(sel="")


def _release(frame: Frame) -> str:
    """What was set aside, for others again."""
    frame.kept["view"] = "buy"
    reserve(frame.row, frame.membership.person, {})
    return frame.link(sel="")


def _take(frame: Frame) -> str:
    """What was set aside, taken off the shelf."""
    frame.kept["view"] = "buy"
    lines = take(frame.row)
    note(Trail.What.TAKEN, frame.membership.person, frame.membership.workshop,
         f"{lines} lines of the shelf for {frame.plan.name}")
    return frame.link(sel="")


def _number(text: str, unit: str = "") -> float:
    try:
        return read(text, unit)
    except NoQuantity:
        return math.nan


ACTS: dict[str, Act] = {"termination": _termination, "counterpart": _counterpart, "pins": _pins, "connect": _connect,
                        "reserve": _reserve, "release": _release, "take": _take}
