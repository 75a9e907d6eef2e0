"""Rules about the harness as a thing: what lies beside a run, holes, the headstock, coverings, splices, loops."""

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from ..doc.places import Run
from ..edits import ChangeElement, Several, TellWay
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..harness.loom import Bundle
from ..harness.packing import bounds_mm
from ..harness.reach import Closed, cures, goes_on
from ..materials.coverings import SLEEVE_ADDS_MM, sleeve_for
from ..materials.hazards import HAZARDS, OPEN
from ..materials.sizes import USUAL
from ..parts.block import Block
from ..parts.converter import Converter
from ..parts.coupling import Coupling
from ..parts.junction import Junction
from ..parts.module import Module
from ..plan.model import Plan
from .registry import Say, rule
from .words import listed

STEER_NEAR_MM = 0.5
# What a covering stands, C: usual of such materials (polyester braid, fleece tape, PVC tape).
COVERING_C = {"braided sleeve": 125.0, "loom tape": 105.0, "PVC tape": 80.0}
BRAKE = "brake line or control cable"
DRIP_MM, STEEP_MM = 60, 50  # of slack that a drip loop takes; from how much above water runs down along a run


def _bundles(figures: Figures) -> tuple[Bundle, ...]:
    return figures.loom.bundles if figures.loom else ()


@rule(
    "run.beside",
    meaning="A run passes a sharp edge, something hot or moving, a jet of water, or where it can be pinched or shaken, "
            "and nothing is done about it yet.",
    cure="Edge trim, heat sleeve, spiral wrap, a shield, a clip with rubber, or clip it away from there.",
    source="The run as surveyed")
def beside(figures: Figures, say: Say) -> Iterator[Finding]:
    """Runs that carry wires past something open."""
    for here in _bundles(figures):
        for field, hazard in HAZARDS.items():
            if getattr(here.run, field) == OPEN:
                yield say("caution", (here.run.id, *here.wires[:4]), (
                    f"{here.run.id} passes {hazard.what} and nothing is done about it: {hazard.happens}."), "harness",
                    "", (Proposal(ChangeElement(id=here.run.id, values={field: hazard.cures[0]}), hazard.plan),),
                    about=f"{here.run.id} {field}")


@rule(
    "run.tied",
    meaning="A run is tied to a brake line or control cable: it pulls on it, chafes it, and is torn by it.",
    cure="Tie it to the frame, or clip it.",
    source="Workshop practice")
def tied(figures: Figures, say: Say) -> Iterator[Finding]:
    """What runs are fixed to."""
    for here in _bundles(figures):
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
    for here in _bundles(figures):
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
    for here in _bundles(figures):
        for end in (figures.plan.place(here.run.a), figures.plan.place(here.run.b)):
            if here.run.side and end.side and end.side != here.run.side:
                yield say("advice", (here.run.id, end.id), (
                    f"{here.run.id} lies on the {here.run.side}, and {end.name} on the {end.side}: where does it "
                    "cross?"), "harness", "", (
                    Proposal(ChangeElement(id=here.run.id, values={"side": ""}), "It lies in the middle"),),
                    about=f"{here.run.id} {end.id}")


@rule(
    "run.drip",
    meaning="Every run to a block, module or converter where it can get wet comes down to it from above: water follows "
            "the wires into it.",
    cure="Let the harness hang lower than the housing before it goes in.",
    source="Heights on the map; workshop practice")
def drip(figures: Figures, say: Say) -> Iterator[Finding]:
    """Housings at wet places that no run reaches from below or with a drip loop."""
    plan = figures.plan
    housings = [p for p in plan.parts if isinstance(p, Block | Module | Converter)]
    for part in housings:
        place = plan.place(part.place)
        here = [b.run for b in _bundles(figures) if part.place in (b.run.a, b.run.b)]
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
    meaning="A wire cannot go the way it was told: an end has moved, or a run is not used. It takes the shortest way "
            "instead.",
    cure="Tell it another way, or leave it to the shortest.",
    source="The told runs, in turn, against where the wire's ends are")
