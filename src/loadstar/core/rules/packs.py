"""Rules about traction packs, converters and joined packs."""

from collections.abc import Iterator

from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.combiner import Combiner
from ..parts.converter import SHORT_MULTIPLE, Converter
from ..parts.drive import Drive
from ..parts.fuse import FusePart
from ..parts.pack import Pack
from ..physics import battery as cell
from ..sizing.openers import OVERLOAD_MULTIPLE
from .registry import rule
from .words import amps, an, fuse, listed, named, state

PACK_SOURCE = "Cell chemistry: volts per cell full and empty, docs/physics.md"
CLASS_60_V = 60.0


def _packs(figures: Figures) -> list[Pack]:
    return list(figures.plan.packs)


def _converters(figures: Figures) -> tuple[Converter, ...]:
    return figures.plan.of(Converter)


@rule("converter.window-low", meaning="A converter stops before the pack is empty: what hangs on it goes out while the "
      "pack still has charge.", cure="A converter whose window reaches the pack's empty voltage.", source=PACK_SOURCE)
def window_low(figures: Figures) -> Iterator[Finding]:
    """Lower end of the input window against the empty pack."""
    for part in _converters(figures):
        for pack in _packs(figures):
            empty = pack.empty_v
            if part.window_low_v > empty + 1e-9:
                left = cell.pack_charge_frac(part.window_low_v, pack.chemistry, pack.series)
                yield Finding("converter.window-low", "stop", (part.id, pack.id), (
                    f"{part.name} needs at least {part.window_low_v:g} V; {pack.name} goes down to {empty:.1f} V. Below "
                    f"{part.window_low_v:g} V, with about {left:.0%} of the charge left (approximate), what hangs on it "
                    "goes out."), "circuit", f"pack_v/{pack.id}")
                break


@rule("converter.window-high", meaning="The full pack is over what the converter accepts: it is destroyed.",
      cure="A converter whose window reaches the charger's voltage.", source=PACK_SOURCE)
def window_high(figures: Figures) -> Iterator[Finding]:
    """Upper end of the input window against the full pack."""
    for part in _converters(figures):
        for pack in _packs(figures):
            full = pack.full_v
            if full > part.window_high_v + 1e-9:
                yield Finding("converter.window-high", "stop", (part.id, pack.id), (
                    f"{part.name} accepts up to {part.window_high_v:g} V; {pack.name} full has {full:.1f} V."), "circuit",
                    f"pack_v/{pack.id}")
                break


@rule("converter.overloaded", meaning="More is asked of a converter's output than it is rated for: its voltage falls or "
      "it shuts down.", cure="A larger converter, or fewer things at once.", source="The converter's output rating")
def converter_overloaded(figures: Figures) -> Iterator[Finding]:
    """Output current, everything on, against the rating (caution from 80 %)."""
    for part in _converters(figures):
        asked = figures.converter_asked_a(part)
        if asked > 0.8 * part.rated_a:
            over = asked > part.rated_a
            yield Finding("converter.overloaded", "stop" if over else "caution", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A at {part.out_v:g} V; with everything on it is asked for "
                f"{asked:.3g} A{'' if over else ', over 80 % of that'}."), "circuit", f"converter_out/{part.id}")


@rule("converter.unprotected", meaning="Nothing protects the lead between the pack and the converter: the pack's whole "
      "current can flow into a chafed spot there. A fuse after the converter protects nothing before it.",
      cure="A fuse at the pack that can break its full voltage.", source="Protection at the source end; ISO 8820-3")
def unprotected_input(figures: Figures) -> Iterator[Finding]:
    """Converters with no fuse on their source side."""
    for part in _converters(figures):
        path = figures.topology.converter_path(part.id)
        if path.feed and not any(figures.plan.is_one(k.element, FusePart) for k in path.feed):
            after = [k.element for p in figures.plan.loads if p.feed == part.id for k in figures.path(p.id).feed
                     if figures.plan.is_one(k.element, FusePart)]
            extra = f" {named(figures, after[0])} ({after[0]}) sits after it and protects nothing before it." if after else ""
            yield Finding("converter.unprotected", "stop", (part.id,), (
                f"Between the pack and {part.name} there is no fuse: a chafed spot there draws all that the pack can "
                f"give.{extra}"), "circuit")


@rule("converter.output-fuse", meaning="A fuse after a converter is larger than what the converter can give: it never "
      "opens.", cure="Count on the converter's own limit, or fit a smaller fuse.", source="The converter's limit; ISO 8820-3")
