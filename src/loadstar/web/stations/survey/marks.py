"""Pins marked on a photograph of their connector: put by a tap, opened by a tap, and what was seen of each."""

import math
from dataclasses import dataclass
from typing import Any

from django.http import Http404, QueryDict
from django.shortcuts import get_object_or_404

from loadstar.core.edits.plugs import PutPins
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plug
from loadstar.core.quantities import NoQuantity, read

from ...frame.frame import Frame
from ...frame.station import Again
from ...records import store
from ...records.models import Photo

LIVES = (("", "not found out"), ("always", "always"), ("key", "with the key"), ("engine", "with the engine"),
         ("ground", "never: it is a ground"))


@dataclass(frozen=True)
class Mark:
    """A way on a photograph, in its pixels; what is known of its pin."""

    way: int
    x: float
    y: float
    pin: Tap | None
    here: bool


def marked(frame: Frame, plug: Plug, photos: list[Photo]) -> dict[str, Any] | None:
    """The photograph that is looked at, with its marks; None where none is."""
    asked = frame.request.GET.get("photo", "") or frame.request.POST.get("photo", "")
    photo = next((p for p in photos if str(p.pk) == asked), None)
    if photo is None:
        return None
    pins = {p.way: p for p in frame.plan.pins(plug.id)}
    way = frame.request.GET.get("way", "")
    marks = [Mark(int(w), x * photo.width, y * photo.height, pins.get(int(w)), w == way)
             for w, (x, y) in sorted(photo.marks.items(), key=lambda row: int(row[0]))]
    free = [n for n in range(1, plug.ways + 1) if str(n) not in photo.marks]
    chosen = next((m for m in marks if m.here), None)
    return {"photo": photo, "marks": marks, "ways": range(1, plug.ways + 1), "next": free[0] if free else 0,
            "chosen": chosen, "lives": LIVES, "live": _live(chosen.pin) if chosen else "",
            "radius": max(photo.width, photo.height) / 20}


def _live(pin: Tap | None) -> str:
    if pin is None or pin.function not in ("feed", "ground"):
        return ""
    return "ground" if pin.function == "ground" else pin.live


def _photo_of(frame: Frame) -> tuple[Photo, Plug]:
    photo = get_object_or_404(Photo.objects.defer("image"), pk=frame.number("photo"), plan=frame.row)
    plug = next((p for p in frame.plan.plugs if p.id == photo.element), None)
    if plug is None:
        raise Http404
    return photo, plug


def _way(frame: Frame, plug: Plug) -> int:
    way = frame.number("way")
    if not 1 <= way <= plug.ways:
        raise Again(422, told=f"{plug.name} has ways 1 to {plug.ways}.")
    return way


def _share(post: QueryDict, name: str) -> float:
    """How far across or down, of 1: sent by a tap, or typed in per cent."""
    typed = post.get(name, "")
    try:
        share = read(typed, "%") / 100
    except NoQuantity as error:
        raise Again(422, told=f"{error} Tap the picture, or say how far across and down in per cent.") from error
    if not (math.isfinite(share) and 0 <= share <= 1):
        raise Again(422, told=f"{typed[:20]} lies beside the picture: from 0 to 100 %.")
    return round(share, 4)


def put(frame: Frame) -> str:
    """A way marked where the picture was tapped, or its mark taken away."""
    photo, plug = _photo_of(frame)
    way = _way(frame, plug)
    marks = {w: at for w, at in photo.marks.items() if w != str(way)}
    if not frame.request.POST.get("away"):
        marks[str(way)] = [_share(frame.request.POST, name) for name in ("across", "down")]
    Photo.objects.filter(pk=photo.pk).update(marks=marks)
    return f"{frame.link(sel=plug.id)}&photo={photo.pk}"


def seen(frame: Frame) -> str:
    """What was seen of a marked pin: its colour, and when it is live."""
    photo, plug = _photo_of(frame)
    way, post = _way(frame, plug), frame.request.POST
    lives = post.get("live", "")
    if lives not in dict(LIVES):
        raise Http404
    values: dict[str, Any] = {"way": way, "wire_colour": post.get("wire_colour", "")[:20]}
    if lives:
        values |= {"function": "ground"} if lives == "ground" else {"function": "feed", "live": lives}
    store.edit(frame.row, frame.membership.person, frame.made_on, PutPins(pins={plug.id: (values,)}))
    return f"{frame.link(sel=plug.id)}&photo={photo.pk}"
