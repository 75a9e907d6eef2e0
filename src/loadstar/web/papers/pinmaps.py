"""The pin maps of a machine as cards: each connector's face from both sides, its pins, and labels for its wires."""

from django.utils import timezone
from django.utils.safestring import mark_safe

from loadstar.core.parts.coupling import Coupling
from loadstar.draw import mouth
from loadstar.draw.svg import Look

from ..frame.frame import Frame
from .press import pdf


def is_plugged(frame: Frame) -> bool:
    """Whether there is a connector of which a pin map tells."""
    return bool(frame.plan.plugs) or bool(frame.plan.of(Coupling))


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
    halves = [half_of(frame, part, side) for part in plan.of(Coupling) for side in ("a", "b")]
    return {"cards": cards, "halves": halves, "labels": labels, "removed": plan.removed, "places": places}


def half_of(frame: Frame, part: Coupling, side: str) -> dict[str, object]:
    """One half of a connector in the harness: its face from both sides, and the wire in each pin."""
    plan = frame.plan
    into = {end.name: (wire, far) for wire in plan.wires for end, far in ((wire.a, wire.b), (wire.b, wire.a))
            if end.part == part.id}
    names = {one.id: one.name for one in plan.parts}
    pins = []
    for way in range(1, part.ways + 1):
        wire, far = into.get(f"{side}{way}", (None, None))
        sized = frame.analysis.wires.get(wire.id) if wire else None
        pins.append({"way": way, "wire": wire, "far": f"{far} {names[far.part]}" if far else "",
                     "area": sized.area_mm2 if sized else None})
    has = "it is not said yet what" if not part.tabs else "tabs" if part.tabs == side else "receptacles"
    return {"part": part, "side": side, "has": has, "pins": pins,
            "place": next(p.name for p in plan.places if p.id == part.place),
            "faces": [mark_safe(mouth.half(plan, part, side, seen, Look(paper=True))) for seen in ("mouth", "wires")]}
