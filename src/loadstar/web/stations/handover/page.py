"""What the Handover station shows: the papers, the plan as a file, its history."""

from typing import Any

from ...frame.frame import Frame


def handover(frame: Frame) -> dict[str, Any]:
    """The papers: a card for each circuit, the plan as a file, its history."""
    cards = [{"load": load, "url": frame.url("plan") + f"card/{load.id}.pdf"} for load in frame.plan.loads]
    return {"cards": cards}
