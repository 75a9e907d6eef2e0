"""Rules about switches with positions, flashers, starter buttons, shared leads, connectors and data lines."""

from collections.abc import Iterator

from ..amounts import percent
from ..doc.states import STATE_NAMES
from ..edits import AddElement, ChangeElement, Several
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.cutoff import Cutoff
from ..parts.device import Device
from ..parts.flasher import Flasher
from ..parts.junction import Junction
from ..parts.lead import Lead
from ..parts.load import LoadPart
from ..parts.selector import Selector
from ..parts.starter import Starter
from .registry import Say, rule
from .words import amps, listed, named, verb, when

LAMPS_LOST_FRAC = 0.75  # of what a flasher that senses its lamps is made for: below, it tells of a failed one
THERMAL_FRAC = (0.7, 1.4)  # of what a thermal flasher is made for: outside, it does not flash, or wrongly
LIT_A = 1e-3
RESISTOR_V = 12.0  # that load resistors are stated at
BARREL_FRAC = 0.5  # of its cross-section: less copper is not held


@rule(
    "lamp.both-on",
    meaning="Dipped and main beam are on together: two filaments in one lamp overheat it, and ask for twice the watts.",
    cure="A dip switch that changes over: feed both from its positions.",
    source="What the switches join in each of their positions; solved network")
def both_on(figures: Figures, say: Say) -> Iterator[Finding]:
    """Dipped and main beam at one place that some stand of the switches lights together."""
    dips, mains = ([p for p in figures.plan.loads if p.category == "lamp" and p.live == live]
                   for live in ("dip", "main"))
    for dip in dips:
        for main in (p for p in mains if p.place == dip.place):
            row = next((r for r in figures.volts.rows
                        if abs(r.current(dip.id)) > LIT_A and abs(r.current(main.id)) > LIT_A), None)
            if row is not None:
                yield say("caution", (main.id, dip.id), (
                    f"{dip.name} and {main.name} are on together ({when(row)}): nothing changes over between them."),
                    "circuit")


@rule(
    "flasher.load",
    meaning="A flasher has other lamps on it than it is made for: it does not flash, or flashes fast. LED lamps in "
            "place of filaments draw too little for one that is worked by the lamps' current.",
    cure="A flasher with a fixed rate; or load resistors that make up the watts, and get hot.",
    source="The flasher's stated load of one side")
def flasher_load(figures: Figures, say: Say) -> Iterator[Finding]:
    """Watts of each side on a flasher against what it is made for."""
    for flasher in figures.plan.of(Flasher):
        on_it = figures.plan.fed_through(flasher.id)
        sides = {live: [p for p in on_it if p.live == live] for live in ("left", "right")}
        watts = {live: sum(p.power_w for p in loads) for live, loads in sides.items() if loads}
        if not watts or flasher.way == "fixed rate":
            continue
        low_frac, high_frac = THERMAL_FRAC if flasher.way == "thermal" else (LAMPS_LOST_FRAC, float("inf"))
        least, most = min(watts.values()), max(watts.values())
        says = ""
        if least < low_frac * flasher.made_for_w:
            says = ("it will not flash, or fast" if flasher.way == "thermal"
                    else "it takes them for a failed lamp and flashes fast")
            far_w = least
        elif most > high_frac * flasher.made_for_w:
            says, far_w = "it flashes fast and its contact burns", most
        if says:
            yield say("caution", (flasher.id,), (
                f"{flasher.name} is made for {flasher.made_for_w:g} W on each side and has {far_w:.3g} W: {says}."),
                "circuit", f"flasher/{flasher.id}", tuple(_flashing_cures(figures, flasher, sides)))


def _flashing_cures(figures: Figures, flasher: Flasher, sides: dict[str, list[LoadPart]]) -> Iterator[Proposal]:
    yield Proposal(ChangeElement(id=flasher.id, values={"way": "fixed rate"}), "Take a flasher with a fixed rate")
    adds = []
    for live, loads in sides.items():
        short_w = flasher.made_for_w - sum(p.power_w for p in loads)
        if loads and short_w > 0:
            first = loads[0]
            adds.append(AddElement(what="load", values={
                "name": f"load resistor, {live}", "category": "other", "behaviour": "resistor",
                "amount": round(short_w, 1), "at_v": RESISTOR_V, "place": first.place, "feed": first.feed,
                "live": live, "returns": first.returns, "minutes_per_hour": first.minutes_per_hour}))
    if adds:
        heat_w = adds[0].values["amount"]
        yield Proposal(Several(edits=tuple(adds), words="load resistors added"),
                       f"Add load resistors of {heat_w:g} W on each side: they get hot")


