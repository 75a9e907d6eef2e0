"""The harness along its runs. So far the sheet that it will be drawn on."""

from loadstar.core.plan.model import Plan

from .svg import document, el


def draw(plan: Plan, width: float = 840, height: float = 400) -> str:
    """A sheet titled with the machine's name."""
    sheet = el("rect", {"width": width, "height": height, "class": "d-frame"})
    return document(width, height, f"The harness of {plan.machine.name}", f"{len(plan.runs)} runs", [sheet],
                    id_prefix="route")
