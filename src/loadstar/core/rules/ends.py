"""Rules about ends: terminals that do not take their wire, connectors that can be swapped, joints where they break."""

from collections.abc import Iterator
from itertools import combinations

from ..edits import AddElement, AddWire, ChangeElement, MoveEnd, SetRules, SetWire, Several
from ..ends.choose import End, of_family
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..materials.conductors import STOCKS
from ..materials.terminals import SEALED
from ..parts.coupling import KEYINGS, Coupling
from ..parts.cutoff import Cutoff
from ..parts.frame import FramePoint
from ..parts.junction import Junction
from ..parts.tap import Tap
from ..refs import TerminalRef
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
            yield say("advice" if end.usual else "caution", (end.wire, end.at.part), (
                f"No {end.family} terminal{usual} takes {what} at {figures.plan.part(end.at.part).name}: "
                f"{_nearest(end)}."), "ends", "", tuple(_sizes(figures, end)), about=end.key)


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
    if end.beside and isinstance(part, Coupling):
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
    if all(end.area_mm2 > t.area_mm2[1] for t in rows) and not isinstance(part, Coupling | Junction):
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
    cure="A larger kind of terminal, two ways in parallel, or a cooler place.",
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
            yield say("advice" if end.usual else "caution", (end.wire, part.id), (
                f"{end.wire} brings {amps(end.peak_a)} to {part.name}, where it{usual} ends in a "
                f"{best.terminal.name}, which {best.why_not}."),
                "ends", "", (*_thicker(figures, end), *(
                    Proposal(ChangeElement(id=part.id, values={"termination": family}), f"Take {family} there")
                    for family in larger)), about=end.key)


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
    "connector.alike",
    meaning="Two connectors with as many ways and the same terminals sit at one place: they can be plugged into one "
            "another's half.",
    cure="Another keying, another number of ways, or the two halves the other way round.",
    source="Ways, kind of terminal and keying, as chosen or stated")
