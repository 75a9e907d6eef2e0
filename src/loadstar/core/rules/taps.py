"""What hangs on the machine's plugs, pins and found wires, and on modules' ways."""

from collections.abc import Iterator

from ..amounts import apart
from ..doc.states import JUDGED_STATES, LIVE_STATES
from ..edits import ChangeElement, MoveEnd, Several
from ..feeds.taps import JUDGED_V, on_tap_a, running_v, triggered_a, triggered_by
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.base import Part
from ..parts.module import Module
from ..parts.tap import Tap
from ..parts.way import Way
from ..survey.pins import suspect
from .registry import Say, rule
from .words import amps, listed, verb, when


@rule(
    "feed.trigger-overloaded",
    meaning="The coils on a factory wire draw more than it is taken to give.",
    cure="A relay with a larger coil resistance, a module whose trigger only senses, or another wire.",
    source="Ohm's law on the coil; the wire's stated rating")
def trigger_overloaded(figures: Figures, say: Say) -> Iterator[Finding]:
    """Coil current of the relays on each found wire against its rating."""
    volts = running_v(figures.plan)
    for tap in figures.plan.of(Tap):
        relays = triggered_by(figures.topology, tap)
        current = triggered_a(figures.topology, tap)
        if relays and current + tap.others_a > tap.rated_a:
            coils = verb(len(relays), "coil", "coils")
            besides = f", besides {amps(tap.others_a)} that the machine draws" if tap.others_a else ""
            yield say("caution", (tap.id, *(k.id for k in relays)), (
                f"{tap.name} is taken as good for {tap.rated_a:g} A; the {coils} on it "
                f"{verb(len(relays), 'draws', 'draw')} {amps(current)} at {volts:.1f} V{besides}. Ways out: a relay "
                "with a larger coil resistance, a module whose trigger only senses, another pin."), "circuit",
                f"trigger/{tap.id}",
                tuple(_other_pins(figures, tap, relays, current)))


def _other_pins(figures: Figures, tap: Tap, relays: list[Part], current_a: float) -> Iterator[Proposal]:
    """Moving the coils to another pin that has been found here, is never forbidden, reads as what it is, and can spare
    it."""
    wires = [w for w in figures.plan.wires if w.a == tap.at("pin")
             and any(w.b == figures.topology.actuators[k.id].plus for k in relays)]
    for other in figures.plan.taps:
        if (other.id == tap.id or other.live != tap.live or other.standing != "found" or figures.plan.never(other)
                or suspect(figures.plan, other)):
            continue
        on_it = on_tap_a(figures.plan, other) + triggered_a(figures.topology, other)
        if wires and on_it + current_a <= other.rated_a:
            edits = tuple(MoveEnd(id=w.id, end="a", to=other.at("pin")) for w in wires)
            yield Proposal(edits[0] if len(edits) == 1 else Several(edits=edits, words=f"coils moved to {other.name}"),
                           f"Take {other.name} instead")


@rule(
    "feed.plug-overloaded",
    meaning="With everything on a plug that may be on together it is over its rating, judged at 12.0 V.",
    cure="Prevent both at once, add a feed, or use a relay from the battery.",
    source="The plug's stated rating")
def plug_overloaded(figures: Figures, say: Say) -> Iterator[Finding]:
    """Coincident current of every tap at 12.0 V (the machine's own users counted)."""
    for part in figures.plan.of(Tap):
        users = [p.name for p in figures.plan.fed_from(part.id)]
        drawn = on_tap_a(figures.plan, part)
        if users and drawn > part.rated_a:
            if part.others_a:
                users.append(f"{part.others or 'the machine itself'} ({amps(part.others_a)})")
            together = "together draw" if len(users) > 1 else "draws"
            way_out = "Prevent both at once, add a feed, or use a relay from the battery." if len(users) > 1 else (
                "Another feed, or a relay from the battery.")
            yield say("stop" if drawn > 1.35 * part.rated_a else "caution", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A; {listed(users)} {together} {drawn:.1f} A at "
                f"{JUDGED_V:.1f} V. {way_out}"), "circuit", f"tap/{part.id}")


@rule(
    "feed.plug-fuse",
    meaning="The factory fuse before a plug carries more than it should for long.",
    cure="Another feed; never a larger factory fuse.",
    source="Continuous share of a fuse: house rule")
