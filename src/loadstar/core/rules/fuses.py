"""Rules about fuses: continuous share, inrush, breaking capacity."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding
from ..materials import fuses
from ..plan.edits import ChangeElement
from ..plan.model import FusePart
from ..sizing.choose import rating_faults
from .registry import rule

CIRCUITS = "circuits"


@rule("fuse.share", meaning="A fuse carries more of its rating, at the temperature around it, than the house rule "
      "allows; it ages, runs hot and opens without a fault.", cure="The next rating, if the wire allows it; or share "
      "the load out.", source="Continuous share 0.70-0.80 of the rating; ISO 8820-3 ratings")
def share(analysis: Analysis) -> Iterator[Finding]:
    """Continuous share of every fuse."""
    for part in analysis.plan.parts:
        if not isinstance(part, FusePart) or analysis.sized is None:
            continue
        rating = analysis.rating_a(part.id)
        for fault in rating_faults(analysis.topology, part.id, rating, analysis.peak_a(part.id)):
            if fault.why != "share":
                continue
            cure = ChangeElement(id=part.id, values={"rating_a": None}) if part.rating_a is not None else None
            yield Finding("fuse.share", "stop" if fault.has > 1 else "caution", (part.id,), (
                f"{part.name} ({part.id}, {rating:g} A) carries {analysis.peak_a(part.id):.3g} A, {fault.has:.0%} of "
                f"what it stands at this temperature; the house rule is {fault.limit:.0%}."
                + (" It will open in use." if fault.has > 1 else "")), CIRCUITS, f"share/{part.id}",
                cure, f"Let Loadstar choose {part.id}" if cure else "")


@rule("fuse.inrush", meaning="Switching on may open the fuse although nothing is wrong.",
      cure="The next rating, if the wire allows it; or a softer start.",
      source="ISO 8820-3 shortest opening times; 0.3 of their I²t")
def inrush(analysis: Analysis) -> Iterator[Finding]:
    """Inrush of the loads behind each fuse against its fast limit."""
    for part in analysis.plan.parts:
        if not isinstance(part, FusePart) or analysis.sized is None:
            continue
        rating = analysis.rating_a(part.id)
        for fault in rating_faults(analysis.topology, part.id, rating, 0.0):
            cure = ChangeElement(id=part.id, values={"rating_a": None}) if part.rating_a is not None else None
            yield Finding("fuse.inrush", "caution", (part.id,), (
                f"Switching on puts {fault.has:.3g} A²s through {part.name} ({part.id}, {rating:g} A); more than "
                f"{fault.limit:.3g} A²s may open it needlessly."), CIRCUITS, "", cure,
                f"Let Loadstar choose {part.id}" if cure else "")


@rule("fuse.breaking", meaning="A short near the battery could be more than the fuse can interrupt.",
      cure="A fuse with a higher breaking capacity, or more wire before it.",
      source="ISO 8820-3: 32 V blade fuses break 1000 A")
def breaking(analysis: Analysis) -> Iterator[Finding]:
    """Prospective current of the wires behind each fuse against its breaking capacity."""
    worst: dict[str, float] = {}
    for wire in analysis.wires.values():
        if wire.guard:
            worst[wire.guard.fuse] = max(worst.get(wire.guard.fuse, 0.0), wire.fault_a)
    for fuse, amps in worst.items():
        if amps > fuses.BREAKING_CAPACITY_A:
            yield Finding("fuse.breaking", "stop", (fuse,), (
                f"A short behind {fuse} could draw {amps:.0f} A; a blade fuse breaks "
                f"{fuses.BREAKING_CAPACITY_A:.0f} A."), CIRCUITS)
