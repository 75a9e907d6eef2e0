"""Rules about the harness as a thing: what lies beside a run, holes, the headstock, coverings, splices, loops."""

from collections.abc import Iterator
from itertools import pairwise

from ..edits import ChangeElement, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..harness.covering import SLEEVE_ADDS_MM, sleeve_for
from ..harness.loom import Bundle
from ..harness.packing import bounds_mm
from ..materials.sizes import USUAL
from ..parts.coupling import Coupling
from ..parts.junction import Junction
from .registry import rule
from .words import listed

HOLE_FRAC = 0.70  # of its bore, that several wires may fill across
STEER_NEAR_MM = 0.5
# What a covering stands, C: usual of such materials (polyester braid, fleece tape, PVC tape).
COVERING_C = {"braided sleeve": 125.0, "loom tape": 105.0, "PVC tape": 80.0}
BESIDE = {"edge": ("a sharp edge", "it saws through the wires with vibration", "edge trim"),
          "hot": ("something hot", "insulation softens and chars", "heat sleeve"),
          "moving": ("a chain, tyre or suspension that moves", "it is caught and torn", "clipped away"),
          "pinch": ("seat or tank, which can pinch it", "wires are crushed on to the frame", "clipped away")}


def _bundles(figures: Figures) -> tuple[Bundle, ...]:
    return figures.loom.bundles if figures.loom else ()


@rule(
    "run.beside",
    meaning="A run passes a sharp edge, something hot or moving, or where it can be pinched, and nothing is done about "
            "it yet.",
    cure="Edge trim, heat sleeve, spiral wrap, or clip it away from there.",
    source="The run as surveyed")
def beside(figures: Figures) -> Iterator[Finding]:
    """Runs that carry wires past something open."""
    for here in _bundles(figures):
        for field, (what, happens, usual) in BESIDE.items():
            if getattr(here.run, field) == "open":
                yield Finding("run.beside", "caution", (here.run.id, *here.wires[:4]), (
                    f"{here.run.id} passes {what} and nothing is done about it: {happens}."), "harness", "", (
                    Proposal(ChangeElement(id=here.run.id, values={field: usual}), f"Plan {usual}"
                             if usual != "clipped away" else "Plan to clip it away"),), f"{here.run.id} {field}")


@rule(
    "run.hole",
    meaning="A bundle is too fat for the narrowest hole on its way: it does not go through, or chafes there.",
    cure="A larger hole or another way, fewer or thinner wires, one harness less at once.",
    source="Hand-laid diameter with its covering against 70 % of the bore for several wires; one wire may fill it")
def hole(figures: Figures) -> Iterator[Finding]:
    """Bundles against the bore of their runs."""
    for here in _bundles(figures):
        bore_mm = here.run.bore_mm
        if bore_mm is None or bounds_mm(here.diameters_mm)[1] + SLEEVE_ADDS_MM <= HOLE_FRAC * bore_mm:
            continue  # far from it
        across_mm = here.covered_mm if len(here.wires) > 1 else here.laid_mm
        may_mm = bore_mm * (HOLE_FRAC if len(here.wires) > 1 else 1.0)
        if across_mm > may_mm:
            yield Finding("run.hole", "caution", (here.run.id,), (
                f"{len(here.wires)} wires in {here.run.id} are {across_mm:.1f} mm thick with their covering; the hole "
                f"of {bore_mm:g} mm takes {may_mm:.1f} mm."), "harness", f"bundle/{here.run.id}")


@rule(
    "run.steering",
    meaning="Where the harness passes the headstock less slack is laid in than the steering takes: it pulls tight at a "
            "lock, and wires break inside their insulation.",
    cure="Lay in the slack, close to the steering's axis.",
    source="Longest way over the whole sweep less that straight ahead")
