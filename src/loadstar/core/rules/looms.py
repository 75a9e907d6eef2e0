"""Bundles and what is around them: holes, plugs to thread, steering, coverings, splices, loops."""

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from ..edits import ChangeElement, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..harness.loom import Bundle
from ..harness.packing import bounds_mm
from ..harness.reach import Closed, cures, goes_on
from ..materials.coverings import SLEEVE_ADDS_MM, sleeve_for
from ..materials.sizes import USUAL
from ..parts.coupling import Coupling
from ..parts.junction import Junction
from ..plan.model import Plan
from .harness import bundles
from .registry import Say, rule
from .words import listed

STEER_NEAR_MM = 0.5
# What a covering stands, C: usual of such materials (polyester braid, fleece tape, PVC tape).
COVERING_C = {"braided sleeve": 125.0, "loom tape": 105.0, "PVC tape": 80.0, "original sleeve": 85.0}


@rule(
    "splice.break-out",
    meaning="A splice sits where the harness branches: it is thick and stiff there already.",
    cure="Further along one of its runs.",
    source="The house rule's distance from a break-out, 40 mm where nothing else is agreed")
def splice_break_out(figures: Figures, say: Say) -> Iterator[Finding]:
    """Splices that are said to sit nearer to a break-out than that."""
    off_mm = figures.plan.rules.splice_off_mm
    for part in figures.plan.of(Junction):
        branches = sum(part.place in (b.run.a, b.run.b) for b in bundles(figures))
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
    for here in bundles(figures):
        bore_mm = here.run.bore_mm
        if bore_mm is not None and here.run.threaded and (plug := _to_thread(figures.plan, here)) and (
                plug.mouth_mm > bore_mm):
            yield say.of(f"{here.run.id} {plug.part}")("caution", (here.run.id, plug.part), (
                f"{plug.name} is {plug.mouth_mm:.1f} mm across its corners and does not go through the hole of "
                f"{bore_mm:g} mm in {here.run.id}."), "harness", "", (
                Proposal(ChangeElement(id=here.run.id, values={"threaded": False}), "Fit it after drawing through"),))
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
        if not load.ends_in_plug or load.lead_plug_mm is None:
            continue
        mine = {w for w, found in figures.wires.items() if found.supplied and load.id in (
            figures.plan.wire(w).a.part, figures.plan.wire(w).b.part)}
        for here in bundles(figures):
            if not mine & set(here.wires):
                continue
            ends = (Closed(load.lead_plug_mm), Closed(math.inf))
            sleeve = here.sleeve
            if here.run.bore_mm is not None and not goes_on(here.run.bore_mm, ends):
                yield say.of(f"{load.id} {here.run.id} hole")("caution", (load.id, here.run.id), (
                    f"The plug of {load.name} just passes {load.lead_plug_mm:g} mm, and the hole in {here.run.id} is "
                    f"{here.run.bore_mm:g} mm: take its pins out to draw it through."), "harness", "", ())
            if sleeve is not None and len(here.wires) > 1 and not goes_on(sleeve.most_mm, ends):
                yield say.of(f"{load.id} {here.run.id}")("advice", (load.id, here.run.id), (
                    f"The plug of {load.name} does not go through the braided sleeve of {here.run.id}, which opens to "
                    f"{sleeve.most_mm:g} mm. {cures(sleeve.most_mm, ends)[0]}"), "harness", "", (
                    Proposal(ChangeElement(id=here.run.id, values={"covering": "loom tape"}),
                             f"Wind loom tape on {here.run.id}"),))


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
    for here in bundles(figures):
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
        here = [b for b in bundles(figures) if place.id in (b.run.a, b.run.b)]
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
    for here in bundles(figures):
        stands_c = COVERING_C.get(here.covering)
        if stands_c is None:
            continue
        warmest_c = max(_warmest_c(figures, here, w) for w in here.wires)
        if warmest_c > stands_c:
            better = min((c for c in COVERING_C if COVERING_C[c] >= warmest_c), key=lambda c: COVERING_C[c], default="")
            yield say("caution", (here.run.id,), (
                f"{here.run.id} becomes {warmest_c:.0f} °C, and its {here.covering} withstands {stands_c:.0f} °C."),
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
    for here in bundles(figures):
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
    covered = {end for b in bundles(figures) if b.covering for end in (b.run.a, b.run.b)}
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
