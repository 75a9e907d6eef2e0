"""Rules about contacts of switches and connectors: for what they carry, the volts that they part, the fuse before
them."""

import math
from collections.abc import Iterator

from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.base import Part
from ..parts.coupling import Coupling
from ..parts.lead import Lead
from ..sizing.openers import Guard
from ..wiring.classes import packs_at
from .registry import Say, rule
from .words import amps, opener

USUAL_V = 28.0  # DC, that ordinary vehicle contacts are rated to break
STEPS_V = (36.0, 48.0, 60.0, 75.0, 100.0, 150.0)  # DC ratings that are usual above
RISE_K, OVER = 40.0, 1.5  # a contact's rise at its rating; what it stands for good, by the square of the current


@rule(
    "contact.volts",
    meaning="An ordinary contact breaks up to 28 V DC. Above that its arc can go on: it burns, and welds or stays on.",
    cure="A switch or relay that is rated for the pack's full voltage, DC; or switch on the low-voltage side.",
    source="IEC 61810-1, IEC 61058-1: a contact breaks DC up to its stated voltage; 28 V is what vehicle types state")
def contact_volts(figures: Figures, say: Say) -> Iterator[Finding]:
    """Contacts that part a pack's voltage, against what they are said to break."""
    for part in figures.plan.parts:
        volts = _parts_v(figures, part) if part.contact else 0.0
        if volts <= USUAL_V:
            continue
        assert part.contact
        step = next((v for v in STEPS_V if v >= volts), STEPS_V[-1])
        breaks_v = part.contact.breaks_v
        rated = (Proposal(ChangeElement(id=part.id, values={"breaks_v": step}), f"It is one for {step:g} V DC"),)
        if breaks_v is not None and breaks_v < volts:
            yield say("stop", (part.id,), (
                f"{part.name} is rated {breaks_v:g} V DC; the full pack has {volts:.1f} V. Its arc can "
                "go on."), "circuit", "", rated)
        elif breaks_v is None and part.by_hand:
            yield say("caution", (part.id,), (
                f"{part.name} has to break {volts:.1f} V DC, and nobody has said that it can: an ordinary contact "
                f"breaks {USUAL_V:g} V. Read its rating and enter it there (Breaks up to)."), "circuit", "", rated)
        elif breaks_v is None:
            yield say("note", (part.id,), (
                f"Take one for at least {volts:.1f} V DC as {part.name}: an ordinary contact breaks {USUAL_V:g} V."),
                "circuit", "", rated)


def _parts_v(figures: Figures, part: Part) -> float:
    """The highest voltage that a part's contacts part, V: of a full pack that copper joins to them; 0 for none."""
    topology = figures.topology
    if not figures.plan.packs:
        return 0.0
    ends = tuple(end for b in topology.inside[part.id].branches if b.opens for end in (b.a, b.b))
    seen = packs_at(topology, ends)
    return max((pack.full_v for pack in figures.plan.packs if pack.id in seen), default=0.0)


@rule(
    "connector.rating",
    meaning="A contact of a connector carries more than it is made for: it gets hot, and its housing melts.",
    cure="A connector for more amps, or the current shared out over several contacts.",
    source="The connector's stated rating")
def connector_rating(figures: Figures, say: Say) -> Iterator[Finding]:
    """The largest current of each contact against its rating."""
    for part in _connectors(figures):
        hottest, carried_a = _hottest(figures, part)
        if carried_a > part.rated_a * (1 + 1e-9):
            yield say("stop", (part.id,), (
                f"A contact of {part.name} carries {amps(carried_a)}; it is made for {part.rated_a:g} A."), "circuit",
                f"peak/{hottest}")


@rule(
    "connector.fuse",
    meaning="The fuse before a connector lets so much through for good that its contacts get too hot, whatever is "
            "plugged in or goes wrong behind it.",
    cure="A smaller fuse, or a connector for more amps.",
    source=f"Rise by the square of the current, taken as {RISE_K:g} K at its rating: {RISE_K * OVER**2:g} K at "
           f"{OVER:g} times it")
def connector_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Contacts of connectors against what the fuse before them carries for good."""
    for part in _connectors(figures):
        guards = [g for w in figures.plan.wires if part.id in (w.a.part, w.b.part)
                  if (g := figures.wires[w.id].guard) and not math.isinf(g.opener.rating_a)]
        worst: Guard | None = max(guards, key=lambda g: g.opener.rating_a, default=None)
        if worst is None or worst.opener.rating_a <= OVER * part.rated_a or (
                _hottest(figures, part)[1] > part.rated_a):  # which is said already
            continue
        through = worst.opener.rating_a
        yield say("caution", (part.id,), (
            f"A contact of {part.name} is made for {part.rated_a:g} A; {opener(figures, worst)} before it "
            f"lets {through:g} A through for hours."), "circuit", "", (
            Proposal(ChangeElement(id=part.id, values={"rated_a": through}), f"Take contacts for {through:g} A"),))


def _connectors(figures: Figures) -> list[Coupling | Lead]:
    return [*figures.plan.of(Coupling), *(p for p in figures.plan.of(Lead) if p.end == "connector")]


def _hottest(figures: Figures, part: Coupling | Lead) -> tuple[str, float]:
    """The contact that carries most, and how much."""
    hottest = max((b.ref for b in figures.topology.inside[part.id].branches), key=figures.ratings.peak_a)
    return hottest, figures.ratings.peak_a(hottest)
