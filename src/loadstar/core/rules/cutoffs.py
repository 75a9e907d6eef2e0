"""Rules about the brake cut-off of an e-bike: each lever reaches the controller, and no power reaches the line."""

from collections.abc import Iterator
from itertools import combinations

import networkx as nx

from ..figures.figures import Figures
from ..findings import Finding
from ..parts.cutoff import Cutoff
from ..parts.device import Device
from .registry import Say, rule
from .words import listed


@rule(
    "cutoff.no-effect",
    meaning="Pulling a brake lever changes nothing between the controller's cut-off lines: the motor goes on pushing "
            "against the brake.",
    cure="Contacts that close: beside one another between the two lines. Contacts that open: one behind the other.",
    source="What copper joins between the controller's lines, with each lever pulled alone")
def no_effect(figures: Figures, say: Say) -> Iterator[Finding]:
    """Levers that no line of any controller feels."""
    every = figures.plan.of(Cutoff)
    at_rest = _felt(figures, every, None)
    for part in every:
        if _felt(figures, every, part) == at_rest:
            yield say("stop", (part.id,), (
                f"Pulling {part.name} does not reach the controller: the motor goes on while the brake is pulled."),
                "circuit")


@rule(
    "cutoff.one-lever",
    meaning="Only one brake lever cuts the motor.",
    cure="A cut-off switch at the other lever too.",
    source="Two brakes, either of which may be pulled alone")
def one_lever(figures: Figures, say: Say) -> Iterator[Finding]:
    """A single cut-off switch."""
    every = figures.plan.of(Cutoff)
    if len(every) == 1:
        yield say("advice", (every[0].id,), (
            f"Only {every[0].name} cuts the motor: the other lever does not."), "machine")


@rule(
    "cutoff.fed",
    meaning="A controller's cut-off line is joined to a supply: its input is made for a signal and is destroyed.",
    cure="Take the cut-off switch off the supply; a brake lamp gets a contact of its own.",
    source="What copper joins, every contact closed")
def fed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Cut-off switches on the copper of any supply's positive."""
    groups = figures.joins.joined
    live = {groups.of(r.positive): r.part for r in figures.topology.roots}
    for part in figures.plan.of(Cutoff):
        roots = dict.fromkeys(live[g] for end in part.ends if (g := groups.of_terminal(part.at(end))) in live)
        if roots:
            names = listed([figures.plan.part(r).name for r in roots])
            yield say("stop", (part.id, *roots), (
                f"{part.name} is joined to {names}: the controller's cut-off line takes no supply."), "circuit")


def _felt(figures: Figures, every: tuple[Cutoff, ...], pulled: Cutoff | None) -> set[tuple[str, str]]:
    """The pairs of controllers' lines that are joined with one lever pulled, or none."""
    at = figures.joins.joined.of_terminal
    graph = nx.Graph((at(part.at("a")), at(part.at("b"))) for part in every if part.joins(pulled=part is pulled))
    return {(str(one), str(two)) for device in figures.plan.of(Device)
            for one, two in combinations(map(device.at, device.ends), 2)
            if at(one) == at(two) or (at(one) in graph and at(two) in graph and nx.has_path(graph, at(one), at(two)))}