def steering(figures: Figures) -> Iterator[Finding]:
    """Slack laid in against what the sweep asks."""
    for here in _bundles(figures):
        swept = here.sweep
        if swept is not None and here.run.slack_mm < swept.slack_mm - STEER_NEAR_MM:
            enough = int(swept.slack_mm) + 1
            yield Finding("run.steering", "caution", (here.run.id,), (
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
def headstock(figures: Figures) -> Iterator[Finding]:
    """Steered places with runs to what stands still, none of which says its sweep or slack."""
    moves = {p.id: p.moves for p in figures.plan.places}
    for place in figures.plan.places:
        here = [b for b in _bundles(figures) if place.id in (b.run.a, b.run.b)]
        leaves = {moves[end] for b in here for end in (b.run.a, b.run.b)}
        if place.moves == "with the steering" and len(leaves) > 1 and not any(b.sweep or b.run.slack_mm for b in here):
            yield Finding("run.headstock", "advice", (place.id, *(b.run.id for b in here)), (
                f"{len(here)} {'run passes' if len(here) == 1 else 'runs pass'} {place.name}, which turns with the "
                "steering: say where from its axis, or how much slack is laid in."), "harness")


@rule(
    "run.covering-hot",
    meaning="A run's covering stands less than the air around its wires, with what these add to it.",
    cure="Another covering, or another way.",
    source="Usual limits of such coverings, assumed; see the maker's")
def covering_hot(figures: Figures) -> Iterator[Finding]:
    """The warmest of a run's air and wires against what its covering stands."""
    for here in _bundles(figures):
        stands_c = COVERING_C.get(here.covering)
        if stands_c is None:
            continue
        warmest_c = max(_warmest_c(figures, here, w) for w in here.wires)
        if warmest_c > stands_c:
            better = min((c for c in COVERING_C if COVERING_C[c] >= warmest_c), key=lambda c: COVERING_C[c], default="")
            yield Finding("run.covering-hot", "caution", (here.run.id,), (
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
def no_sleeve(figures: Figures) -> Iterator[Finding]:
    """Sleeved runs that are too thin or too fat for any."""
    for here in _bundles(figures):
        if here.covering != "braided sleeve" or len(here.wires) < 2:
            continue
        if all(map(sleeve_for, bounds_mm(here.diameters_mm))):
            continue  # one lies on it either way
        if here.sleeve is None:
            yield Finding("run.no-sleeve", "advice", (here.run.id,), (
                f"No braided sleeve lies on {here.run.id}: its {len(here.wires)} wires are {here.laid_mm:.1f} mm "
                "thick."), "harness", f"bundle/{here.run.id}",
                (Proposal(ChangeElement(id=here.run.id, values={"covering": "loom tape"}), "Tape it"),))


@rule(
    "splice.moves",
    meaning="A splice sits where the harness moves: it is stiff, and the wires break beside it.",
    cure="A place that stands still, some way before.",
    source="Workshop practice: no joint where it bends")
def splice_moves(figures: Figures) -> Iterator[Finding]:
    """Splices at places that turn or swing."""
    moves = {p.id: p.moves for p in figures.plan.places}
    for part in figures.plan.of(Junction):
        if part.form == "splice" and moves[part.place] != "still":
            yield Finding("splice.moves", "caution", (part.id,), (
                f"{part.name} sits at {figures.plan.place(part.place).name}, which moves {moves[part.place]}: joints "
                "break there."), "harness")


@rule(
    "run.stagger",
    meaning="Several connectors sit side by side where one covering goes over them: it does not pass, or is as fat "
            "there as all of them.",
    cure="Stagger them: each a housing's length further along than the one before.",
    source="Workshop practice; lengths as stated, or usual of such connectors")
def stagger(figures: Figures) -> Iterator[Finding]:
    """Connectors at one place of a covered harness, nearer together than a housing is long."""
    covered = {end for b in _bundles(figures) if b.covering for end in (b.run.a, b.run.b)}
    for place in figures.plan.places:
        here = sorted((c for c in figures.plan.of(Coupling) if c.place == place.id), key=lambda c: (c.offset_mm, c.id))
        for one, two in pairwise(here if place.id in covered else ()):
            long_mm = (one.dimensions and one.dimensions.long_mm) or USUAL[one.kind].long_mm
            if two.offset_mm - one.offset_mm < long_mm:
                yield Finding("run.stagger", "advice", (two.id, one.id), (
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
def loop(figures: Figures) -> Iterator[Finding]:
    """Looms whose runs form loops, and the cheapest cut."""
    found = figures.loom.cuts if figures.loom else ()
    if found:
        best = found[0]
        edits = tuple(ChangeElement(id=run, values={"used": False}) for run in best.runs)
        yield Finding("harness.loop", "advice", best.runs, (
            f"The runs form a loop: the harness does not lie flat. Without {listed(list(best.runs))} it does, with "
            f"{best.more_g:.1f} g more copper."), "harness", "", (
            Proposal(edits[0] if len(edits) == 1 else Several(edits=edits, words="runs left out"),
                     f"Leave out {listed(list(best.runs))}"),))