@rule(
    "brake.shared-fuse",
    meaning="The brake lamp shares a fuse with something that can blow it, and goes dark with it.",
    cure="A fuse of its own for the brake lamp.",
    source="Practice: what others see of the machine has its own fuse")
def brake_fuse(figures: Figures, say: Say) -> Iterator[Finding]:
    """Brake lamps whose last fuse also protects motors, heating or what is plugged in."""
    topology = figures.topology
    for lamp in (p for p in figures.plan.loads if p.live == "brake"):
        fuses = [k.element for k in figures.path(lamp.id).feed if k.element in topology.protecting]
        if not fuses:
            continue
        others = [p for p in topology.loads_behind.get(fuses[-1], ()) if p.category in ("motor", "heating", "other")]
        if others:
            yield say("advice", (lamp.id,), (
                f"{lamp.name} goes dark when {listed(p.name for p in others)} "
                f"{verb(len(others), 'blows', 'blow')} {named(figures, fuses[-1])}."), "circuit")


@rule(
    "start.no-safety",
    meaning="A starter button with no safety switch before the solenoid's coil: pressed in gear, the machine jumps.",
    cure="Lead the button's feed through a neutral, clutch or stand switch.",
    source="Practice of starter circuits")
def start_safety(figures: Figures, say: Say) -> Iterator[Finding]:
    """Solenoids and relays before the starter whose coil no safety switch stands before."""
    starter = figures.plan.one(Starter)
    if starter is None:
        return
    topology = figures.topology
    way = topology.way_to(starter.id, starter.at("pos"), starter.at("neg"))
    gates = {k.element.part for k in way.feed
             if (branch := topology.branches.get(k.element)) is not None and branch.follows}
    for part, coil in figures.actuators:
        if part.id not in gates:
            continue
        there = topology.way_to(part.id, coil.plus, coil.minus)
        before = [s for k in there.links if (s := figures.plan.is_one(k.element.part, Selector))]
        if there.feed and not any(s.use == "safety switch" for s in before):
            yield say("caution", (part.id,), (
                f"No safety switch before {part.name}: pressed in gear, the button moves the machine. Lead its "
                "coil through a neutral, clutch or stand switch."), "circuit")


@rule(
    "lead.open-live",
    meaning="A lead or outlet is live with the key off and its end can be touched: a coin or a strap across it is a "
            "short.",
    cure="A cap on it, or a feed that is dead with the key off.",
    source="Practice: live ends are covered")
def open_live(figures: Figures, say: Say) -> Iterator[Finding]:
    """Outlets that are always live and have no cover."""
    for lead in figures.plan.of(Lead):
        if lead.end == "connector" and lead.live == "always" and not lead.covered:
            yield say("caution", (lead.id,), (
                f"{lead.name} is always live and its end is bare when nothing is plugged in: put a cap on it."),
                "circuit", "", (Proposal(ChangeElement(id=lead.id, values={"covered": True}), "It has a cap"),))


@rule(
    "lead.charging-dead",
    meaning="A charging lead that is dead with the key off charges nothing while the machine is parked.",
    cure="Feed it from what is always live, with a fuse at the battery.",
    source="When the feed is live")
def charging_dead(figures: Figures, say: Say) -> Iterator[Finding]:
    """Charging leads on a switched feed."""
    for lead in figures.plan.of(Lead):
        if lead.use == "charging" and lead.live != "always":
            yield say("caution", (lead.id,), (
                f"{lead.name} is for charging and is live with the {lead.live} only: nothing gets into the battery "
                "while "
                "the machine is parked."), "circuit")


@rule(
    "data.not-carried",
    meaning="A data line ends at one device and reaches no other: what needs it does not wake, or stops.",
    cure="Lay a wire from it to its like at the other device.",
    source="The plan's wires")
