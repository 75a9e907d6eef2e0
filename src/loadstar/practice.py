"""Exercises that ship with Loadstar: faults worth having met once, hidden on the demonstration's machines."""

from collections.abc import Callable
from dataclasses import dataclass

from . import demo
from .core.edits import Edit
from .core.plan.model import Plan
from .core.prove.trainer import Level


@dataclass(frozen=True)
class Practice:
    """One exercise: its name in addresses, title, what the customer says, the plan, the accessory, the fault's key."""

    key: str
    title: str
    story: str
    plan: Callable[[], tuple[Plan, list[Edit]]]
    load: str
    fault: str
    level: Level


SET = (
    Practice("turned", "Live, and nothing happens", "A new charger, fitted yesterday: dead, though it has voltage.",
             demo.mud_hopper, "Probe charger", "turned L3", "simple"),
    Practice("blown", "The fuse again", "The box for the logger went dead, and a new fuse went with a snap.",
             demo.tide_hauler, "Logger and radio", "short F3", "middling"),
    Practice("joint", "Good at rest, dim in use", "The headlamp hardly glows, and the volts are all there.",
             demo.ferry_runner, "Headlamp", "FR1 +1.6", "simple"),
    Practice("ghost", "Twelve volts that are not there", "The charger is dead. Twelve volts, on both its wires!",
             demo.mud_hopper, "Probe charger", "open W15", "middling"),
    Practice("relay", "It clicked yesterday", "Nothing of the new gear comes on with the engine.",
             demo.fit_out, "Heated grips", "out K1", "middling"),
    Practice("shared", "Weak only with everything on", "Each thing alone is fine. All together the grips go cold.",
             demo.fit_out, "Heated grips", "W2 +0.2", "nasty"),
    Practice("tired", "A battery that looks good", "Twelve point six in the morning, and the horn barely croaks.",
             demo.lights_and_horn, "Horn", "battery -0.16", "middling"),
)
BY_KEY = {p.key: p for p in SET}
assert len(BY_KEY) == len(SET)
