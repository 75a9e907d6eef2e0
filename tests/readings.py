"""Pins with readings, in a short form."""

from builders import Bench

from loadstar.core.edits import apply
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.edits.survey import TakeReadings

STATES = {"o": "key_off", "k": "key_on", "i": "idle", "r": "raised", "l": "lamp_on", "c": "cranking", "a": "assist",
          "g": "charging"}


def plan_with(pins=({"way": 1, "function": "unknown", "rated_a": 5},), **plug):
    b = Bench()
    return apply(b.plan, PutPlug(values={"name": "tail plug", "place": b.box, "ways": 6, **plug}, pins=pins))


def take(plan, pin, pattern: str):
    """Readings from a short form: "o0.1 k12.2 b1 s12": volts by state, b beep, z ohms, s seconds of run-on."""
    rows = []
    for word in pattern.split():
        quantity, state = {"b": ("beep", "key_off"), "z": ("ohm", "key_off"),
                           "s": ("s", "key_on")}.get(word[0], ("V", STATES.get(word[0])))
        rows.append({"element": pin.id, "quantity": quantity, "state": state, "value": float(word[1:])})
    return apply(plan, TakeReadings(readings=tuple(rows))) if rows else plan