def output_fuse(figures: Figures) -> Iterator[Finding]:
    """Fuses behind a converter that its limit can never open."""
    for load in figures.plan.loads:
        root = figures.plan.is_one(figures.path(load.id).root.part, Converter)
        if root is None or not figures.states:
            continue
        for link in figures.path(load.id).feed:
            if figures.plan.is_one(link.element, FusePart):
                rating = figures.rating_a(link.element)
                if OVERLOAD_MULTIPLE * rating > SHORT_MULTIPLE * root.rated_a:
                    yield Finding("converter.output-fuse", "advice", (link.element, root.id), (
                        f"{fuse(figures, link.element)} sits behind {root.name}, which gives at most about "
                        f"{SHORT_MULTIPLE * root.rated_a:.3g} A into a short: it may never open."), "circuit")


@rule("converter.idle", meaning="A converter's own draw empties the parked pack.", cure="Switch its input, or unplug.",
      source="The converter's idle draw; house rule: parked days")
def converter_idle(figures: Figures) -> Iterator[Finding]:
    """Days until a parked pack is empty from the converters' idle draw."""
    idle_w = sum(p.idle_w for p in _converters(figures))
    if not figures.pack or idle_w <= 0:
        return
    days = figures.pack.packs[0].energy_wh * 0.8 / idle_w / 24
    names = [p.name for p in _converters(figures)]
    if days < figures.plan.rules.parked_days:
        yield Finding("converter.idle", "advice", tuple(p.id for p in _converters(figures)), (
            f"Idle, {listed(names)} {'draw' if len(names) > 1 else 'draws'} {idle_w:.3g} W: four fifths of the pack are gone in {days:.0f} "
            f"days parked; the house rule is {figures.plan.rules.parked_days:g} days."), "energy")


@rule("fuse.voltage", meaning="A fuse may break less than the source's full voltage: its arc need not go out.",
      cure="A fuse rated at least at the charger's voltage.", source="ISO 8820-3: 32, 58, 80 V and higher types; compared "
      "with the full voltage, never the nominal")
def fuse_voltage(figures: Figures) -> Iterator[Finding]:
    """Voltage rating of every fuse between a pack and a converter or load on it."""
    packs = _packs(figures)
    if not packs:
        return
    full = max(p.full_v for p in packs)
    behind = {k.element for load in figures.plan.loads
              if figures.plan.second_supply(figures.path(load.id).root.part)
              for k in figures.path(load.id).feed}
    for part in figures.plan.of(FusePart):
        if part.id not in behind and part.volts_v < full:
            better = next((v for v in (58, 80, 125) if v >= full), 125)
            yield Finding("fuse.voltage", "stop", (part.id,), (
                f"{part.name} ({part.id}) may break {part.volts_v} V; the pack has {full:.1f} V when full. Its arc may not go "
                f"out: take {an(f'{better} V')} type."), "circuit", f"pack_v/{packs[0].id}",
                (Proposal(ChangeElement(id=part.id, values={"volts_v": better}), f"Take {an(f'{better} V')} fuse"),))


@rule("wire.voltage-class", meaning="Wires of the usual automotive class are for up to 60 V DC; the full pack is above.",
      cure="Wire of the 600 V class on the pack's side.", source="ISO 6722-1 / ISO 19642: 60 V class")
def voltage_class(figures: Figures) -> Iterator[Finding]:
    """Pack-side wiring over the 60 V class."""
    for pack in _packs(figures):
        if pack.full_v > CLASS_60_V:
            yield Finding("wire.voltage-class", "stop", (pack.id,), (
                f"{pack.name} full has {pack.full_v:.1f} V: wire of the usual 60 V class must not be used on its side; "
                "take the 600 V class."), "circuit", f"pack_v/{pack.id}")


@rule("pack.dangerous-to-touch", meaning="Above 60 V DC a pack is treated as dangerous to touch.",
      cure="Work with it disconnected and covered; leave live work to those trained for it.",
      source="UN R136 / ISO 6469-3: voltage class B above 60 V DC")
def dangerous(figures: Figures) -> Iterator[Finding]:
    """Packs above 60 V."""
    for pack in _packs(figures):
        if pack.full_v > CLASS_60_V:
            yield Finding("pack.dangerous-to-touch", "caution", (pack.id,), (
                f"{pack.name} reaches {pack.full_v:.1f} V: treat it as dangerous to touch."), "machine")


@rule("pack.bms", meaning="Full power with everything on asks for more than the pack's protection gives for long, or "
      "at all: the bike cuts out.", cure="A lower assist limit, fewer accessories at full power, a pack with a higher limit. "
      "Never bypass the protection.", source="The pack's stated limits; solved by volts under power")
