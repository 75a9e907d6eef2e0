"""The rule that nothing is silently left unjudged."""

from collections.abc import Iterator

from ..figures.figures import Figures
from ..findings import Finding
from .registry import Say, rule
from .words import listed

TOO_LARGE = "plan.too-large"


@rule(
    TOO_LARGE,
    meaning="The plan takes more time or memory to compute than a computation may have. Only what is computed "
            "is checked.",
    cure="Divide it into plans of their own, or take out what is not wanted.",
    source="Bounds of this server (docs/deploy)")
def too_large(figures: Figures, say: Say) -> Iterator[Finding]:
    """What was left out."""
    if figures.left_out:
        was = "was" if len(figures.left_out) == 1 else "were"
        yield say("stop", (), (
            f"Too large to compute whole: {listed(figures.left_out)} took too long and {was} left out. "
            "Only what is computed is checked."), "machine")
