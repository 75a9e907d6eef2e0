"""Rules about wires: heat, insulation class, mechanical strength, way and unprotected length."""

from collections.abc import Iterable, Iterator

from ..edits import ChangeElement, SetWire, Several
from ..figures.figures import Figures
from ..figures.touches import BURNS_C
from ..figures.wires import WireResult
from ..findings import Finding, Proposal
from ..materials.conductors import INSULATIONS
from ..parts.tap import Tap
from ..sizing.drops import starter_leads
from ..sizing.short import after_cranking_c, cranks_hot
from .converters import without_fuse
from .registry import Say, rule
from .words import amps, listed, named, sized, verb, warm_over

LITTLE_K = 10.0  # with less between the air and what the margin leaves, a higher class is what helps


def freed(wires: Iterable[WireResult]) -> tuple[Proposal, ...]:
    """Leaving hand-fixed sizes to Loadstar: the first wire's alone, then those of all that are given."""
    fixed = [w.id for w in wires if w.fixed]
    if not fixed:
        return ()
    one = Proposal(SetWire(id=fixed[0], values={"area_mm2": None}), f"Let Loadstar choose {fixed[0]}")
    every = Several(edits=tuple(SetWire(id=w, values={"area_mm2": None}) for w in fixed),
                    words=f"{listed(fixed)} left to Loadstar")
    return (one, Proposal(every, f"Let Loadstar choose {listed(fixed)}")) if len(fixed) > 1 else (one,)


@rule(
    "wire.too-hot",
    meaning="A wire runs above its insulation's class, or nearer to it than the house margin, with the real currents "
            "in its bundle.",
    cure="A thicker wire, another way, fewer wires together, a higher class.",
    source="ISO 6722-1 temperature classes; heat model of docs/physics.md, ABYC E-11 where that is lower")
def too_hot(figures: Figures, say: Say) -> Iterator[Finding]:
    """Every wire in use against its class."""
    margin = figures.plan.rules.thermal_margin_k
    for wire in figures.wires.values():
        spare = wire.class_c - wire.hottest_c
        if not spare < margin - 1e-6 or _air_too_hot(figures, wire):
            continue
        if spare < 0:
            text = (f"{sized(wire)} reaches {warm_over(wire.hottest_c, wire.class_c)} at {amps(wire.peak_a)} "
                    f"({wire.hottest_in.lower()}), over the {wire.class_c:.0f} °C its insulation stands.")
        else:
            text = (f"{sized(wire)} reaches {wire.hottest_c:.0f} °C at {amps(wire.peak_a)} "
                    f"({wire.hottest_in.lower()}); that leaves "
                    f"{spare:.0f} K to its class, the house rule wants {margin:g} K.")
        if wire.helpless:
            near = wire.surround_c - wire.ambient_c
            text += (
                f" No size helps: its neighbours in the bundle warm it by {near:.0f} K. Lead some of them another way, "
                f"or take a "
                     "higher class." if near > margin else " No size helps: share the current out over two circuits.")
        yield say("stop" if spare < 0 else "caution", (wire.id,), text, "circuit",
                      f"use_c/{wire.id}",
                      freed([wire]))


@rule(
    "wire.cranking",
    meaning="What a wire carries while the starter turns heats it over its class, tries and rests together.",
    cure="A thicker wire.",
    source="Heat by steps of docs/physics.md: three tries of five seconds, ten seconds of rest between them")
