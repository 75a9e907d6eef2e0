"""How workings name what they are about."""

from ..refs import part_of
from .figures import Figures


def element_name(figures: Figures, element: str) -> str:
    """A part by its name and id; a wire by its id, which is on its label."""
    part = figures.topology.parts.get(part_of(element))
    return f"{part.name} ({part.id})" if part is not None else element


def begins_words(figures: Figures, load: str) -> str:
    """Where a load's circuit begins."""
    root = figures.path(load).root.part
    part = figures.topology.parts[root]
    return "at the battery posts" if part is figures.plan.supply else f"at the output of {part.name}"
