"""Leads that accessories came with: too short, too long, thinner than what guards them."""

from collections.abc import Iterator, Mapping

from ..edits import AddElement, ChangeElement, Several, apply
from ..errors import PlanError
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..materials.conductors import BY_AREA
from ..parts.load import LoadPart
from ..plan.model import PREFIX, Plan
from ..sizing.argument import stands
from ..wiring.circuit import LEAD_NEAR_M
from ..wiring.conductor import conductor
from ..wiring.geometry import WireGeometry, geometries
from .registry import Say, rule
from .words import amps, opener

LEAD_STOWED_M = 0.3  # more than this over has to be put somewhere
BOX_NEAR_M = 0.05  # room that a new end needs behind a box


@rule(
    "load.lead-short",
    meaning="An accessory's own lead does not reach where its feed begins; or it is too long, or ends in a plug that "
            "fits nothing there.",
    cure="Lengthen it by a splice or connector, or feed it from nearer by; cut it past its box, or stow what is left.",
    source="The lead's stated length, box and end against the way along the runs")
def lead_short(figures: Figures, say: Say) -> Iterator[Finding]:
    """What each accessory's own lead is short of, where a long one may be cut, and what becomes of its plug."""
    for load in figures.plan.loads:
        lead_m = load.own_lead_m
        if lead_m is None:
            continue
        if load.plugged:
            yield from _plugged(figures, say, load, way_m(figures.plan, figures.topology.geometry, load))
            continue
        at_it = [w for w in figures.plan.wires if load.id in (w.a.part, w.b.part)]
        needs_m = max((figures.topology.geometry[w.id].length_m for w in at_it), default=lead_m)
        comes = f"{load.name} comes with {lead_m:.2f} m of lead and needs {needs_m:.2f} m"
        plug = load.lead_end == "plug"
        if needs_m > lead_m + LEAD_NEAR_M:
            how = ", with the same plug, or cut the plug off" if plug else ""
            yield say("advice", (load.id,), (
                f"{comes}: lengthen it by {needs_m - lead_m:.2f} m{how}."), "circuit")
        elif lead_m > needs_m + LEAD_STOWED_M:
            yield say("note", (load.id,), (
                f"{comes}: {_cut_or_stow(load, lead_m, needs_m)}"), "circuit")
        elif plug and not figures.plan.part(load.feed).AS_FOUND:
            yield say("note", (load.id,), (
                f"{load.name}'s lead ends in a plug, and it is fed from {figures.plan.part(load.feed).name}: fit the "
                "like there, or cut the plug off."), "circuit")


def _plugged(figures: Figures, say: Say, load: LoadPart, needs_m: float) -> Iterator[Finding]:
    """What a lead that is used as it came is short of, or has too much of."""
    lead_m, feed = load.own_lead_m or 0.0, figures.plan.part(load.feed)
    comes = f"{load.name} comes with {lead_m:.2f} m of lead and a plug, and it is {needs_m:.2f} m to {feed.name}"
    if needs_m > lead_m + LEAD_NEAR_M:
        yield say("stop", (load.id, feed.id), (
            f"{comes}: {needs_m - lead_m:.2f} m short. Another feed or place, an extension with the same plug, "
            "or its plug cut off and the lead lengthened."), "circuit", "", tuple(_reaching(figures, load, lead_m)))
    elif lead_m > needs_m + LEAD_STOWED_M:
        yield say.of(f"{load.id} long")("note", (load.id,), (
            f"{comes}: {lead_m - needs_m:.2f} m have to be stowed."), "circuit")


def way_m(plan: Plan, geometry: Mapping[str, WireGeometry], load: LoadPart) -> float:
    """How long the way is that an accessory's own lead has to reach."""
    return max((geometry[w.id].way_m for w in plan.wires if load.id in (w.a.part, w.b.part)), default=0.0)


def _on_the_way(figures: Figures, load: LoadPart) -> list[str]:
    """The places on the way from where an accessory is plugged in to where it sits, in turn, without the first."""
    plan, runs = figures.plan, {r.id: r for r in figures.plan.runs}
    mine = next((w for w in plan.wires if w.b == load.at("pos")), None)
    stops = [plan.part(load.feed).place]
    for run in figures.topology.geometry[mine.id].runs if mine else ():
        stops.append(runs[run].b if runs[run].a == stops[-1] else runs[run].a)
    return stops[1:] or stops