def data_not_carried(figures: Figures, say: Say) -> Iterator[Finding]:
    """Data lines that no wire takes to another device."""
    topology = figures.topology
    devices = figures.plan.of(Device)
    nets = {d.id: _net(figures, d) for d in devices}
    levers = {figures.joins.joined.of_terminal(p.at(end)) for p in figures.plan.of(Cutoff) for end in p.ends}
    for device in devices:
        others = {group for d in devices if d.id != device.id for group in nets[d.id].values()}
        lost = [end for end, group in nets[device.id].items() if group not in others | levers]
        if lost and len(devices) > 1:
            yield say("caution", (device.id,), (
                f"{listed(lost)} of {device.name} {verb(len(lost), 'reaches', 'reach')} no other device."), "circuit")
        fed = [end for end, group in nets[device.id].items()
               if end != "gnd" and topology.positive
               and group in {figures.joins.joined.of(rail) for rail in (topology.positive, topology.negative)}]
        if fed:
            yield say.of(f"{device.id} fed")("stop", (device.id,), (
                f"{listed(fed)} of {device.name} {verb(len(fed), 'is', 'are')} joined to the supply: data lines are "
                "destroyed by that."), "circuit")


def _net(figures: Figures, device: Device) -> dict[str, str]:
    return {end: figures.joins.joined.of_terminal(device.at(end)) for end in device.ends}


@rule(
    "terminal.barrel",
    meaning="The copper of the wires in one barrel is more than it takes, or so little that it is not held.",
    cure="A barrel for the sum of their cross-sections.",
    source="Cross-sections of several wires in one barrel add up")
def barrel(figures: Figures, say: Say) -> Iterator[Finding]:
    """The summed cross-section in each common barrel against what it is made for."""
    for part in figures.plan.of(Junction):
        if part.form != "one barrel" or part.barrel_mm2 is None:
            continue
        areas = [figures.wires[w.id].area_mm2 for w in figures.plan.wires
                 if part.at("t") in (w.a, w.b) and w.id in figures.wires]
        share = sum(areas) / part.barrel_mm2
        held = " + ".join(f"{a:g}" for a in sorted(areas, reverse=True))
        if share > 1:
            yield say("stop", (part.id,), (
                f"{held} mm² are {percent(share)} of what {part.name} is made for ({part.barrel_mm2:g} mm²): they do "
                "not fit. Do not cut strands."), "circuit", "", _left_to(part))
        elif areas and share < BARREL_FRAC:
            yield say("caution", (part.id,), (
                f"{held} mm² fill {percent(share)} of {part.name} ({part.barrel_mm2:g} mm²): a crimp does not hold "
                "them."),
                "circuit", "", _left_to(part))


def _left_to(part: Junction) -> tuple[Proposal, ...]:
    return (Proposal(ChangeElement(id=part.id, values={"barrel_mm2": None}), f"Let Loadstar choose {part.id}"),)


@rule(
    "belief.together",
    meaning="Somebody says that two accessories are never on together. No contact keeps them apart, so both are "
            "counted.",
    cure="A changeover switch, or leave it: it is what the plan is judged by.",
    source="Only a contact keeps two things apart")
def belief(figures: Figures, say: Say) -> Iterator[Finding]:
    """What is said never to be on together and is, in some state of the plan; of each two once."""
    told = set()
    for load in figures.plan.loads:
        for other in figures.plan.loads if load.never_with else ():
            if other.id in load.never_with and frozenset((load.id, other.id)) not in told:
                told.add(frozenset((load.id, other.id)))
                yield from _both_on(figures, say, load, other)


def _both_on(figures: Figures, say: Say, load: LoadPart, other: LoadPart) -> Iterator[Finding]:
    row = next((r for r in figures.volts.rows
                if abs(r.current(load.id)) > LIT_A and abs(r.current(other.id)) > LIT_A), None)
    if row is not None:
        together_a = abs(row.current(load.id)) + abs(row.current(other.id))
        yield say("note", (load.id, other.id), (
            f"{load.name} and {other.name} are said never to be on together; nothing keeps them apart, so "
            f"{amps(together_a)} are counted ({STATE_NAMES[row.state].lower()})."), "accessory")
