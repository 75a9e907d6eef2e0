"""Figures that are not what such machines and things usually have: asked, never refused."""

from collections.abc import Iterator

from ..doc.types import Marked
from ..edits.standing import marked
from ..figures.figures import Figures
from ..findings import Finding, Subject
from ..parts.base import Part
from ..parts.can import as_accessory
from ..plan.standing import MACHINE, Unknown, band_of, kind_of
from ..survey.measures import MEASURES, figure_unit, figure_words
from .registry import Say, rule

BEYOND = 1.25  # times the high end, or under the low end by as much: then it is asked


@rule(
    "figure.unusual",
    meaning="A figure lies far from what such a machine or accessory usually has: perhaps the size class is another, "
            "or a digit or unit went wrong.",
    cure="Read the label again, or choose the size class that fits. A measured figure stands as it is.",
    source="Usual figures by kind and size of machine, and of accessories (core/materials)")
def unusual(figures: Figures, say: Say) -> Iterator[Finding]:
    """Stated and found figures beyond the usual band."""
    plan = figures.whole_plan
    whose: list[tuple[str, Marked]] = [(MACHINE, plan.machine), *((p.id, p) for p in plan.parts)]
    for element, field in ((e, f) for e, owner in whose for k, f in MEASURES if k == kind_of(owner)):
        owner = marked(plan, element)
        standing, band, value = owner.standing_of(field), band_of(plan, owner, field), float(getattr(owner, field))
        if standing == "typical" or band is None or band.low / BEYOND <= value <= band.high * BEYOND:
            continue
        unit = figure_unit(plan, Unknown(element, field, standing, value, band))
        words = figure_words(plan, element, field)
        is_accessory = isinstance(owner, Part) and as_accessory(owner) is not None
        of = "such an accessory" if is_accessory else f"a {plan.machine.kind} of its size"
        asked = "It was measured, and stands." if standing == "found" else "Check the value."
        subject: Subject = "accessory" if is_accessory else "machine"
        yield say.of(f"{element}.{field}")("note" if standing == "found" else "advice", () if element == MACHINE
                      else (element,), f"{words} is {value:.3g} {unit}; {of} usually has {band.low:.3g} to "
                      f"{band.high:.3g} {unit}. {asked}", subject)
