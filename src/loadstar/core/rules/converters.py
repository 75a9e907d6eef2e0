"""Rules about step-down converters and what lies before and behind them."""

from collections.abc import Iterator

from ..amounts import percent
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..figures.packs import converter_asked_a, converter_worst_in
from ..findings import Finding, Proposal
from ..parts.converter import SHORT_MULTIPLE, Converter
from ..parts.fuse import FusePart
from ..physics import battery as cell
from ..sizing.openers import OVERLOAD_MULTIPLE
from ..wiring.classes import packs_at_fuse
from .fuses import other_kinds
from .registry import Say, rule
from .words import amps, an, fuse, listed, named, when

PACK_SOURCE = "Cell chemistry: volts per cell full and empty, docs/physics.md"


@rule(
    "converter.window-low",
    meaning="A converter stops before the pack is empty: what it feeds goes out while the pack still has charge.",
    cure="A converter whose window reaches the pack's empty voltage.",
    source=PACK_SOURCE)
def window_low(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lower end of the input window against the empty pack."""
    for part in figures.plan.of(Converter):
        for pack in figures.plan.packs:
            empty = pack.empty_v
            if part.window_low_v > empty + 1e-9:
                left = cell.pack_charge_frac(part.window_low_v, pack.chemistry, pack.series)
                yield say("stop", (part.id, pack.id), (
                    f"{part.name} needs at least {part.window_low_v:g} V; {pack.name} goes down to {empty:.1f} V. "
                    f"Below {part.window_low_v:g} V, with about {percent(left)} of the charge left (approximate), what "
                    "it feeds goes out."), "circuit", f"pack_v/{pack.id}")
                break


@rule(
    "converter.window-high",
    meaning="The full pack is over what the converter accepts: it is destroyed.",
    cure="A converter whose window reaches the charger's voltage.",
    source=PACK_SOURCE)
def window_high(figures: Figures, say: Say) -> Iterator[Finding]:
    """Upper end of the input window against the full pack."""
    for part in figures.plan.of(Converter):
        for pack in figures.plan.packs:
            full = pack.full_v
            if full > part.window_high_v + 1e-9:
                yield say("stop", (part.id, pack.id), (
                    f"{part.name} accepts up to {part.window_high_v:g} V; {pack.name} full has {full:.1f} V."),
                    "circuit",
                    f"pack_v/{pack.id}")
                break


@rule(
    "converter.overloaded",
    meaning="More is asked of a converter's output than it is rated for: its voltage falls or it shuts down.",
    cure="A larger converter, or fewer things at once.",
    source="The converter's output rating")
def converter_overloaded(figures: Figures, say: Say) -> Iterator[Finding]:
    """Output current, everything on, against the rating (caution from 80 %)."""
    for part in figures.plan.of(Converter):
        asked = converter_asked_a(figures, part)
        if asked > 0.8 * part.rated_a:
            over = asked > part.rated_a
            yield say("stop" if over else "caution", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A at {part.out_v:g} V; with everything on it is asked for "
                f"{asked:.3g} A{'' if over else ', over 80 % of that'}."), "circuit", f"converter_out/{part.id}")


@rule(
    "converter.unprotected",
    meaning="Nothing protects the lead between the pack and the converter: the pack's whole current can flow into a "
            "short to frame there. A fuse after the converter protects nothing before it.",
    cure="A fuse at the pack that can break its full voltage.",
    source="Protection at the source end; ISO 8820-3")
def unprotected_input(figures: Figures, say: Say) -> Iterator[Finding]:
    """Converters with no fuse on their source side."""
    for part, _ in without_fuse(figures):
        after = [k.element for p in figures.plan.loads if p.feed == part.id for k in figures.path(p.id).feed
                 if figures.plan.is_one(k.element, FusePart)]
        extra = ""
        if after:
            extra = f" {named(figures, after[0])} ({after[0]}) sits after it and protects nothing before it."
        yield say("stop", (part.id,), (
            f"Between the pack and {part.name} there is no fuse: a short to frame there draws all that the pack can "
            f"give.{extra}"), "circuit")


def without_fuse(figures: Figures) -> Iterator[tuple[Converter, frozenset[str]]]:
    """Converters with no fuse on their source side, each with what lies there."""
    for part in figures.plan.of(Converter):
        way = [str(k.element) for k in figures.topology.converter_path(part.id).feed]
        if way and not any(figures.plan.is_one(e, FusePart) for e in way):
            yield part, frozenset(way)


@rule(
    "converter.output-fuse",
    meaning="A fuse after a converter is larger than what the converter can give: it never opens.",
    cure="Count on the converter's own limit, or fit a smaller fuse.",
    source="The converter's limit; ISO 8820-3")
def output_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Fuses behind a converter that its limit can never open."""
    for load in figures.plan.loads:
        root = figures.plan.is_one(figures.path(load.id).root.part, Converter)
        if root is None or not figures.states:
            continue
        for link in figures.path(load.id).feed:
            if figures.plan.is_one(link.element, FusePart):
                rating = figures.ratings.rating_a(link.element)
                if OVERLOAD_MULTIPLE * rating > SHORT_MULTIPLE * root.rated_a:
                    yield say("advice", (link.element, root.id), (
                        f"{fuse(figures, link.element)} sits behind {root.name}, which gives at most about "
                        f"{SHORT_MULTIPLE * root.rated_a:.3g} A into a short: it may never open."), "circuit")


@rule(
    "converter.idle",
    meaning="A converter's own draw empties the parked pack.",
    cure="Switch its input, or unplug.",
    source="The converter's idle draw; house rule: parked days")
def converter_idle(figures: Figures, say: Say) -> Iterator[Finding]:
    """Days until a parked pack is empty from the converters' idle draw."""
    idle_w = sum(p.idle_w for p in figures.plan.of(Converter))
    if not figures.pack or idle_w <= 0:
        return
    days = figures.pack.packs[0].energy_wh * 0.8 / idle_w / 24
    names = [p.name for p in figures.plan.of(Converter)]
    if days < figures.plan.rules.parked_days:
        yield say("advice", tuple(p.id for p in figures.plan.of(Converter)), (
            f"Idle, {listed(names)} {'draw' if len(names) > 1 else 'draws'} {idle_w:.3g} W: four fifths of the pack "
            f"are gone in {days:.0f} days parked; the house rule is {figures.plan.rules.parked_days:g} days."),
            "energy")


@rule(
    "fuse.voltage",
    meaning="A fuse is rated for less than the source's full voltage: its arc can go on burning.",
    cure="A fuse rated at least at the charger's voltage.",
    source="What each kind comes for (tables of fuses); compared with the full voltage, never the nominal")
def fuse_voltage(figures: Figures, say: Say) -> Iterator[Finding]:
    """Voltage rating of every fuse between a pack and a converter or load on it."""
    packs = figures.plan.packs
    if not packs:
        return
    behind = {k.element for load in figures.plan.loads
              if figures.plan.second_supply(figures.path(load.id).root.part)
              for k in figures.path(load.id).feed}
    for part in figures.plan.of(FusePart):
        mine = packs_at_fuse(figures.topology, part)
        full = max(p.full_v for p in packs if p.id in mine or not mine)
        if part.id not in behind and part.volts_v < full:
            better = next((v for v in part.of_kind.volts if v >= full), None)
            same = () if better is None else (
                Proposal(ChangeElement(id=part.id, values={"volts_v": better}), f"Take {an(f'{better} V')} fuse"),)
            take = f"{an(f'{better} V')} type" if better else "another kind, that breaks as much"
            others = other_kinds(part, full, figures.ratings.rating_a(part.id)) if figures.sized else ()
            yield say("stop", (part.id,), (
                f"{part.name} ({part.id}) is rated {part.volts_v} V; the full pack has {full:.1f} V. Its arc can "
                f"go on: take {take}."), "circuit", f"pack_v/{packs[0].id}", (*same, *others))


@rule(
    "converter.input",
    meaning="What a converter draws from an almost empty pack decides its fuse and wire.",
    cure="Nothing is wrong: size on the empty pack.",
    source="I = P / (efficiency x volts) at the lowest input")
def converter_input(figures: Figures, say: Say) -> Iterator[Finding]:
    """A hand-fixed input fuse against the current at the empty pack."""
    for part in figures.plan.of(Converter):
        path = figures.topology.converter_path(part.id)
        _, low = converter_worst_in(figures, part)
        for link in path.feed:
            guard = figures.plan.is_one(link.element, FusePart)
            if guard is None or not guard.by_hand or not figures.ratings.rated:
                continue
            drawn = figures.ratings.peak_a(guard.id)
            if figures.ratings.fuse_share_frac(guard.id) > 1:
                yield say("caution", (guard.id, part.id), (
                    f"{part.name} draws {amps(drawn)} from the pack at {low:.1f} V; {fuse(figures, guard.id)} would "
                    "open then."), "circuit", f"converter_in/{part.id}",
                    (Proposal(ChangeElement(id=guard.id, values={"rating_a": None}), f"Let Loadstar choose {guard.id}"),
                     ))


@rule(
    "converter.unsteady",
    meaning="A converter's own draw pulls its input under its window, and without it the input is inside again: it "
            "switches on and off without end. Or it stays on once on, and off once off.",
    cure="Thicker or shorter leads to its input, a stronger source, or a converter with a lower window.",
    source="Solved from both sides: with the converter on, and with it off")
def unsteady(figures: Figures, say: Say) -> Iterator[Finding]:
    """Converters that neither state holds of, or both."""
    seen: set[str] = set()
    for result in figures.volts.rows:
        for element in (*result.hunting, *result.either):
            if element in seen:
                continue
            seen.add(element)
            part = figures.plan.is_one(element, Converter)
            assert part is not None  # a light port has no window to drop out of
            low = part.window_low_v
            if element in result.hunting:
                text = (f"{part.name} needs {low:g} V at its input; with it on there is less, with it off there is "
                        f"more ({when(result)}): it switches on and off without end.")
            else:
                text = (f"{part.name} stays on once it is on, but does not come on again once it has dropped out "
                        f"({when(result)}): its input is too near to {low:g} V.")
            yield say("stop" if element in result.hunting else "caution", (element,), text,
                          "circuit")
