"""What the Route station shows: the runs."""

from typing import Any

from ...frame.frame import Frame


def route(frame: Frame) -> dict[str, Any]:
    """The runs of the plan."""
    return {"runs": frame.plan.runs}
