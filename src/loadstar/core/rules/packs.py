"""Rules about traction packs, alone and joined."""

from collections.abc import Iterator

from ..amounts import percent
from ..edits import ChangeElement, SetWire, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.combiner import Combiner
from ..parts.drive import Drive
from ..wiring.classes import CLASS_SOURCE, USUAL_V, high_wires
from .registry import Say, rule
from .words import listed, named, verb


@rule(
    "wire.voltage-class",
    meaning="A wire of the usual road-vehicle class is for up to 60 V DC; a full pack that lies on it is above. What "
            "is printed on a wire that is there says its class.",
    cure="Wire of the 600 V class on the pack's side.",
    source=CLASS_SOURCE)
def voltage_class(figures: Figures, say: Say) -> Iterator[Finding]:
    """Wires under a full pack above 60 V: those of too low a class, and those that are there and nobody has read."""
    high = high_wires(figures.topology)
    low = [w for w in high if figures.plan.wire(w).voltage_class == "60 V"]
    unread = [w for w in high if figures.plan.wire(w).voltage_class is None and figures.plan.wire(w).area_mm2]
    if low:
        yield say("stop", tuple(low), (
            f"{listed(low)} {verb(len(low), 'is', 'are')} for 60 V; full, the pack puts "
            f"{max(map(high.__getitem__, low)):.1f} V on {verb(len(low), 'it', 'them')}."), "circuit", "", (
            _of_class(low, "Take wire of the 600 V class"),))
    if unread:
        yield say("caution", tuple(unread), (
            f"Full, the pack puts {max(map(high.__getitem__, unread)):.1f} V on {listed(unread)}: read the voltage "
            f"class on {verb(len(unread), 'it', 'them')} and enter it at the wire (Voltage class). 60 V is not "
            "enough."), "circuit", "", (_of_class(unread, "600 V is printed on it, or it will be new"),))


def _of_class(wires: list[str], words: str) -> Proposal:
    return Proposal(Several(edits=tuple(SetWire(id=w, values={"voltage_class": "600 V"}) for w in wires),
                            words=f"{listed(wires)} of the 600 V class"), words)


@rule(
    "pack.dangerous-to-touch",
    meaning="Above 60 V DC a pack is treated as dangerous to touch.",
    cure="Work with it disconnected and covered; leave live work to those trained for it.",
    source="UN R136 / ISO 6469-3: voltage class B above 60 V DC")
def dangerous(figures: Figures, say: Say) -> Iterator[Finding]:
    """Packs above 60 V."""
    for pack in figures.plan.packs:
        if pack.full_v > USUAL_V:
            yield say("caution", (pack.id,), (
                f"{pack.name} reaches {pack.full_v:.1f} V: treat it as dangerous to touch."), "machine")


@rule(
    "pack.bms",
    meaning="Full power with everything on asks for more than the pack's protection gives for long, or at all: the "
            "bike cuts out.",
    cure="A lower assist limit, fewer accessories at full power, a pack with a higher limit. Never bypass the "
         "protection.",
    source="The pack's stated limits; solved by volts under power")
def bms(figures: Figures, say: Say) -> Iterator[Finding]:
    """Current at full power, sag included, against the protection's continuous and peak limits."""
    if not figures.pack or not figures.plan.packs:
        return
    pack, drawn = figures.plan.packs[0], figures.pack.full_power_a
    if drawn != drawn:
        yield say("stop", (pack.id,), (
            "The pack cannot give what full power asks for at all: its voltage collapses."), "energy")
    elif drawn > pack.bms_peak_a:
        yield say("stop", (pack.id,), (
            f"At full power with everything on the pack is asked for {drawn:.1f} A; its protection ends it at "
            f"{pack.bms_peak_a:g} A."), "energy", "full_power")
    elif drawn > pack.bms_continuous_a:
        yield say("caution", (pack.id,), (
            f"At full power with everything on the pack gives {drawn:.1f} A; its protection stands "
            f"{pack.bms_continuous_a:g} A for long."), "energy", "full_power")


@rule(
    "pack.cuts-out",
    meaning="At full power the pack sags under its cut-off while it still has charge: the bike cuts out.",
    cure="Less power on a low pack, a fresher pack, a second pack.",
    source="Volts under power: V = E/2 + sqrt(E²/4 - R P)")
def cuts_out(figures: Figures, say: Say) -> Iterator[Finding]:
    """Charge below which full power pulls the pack under its cut-off."""
    found = figures.pack
    if (found and found.cuts_out_frac is not None and found.cuts_out_frac > 0.1
            and found.full_power_a == found.full_power_a):
        yield say("caution", (found.packs[0].id,), (
            f"At full power the pack falls under {found.cut_off_v:.1f} V below about {percent(found.cuts_out_frac)} of "
            "charge (approximate): the bike cuts out there though the pack is not empty."), "energy", "full_power")


@rule(
    "pack.bypassed",
    meaning="A pack's protection has been bypassed: nothing ends overcharge, over-discharge, short circuit or a cell "
            "out of balance. Fire.",
    cure="Put it back. Alternatives: a pack with a higher limit, a lower controller limit, a second pack.",
    source="A pack's protection is not to be defeated")
