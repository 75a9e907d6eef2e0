"""Rules about ends: terminals that do not take their wire, connectors that can be swapped, joints where they break."""

from collections.abc import Iterator

from ..edits import AddElement, AddWire, ChangeElement, MoveEnd, SetRules, SetWire, Several
from ..ends.choose import End, of_family
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..materials.conductors import STOCKS
from ..materials.terminals import SEALED
from ..parts.frame import FramePoint
from ..parts.junction import Junction
from .registry import Say, rule
from .words import amps, listed


def _ends(figures: Figures) -> tuple[End, ...]:
    return figures.ends.every if figures.ends else ()


@rule(
    "end.none",
    meaning="No terminal of the kind that fits there takes this wire: it is too thin or too thick for every barrel, or "
            "its insulation for wings and seal.",
    cure="Another size or wall of wire, several terminals, or another kind of connection.",
    source="Ranges of the terminals, typical of their kind")
def none(figures: Figures, say: Say) -> Iterator[Finding]:
    """Ends without a terminal, by size or insulation."""
    for end in _ends(figures):
        one_of = end.beside and end.wire > min(end.beside)  # what several wires share is said once
        if end.chosen is None and end.family and not one_of and not _too_many_amps(end):
            what = f"{len(end.beside) + 1} wires of {end.area_mm2:g} mm² together" if end.beside else (
                f"{end.wire} ({end.area_mm2:g} mm²)")
            usual = ", which is usual there," if end.usual else ""
            yield say.of(end.key)("advice" if end.usual else "caution", (end.wire, end.at.part), (
                f"No {end.family} terminal{usual} takes {what} at {figures.plan.part(end.at.part).name}: "
                f"{_nearest(end)}."), "ends", "", tuple(_sizes(figures, end)))


def _too_many_amps(end: End) -> bool:
    """Whether terminals take the wire, and none carries its current."""
    return any(c.weak for c in end.candidates)


def _nearest(end: End) -> str:
    """Why the terminal does not do that comes nearest in size."""
    near = min(end.candidates, key=lambda c: max(c.terminal.area_mm2[0] - end.area_mm2, end.area_mm2
                                                 - c.terminal.area_mm2[1], 0.0))
    return f"the nearest {near.why_not}"


def _sizes(figures: Figures, end: End) -> Iterator[Proposal]:
    """The wire left to Loadstar, the next size or the other wall that goes in, or a part with studs."""
    wire, part = figures.plan.wire(end.wire), figures.plan.part(end.at.part)
    if end.beside and part.MATED:
        yield _spliced(figures, end)
    rows = of_family(end.family) if end.family else ()
    if wire.area_mm2 is not None and not end.beside:
        yield Proposal(SetWire(id=wire.id, values={"area_mm2": None}), f"Let Loadstar choose {wire.id}")
        thicker = [t.area_mm2[0] for t in rows if t.area_mm2[0] > wire.area_mm2]
        if thicker:
            yield Proposal(SetWire(id=wire.id, values={"area_mm2": min(thicker)}),
                           f"Take {min(thicker):g} mm² for {wire.id}")
    if wire.wall == "thick":
        yield Proposal(SetWire(id=wire.id, values={"wall": "thin"}), f"Take thin-wall wire for {wire.id}")
    if all(end.area_mm2 > t.area_mm2[1] for t in rows) and not (part.MATED or part.JOINS):
        yield Proposal(ChangeElement(id=part.id, values={"termination": "ring M6"}),
                       f"Take a {part.word} with M6 studs")


def _spliced(figures: Figures, end: End) -> Proposal:
    """The wires that come to one contact, spliced before it."""
    plan = figures.plan
    splice = f"{Junction.PREFIX}{plan.counters.get(Junction.PREFIX, 0) + 1}"
    wires = sorted((end.wire, *end.beside))
    moved = tuple(MoveEnd(id=w, end="a" if plan.wire(w).a == end.at else "b", to=f"{splice}.t") for w in wires)
    return Proposal(Several(words=f"{listed(wires)} spliced before {plan.part(end.at.part).name}", edits=(
        AddElement(what="junction", alone=True, values={
            "name": f"splice before {end.at}", "place": end.place, "form": "splice"}),
        *moved, AddWire(a=f"{splice}.t", b=str(end.at), values={"colour": plan.wire(wires[0]).colour}))),
        f"Splice {listed(wires)} before it")


@rule(
    "end.amps",
    meaning="A terminal carries less, in the heat where it is, than its wire brings: it ages, warms, and melts its "
            "housing.",
    cure="A larger kind of terminal, two pins in parallel, or a cooler place.",
    source="Amps by size at 40 °C, less by sqrt((T_m - T)/(T_m - 40)); typical of the kind")
