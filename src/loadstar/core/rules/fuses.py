"""Rules about fuses: continuous share, inrush, what the maker asks for."""

from collections.abc import Iterator

from ..amounts import apart
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..materials.fuses import KINDS, USUAL_V, that_break
from ..parts.base import Part
from ..parts.fuse import FusePart
from ..sizing.inrush import curve_of, inrush_through
from ..sizing.ratings import rating_faults
from .registry import Say, rule
from .words import amps, an, fuse, listed


def _chosen(part: Part) -> tuple[Proposal, ...]:
    if not part.by_hand:
        return ()
    return (Proposal(ChangeElement(id=part.id, values={part.CHOSEN: None}), f"Let Loadstar choose {part.id}"),)


def other_kinds(part: FusePart, volts_v: float, amps: float) -> tuple[Proposal, ...]:
    """Kinds that break so many volts and come for so many amps, their rating left to Loadstar."""
    return tuple(
        Proposal(ChangeElement(id=part.id, values={"pattern": pattern, "volts_v": least, "rating_a": None}),
                 f"Take {an(KINDS[pattern].words)}" + (f" for {least} V" if least != USUAL_V else ""))
        for pattern, least in that_break(volts_v, amps) if pattern != part.pattern)


@rule(
    "fuse.share",
    meaning="A fuse carries more of its rating, at the temperature around it, than the house rule allows: it ages and "
            "runs hot; above 110 % it opens without a fault.",
    cure="The next rating, if the wire allows it; or share the load out.",
    source="Continuous share 0.70-0.80 of the rating; ISO 8820-3: 1.10 times the rating is carried for 100 h")
def share(figures: Figures, say: Say) -> Iterator[Finding]:
    """Continuous share of every fuse."""
    before_converters = {k.element for p in figures.plan.of_kind("converter")
                         for k in figures.topology.converter_path(p.id).feed}
    for part in figures.plan.of(FusePart):
        if figures.sized is None:
            continue
        rating = figures.ratings.rating_a(part.id)
        for fault in rating_faults(figures.topology, part.id, rating, figures.ratings.peak_a(part.id)):
            if fault.why != "share" or (fault.has > 1 and part.rating_a is not None and part.id in before_converters):
                continue  # rule converter.input tells why
            opens = fault.has > part.of_kind.band.steady
            ages = " It ages, and one day opens without a fault." if fault.has > 1 else ""
            ends = " It opens in use." if opens else ages
            if part.rating_a is None:
                ends += (f" No {part.of_kind.words} is large enough: share the load out over two feeds, or take "
                         "another kind.")
            has, limit = apart(fault.has, fault.limit)
            yield say("stop" if opens else "caution", (part.id,), (
                f"{fuse(figures, part.id)} carries {amps(figures.ratings.peak_a(part.id))}, {has} of what it stands at "
                f"the temperature around it; the house rule is {limit}.{ends}"), "circuit", f"share/{part.id}",
                _chosen(part) or other_kinds(part, part.volts_v, figures.ratings.peak_a(part.id) / fault.limit))


@rule(
    "fuse.inrush",
    meaning="Switching on may open a fuse although nothing is wrong. What comes on together counts together, and so "
            "does every fuse on the way, the factory's too.",
    cure="The next rating, if the wire allows it; a softer start; or switch on one after the other.",
    source="ISO 8820-3 shortest opening times; 0.3 of their I²t")
def inrush(figures: Figures, say: Say) -> Iterator[Finding]:
    """Inrush of what comes on together through each fuse against its fast limit."""
    for part in figures.plan.parts:
        protects = part.protection
        if figures.sized is None or protects is None or protects.kind != "fuse":
            continue
        rating = figures.ratings.rating_a(part.id)
        found = inrush_through(figures.topology, part.id, rating)
        if found is None:
            continue
        bears = found.bears_a2s(rating, curve_of(figures.topology, part.id))
        if found.a2s <= bears:
            continue
        what = fuse(figures, part.id)
        who = listed(p.name for p in found.loads)
        together = " together" if len(found.loads) > 1 else ""
        helpless = protects.chosen and not part.by_hand
        ends = " None of its kind bears it: ask for a softer start." if helpless else ""
        yield say("caution", (part.id, *(p.id for p in found.loads)), (
            f"Switching on {who}{together} puts {found.a2s:.3g} A²s ({found.peak_a:.3g} A at its peak) through {what}; "
            f"above {bears:.3g} A²s it can blow at switch-on.{ends}"), "circuit", f"inrush/{part.id}",
            _chosen(part))


@rule(
    "fuse.cranking",
    meaning="A fuse may open while the starter turns: it carries so much then that its tries together reach the fast "
            "edge of its band.",
    cure="The next rating, if the wire allows it.",
    source="ISO 8820-3 shortest opening times; three tries of five seconds")
def cranking(figures: Figures, say: Say) -> Iterator[Finding]:
    """What each fuse carries while the starter turns."""
    for part in figures.plan.parts:
        if figures.sized is None or part.protection is None or part.protection.kind != "fuse":
            continue
        rating, short = figures.ratings.rating_a(part.id), figures.ratings.short_a(part.id)
        why = {f.why for f in rating_faults(figures.topology, part.id, rating, figures.ratings.peak_a(part.id), short)}
        if "cranking" in why and "share" not in why:  # of one that carries too much at any time that is said
            yield say("stop", (part.id,), (
                f"{fuse(figures, part.id)} carries {amps(short)} while the starter turns: it may open then."),
                "circuit", "", _chosen(part))


@rule(
    "fuse.maker",
    meaning="The fuse is larger than the accessory's maker asks for.",
    cure="The maker's rating, if it does not blow at switch-on.",
    source="The maker's instructions")
def maker_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Last fuse before each load against its maker's."""
    if figures.sized is None:
        return
    for load in figures.plan.loads:
        found = [k.element for k in figures.path(load.id).feed if figures.plan.is_one(k.element, FusePart)]
        if load.maker_fuse_a is not None and found and figures.ratings.rating_a(found[-1]) > load.maker_fuse_a:
            yield say("caution", (found[-1], load.id), (
                f"{load.name}'s maker asks for {load.maker_fuse_a:g} A; {fuse(figures, found[-1])} is larger."),
                "circuit", "",
                (Proposal(ChangeElement(id=found[-1], values={"rating_a": load.maker_fuse_a}),
                          f"Take {load.maker_fuse_a:g} A"),))