def bypassed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Packs marked as bypassed."""
    for pack in figures.plan.packs:
        if pack.bms == "bypassed":
            yield say("stop", (pack.id,), (
                f"{pack.name}'s protection is bypassed: lost are the limits on charge, discharge, temperature and "
                "short circuit, and with them the protection against fire. Lower the drive's limit or fit a larger "
                f"pack instead. Going on is recorded: {pack.bypass_by}."), "machine", "",
                (Proposal(ChangeElement(id=pack.id, values={"bms": "in place"}), "It is back in place"),))


@rule(
    "pack.joined",
    meaning="Two packs at different voltages are joined: a current flows from the one into the other that the lower "
            "one must not get.",
    cure="Charge both to the same voltage before joining, a changeover switch, or an ideal-diode combiner.",
    source="Parallel packs: (V1 - V2) / (R1 + R2); the lower pack's charge limit")
def joined(figures: Figures, say: Say) -> Iterator[Finding]:
    """Equalising current of packs in plain parallel against the charge limit."""
    combiner = figures.plan.combiner
    found = figures.pack.joining if figures.pack else None
    if combiner is None or combiner.way != "parallel" or found is None or found.equalising_a <= found.limit_a:
        return
    yield say("stop", (combiner.id, found.into), (
        f"As soon as the packs are joined {found.equalising_a:.1f} A flow into {named(figures, found.into)}; it may be "
        f"charged with {found.limit_a:g} A. They may be joined when they are within {found.may_join_v:.2f} V of each "
        "other."),
        "circuit",
        "equalising", (Proposal(ChangeElement(id=combiner.id, values={"way": "diode"}), "Use an ideal-diode combiner"),
                       Proposal(ChangeElement(id=combiner.id, values={"way": "changeover"}),
                                "Use a changeover switch")))


@rule(
    "pack.unlike",
    meaning="Two packs that are joined differ in chemistry or in cells in series: their voltages never agree.",
    cure="Packs of one kind; or a changeover switch.",
    source="Chemistry and count must match")
def unlike(figures: Figures, say: Say) -> Iterator[Finding]:
    """Joined packs of different kind."""
    combiner = figures.plan.combiner
    packs = figures.plan.packs
    if combiner is None or combiner.way == "changeover" or len(packs) != 2:
        return
    one, two = packs
    if (one.chemistry, one.series) != (two.chemistry, two.series):
        yield say("stop" if combiner.way == "parallel" else "caution", (combiner.id, one.id, two.id),
                      (
            f"{one.name} is {one.series} cells {one.chemistry.upper()} and {two.name} {two.series} cells "
            f"{two.chemistry.upper()}: joined they never agree."), "circuit")


@rule(
    "pack.data-line",
    meaning="The drive talks to its pack; with two packs the data lines must reach the one in use.",
    cure="A combiner or switch that takes the data lines along.",
    source="The drive's need of a data line")
def data_line(figures: Figures, say: Say) -> Iterator[Finding]:
    """Second packs without their data lines."""
    drive = figures.plan.one(Drive)
    combiner = figures.plan.combiner
    if drive and drive.needs_data and combiner and not combiner.data_switched:
        yield say("caution", (combiner.id, drive.id), (
            f"{drive.name} needs its pack's data line, and {combiner.name} does not take it along: on the second pack "
            "the drive may stay dead."), "circuit")


@rule(
    "pack.not-joined",
    meaning="A second pack is in the plan and nothing joins it: it carries nothing.",
    cure="A changeover switch, an ideal-diode combiner, or plain parallel.",
    source="The plan")
def not_joined(figures: Figures, say: Say) -> Iterator[Finding]:
    """Second packs that hang on nothing."""
    packs = figures.plan.packs
    if len(packs) == 2 and figures.plan.combiner is None and packs[1].id not in figures.plan.wired:
        yield say("advice", (packs[1].id,), (
            f"{packs[1].name} is joined to nothing yet: add a changeover switch or a combiner."), "machine")


@rule(
    "combiner.rating",
    meaning="More flows through a combiner than it is rated for.",
    cure="A larger combiner.",
    source="The combiner's stated rating")
def combiner_rating(figures: Figures, say: Say) -> Iterator[Finding]:
    """Full power against the combiner's rating."""
    for part in figures.plan.of(Combiner):
        if figures.pack and figures.pack.full_power_a > part.rated_a:
            yield say("stop", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A; full power asks for {figures.pack.full_power_a:.1f} A."),
                "circuit",
                "full_power")


@rule(
    "drive.limit",
    meaning="The drive asks for more current than its controller takes at this pack's voltage: it gives less than its "
            "stated power.",
    cure="Nothing is wrong; do not count on that power.",
    source="The controller's limit")
def drive_limit(figures: Figures, say: Say) -> Iterator[Finding]:
    """Full power against what the controller's current limit leaves of it at the pack's voltage under load."""
    for part in figures.plan.of(Drive):
        if figures.pack and figures.pack.drive_full_w < part.full_w * 0.99:
            yield say("note", (part.id,), (
                f"{part.name} is to take {part.full_w:g} W at full power; at the {part.limit_a:g} A that its "
                f"controller takes and the {figures.pack.full_power_v:.1f} V that the pack then has it gets "
                f"{figures.pack.drive_full_w:.0f} W."),
                "energy", "full_power")