def told_way(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires whose told way does not reach."""
    for wire, way in figures.topology.geometry.items():
        if way.lost:
            yield say("caution", (wire,), (
                f"{wire} cannot go as it was told, so it takes the shortest way: {way.lost}"), "harness", "", (
                Proposal(TellWay(ids=(wire,)), "Leave it to the shortest way"),))


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


@rule(
    "splice.break-out",
    meaning="A splice sits where the harness branches: it is thick and stiff there already.",
    cure="Further along one of its runs.",
    source="The house rule's distance from a break-out, 40 mm where nothing else is agreed")
def splice_break_out(figures: Figures, say: Say) -> Iterator[Finding]:
    """Splices that are said to sit nearer to a break-out than that."""
    off_mm = figures.plan.rules.splice_off_mm
    for part in figures.plan.of(Junction):
        branches = sum(part.place in (b.run.a, b.run.b) for b in _bundles(figures))
        if part.form == "splice" and part.offset_mm is not None and part.offset_mm < off_mm and branches > 2:
            yield say("advice", (part.id,), (
                f"{part.name} is to sit {part.offset_mm:g} mm from where {branches} runs part: keep it "
                f"{off_mm:g} mm away."), "harness", "", (
                Proposal(ChangeElement(id=part.id, values={"offset_mm": None}), "Leave its distance to Loadstar"),))


@rule(
    "run.hole",
    meaning="A bundle is too fat for the narrowest hole on its way: it does not go through, or chafes there.",
    cure="A larger hole or another way, fewer or thinner wires, one harness less at once.",
    source="Hand-laid diameter with its covering against the house rule's share of the bore (70 %) for several wires; "
           "one wire may fill it; the diagonal of a connector's mouth where it is drawn through with them on")
def hole(figures: Figures, say: Say) -> Iterator[Finding]:
    """Bundles against the bore of their runs."""
    for here in _bundles(figures):
        bore_mm = here.run.bore_mm
        if bore_mm is not None and here.run.threaded and (plug := _to_thread(figures.plan, here)) and (
                plug.mouth_mm > bore_mm):
            yield say("caution", (here.run.id, plug.part), (
                f"{plug.name} is {plug.mouth_mm:.1f} mm across its corners and does not go through the hole of "
                f"{bore_mm:g} mm in {here.run.id}."), "harness", "", (
                Proposal(ChangeElement(id=here.run.id, values={"threaded": False}), "Fit it after drawing through"),),
                about=f"{here.run.id} {plug.part}")
        fill_frac = figures.plan.rules.hole_fill_frac
        if bore_mm is None or bounds_mm(here.diameters_mm)[1] + SLEEVE_ADDS_MM <= fill_frac * bore_mm:
            continue  # far from it
        across_mm = here.covered_mm if len(here.wires) > 1 else here.laid_mm
        may_mm = bore_mm * (fill_frac if len(here.wires) > 1 else 1.0)
        if across_mm > may_mm:
            yield say("caution", (here.run.id,), (
                f"{len(here.wires)} wires in {here.run.id} are {across_mm:.1f} mm thick with their covering; the hole "
                f"of {bore_mm:g} mm takes {may_mm:.1f} mm."), "harness", f"bundle/{here.run.id}")


@rule(
    "run.plug-passes-not",
    meaning="A supplied lead ends in a moulded plug that does not go through the sleeve of its run, or the hole on it; "
            "its other end is at the accessory: the covering cannot be put on, the lead not drawn through.",
    cure="A wrapped covering, the pin taken out of its plug, the other end opened; last of all cut and splice.",
    source="The plug's size as stated against the sleeve at its widest, or the bore")
def plug_passes_not(figures: Figures, say: Say) -> Iterator[Finding]:
    """Moulded plugs against what has to go over them."""
    for load in figures.plan.loads:
        if load.lead_end != "plug" or load.lead_plug_mm is None:
            continue
        mine = {w for w, found in figures.wires.items() if found.supplied and load.id in (
            figures.plan.wire(w).a.part, figures.plan.wire(w).b.part)}
        for here in _bundles(figures):
            if not mine & set(here.wires):
                continue
            ends = (Closed(load.lead_plug_mm), Closed(math.inf))
            sleeve = here.sleeve
            if here.run.bore_mm is not None and not goes_on(here.run.bore_mm, ends):
                yield say("caution", (load.id, here.run.id), (
                    f"The plug of {load.name} just passes {load.lead_plug_mm:g} mm, and the hole in {here.run.id} is "
                    f"{here.run.bore_mm:g} mm: take its pins out to draw it through."), "harness", "", (),
                    about=f"{load.id} {here.run.id} hole")
            if sleeve is not None and len(here.wires) > 1 and not goes_on(sleeve.most_mm, ends):
                yield say("advice", (load.id, here.run.id), (
                    f"The plug of {load.name} does not go through the braided sleeve of {here.run.id}, which opens to "
                    f"{sleeve.most_mm:g} mm. {cures(sleeve.most_mm, ends)[0]}"), "harness", "", (
                    Proposal(ChangeElement(id=here.run.id, values={"covering": "loom tape"}),
                             f"Wind loom tape on {here.run.id}"),), about=f"{load.id} {here.run.id}")


class _Plug(NamedTuple):
    part: str
    name: str
    mouth_mm: float


def _to_thread(plan: Plan, here: Bundle) -> _Plug | None:
    """The fattest connector of that end of a run whose connectors are the smaller; None where an end has none."""
    ends = {end.part for w in here.wires for end in (plan.wire(w).a, plan.wire(w).b)}
    fattest = []
    for place in (here.run.a, here.run.b):
        plugs = [c for c in plan.of(Coupling) if c.id in ends and c.place == place]
        if not plugs:
            return None
        across = [_Plug(c.id, c.name, _mouth_mm(c)) for c in plugs]
        fattest.append(max(across, key=lambda p: p.mouth_mm))
    return min(fattest, key=lambda p: p.mouth_mm)


def _mouth_mm(part: Coupling) -> float:
    """Across the corners, by its stated size or that of its kind."""
    said, usual = part.dimensions, USUAL[part.kind]
    wide = (said and said.wide_mm) or usual.wide_mm
    return math.hypot(wide, (said and said.deep_mm) or usual.deep_mm)


@rule(
    "run.steering",
    meaning="Where the harness passes the headstock less slack is laid in than the steering takes: it pulls tight at a "
            "lock, and wires break inside their insulation.",
    cure="Lay in the slack, close to the steering's axis.",
    source="Longest way over the whole sweep less that straight ahead")
def steering(figures: Figures, say: Say) -> Iterator[Finding]:
    """Slack laid in against what the sweep asks."""
    for here in _bundles(figures):
        swept = here.sweep
        if swept is not None and here.run.slack_mm < swept.slack_mm - STEER_NEAR_MM:
            enough = int(swept.slack_mm) + 1
            yield say("caution", (here.run.id,), (
                f"{here.run.id} passes the headstock with {here.run.slack_mm:g} mm of slack; the steering takes "
                f"{swept.slack_mm:.0f} mm."), "harness", f"steer/{here.run.id}", (
                Proposal(ChangeElement(id=here.run.id, values={"slack_mm": enough}), f"Lay in {enough} mm"),))


@rule(
    "run.headstock",
    meaning="Wires pass a place that turns with the steering, and nobody has said how they pass its axis or how much "
            "slack is laid in.",
    cure="Measure at one of its runs the two distances from the axis and how far apart they are along it; or say how "
         "much slack is laid in.",
    source="The places' movement")
def headstock(figures: Figures, say: Say) -> Iterator[Finding]:
    """Steered places with runs to what stands still, none of which says its sweep or slack."""
    moves = {p.id: p.moves for p in figures.plan.places}
    for place in figures.plan.places:
        here = [b for b in _bundles(figures) if place.id in (b.run.a, b.run.b)]
        leaves = {moves[end] for b in here for end in (b.run.a, b.run.b)}
        if place.moves == "with the steering" and len(leaves) > 1 and not any(b.sweep or b.run.slack_mm for b in here):
            yield say("advice", (place.id, *(b.run.id for b in here)), (
                f"{len(here)} {'run passes' if len(here) == 1 else 'runs pass'} {place.name}, which turns with the "
                "steering: say where from its axis, or how much slack is laid in."), "harness")


@rule(
    "run.covering-hot",
    meaning="A run's covering stands less than the air around its wires, with what these add to it.",
    cure="Another covering, or another way.",
    source="Usual limits of such coverings, assumed; see the maker's")
def covering_hot(figures: Figures, say: Say) -> Iterator[Finding]:
    """The warmest of a run's air and wires against what its covering stands."""
    for here in _bundles(figures):
        stands_c = COVERING_C.get(here.covering)
        if stands_c is None:
            continue
        warmest_c = max(_warmest_c(figures, here, w) for w in here.wires)
        if warmest_c > stands_c:
            better = min((c for c in COVERING_C if COVERING_C[c] >= warmest_c), key=lambda c: COVERING_C[c], default="")
            yield say("caution", (here.run.id,), (
                f"{here.run.id} becomes {warmest_c:.0f} °C, and its {here.covering} stands {stands_c:.0f} °C."),
                "harness", "", (Proposal(ChangeElement(id=here.run.id, values={"covering": better}), f"Take {better}"),)
                if better else ())


def _warmest_c(figures: Figures, here: Bundle, wire: str) -> float:
    """The air of a stretch, with what its neighbours add where the wire is warmest there."""
    air = next(s.ambient_c for s in figures.topology.geometry[wire].segments if s.run == here.run.id)
    own = figures.wires[wire]
    return max(air, own.surround_c if own.ambient_c <= air else air)


@rule(
    "run.no-sleeve",
    meaning="No braided sleeve lies on a bundle of this thickness.",
    cure="Tape, or nothing, on this run.",
    source="Usual ranges of braided sleeves, assumed; see the supplier's")
def no_sleeve(figures: Figures, say: Say) -> Iterator[Finding]:
    """Sleeved runs that are too thin or too fat for any."""
    for here in _bundles(figures):
        if here.covering != "braided sleeve" or len(here.wires) < 2:
            continue
        if all(map(sleeve_for, bounds_mm(here.diameters_mm))):
            continue  # one lies on it either way
        if here.sleeve is None:
            yield say("advice", (here.run.id,), (
                f"No braided sleeve lies on {here.run.id}: its {len(here.wires)} wires are {here.laid_mm:.1f} mm "
                "thick."), "harness", f"bundle/{here.run.id}",
                (Proposal(ChangeElement(id=here.run.id, values={"covering": "loom tape"}), "Tape it"),))


@rule(
    "splice.moves",
    meaning="A splice sits where the harness moves: it is stiff, and the wires break beside it.",
    cure="A place that stands still, some way before.",
    source="Workshop practice: no joint where it bends")
def splice_moves(figures: Figures, say: Say) -> Iterator[Finding]:
    """Splices at places that turn or swing."""
    moves = {p.id: p.moves for p in figures.plan.places}
    for part in figures.plan.of(Junction):
        if part.form == "splice" and moves[part.place] != "still" and figures.plan.rules.splices != "anywhere":
            yield say("caution", (part.id,), (
                f"{part.name} sits at {figures.plan.place(part.place).name}, which moves {moves[part.place]}: joints "
                "break there."), "harness")


@rule(
    "run.stagger",
    meaning="Several connectors sit side by side where one covering goes over them: it does not pass, or is as fat "
            "there as all of them.",
    cure="Stagger them: each a housing's length further along than the one before.",
    source="Workshop practice; lengths as stated, or usual of such connectors")
def stagger(figures: Figures, say: Say) -> Iterator[Finding]:
    """Connectors at one place of a covered harness, nearer together than a housing is long."""
    covered = {end for b in _bundles(figures) if b.covering for end in (b.run.a, b.run.b)}
    for place in figures.plan.places:
        here = sorted((c for c in figures.plan.of(Coupling) if c.place == place.id), key=lambda c: (c.offset_mm, c.id))
        for one, two in pairwise(here if place.id in covered else ()):
            long_mm = (one.dimensions and one.dimensions.long_mm) or USUAL[one.kind].long_mm
            if two.offset_mm - one.offset_mm < long_mm:
                yield say("advice", (two.id, one.id), (
                    f"{one.name} and {two.name} sit side by side at {place.name}: stagger them by {long_mm:.0f} mm, so "
                    "that the covering passes."), "harness", "", (
                    Proposal(ChangeElement(id=two.id, values={"offset_mm": one.offset_mm + long_mm}),
                             f"{two.name} {one.offset_mm + long_mm:.0f} mm along"),))
                break


@rule(
    "harness.loop",
    meaning="The runs that carry wires form a loop: such a harness cannot lie flat on a board, and cannot be drawn out "
            "of the machine in one piece.",
    cure="Leave one of its runs out, at the least copper, or build it in two pieces.",
    source="Every way of leaving runs out, with the wires along their shortest ways then")
def loop(figures: Figures, say: Say) -> Iterator[Finding]:
    """Looms whose runs form loops, and the cheapest cut."""
    found = figures.loom.cuts if figures.loom else ()
    if found:
        best = found[0]
        edits = tuple(ChangeElement(id=run, values={"used": False}) for run in best.runs)
        yield say("advice", best.runs, (
            f"The runs form a loop: the harness does not lie flat. Without {listed(list(best.runs))} it does, with "
            f"{best.more_g:.1f} g more copper."), "harness", "", (
            Proposal(edits[0] if len(edits) == 1 else Several(edits=edits, words="runs left out"),
                     f"Leave out {listed(list(best.runs))}"),))
