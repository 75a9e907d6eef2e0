"""Rules about the harness as a thing: what lies beside a run, holes, the headstock, coverings, splices, loops."""

from collections.abc import Iterator

from ..doc.places import Run
from ..edits import ChangeElement, TellWay
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..harness.loom import Bundle
from ..materials.hazards import HAZARDS, OPEN
from ..parts.coupling import Coupling
from ..plan.model import Plan
from .registry import Say, rule
from .words import listed

BRAKE = "brake line or control cable"
DRIP_MM, STEEP_MM = 60, 50  # of slack that a drip loop takes; from how much above water runs down along a run


def bundles(figures: Figures) -> tuple[Bundle, ...]:
    return figures.loom.bundles if figures.loom else ()


@rule(
    "run.beside",
    meaning="A run passes a sharp edge, something hot or moving, a jet of water, or where it can be pinched or shaken, "
            "without protection.",
    cure="Edge trim, heat sleeve, spiral wrap, a shield, a clip with rubber, or clip it away from there.",
    source="The run as surveyed")
def beside(figures: Figures, say: Say) -> Iterator[Finding]:
    """Runs that carry wires past something open."""
    for here in bundles(figures):
        for field, hazard in HAZARDS.items():
            if getattr(here.run, field) == OPEN:
                yield say.of(f"{here.run.id} {field}")("caution", (here.run.id, *here.wires[:4]), (
                    f"{here.run.id} passes {hazard.what} without protection: {hazard.happens}."), "harness",
                    "", (Proposal(ChangeElement(id=here.run.id, values={field: hazard.cures[0]}), hazard.plan),))


@rule(
    "run.tied",
    meaning="A run is tied to a brake line or control cable: it pulls on it, chafes it, and is torn by it.",
    cure="Tie it to the frame, or clip it.",
    source="Workshop practice")
def tied(figures: Figures, say: Say) -> Iterator[Finding]:
    """What runs are fixed to."""
    for here in bundles(figures):
        if here.run.tied_to == BRAKE:
            yield say("caution", (here.run.id,), (
                f"{here.run.id} is tied to a {BRAKE}: never tie wires to what has to move or to stop the machine."),
                "harness", "", (Proposal(ChangeElement(id=here.run.id, values={"tied_to": "frame"}),
                                         "Tie it to the frame"),))


@rule(
    "run.ties-far",
    meaning="Ties are further apart than the house rule: the harness sags and rubs between them.",
    cure="More ties.",
    source="The house rule's distance of ties")
def ties_far(figures: Figures, say: Say) -> Iterator[Finding]:
    """Ties as found or planned against the rule."""
    most_mm = figures.plan.rules.tie_spacing_mm
    for here in bundles(figures):
        if here.run.tied_mm is not None and here.run.tied_mm > most_mm:
            yield say("advice", (here.run.id,), (
                f"{here.run.id} is tied every {here.run.tied_mm:g} mm; the house rule is {most_mm:g} mm."), "harness",
                "", (Proposal(ChangeElement(id=here.run.id, values={"tied_mm": None}), "Tie it by the house rule"),))


@rule(
    "run.side",
    meaning="A run is said to lie on one side of the machine, and one of its ends is on the other: where it crosses is "
            "not said.",
    cure="Say that it lies in the middle, or put a place where it crosses.",
    source="The sides of runs and places, as stated")
def side(figures: Figures, say: Say) -> Iterator[Finding]:
    """Runs and their ends on different sides."""
    for here in bundles(figures):
        for end in (figures.plan.place(here.run.a), figures.plan.place(here.run.b)):
            if here.run.side and end.side and end.side != here.run.side:
                yield say.of(f"{here.run.id} {end.id}")("advice", (here.run.id, end.id), (
                    f"{here.run.id} lies on the {here.run.side}, and {end.name} on the {end.side}: where does it "
                    "cross?"), "harness", "", (
                    Proposal(ChangeElement(id=here.run.id, values={"side": ""}), "It lies in the middle"),))


@rule(
    "run.drip",
    meaning="Every run to a block, module or converter where it can get wet comes down to it from above: water follows "
            "the wires into it.",
    cure="Let the harness hang lower than the housing before it goes in.",
    source="Heights on the map; workshop practice")