def bms(figures: Figures) -> Iterator[Finding]:
    """Current at full power, sag included, against the protection's continuous and peak limits."""
    if not figures.pack or not _packs(figures):
        return
    pack, drawn = _packs(figures)[0], figures.pack.full_power_a
    if drawn != drawn:
        yield Finding("pack.bms", "stop", (pack.id,), (
            "The pack cannot give what full power asks for at all: its voltage collapses."), "energy")
    elif drawn > pack.bms_peak_a:
        yield Finding("pack.bms", "stop", (pack.id,), (
            f"At full power with everything on the pack is asked for {drawn:.1f} A; its protection ends it at "
            f"{pack.bms_peak_a:g} A."), "energy", "full_power")
    elif drawn > pack.bms_continuous_a:
        yield Finding("pack.bms", "caution", (pack.id,), (
            f"At full power with everything on the pack gives {drawn:.1f} A; its protection stands {pack.bms_continuous_a:g} A "
            "for long."), "energy", "full_power")


@rule("pack.cuts-out", meaning="At full power the pack sags under its cut-off while it still has charge: the bike cuts out.",
      cure="Less power on a low pack, a fresher pack, a second pack.", source="Volts under power: V = E/2 + sqrt(E²/4 - R P)")
def cuts_out(figures: Figures) -> Iterator[Finding]:
    """Charge below which full power pulls the pack under its cut-off."""
    found = figures.pack
    if found and found.cuts_out_frac is not None and found.cuts_out_frac > 0.1 and found.full_power_a == found.full_power_a:
        yield Finding("pack.cuts-out", "caution", (found.packs[0].id,), (
            f"At full power the pack falls under {found.cut_off_v:.1f} V below about {found.cuts_out_frac:.0%} of charge "
            "(approximate): the bike cuts out there though the pack is not empty."), "energy", "full_power")


@rule("pack.bypassed", meaning="A pack's protection has been bypassed: nothing ends overcharge, over-discharge, short "
      "circuit or a cell out of balance. Fire.", cure="Put it back. Alternatives: a pack with a higher limit, a lower "
      "controller limit, a second pack.", source="A pack's protection is not to be defeated")
def bypassed(figures: Figures) -> Iterator[Finding]:
    """Packs marked as bypassed."""
    for pack in _packs(figures):
        if pack.bms == "bypassed":
            who = f" Recorded: {pack.bypass_by}." if pack.bypass_by else " Nobody has put their name to it."
            yield Finding("pack.bypassed", "stop", (pack.id,), (
                f"{pack.name}'s protection is bypassed: lost are the limits on charge, discharge, temperature and short "
                f"circuit, and with them the protection against fire. Lower the drive's limit or fit a larger pack "
                f"instead.{who}"), "machine", "",
                (Proposal(ChangeElement(id=pack.id, values={"bms": "in place"}), "It is back in place"),))


@rule("pack.joined", meaning="Two packs at different voltages are joined: a current flows from the one into the other "
      "that the lower one may not take.", cure="Charge both to the same voltage before joining, a changeover switch, or an "
      "ideal-diode combiner.", source="Parallel packs: (V1 - V2) / (R1 + R2); the lower pack's charge limit")
def joined(figures: Figures) -> Iterator[Finding]:
    """Equalising current of packs in plain parallel against the charge limit."""
    combiner = figures.plan.combiner
    found = figures.pack.joining if figures.pack else None
    if combiner is None or combiner.way != "parallel" or found is None or found.equalising_a <= found.limit_a:
        return
    yield Finding("pack.joined", "stop", (combiner.id, found.into), (
        f"As soon as the packs are joined {found.equalising_a:.1f} A flow into {named(figures, found.into)}; it may be charged with "
        f"{found.limit_a:g} A. They may be joined when they are within {found.may_join_v:.2f} V of each other."), "circuit",
        "equalising", (Proposal(ChangeElement(id=combiner.id, values={"way": "diode"}), "Use an ideal-diode combiner"),
                       Proposal(ChangeElement(id=combiner.id, values={"way": "changeover"}), "Use a changeover switch")))


@rule("pack.unlike", meaning="Two packs that are joined differ in chemistry or in cells in series: their voltages never "
      "agree.", cure="Packs of one kind; or a changeover switch.", source="Chemistry and count must match")
def unlike(figures: Figures) -> Iterator[Finding]:
    """Joined packs of different kind."""
    combiner = figures.plan.combiner
    packs = _packs(figures)
    if combiner is None or combiner.way == "changeover" or len(packs) != 2:
        return
    one, two = packs
    if (one.chemistry, one.series) != (two.chemistry, two.series):
        yield Finding("pack.unlike", "stop" if combiner.way == "parallel" else "caution", (combiner.id, one.id, two.id), (
            f"{one.name} is {one.series} cells {one.chemistry.upper()} and {two.name} {two.series} cells "
            f"{two.chemistry.upper()}: joined they never agree."), "circuit")


@rule("pack.data-line", meaning="The drive talks to its pack; with two packs the data lines must reach the one in use.",
      cure="A combiner or switch that takes the data lines along.", source="The drive's need of a data line")