def alike(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors of a place that could be swapped."""
    if figures.ends is None:
        return
    couplings = figures.plan.of(Coupling)
    for one, two in combinations(couplings, 2):
        same = (one.place, one.ways, one.keying) == (two.place, two.ways, two.keying)
        if same and figures.ends.family(one.at("a1")) == figures.ends.family(two.at("a1")):
            taken = {c.keying for c in couplings if (c.place, c.ways) == (two.place, two.ways)}
            free = next((k for k in KEYINGS[1:] if k not in taken), "")
            yield say("advice", (two.id, one.id), (
                f"{one.name} and {two.name} fit into one another's half: {one.ways} ways each, at "
                f"{figures.plan.place(one.place).name}."), "ends", "", (
                Proposal(ChangeElement(id=two.id, values={"keying": free}), f"{two.name} with keying {free}"),)
                if free else ())


@rule(
    "connector.colours",
    meaning="Two wires of one colour come to the same side of a connector: they will be mixed up.",
    cure="Another colour or stripe for one of them.",
    source="The wires' colours")
def colours(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires of one colour at one side of a connector."""
    for part in figures.plan.of(Coupling):
        seen: dict[tuple[str, str, str], tuple[str, TerminalRef]] = {}
        for wire in figures.plan.wires:
            for end in (wire.a, wire.b):
                if end.part != part.id:
                    continue
                other, at = seen.setdefault((end.name[0], wire.colour, wire.stripe), (wire.id, end))
                if at != end:  # on one contact they may be taken for one another
                    yield say("advice", (part.id, wire.id, other), (
                        f"{other} and {wire.id} come to {part.name} in the same colour."), "ends", "",
                        tuple(_striped(figures, part, wire.id)), about=f"{part.id} {wire.id}")


def _striped(figures: Figures, part: Coupling, wire_id: str) -> Iterator[Proposal]:
    """A stripe that no wire of that colour has there yet, on the wire and on what goes on from it."""
    wire = figures.plan.wire(wire_id)
    way = next(end.name[1:] for end in (wire.a, wire.b) if end.part == part.id)
    through = {part.at(f"{side}{way}") for side in "ab"}
    same = [w.id for w in figures.plan.wires if {w.a, w.b} & through and w.colour == wire.colour]
    there = {w.stripe for w in figures.plan.wires if part.id in (w.a.part, w.b.part) and w.colour == wire.colour}
    stripe = next((s for s in ("WH", "YE", "BU", "GN", "OG", "BK") if s not in there and s != wire.colour), None)
    if stripe is not None:
        edits = tuple(SetWire(id=w, values={"stripe": stripe}) for w in same)
        yield Proposal(Several(edits=edits, words=f"{wire.id} striped") if len(edits) > 1 else edits[0],
                       f"{wire.id} with a {WORDS[stripe]} stripe")


WORDS = {"WH": "white", "YE": "yellow", "BU": "blue", "GN": "green", "OG": "orange", "BK": "black"}


@rule(
    "connector.live-tabs",
    meaning="The half of a connector that stays live when it is unplugged has tabs that can be touched.",
    cure="Receptacles on the feeding side.",
    source="Workshop practice: the live side is female")
def live_tabs(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors whose tabs are said to be on the side that the current comes from."""
    for part in figures.plan.of(Coupling):
        if part.tabs and figures.feeding_side(part) == part.tabs:
            other = "b" if part.tabs == "a" else "a"
            yield say("caution", (part.id,), (
                f"{part.name} has its tabs on side {part.tabs}, which stays live when it is unplugged: they can be "
                "touched, and touch."), "ends", "", (
                Proposal(ChangeElement(id=part.id, values={"tabs": other}), f"Tabs on side {other}"),))


@rule(
    "connector.unmatched",
    meaning="A new part's wires were matched with the pins of a connector, and not one to one: a colour stands at two "
            "pins, or a pin that is in use has none.",
    cure="Say for every pin which wire of the new part goes there, or that it stays empty.",
    source="The colours of the new part's wires, by pin")
def unmatched(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors as found whose pins name a new part's wires, some of them or some twice."""
    for plug in figures.plan.plugs:
        used = [p for p in figures.plan.pins(plug.id) if p.function not in ("unused", "unknown")]
        named = [p for p in used if p.new_colour]
        twice = [p for p in named if not p.phase and sum(q.new_colour == p.new_colour for q in named) > 1]
        if twice:
            yield say("caution", (plug.id, *(p.id for p in twice)), (
                f"{plug.name}: pins {listed([str(p.way) for p in twice])} are both to take the new part's "
                f"{twice[0].new_colour} wire."), "ends")
        elif named and len(named) < len(used):
            left = [str(p.way) for p in used if not p.new_colour]
            yield say("advice", (plug.id,), (
                f"{plug.name}: nothing of the new part is matched with pin{'s' * (len(left) > 1)} {listed(left)}."),
                "ends")


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


@rule(
    "connector.heavy-beside",
    meaning="A contact with a heavy current lies beside a signal's in one connector: what switches the current couples "
            "into the signal, and the warm contact ages the small one.",
    cure="A way apart, or a connector of its own for the heavy current.",
    source="Workshop practice: over 10 A apart from signals")
def heavy_beside(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors in which a signal lies next to a heavy current."""
    plan = figures.plan
    for part in plan.of(Coupling):
        heavy: dict[int, str] = {}
        signals: dict[int, str] = {}
        for wire in plan.wires:
            for end in (wire.a, wire.b):
                if end.part == part.id:
                    way = int(end.name[1:])
                    if figures.peak_a(wire.id) > HEAVY_A:
                        heavy.setdefault(way, wire.id)
                    if any(_is_signal(figures, other) for other in (wire.a, wire.b)):
                        signals.setdefault(way, wire.id)
        for way, signal in signals.items():
            beside = next((w for w in sorted(part.beside(way)) if w in heavy and w not in signals), None)
            if beside is not None:
                yield say("advice", (part.id, signal, heavy[beside]), (
                    f"In {part.name} the signal of {signal} lies beside {heavy[beside]}, which carries "
                    f"{amps(figures.peak_a(heavy[beside]))}."), "ends", "",
                    tuple(_apart(figures, part, way, set(heavy))), about=f"{part.id} {signal}")


def _is_signal(figures: Figures, end: TerminalRef) -> bool:
    part = figures.plan.part(end.part)
    return isinstance(part, Cutoff) or (isinstance(part, Tap) and part.function == "signal")


def _apart(figures: Figures, part: Coupling, way: int, heavy: set[int]) -> Iterator[Proposal]:
    """The signal led through a free way that no heavy one is beside."""
    taken = {int(end.name[1:]) for w in figures.plan.wires for end in (w.a, w.b) if end.part == part.id}
    free = next((w for w in range(1, part.ways + 1) if w not in taken and not heavy & part.beside(w)), None)
    if free is not None:
        moved = tuple(MoveEnd(id=w.id, end=side, to=part.at(f"{end.name[0]}{free}"))
                      for w in figures.plan.wires for side, end in (("a", w.a), ("b", w.b))
                      if end in (part.at(f"a{way}"), part.at(f"b{way}")))
        yield Proposal(Several(edits=moved, words=f"signal moved to way {free}"), f"Lead it through way {free}")


HEAVY_A = 10.0


@rule(
    "connector.not-mapped",
    meaning="Wires of a connector are to be cut or taken over by a new part, and not every pin of it has been written "
            "down: once the old plug is off, nobody can tell.",
    cure="Write every pin down first: position, colour, where it goes.",
    source="Workshop practice: mark before cutting")
def not_mapped(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors that are to be cut open or renewed, with pins nobody has written down."""
    plan = figures.plan
    for plug in plan.plugs:
        pins = plan.pins(plug.id)
        cut = [p for p in pins if p.new_colour or (p.termination == "splice" and p.id in plan.wired)]
        known = {p.way for p in pins if p.function != "unknown" or p.wire_colour}
        missing = [str(way) for way in range(1, plug.ways + 1) if way not in known]
        if cut and missing:
            yield say("caution", (plug.id, *(p.id for p in cut)), (
                f"{plug.name} is to be cut, and nothing is written down of pin{'s' * (len(missing) > 1)} "
                f"{listed(missing)}."), "ends")