def drip(figures: Figures, say: Say) -> Iterator[Finding]:
    """Housings at wet places that no run reaches from below or with a drip loop."""
    plan = figures.plan
    housings = [p for p in plan.parts if p.HOUSING]
    for part in housings:
        place = plan.place(part.place)
        here = [b.run for b in bundles(figures) if part.place in (b.run.a, b.run.b)]
        steep = [run for run in here if not run.drip and _comes_from_mm(plan, run, part.place) - place.y_mm > STEEP_MM]
        if place.water != "dry" and steep and len(steep) == len(here):
            first = steep[0]
            yield say("advice", (part.id, *(r.id for r in steep)), (
                f"Water can follow {listed([r.id for r in steep])} down into {part.name}: let the harness hang lower "
                "just before it."), "harness", "", (
                Proposal(ChangeElement(id=first.id, values={"drip": True, "slack_mm": min(
                    500, first.slack_mm + DRIP_MM)}), f"Lay in a drip loop of {DRIP_MM} mm"),))


def _comes_from_mm(plan: Plan, run: Run, place: str) -> float:
    """How high a run is just before it comes to a place: its nearest way point, or its other end."""
    if run.points:
        return run.points[-1 if run.b == place else 0].y_mm
    return plan.place(run.a if run.b == place else run.b).y_mm


@rule(
    "wire.way",
    meaning="A wire cannot follow its set path: an end has moved, or a run is not used. It takes the shortest way "
            "instead.",
    cure="Set another path, or use the shortest.",
    source="The set runs, in turn, against where the wire's ends are")
def told_way(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires whose told way does not reach."""
    for wire, way in figures.topology.geometry.items():
        if way.lost:
            yield say("caution", (wire,), (
                f"{wire} cannot follow its set path and takes the shortest one: {way.lost}"), "harness", "", (
                Proposal(TellWay(ids=(wire,)), "Use the shortest path"),))


@rule(
    "place.room",
    meaning="A part does not fit into the room that was measured at its place.",
    cure="Another place, or another part.",
    source="Stated sizes, any way around, against the room as measured")
def room(figures: Figures, say: Say) -> Iterator[Finding]:
    """Parts whose size is stated against their places' room."""
    for part in figures.plan.parts:
        place, said = figures.plan.place(part.place), part.dimensions
        if said and not said.fits(place.room_mm):
            yield say("caution", (part.id, place.id), (
                f"{part.name} is {_by(said.box_mm)} mm; {place.name} has room for {_by(place.room_mm)} mm."), "harness")


def _by(measures_mm: tuple[float, ...]) -> str:
    return " × ".join(f"{mm:g}" for mm in reversed(measures_mm))


@rule(
    "place.depth",
    meaning="A part reaches further behind its panel than there is space.",
    cure="Another place, a spacer, or a flatter part.",
    source="Its stated depth against the free depth as measured")
def depth(figures: Figures, say: Say) -> Iterator[Finding]:
    """Parts whose depth is stated at places whose free depth is."""
    for part in figures.plan.parts:
        place, said = figures.plan.place(part.place), part.dimensions
        if place.depth_mm is not None and said and said.deep_mm is not None and said.deep_mm > place.depth_mm:
            yield say("caution", (part.id, place.id), (
                f"{part.name} is {said.deep_mm:g} mm deep; behind {place.name} {place.depth_mm:g} mm are free."),
                "harness")


@rule(
    "connector.mouth-up",
    meaning="A connector hangs with its mouth upward where it gets wet: water stands in it.",
    cure="Turn it mouth down, or lay it level.",
    source="Workshop practice")
def mouth_up(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors at wet places that face upward."""
    for part in figures.plan.of(Coupling):
        if part.mouth == "up" and figures.plan.place(part.place).water != "dry":
            yield say("caution", (part.id,), (
                f"{part.name} faces upward at {figures.plan.place(part.place).name}, where it gets wet: water stands "
                "in it."), "harness", "", (
                Proposal(ChangeElement(id=part.id, values={"mouth": "down"}), "Turn it mouth down"),))