def cranking(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires that carry more while cranking than they stand for good; said once for all that carry the same."""
    hot: dict[str, list[tuple[float, WireResult]]] = {}
    for wire in figures.wires.values():
        amps_a, duty = figures.ratings.short_a(wire.id), wire.coordination.duty
        if amps_a > max(wire.peak_a, wire.coordination.limit_a) and cranks_hot(duty.wire, amps_a, duty.air_c):
            reached = after_cranking_c(duty.wire, amps_a, duty.air_c, duty.air_c)
            hot.setdefault(amps(amps_a), []).append((reached, wire))
    for carried, found in hot.items():
        reached, worst = max(found, key=lambda one: one[0])
        mine = [wire for _, wire in found]
        ends = f"reaches {reached:.0f} °C" if reached < BURNS_C else "burns through"
        others = [w.id for w in mine if w is not worst]
        too = f" {listed(others)} {verb(len(others), 'carries', 'carry')} the same." if others else ""
        yield say("stop", (worst.id, *others), (
            f"{sized(worst)} {ends} at {carried} while the starter turns (three tries of five seconds), over the "
            f"{worst.class_c:.0f} °C its insulation stands.{too}"), "circuit", "", freed([worst, *(
                w for w in mine if w is not worst)]))


def _air_too_hot(figures: Figures, wire: WireResult) -> bool:
    """Whether it is the air, and not the current or the neighbours, that leaves no margin."""
    left = wire.class_c - figures.plan.rules.thermal_margin_k - wire.ambient_c
    return left <= 0 or (wire.helpless and left < LITTLE_K)


def only_class_helps(figures: Figures, wire: WireResult) -> bool:
    """Whether Loadstar chose the size, and found none that is cool enough in this air."""
    return wire.helpless and not wire.fixed and _air_too_hot(figures, wire)


@rule(
    "wire.class-too-low",
    meaning="The air around a wire is so warm that its insulation class leaves no margin at any size: a thicker wire "
            "does not help.",
    cure="The next insulation class, or a cooler way.",
    source="ISO 6722-1 temperature classes; house rule: thermal margin")
def class_too_low(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires whose air is within the house margin of their class, by class."""
    margin, codes = figures.plan.rules.thermal_margin_k, list(INSULATIONS)
    groups: dict[float, list[WireResult]] = {}
    for wire in figures.wires.values():
        if figures.is_solved and _air_too_hot(figures, wire):
            groups.setdefault(wire.class_c, []).append(wire)
    for top, wires in groups.items():
        air = max(w.ambient_c for w in wires)
        bare = [w.id for w in wires if only_class_helps(figures, w) and not w.coordination.protected]
        over = bool(bare) or any(w.hottest_c > top or w.ambient_c > top for w in wires)
        ids = [w.id for w in wires]
        better = [c for c in codes if INSULATIONS[c].continuous_c > top]
        roomy = [c for c in better if air <= INSULATIONS[c].continuous_c - margin - LITTLE_K]
        proposals = tuple(Proposal(
            Several(edits=tuple(SetWire(id=w, values={"insulation": c}) for w in ids),
                    words=f"{listed(ids)} in class {c}"),
            f"Take class {c} ({INSULATIONS[c].continuous_c:g} °C)")
            for c in (*roomy, *(c for c in better if c not in roomy)))
        fitting = next(iter(roomy), None)
        guarded = f" In such air {listed(bare)} {verb(len(bare), 'is', 'are')} not protected either." if bare else ""
        advice = (f"Take class {fitting} ({INSULATIONS[fitting].continuous_c:g} °C), or a cooler way." if fitting
                  else "No class of road-vehicle wire is made for that: find a cooler way.")
        yield say("stop" if over else "caution", tuple(ids), (
            f"{listed(ids)} {verb(len(ids), 'lies', 'lie')} in air of {air:.0f} °C with insulation for {top:.0f} °C; "
            f"the house rule keeps {margin:g} K.{guarded} A thicker wire does not help. {advice}"), "circuit",
            f"use_c/{ids[0]}", proposals)


@rule(
    "wire.no-fuse",
    meaning="The length of copper between a battery or pack and the first fuse is protected by nothing, however many "
            "wires it is made of.",
    cure="Move the fuse to the battery; keep what is before it short, sleeved and clear of metal.",
    source="House rule: longest unprotected wire")
def no_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Ways of copper that no fuse guards, beyond the house rule's length, one for all that begins with the same
    wire."""
    limit = figures.plan.rules.unfused_limit_m
    leads = set(starter_leads(figures.topology))  # left without a fuse by custom: rule starter.leads
    passed = {w for w, past in (figures.sized.faults.bypassed if figures.sized else {}).items()
              if figures.bridged.keys() & set(past.opened)}
    # one cause, one finding: rules fuse.bypassed, converter.unprotected
    told = passed.union(*(way for _, way in without_fuse(figures)))
    over = {w: u for w, u in figures.unfused.items() if u.length_m > limit + 1e-9 and w not in leads and w not in told}
    begins: dict[str, list[str]] = {}
    for wire, way in over.items():
        if not any(wire in other.way[:-1] for other in over.values()):
            begins.setdefault(next(w for w in way.way if w not in leads), []).append(wire)
    for ends in begins.values():
        last = max(ends, key=lambda w: (over[w].length_m, w))
        ways = [w for w in dict.fromkeys(w for end in sorted(ends, key=lambda e: e != last) for w in over[end].way)
                if w not in leads]
        fault_a = max(figures.wires[w].fault_a for w in ways)
        runs = f"{last} runs {over[last].length_m:.2f} m" if len(ways) == 1 else (
            f"{listed(ways)} are a length of {over[last].length_m:.2f} m")
        yield say("stop", (last, *(w for w in ways if w != last)), (
            f"{runs} with no fuse before it; a short to frame would draw up to {fault_a:.0f} A. The house rule allows "
            f"{limit:.2f} m."), "circuit", f"unfused/{last}")


@rule(
    "feed.unknown-fuse",
    meaning="Nobody has found the factory fuse before a plug or wire that is used: whether it protects what is fed "
            "from "
            "it is not known.",
    cure="Find the fuse and write its rating down; or note that there is none.",
    source="Unknown is not none")
def unknown_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Used plugs and wires whose factory fuse is not known, with the wires that only it could protect."""
    for tap in figures.topology.taps_unknown:
        mine = [w.id for w in figures.wires.values() if w.unknown_fuse == tap.id]
        if mine:
            yield say("caution", (tap.id, *mine), (
                f"The factory fuse before {tap.name} is not known: find it and enter it there (Factory fuse before "
                f"it). Until then nobody can say what protects {listed(mine)}."),
                "machine", "", (Proposal(ChangeElement(id=tap.id, values={"unfused": True}), "There is none"),))
    for part in figures.plan.of(Tap):
        if part.unfused:
            mine = [w.id for w in figures.wires.values()
                    if part.at("pin") in (figures.topology.wires[w.id].a, figures.topology.wires[w.id].b)]
            bare = [w for w in mine if figures.wires[w].guard is None
                    and figures.wires[w].length_m <= figures.plan.rules.unfused_limit_m]
            if bare:
                yield say("caution", (part.id, *bare), (
                    f"{part.name} has no factory fuse: {listed(bare)} and the machine's own wire before it are "
                    f"protected by nothing."), "machine")


@rule(
    "wire.below-minimum",
    meaning="A wire is thinner than the least the workshop fits on a machine that vibrates.",
    cure="At least the house rule's size.",
    source="House rule: least cross-section")
def below_minimum(figures: Figures, say: Say) -> Iterator[Finding]:
    """Hand-fixed sizes under the mechanical minimum; of wires that are there, or came with something, nobody chose
    it."""
    least = figures.plan.rules.least_area_mm2
    thin = [w for w in figures.wires.values() if w.area_mm2 < least]
    if came := [w.id for w in thin if w.origin != "new"]:
        yield say.of("as they came")("note", tuple(came), (
            f"{listed(came)} {verb(len(came), 'is', 'are')} thinner than the {least:g} mm² of the house, as "
            f"{verb(len(came), 'it', 'they')} came: hold {verb(len(came), 'it', 'them')} close to both ends."),
            "circuit")
    for wire in thin:
        if wire.origin == "new":
            yield say("caution", (wire.id,), (
                f"{wire.id} has {wire.area_mm2:g} mm²; below {least:g} mm² a strand breaks early where it vibrates."),
                "circuit", "", freed([wire]))


@rule(
    "wire.no-way",
    meaning="No runs join the two ends of a wire, so that its length is a guess.",
    cure="Add the missing run under Survey, or give the wire a measured length.",
    source="The plan's runs")
def no_way(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires whose way is not known."""
    for geometry in figures.topology.geometry.values():
        if not geometry.way_known:
            ends = figures.topology.wires[geometry.wire]
            a, b = (named(figures, end) for end in (ends.a, ends.b))
            yield say("caution", (geometry.wire,), (
                f"No run leads from one end of {geometry.wire} ({a}) to the other ({b}); it is reckoned with the "
                f"straight distance, {geometry.length_m:.2f} m, which is too short. Add the run, or measure the wire."),
                "machine",
                f"length/{geometry.wire}")
