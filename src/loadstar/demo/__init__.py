"""The demonstration workshop's plans, made by the same edits that the pages use.

A volunteer estuary wildlife-survey team keeps a touring motorcycle, an old small motorcycle with magneto lighting, a
pull-start utility bike and a cargo e-bike. The tourer's fit-out is honest about three shortcomings: at idle the
generator does not keep up, one hand-fixed wire is too thin for its fuse, and a tracker that is always live flattens
the battery within weeks.
"""

from ..core.edits import Edit, apply
from ..core.plan.model import Plan
from ..core.shelf import Stock
from .electric import one_plug, tide_hauler
from .found import as_found, hidden_pins
from .old import ferry_runner, lights_and_horn, mud_hopper, tide_race
from .tourer import fit_out, winter

WORKSHOP = "Saltmarsh Survey Workshop"
SHELF = (
    Stock("ring M6, 0.35 to 1.5 mm²", "box 12", "ring box", 0.14, 25, 31, 10),
    Stock("blade receptacle 6.3, 0.5 to 1.5 mm²", "box 3", "blade box", 0.09, 50, 4, 20),
    Stock("red butt splice, 0.35 to 1.5 mm²", "box 7", "", 0.11, 50, 63, 25),
    Stock("shrink tube with lining 3.2/1", "reel 2", "", 0.85, 5, 3.4, 2),
    Stock("0.5 mm² BK", "reel 9", "wire rack", 0.28, 100, 41, 10),
    Stock("tie, 2.5 mm", "drawer 1", "", 0.02, 100, 260, 100))
PLANS = (fit_out, winter, ferry_runner, tide_race, mud_hopper, tide_hauler, as_found, lights_and_horn, one_plug)


def after(steps: list[Edit]) -> Plan:
    """The plan that some edits make of an empty one."""
    plan = Plan()
    for step in steps:
        plan = apply(plan, step)
    return plan


__all__ = ["PLANS", "SHELF", "WORKSHOP", "after", "as_found", "ferry_runner", "fit_out", "hidden_pins",
           "lights_and_horn", "mud_hopper", "one_plug", "tide_hauler", "tide_race", "winter"]
