"""The pin maps of a machine as cards: each connector's face from both sides, its pins, and labels for its wires."""

from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.draw import mouth
from loadstar.draw.svg import Look

from ..frame.frame import Frame
from .card import pdf


def pin_maps_pdf(frame: Frame) -> bytes:
    """Every connector's card, then the labels, as PDF."""
    return pdf("papers/pin_maps.html", {"frame": frame, "today": timezone.now(), **pin_maps_context(frame)})


def pin_maps_context(frame: Frame) -> dict[str, object]:
    """What they say."""
    plan = frame.plan
    places = {p.id: p.name for p in plan.places}
    cards = [{"plug": plug, "place": places[plug.place], "pins": plan.pins(plug.id),
              "phases": any(p.phase for p in plan.pins(plug.id)),
              "faces": [mark_safe(mouth.draw(plan, plug, seen, Look(paper=True))) for seen in ("mouth", "wires")]}
              for plug in plan.plugs]
    labels = [{"text": f"{plug.id}-{pin.way}", "colour": pin.wire_colour, "to": pin.goes_to} for plug in plan.plugs
              for pin in plan.pins(plug.id)]
    return {"cards": cards, "labels": labels, "removed": plan.removed, "places": places}