def too_many_amps(figures: Figures, say: Say) -> Iterator[Finding]:
    """Ends whose terminals fit, and are too weak."""
    for end in _ends(figures):
        if end.chosen is None and end.family and _too_many_amps(end):
            best = max((c for c in end.candidates if c.weak),
                       key=lambda c: c.terminal.rated_a(end.area_mm2, end.air_c))
            part = figures.plan.part(end.at.part)
            larger = SEALED[SEALED.index(end.family) + 1:] if end.family in SEALED else ()
            usual = " usually" if end.usual else ""
            yield say.of(end.key)("advice" if end.usual else "caution", (end.wire, part.id), (
                f"{end.wire} brings {amps(end.peak_a)} to {part.name}, where it{usual} ends in a "
                f"{best.terminal.name}, which {best.why_not}."),
                "ends", "", (*_thicker(figures, end), *(
                    Proposal(ChangeElement(id=part.id, values={"termination": family}), f"Take {family} there")
                    for family in larger)))


def _thicker(figures: Figures, end: End) -> Iterator[Proposal]:
    """The next size of wire with which a terminal of the same family carries it."""
    for size in (s for s in STOCKS[figures.plan.rules.sizes] if s > end.area_mm2 and not end.beside):
        if any(t.area_mm2[0] <= size <= t.area_mm2[1] and t.rated_a(size, end.air_c) >= end.peak_a
               for t in of_family(end.family or "splice")):
            yield Proposal(SetWire(id=end.wire, values={"area_mm2": size}), f"Take {size:g} mm² for {end.wire}")
            return


@rule(
    "end.solder-moves",
    meaning="Joints are soldered by the house rule, and this one sits where it moves or shakes: solder wicks along the "
            "strands, and the wire breaks where it ends.",
    cure="Crimp it, or move it to where it stands still.",
    source="Workshop practice")
def solder_moves(figures: Figures, say: Say) -> Iterator[Finding]:
    """Soldered joints at places that move."""
    if figures.plan.rules.joints == "crimp only":
        return
    soldered = {end.at.part for end in _ends(figures) if "solder" in end.how
                and figures.plan.place(end.place).moves != "still"}
    if soldered:
        names = [figures.plan.part(p).name for p in sorted(soldered)]
        yield say("advice", tuple(sorted(soldered)), (
            f"By the house rule {listed(names)} {'is' if len(names) == 1 else 'are'} soldered where it moves: the wire "
            "breaks beside the solder."), "ends", "", (
            Proposal(SetRules(values={"joints": "crimp only"}), "Crimp only"),))


@rule(
    "end.splices-close",
    meaning="More wires meet in one splice than its barrel takes well: it is hard to crimp all of them soundly.",
    cure="Two splices, or a bar.",
    source="Workshop practice: up to four wires in a barrel")
def crowded(figures: Figures, say: Say) -> Iterator[Finding]:
    """Splices with more than four wires."""
    for part in figures.plan.of(Junction):
        count = sum(part.id in (w.a.part, w.b.part) for w in figures.plan.wires)
        if part.form == "splice" and count > MOST_IN_SPLICE:
            yield say("advice", (part.id,), (
                f"{count} wires meet in {part.name}: up to {MOST_IN_SPLICE} hold well in one barrel."), "ends", "", (
                Proposal(ChangeElement(id=part.id, values={"form": "star point"}), "Make it a star point on a stud"),))


MOST_IN_SPLICE = 4


@rule(
    "end.bare-copper",
    meaning="A ring of bare copper wire is screwed to the frame where water washes over it: copper, tin and steel or "
            "aluminium with salt water between them eat the joint away.",
    cure="Tinned wire, the joint greased and covered, or another place for it.",
    source="Workshop practice; dissimilar metals in the wet")
def bare_copper(figures: Figures, say: Say) -> Iterator[Finding]:
    """Frame joints in the wet on wire that is not tinned."""
    plan = figures.plan
    if plan.rules.tinned:
        return
    wet = [p for p in plan.of(FramePoint) if plan.place(p.place).water == "washed over" and p.id in plan.wired]
    if wet:
        yield say("advice", tuple(p.id for p in wet), (
            f"{listed([p.name for p in wet])} {'is' if len(wet) == 1 else 'are'} washed over, and the wire there is "
            "bare copper under its ring: the joint will be eaten away."), "ends", "", (
            Proposal(SetRules(values={"tinned": True}), "Tinned wire"),))
