"""Connectors: which can be swapped, what their pins carry beside one another, what is not written down."""

from collections.abc import Iterator
from itertools import combinations

from ..edits import ChangeElement, MoveEnd, SetWire, Several
from ..figures.figures import Figures
from ..figures.ways import feeding_side
from ..findings import Finding, Proposal
from ..parts.can import as_found_wire
from ..parts.coupling import KEYINGS, Coupling
from ..refs import TerminalRef
from .registry import Say, rule
from .words import amps, listed


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
    """Wires of one colour at one side of a connector. Of those that are there, or came with something, nobody chooses
    the colour: they are marked."""
    for part in figures.plan.of(Coupling):
        seen: dict[tuple[str, str, str], tuple[str, TerminalRef]] = {}
        for wire in figures.plan.wires:
            for end in (wire.a, wire.b):
                if end.part != part.id or not wire.colour or wire.origin != "new":
                    continue
                other, at = seen.setdefault((end.name[0], wire.colour, wire.stripe), (wire.id, end))
                if at != end:  # on one contact they may be taken for one another
                    yield say.of(f"{part.id} {wire.id}")("advice", (part.id, wire.id, other), (
                        f"{other} and {wire.id} come to {part.name} in the same colour."), "ends", "",
                        tuple(_striped(figures, part, wire.id)))


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
        if part.tabs and feeding_side(figures, part) == part.tabs:
            other = "b" if part.tabs == "a" else "a"
            yield say("caution", (part.id,), (
                f"{part.name} has its tabs on side {part.tabs}, which stays live: when it is unplugged, live tabs "
                "are exposed."), "ends", "", (
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
                    if figures.ratings.peak_a(wire.id) > HEAVY_A:
                        heavy.setdefault(way, wire.id)
                    if any(_is_signal(figures, other) for other in (wire.a, wire.b)):
                        signals.setdefault(way, wire.id)
        for way, signal in signals.items():
            beside = next((w for w in sorted(part.beside(way)) if w in heavy and w not in signals), None)
            if beside is not None:
                yield say.of(f"{part.id} {signal}")("advice", (part.id, signal, heavy[beside]), (
                    f"In {part.name} the signal of {signal} lies beside {heavy[beside]}, which carries "
                    f"{amps(figures.ratings.peak_a(heavy[beside]))}."), "ends", "",
                    tuple(_apart(figures, part, way, set(heavy))))


def _is_signal(figures: Figures, end: TerminalRef) -> bool:
    part = figures.plan.part(end.part)
    found = as_found_wire(part)
    return part.KEPT_APART or (found is not None and found.function == "signal")


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
