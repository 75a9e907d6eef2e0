"""Rules about fuses: continuous share, inrush, what the maker asks for."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding, Proposal
from ..plan.edits import ChangeElement
from ..plan.model import FusePart, Tap
from ..sizing.inrush import inrush_through
from ..sizing.openers import STEADY_MULTIPLE
from ..sizing.ratings import rating_faults
from .registry import CIRCUITS, rule
from .words import amps, fuse, listed


def _chosen(part: FusePart) -> tuple[Proposal, ...]:
    if part.rating_a is None:
        return ()
    return (Proposal(ChangeElement(id=part.id, values={"rating_a": None}), f"Let Loadstar choose {part.id}"),)


@rule("fuse.share", meaning="A fuse carries more of its rating, at the temperature around it, than the house rule "
      "allows: it ages and runs hot; above 110 % it opens without a fault.", cure="The next rating, if the wire allows it; or share "
      "the load out.", source="Continuous share 0.70-0.80 of the rating; ISO 8820-3: 1.10 times the rating is carried for 100 h")
def share(analysis: Analysis) -> Iterator[Finding]:
    """Continuous share of every fuse."""
    before_converters = {k.element for p in analysis.plan.of_kind("converter") for k in analysis.topology.converter_path(p.id).feed}
    for part in analysis.plan.parts:
        if not isinstance(part, FusePart) or analysis.sized is None:
            continue
        rating = analysis.rating_a(part.id)
        for fault in rating_faults(analysis.topology, part.id, rating, analysis.peak_a(part.id)):
            if fault.why != "share" or (fault.has > 1 and part.rating_a is not None and part.id in before_converters):
                continue  # rule converter.input tells why
            opens = fault.has > STEADY_MULTIPLE
            ends = " It opens in use." if opens else " It ages, and one day opens without a fault." if fault.has > 1 else ""
            if part.rating_a is None:
                ends += " No blade fuse is large enough: share the load out over two feeds, or take a high-current fuse."
            yield Finding("fuse.share", "stop" if opens else "caution", (part.id,), (
                f"{fuse(analysis, part.id)} carries {amps(analysis.peak_a(part.id))}, {fault.has:.0%} of what it stands at the "
                f"temperature around it; the house rule is {fault.limit:.0%}.{ends}"), CIRCUITS, f"share/{part.id}", _chosen(part))


@rule("fuse.inrush", meaning="Switching on may open a fuse although nothing is wrong. What comes on together counts together, and so "
      "does every fuse on the way, the factory's too.", cure="The next rating, if the wire allows it; a softer start; or switch on one "
      "after the other.", source="ISO 8820-3 shortest opening times; 0.3 of their I²t")
def inrush(analysis: Analysis) -> Iterator[Finding]:
    """Inrush of what comes on together through each fuse against its fast limit."""
    for part in analysis.plan.parts:
        if analysis.sized is None or not isinstance(part, FusePart | Tap):
            continue
        rating = part.fused_a if isinstance(part, Tap) else analysis.rating_a(part.id)
        if rating is None or (isinstance(part, Tap) and part.unfused):
            continue
        found = inrush_through(analysis.topology, part.id, rating)
        if found is None:
            continue
        bears = found.bears_a2s(rating)
        if found.a2s <= bears:
            continue
        what = f"the {rating:g} A factory fuse before {part.name}" if isinstance(part, Tap) else fuse(analysis, part.id)
        who = listed(p.name for p in found.loads)
        together = " together" if len(found.loads) > 1 else ""
        helpless = isinstance(part, FusePart) and part.rating_a is None
        ends = " No blade fuse bears it: ask for a softer start." if helpless else ""
        yield Finding("fuse.inrush", "caution", (part.id, *(p.id for p in found.loads)), (
            f"Switching on {who}{together} puts {found.a2s:.3g} A²s ({found.peak_a:.3g} A at its peak) through {what}; more than "
            f"{bears:.3g} A²s may open it needlessly.{ends}"), CIRCUITS, f"inrush/{part.id}",
            _chosen(part) if isinstance(part, FusePart) else ())


@rule("fuse.maker", meaning="The fuse is larger than the accessory's maker asks for.",
      cure="The maker's rating, if it does not open needlessly.", source="The maker's instructions")
def maker_fuse(analysis: Analysis) -> Iterator[Finding]:
    """Last fuse before each load against its maker's."""
    if analysis.sized is None:
        return
    for load in analysis.plan.loads:
        found = [k.element for k in analysis.path(load.id).feed
                 if isinstance(analysis.topology.parts.get(k.element), FusePart)]
        if load.maker_fuse_a is not None and found and analysis.rating_a(found[-1]) > load.maker_fuse_a:
            yield Finding("fuse.maker", "caution", (found[-1], load.id), (
                f"{load.name}'s maker asks for {load.maker_fuse_a:g} A; {fuse(analysis, found[-1])} is larger."), CIRCUITS, "",
                (Proposal(ChangeElement(id=found[-1], values={"rating_a": load.maker_fuse_a}), f"Take {load.maker_fuse_a:g} A"),))