def _extension(plan: Plan, load: LoadPart, place: str) -> Several:
    """A lead with the like of its plug at both ends, from its feed to a place."""
    lead = f"{PREFIX['lead']}{plan.counters.get(PREFIX['lead'], 0) + 1}"
    return Several(words=f"extension for {load.name}", edits=(
        AddElement(what="lead", values={"name": f"extension for {load.name}", "place": place, "feed": load.feed,
                                        "live": load.live, "end": "connector"}),
        ChangeElement(id=load.id, values={"feed": lead})))


def _reaching(figures: Figures, load: LoadPart, lead_m: float) -> Iterator[Proposal]:
    """Another feed that it reaches, an extension, the plug cut off."""
    plan, feed = figures.plan, figures.plan.part(load.feed)
    for other in (p for p in plan.parts if p.can_feed and p.id != load.feed and p.gives(load.live)):
        moved = ChangeElement(id=load.id, values={"feed": other.id})
        try:
            made = apply(plan, moved)
        except PlanError:  # nothing is plugged in there
            continue
        if way_m(made, geometries(made), load) <= lead_m + LEAD_NEAR_M:
            yield Proposal(moved, f"Plug it into {other.name}")
    for place in _on_the_way(figures, load):
        longer = _extension(plan, load, place)
        made = apply(plan, longer)
        if way_m(made, geometries(made), load) <= lead_m + LEAD_NEAR_M:
            yield Proposal(longer, f"An extension from {feed.name} to {plan.place(place).name}")
            break
    yield Proposal(ChangeElement(id=load.id, values={"plugged": False, "lead_end": "bare", "lead_fuse_a": None,
                                                     "maker_fuse_a": load.maker_fuse_a or load.lead_fuse_a}),
                   "Cut its plug off and lengthen the lead")


@rule(
    "load.lead-thin",
    meaning="The lead that an accessory came with is thinner than what guards it allows: it burns before that opens.",
    cure="A smaller fuse, as its maker asks, or a thicker lead.",
    source="The argument of docs/physics.md, with the lead's stated size")
def lead_thin(figures: Figures, say: Say) -> Iterator[Finding]:
    """Each accessory's own lead, where the wire at it is another one, behind what guards that wire."""
    for load in figures.plan.loads:
        if load.lead_mm2 is None or load.lead_mm2 not in BY_AREA:
            continue
        for wire in figures.wires.values():
            laid = figures.topology.wires[wire.id]
            if load.id not in (laid.a.part, laid.b.part) or wire.supplied or wire.area_mm2 <= load.lead_mm2:
                continue
            lead = conductor(figures.plan, laid.model_copy(update={"wall": "thin"}), load.lead_mm2)
            found, = stands([wire.coordination.duty.at(lead)])
            guard = wire.judged_by
            if guard is None or found.protected:
                continue
            last = [k.element for k in figures.path(load.id).feed if figures.topology.parts.get(k.element)
                    and figures.topology.parts[k.element].by_hand and k.element == guard.fuse]
            yield say("stop", (load.id, guard.fuse), (
                f"{load.name}'s own lead ({load.lead_mm2:g} mm²) is not protected: {opener(figures, guard)} lets more "
                f"through than the {amps(found.limit_a)} that it stands for good."), "circuit", "", tuple(
                    Proposal(ChangeElement(id=part, values={figures.topology.parts[part].CHOSEN: load.maker_fuse_a}),
                             f"Take {load.maker_fuse_a:g} A" if load.maker_fuse_a else f"Let Loadstar choose {part}")
                    for part in last))
            break


def _cut_or_stow(load: LoadPart, lead_m: float, way_m: float) -> str:
    """What to do with the rest of a lead that is too long."""
    rest = f"{lead_m - way_m:.2f} m have to be stowed"
    if load.lead_box_m is not None and load.lead_box_m > way_m - BOX_NEAR_M:
        return f"{rest}; its box sits {load.lead_box_m:.2f} m from it and has to stay, so do not cut."
    past = f", past its box at {load.lead_box_m:.2f} m," if load.lead_box_m is not None else ""
    lost = " Its plug goes with it." if load.lead_end == "plug" else ""
    return f"{rest}, or it is cut {way_m:.2f} m from it{past or ''}, with a new termination.{lost}"