def data_line(figures: Figures) -> Iterator[Finding]:
    """Second packs without their data lines."""
    drive = figures.plan.one(Drive)
    combiner = figures.plan.combiner
    if drive and drive.needs_data and combiner and not combiner.data_switched:
        yield Finding("pack.data-line", "caution", (combiner.id, drive.id), (
            f"{drive.name} needs its pack's data line, and {combiner.name} does not take it along: on the second pack the "
            "drive may stay dead."), "circuit")


@rule("pack.not-joined", meaning="A second pack is in the plan and nothing joins it: it carries nothing.",
      cure="A changeover switch, an ideal-diode combiner, or plain parallel.", source="The plan")
def not_joined(figures: Figures) -> Iterator[Finding]:
    """Second packs that hang on nothing."""
    packs = _packs(figures)
    if len(packs) == 2 and figures.plan.combiner is None:
        yield Finding("pack.not-joined", "advice", (packs[1].id,), (
            f"{packs[1].name} is joined to nothing yet: add a changeover switch or a combiner."), "machine")


@rule("combiner.rating", meaning="More flows through a combiner than it is rated for.", cure="A larger combiner.",
      source="The combiner's stated rating")
def combiner_rating(figures: Figures) -> Iterator[Finding]:
    """Full power against the combiner's rating."""
    for part in figures.plan.of(Combiner):
        if figures.pack and figures.pack.full_power_a > part.rated_a:
            yield Finding("combiner.rating", "stop", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A; full power asks for {figures.pack.full_power_a:.1f} A."), "circuit",
                "full_power")


@rule("drive.limit", meaning="The drive asks for more current than its controller takes at this pack's voltage: it gives "
      "less than its stated power.", cure="Nothing is wrong; do not count on that power.", source="The controller's limit")
def drive_limit(figures: Figures) -> Iterator[Finding]:
    """Full power against what the controller's current limit leaves of it at the pack's voltage under load."""
    for part in figures.plan.of(Drive):
        if figures.pack and figures.pack.drive_full_w < part.full_w * 0.99:
            yield Finding("drive.limit", "note", (part.id,), (
                f"{part.name} is to take {part.full_w:g} W at full power; at the {part.limit_a:g} A that its controller takes and the "
                f"{figures.pack.full_power_v:.1f} V that the pack then has it gets {figures.pack.drive_full_w:.0f} W."), "energy", "full_power")


@rule("converter.input", meaning="What a converter draws from an almost empty pack decides its fuse and wire.",
      cure="Nothing is wrong: size on the empty pack.", source="I = P / (efficiency x volts) at the lowest input")
def converter_input(figures: Figures) -> Iterator[Finding]:
    """A hand-fixed input fuse against the current at the empty pack."""
    for part in _converters(figures):
        path = figures.topology.converter_path(part.id)
        _, low = figures.converter_worst_in(part)
        for link in path.feed:
            guard = figures.plan.is_one(link.element, FusePart)
            if guard is None or not guard.by_hand or not figures.rated:
                continue
            drawn = figures.peak_a(guard.id)
            if figures.fuse_share_frac(guard.id) > 1:
                yield Finding("converter.input", "caution", (guard.id, part.id), (
                    f"{part.name} draws {amps(drawn)} from the pack at {low:.1f} V; {fuse(figures, guard.id)} would "
                    "open then."), "circuit", f"converter_in/{part.id}",
                    (Proposal(ChangeElement(id=guard.id, values={"rating_a": None}), f"Let Loadstar choose {guard.id}"),))


@rule("converter.unsteady", meaning="A converter's own draw pulls its input under its window, and without it the input is inside again: it "
      "switches on and off without end. Or it stays on once on, and off once off.", cure="Thicker or shorter leads to its input, a "
      "stronger source, or a converter with a lower window.", source="Solved from both sides: with the converter on, and with it off")
def unsteady(figures: Figures) -> Iterator[Finding]:
    """Converters that neither state holds of, or both."""
    seen: set[str] = set()
    for name, result in figures.states.items():
        for element in (*result.hunting, *result.either):
            if element in seen:
                continue
            seen.add(element)
            part = figures.plan.is_one(element, Converter)
            assert part is not None  # a light port has no window to drop out of
            low = part.window_low_v
            if element in result.hunting:
                text = (f"{part.name} needs {low:g} V at its input; with it on there is less, with it off there is more ({state(name)}): "
                        "it switches on and off without end.")
            else:
                text = (f"{part.name} stays on once it is on, but does not come on again once it has dropped out ({state(name)}): its input is "
                        f"too near to {low:g} V.")
            yield Finding("converter.unsteady", "stop" if element in result.hunting else "caution", (element,), text, "circuit")
