"""The touring motorcycle as it was found, with what only the simulated meter knows of it."""

from typing import Any

from ..core.edits import (
    AddElement,
    Edit,
)
from ..core.edits.builder import Builder
from ..core.edits.plugs import PutPlug
from ..core.edits.survey import TakeReadings
from ..core.plan.model import Plan
from .tourer import tourer


def as_found() -> tuple[Plan, list[Edit]]:
    """The tourer before anything is planned: connectors half probed, readings, a nameless switch, a part taken off."""
    b, at = tourer("Survey, as found in spring")
    accessory = _connectors(b, at)
    battery = b.plan.battery.id if b.plan.battery else ""
    first, second = (p.id for p in b.plan.pins(accessory)[:2])
    b.do(TakeReadings(readings=tuple(
        {"element": element, "quantity": quantity, "state": state, "value": value, "instrument": "pocket meter",
         "taken": "2026-03-14T10:20:00+00:00",
         "by": "Demo technician"}
        for element, quantity, state, value in (
            (battery, "V", "key_off", 12.52), (battery, "V", "cranking", 9.9), (battery, "V", "idle", 13.1),
            (battery, "V", "raised", 14.2),
            (battery, "A", "key_off", 0.012), (first, "V", "key_off", 0.02), (first, "V", "key_on", 12.18),
            (second, "V", "key_off", 0.01)))))
    b.do(AddElement(what="table",
        values={"name": "old lamp switch", "terminals": ("1", "2", "3"), "positions": ("dipped", "high"), "beeps": (
        {"position": 0, "a": 0, "b": 1, "beeps": True}, {"position": 0, "a": 0, "b": 2, "beeps": False},
        {"position": 1, "a": 0, "b": 2, "beeps": True})}))
    b.do(AddElement(what="removed",
        values={"name": "rear carrier bracket", "place": at["tail"], "stored": "shelf 3, bag with the white label"}))
    return b.plan, b.steps


def _connectors(b: Builder, at: dict[str, str]) -> str:
    """Four connectors with what was seen of their pins; the id of the one that accessories may hang on."""

    def plug(name: str, place: str, pins: list[dict[str, Any]], **values: Any) -> str:
        b.do(PutPlug(values={"name": name, "place": place, "ways": len(pins), **values},
                     pins=tuple({"way": n, **pin} for n, pin in enumerate(pins, 1))))
        return b.plan.plugs[-1].id

    colours = ("RD/WH", "BN", "GN/YE", "BK/WH")
    accessory = plug("accessory plug", at["seat"],
                     [{"wire_colour": c, "function": "unknown"} for c in colours], use="accessory",
                     reach="seat off", housing="sealed 2.8 mm blade, 4-way", rows=2, half="receptacles")
    plug("heated-gear plug", at["rider"],
         [{"wire_colour": c, "function": "unknown"} for c in ("BN/WH", "BK")], use="heated gear",
         reach="nothing, hangs behind the panel", housing="unsealed 6.3 mm blade, 2-way", half="receptacles")
    plug("diagnostic plug", at["seat"],
         [{"wire_colour": c, "function": "unknown"} for c in ("YE", "GN", "BK")], use="diagnostic",
         reach="seat off", housing="sealed 1.5 mm, 3-way", never="CAN")
    plug("generator plug", at["battery"],
         [{"wire_colour": "YE", "function": "other", "phase": True, "goes_to": f"stator phase {n}",
                                            "new_colour": "BK"} for n in (1, 2, 3)], use="generator",
                                            reach="left panel off",
         housing="6.3 mm blade, 3-way", latch="none")
    return accessory


def hidden_pins() -> dict[str, dict[int, dict[str, Any]]]:
    """What the pins of `as_found` really are, which only the simulated meter knows: by connector and way."""
    return {
        "accessory plug": {1: {"function": "feed", "live": "key"}, 2: {"function": "lamp"}, 3: {"function": "ground"},
                           4: {"function": "feed", "live": "always"}},
        "heated-gear plug": {1: {"function": "feed", "live": "engine"}, 2: {"function": "ground"}},
        "diagnostic plug": {1: {"function": "signal"}, 2: {"function": "signal"}, 3: {"function": "ground"}},
    }