def plug_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Share of the factory fuse before each tap."""
    share = figures.plan.rules.fuse_share_frac
    for part in figures.plan.of(Tap):
        if part.fused_a and not part.unfused and figures.plan.fed_from(part.id):
            drawn = on_tap_a(figures.plan, part)
            if drawn > share * part.fused_a and drawn <= part.rated_a:
                has, may = apart(drawn / part.fused_a, share)
                yield say("caution", (part.id,), (
                    f"The {part.fused_a:g} A factory fuse before {part.name} would carry {drawn:.1f} A, {has} of its "
                    f"rating; the house rule is {may}."), "circuit",
                    f"tap/{part.id}")


@rule(
    "feed.run-on",
    meaning="A line stays live some seconds after key or engine is off; what it feeds does too.",
    cure="Nothing is wrong; do not take it for dead at once.",
    source="The line's stated delay")
def run_on(figures: Figures, say: Say) -> Iterator[Finding]:
    """Feeds and triggers with an off-delay."""
    for part in figures.plan.of(Tap):
        if part.off_delay_s > 0:
            users = [p.name for p in figures.plan.fed_from(part.id)]
            users += [k.name for k in triggered_by(figures.topology, part)]
            if users:
                yield say("note", (part.id,), (
                    f"{part.name} stays live {part.off_delay_s:g} s after: so {verb(len(users), 'does', 'do')} "
                    f"{listed(users)}."), "machine")


@rule(
    "feed.never",
    meaning="A wire of the airbag, ABS, throttle or CAN system is used as feed or trigger.",
    cure="Another wire. These are never tapped.",
    source="Airbags, ABS and throttle wires are never tapped")
def never(figures: Figures, say: Say) -> Iterator[Finding]:
    """Forbidden wires in use."""
    for part in figures.plan.of(Tap):
        if (never := figures.plan.never(part)) and any(part.at("pin") in (w.a, w.b) for w in figures.plan.wires):
            yield say("stop", (part.id,), (
                f"{part.name} belongs to the {never} system: it is never tapped."), "circuit")


@rule(
    "feed.module-total",
    meaning="All outputs of a module together carry more than it is rated for.",
    cure="A second module, or heavy loads from elsewhere.",
    source="The module's stated total")
def module_total(figures: Figures, say: Say) -> Iterator[Finding]:
    """Sum of a module's ways."""
    for part in figures.plan.of(Module):
        ways = [j.b.part for j in figures.plan.joins if j.a == part.at("in")]
        asked = sum(figures.ratings.peak_a(w) for w in ways)
        if asked > part.total_a:
            yield say("stop", (part.id,), (
                f"{part.name} carries {part.total_a:g} A in all; its ways ask for {asked:.1f} A."), "circuit")
        if len(ways) > part.ways:
            yield say("stop", (part.id,),
                          f"{part.name} has {part.ways} ways and {len(ways)} are used.", "circuit")


@rule(
    "feed.module-way",
    meaning="An output of a module is set, or loaded, for more than the module's outputs can carry.",
    cure="Two outputs in parallel where the maker allows it, or another feed.",
    source="The module's stated limit per way")
def module_way(figures: Figures, say: Say) -> Iterator[Finding]:
    """Limit of every way against its module."""
    for part in figures.plan.of(Way):
        if figures.sized is None:
            continue
        home = next((j.a.part for j in figures.plan.joins if j.b == part.at("a")), "")
        module = figures.plan.is_one(home, Module)
        limit = figures.ratings.rating_a(part.id)
        if module is not None and limit > module.way_most_a:
            yield say("stop", (part.id, module.id), (
                f"{part.name} would have to be set to {limit:g} A; an output of {module.name} carries "
                f"{module.way_most_a:g} A."),
                "circuit")
        if figures.ratings.peak_a(part.id) > limit:
            chosen = () if part.limit_a is None else (
                Proposal(ChangeElement(id=part.id, values={"limit_a": None}), f"Let Loadstar set {part.id}"),)
            yield say("stop", (part.id,), (
                f"{part.name} is set to {limit:g} A and asked for {figures.ratings.peak_a(part.id):.3g} A: it switches "
                "off."), "circuit", "", chosen)


@rule(
    "feed.way-cut",
    meaning="An output of a module goes off at a voltage that the battery has, or falls to, in a state in which "
            "what it feeds must be live.",
    cure="A lower voltage to go off at.",
    source="The way's stated voltage; solved network")
def way_cut(figures: Figures, say: Say) -> Iterator[Finding]:
    """Volts at the input of each way in the states in which it is to be on, against where it goes off."""
    for way in figures.plan.of(Way):
        low = [(abs(row.solution.across_v(figures.topology.node(way.at("a")), figures.topology.negative)), row)
               for row in figures.volts.rows
               if row.solution is not None and row.state in JUDGED_STATES and row.state in LIVE_STATES[way.live]]
        least = min(low, key=lambda one: one[0], default=None)
        if way.cut_below_v and least is not None and least[0] < way.cut_below_v:
            yield say("caution", (way.id,), (
                f"{way.name} goes off below {way.cut_below_v:g} V and has {least[0]:.2f} V ({when(least[1])})."),
                "circuit")
