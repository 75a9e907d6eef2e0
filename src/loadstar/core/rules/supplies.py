"""Rules about other supplies: magneto lighting, total loss, regulators, starter leads."""

from collections.abc import Iterator

from ..amounts import percent
from ..budget.lighting import life_share
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..figures.winding import winding_leads
from ..findings import Finding, Proposal, Severity
from ..materials.charging import SET_POINTS, set_point_band_v
from ..parts.base import Part
from ..parts.coil import Coil
from ..parts.load import LIGHT_EXPONENT, LoadPart
from ..parts.pack import Pack
from ..plan.standing import resting_on
from ..sizing.drops import starter_drop_v, starter_leads
from ..wiring.circuit import Link
from ..wiring.topology import Topology
from .registry import Say, rule
from .wires import freed
from .words import amps, listed, verb

ALIKE_A = 0.5  # between packs: less is not worth a word
OVER_VOLTS_FRAC, DIM_FRAC, DESTROYED_FRAC = 1.10, 0.75, 1.30
LAMP_SOURCE = "Magneto lighting of docs/physics.md: V falls on the coil's reactance; lamp life as V^-13"


def _lamps(figures: Figures) -> list[LoadPart]:
    return [p for p in figures.plan.loads if figures.lamps and p.id in figures.lamps.lamps]


def _as_known(figures: Figures) -> tuple[Severity, str]:
    """How grave a lamp's volts are, and what is said with them: a note while nobody has measured the coil."""
    usual = [e for e, field, _ in resting_on(figures.plan) if figures.plan.is_one(e, Coil)
             and field in ("emf_mv_per_rpm", "reactance_mohm_per_rpm")]
    return ("note", " So say the coil's usual figures: measure its volts first.") if usual else ("caution", "")


@rule(
    "lamp.over-volts",
    meaning="At speed a lamp on the magneto sees more than its rated voltage: it lives a fraction of its hours.",
    cure="A lamp of a higher voltage chosen on purpose, the rated watts in full, or an AC regulator.",
    source=LAMP_SOURCE)
def over_volts(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lamp volts at cruise against 110 % of nominal."""
    fastest = figures.plan.machine.fastest
    cruise = figures.plan.machine.rpm(fastest)
    grave, ends = _as_known(figures)
    for lamp in _lamps(figures):
        assert figures.lamps is not None
        volts = figures.lamps.at(lamp.id, cruise)
        if volts > OVER_VOLTS_FRAC * lamp.at_v:
            yield say(grave, (lamp.id,), (
                f"{lamp.name} ({lamp.at_v:g} V) sees {volts:.1f} V at {cruise:g} rpm: it lives about "
                f"{percent(life_share(volts, lamp.at_v))} of its hours.{ends}"), "energy",
                f"lamp_v/{lamp.id}/{fastest}")


@rule(
    "lamp.dim",
    meaning="At idle a lamp on the magneto is well under its rated voltage: it gives little light.",
    cure="A lamp of lower voltage or watts, a higher idle, a stronger coil.",
    source="Light as V^3.4")
def dim(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lamp volts at idle against 75 % of nominal."""
    idle = figures.plan.machine.idle_rpm
    for lamp in _lamps(figures):
        assert figures.lamps is not None
        volts = figures.lamps.least_at(lamp.id, idle)
        if volts < DIM_FRAC * lamp.at_v:
            yield say("advice", (lamp.id,), (
                f"{lamp.name} sees {volts:.1f} V at idle: about "
                f"{percent((volts / lamp.at_v) ** LIGHT_EXPONENT)} of its light."),
                "energy",
                f"lamp_v/{lamp.id}/idle")


@rule(
    "lamp.takes-others",
    meaning="When one lamp fails the coil's current goes through the others, whose voltage rises until they fail too.",
    cure="An AC regulator sized for the full current; carry spare lamps of the rated watts.",
    source=LAMP_SOURCE)
def takes_others(figures: Figures, say: Say) -> Iterator[Finding]:
    """Volts of the remaining lamps at town speed when one fails."""
    if figures.lamps is None:
        return
    town = figures.plan.machine.town_rpm
    grave, ends = _as_known(figures)
    for gone in _lamps(figures):
        worst = max(((figures.lamps.at_failed(gone.id, p.id, town), p) for p in _lamps(figures) if p.id != gone.id),
                    key=lambda pair: pair[0] / pair[1].at_v, default=None)
        if worst and worst[0] > DESTROYED_FRAC * worst[1].at_v:
            yield say(grave, (gone.id, worst[1].id), (
                f"If {gone.name} fails, {worst[1].name} sees {worst[0]:.1f} V at {town:g} rpm and fails within "
                f"{_soon(life_share(worst[0], worst[1].at_v))}.{ends}"), "energy",
                f"lamp_failed/{gone.id}/{worst[1].id}")


@rule(
    "lamp.higher-volts",
    meaning="A lamp of a higher voltage than the coil's is used on purpose, so that it survives over-revving.",
    cure="Nothing is wrong: it is a little dim at idle.",
    source="Magneto practice: lamps a little above nominal")
def higher_volts(figures: Figures, say: Say) -> Iterator[Finding]:
    """Lamps rated above the system's voltage."""
    for lamp in _lamps(figures) if figures.source.key == "magneto" else ():
        if lamp.at_v > figures.plan.machine.system_v * 1.02:
            yield say("note", (lamp.id,), (
                f"{lamp.name} is a {lamp.at_v:g} V lamp on a {figures.plan.machine.system_v} V coil: chosen to survive "
                "over-revving."), "accessory")


@rule(
    "lamp.not-filament",
    meaning="An accessory that is no filament lamp hangs on the magneto's AC: it needs a rectifier of its own, and it "
            "no longer loads the coil for the others.",
    cure="A rectifier and capacitor of its own, or a filament lamp.",
    source=LAMP_SOURCE)
def not_filament(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads on a coil that are no lamps or resistors, and have no rectifier."""
    for load in figures.plan.loads:
        if figures.on_ac(load) and load.behaviour in ("power", "current") and not load.rectified:
            yield say("caution", (load.id,), (
                f"{load.name} would hang on AC from the magneto: it needs a rectifier of its own, and the other lamps "
                "see more."), "accessory")


@rule(
    "lamp.rectified",
    meaning="An accessory on the magneto's AC has a rectifier of its own: it gets the AC's peak, and loads the coil "
            "less than a filament would.",
    cure="Nothing is wrong: see that its window reaches that far.",
    source="A full-wave bridge and capacitor: 1.41 times the rms volts less two diodes of 0.7 V (usual)")
def rectified(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads on a coil behind rectifiers of their own."""
    for load in figures.plan.loads:
        if figures.on_ac(load) and load.rectified:
            yield say("note", (load.id,), (
                f"{load.name} gets DC from its own rectifier, up to 1.4 times the coil's volts less 1.4 V; the other "
                "lamps see more than beside a filament."), "accessory")


@rule(
    "supply.coil-and-battery",
    meaning="A lighting coil's AC is joined to the battery's DC: the coil charges and discharges the battery by turns, "
            "and what hangs there sees neither.",
    cure="Keep them apart: only the frame may be common to both.",
    source="What copper joins, every contact closed")
def coil_and_battery(figures: Figures, say: Say) -> Iterator[Finding]:
    """A coil's lamp end on the copper of another supply's positive."""
    coil, groups = figures.topology.side_coil, figures.joined
    if coil is None:
        return
    hot = groups.of_terminal(coil.at("hot"))
    for root in figures.topology.roots:
        if root.part != coil.id and groups.of(root.positive) == hot:
            yield say("stop", (coil.id, root.part), (
                f"{coil.name} gives AC and is joined to {figures.plan.part(root.part).name}: one of the two has to "
                "come off."), "machine")
            return


@rule(
    "budget.total-loss",
    meaning="Nothing charges this battery: it lasts a session and must be charged again.",
    cure="A larger battery, less draw, a spare.",
    source="Peukert; docs/physics.md")
def session(figures: Figures, say: Say) -> Iterator[Finding]:
    """Minutes of a total-loss machine, and what limits them."""
    found = figures.total_loss
    if found is None:
        return
    limit = (f"; the ignition needs {found.low_v:g} V, so about {found.usable_min:.0f} min are usable"
             if found.least_frac > 0 else "")
    yield say("advice", tuple(p.id for p in figures.plan.of_kind("battery")), (
        f"Total loss: {found.draw_a:.2f} A empties the battery in about {found.empty_min:.0f} min{limit}. Give it "
        f"{found.give_ah:.1f} Ah before the next session."), "energy", "total_loss")


@rule(
    "supply.shunt",
    meaning="A shunt regulator shorts what is not used: the winding and its leads carry full current at any load.",
    cure="A series regulator runs winding and connectors cooler; nothing is wrong.",
    source="Shunt regulators of docs/physics.md: I = k / x")
def shunt(figures: Figures, say: Say) -> Iterator[Finding]:
    """Shunt regulators, with the current their leads always carry."""
    part = figures.plan.generator
    if part is not None and part.regulator == "shunt" and not figures.generator_fault:
        amps = figures.stator_short_a()
        yield say("note", (part.id,), (
            f"The shunt regulator of {part.name} keeps about {amps:.0f} A in each winding lead at speed, whatever is "
            "used: size the plug to the regulator for it."), "machine", "stator_short")


@rule(
    "supply.winding-leads",
    meaning="The leads between the generator's winding and its regulator are too thin for the AC that flows in them.",
    cure="Thicker leads; a series regulator, where a shunt one shorts the winding.",
    source="rms in each lead: 0.74 of the DC of three phases, 1.11 of one; heat model of docs/physics.md")
def leads_of_winding(figures: Figures, say: Say) -> Iterator[Finding]:
    """The warmth of the winding's leads against their class."""
    found, generator = winding_leads(figures), figures.plan.generator
    if found is None or generator is None or found.warm_c <= found.class_c - figures.plan.rules.thermal_margin_k + 1e-6:
        return
    proposals = (Proposal(ChangeElement(id=generator.id, values={"winding_mm2": None}),
                          "Let Loadstar choose the leads"),) if found.fixed else ()
    yield say("stop" if found.warm_c > found.class_c else "caution", (generator.id,), (
        f"Each of the {found.count} winding leads of {generator.name} carries {found.rms_a:.1f} A (rms) and gets "
        f"{found.warm_c:.0f} °C; {found.area_mm2:g} mm² stands {found.class_c:g} °C."), "machine", "winding_lead",
        proposals)


@rule(
    "supply.half-wave",
    meaning="Half-wave rectifying with the frame in common uses one half of every turn.",
    cure="Nothing is wrong: it is the simple way with one end on the frame, at about half the output.",
    source="Return rule of docs/physics.md: 5.8 A against 9.7 A")
def half_wave(figures: Figures, say: Say) -> Iterator[Finding]:
    """Half-wave rectifiers, and three phases rectified so, which is not computed."""
    part = figures.plan.generator
    if part is not None and part.is_half_wave:
        if part.phases == 3:
            yield say("caution", (part.id,), (
                f"{part.name} has three phases: half-wave is computed for one phase only, so its output is counted as "
                "full-wave and too high."), "machine", "",
                (Proposal(ChangeElement(id=part.id, values={"rectifier": "full"}), "It is full-wave"),))
        else:
            yield say("note", (part.id,), (
                f"{part.name} is rectified half-wave: one half of every turn is not used."), "machine")


@rule(
    "supply.half-tied",
    meaning="A half-wave rectifier returns through the frame: the winding's end must be there.",
    cure="Tie the winding's end to the frame, or rectify full-wave.",
    source="Return rule of docs/physics.md")
def half_tied(figures: Figures, say: Say) -> Iterator[Finding]:
    """Half-wave rectifiers whose winding floats."""
    part = figures.plan.generator
    if part is not None and part.is_half_wave and part.tied == "floating":
        yield say("stop", (part.id,), (
            f"{part.name} is rectified half-wave but no end of its winding is on the frame: no current can flow."),
            "machine", "",
            (Proposal(ChangeElement(id=part.id, values={"tied": "frame"}), "Its end is on the frame"),
             Proposal(ChangeElement(id=part.id, values={"rectifier": "full"}), "Rectify full-wave")))


@rule(
    "starter.drop",
    meaning="The starter's leads lose more at the cranking current than the house rule allows: it turns slowly, and "
            "the ignition's voltage falls with it.",
    cure="Thicker or shorter leads.",
    source="House rule: starter leads; at most about 0.5 V")
def starter_drop(figures: Figures, say: Say) -> Iterator[Finding]:
    """Volts over the starter's leads while cranking."""
    leads = starter_leads(figures.topology)
    if not leads or figures.sized is None:
        return
    areas = figures.sized.choices.area_mm2
    volts, limit = starter_drop_v(figures.topology, areas, leads), figures.plan.rules.starter_drop_v
    if volts > limit + 1e-9:
        mine = sorted((figures.wires[w] for w in leads), key=lambda w: w.area_mm2)
        ends = "" if any(w.fixed
                         for w in mine) else " No thicker lead helps: shorten the way, or move the battery nearer."
        yield say("caution", leads, (
            f"The starter's leads lose {volts:.2f} V at {figures.plan.machine.cranking_a:g} A; the house rule is "
            f"{limit:g} V.{ends}"), "circuit", "starter_drop", freed(mine))


@rule(
    "starter.leads",
    meaning="A starter's leads carry no fuse by custom: a chafed spot draws all that the battery has.",
    cure="Sleeve them, keep them off edges, and tie them often.",
    source="Practice: starter leads are not fused")
def bare_leads(figures: Figures, say: Say) -> Iterator[Finding]:
    """Starter leads, which nothing protects."""
    leads = [w for w in starter_leads(figures.topology) if figures.wires and figures.wires[w].guard is None
             and figures.wires[w].fault_a > 0]
    if leads:
        yield say("note", tuple(leads), (
            f"{listed(leads)} to the starter {verb(len(leads), 'has', 'have')} no fuse, as is the custom: sleeve "
            f"{verb(len(leads), 'it', 'them')} and keep {verb(len(leads), 'it', 'them')} off every edge."), "circuit")


@rule(
    "supply.set-point",
    meaning="The regulator's set-point does not suit the battery: too high boils or cuts off, too low never fills; a "
            "6 V battery on a 12 V system is destroyed.",
    cure="A regulator for this battery, or a battery for this regulator.",
    source=SET_POINTS)
def set_point(figures: Figures, say: Say) -> Iterator[Finding]:
    """Set-point against the battery's band at 25 C."""
    battery, generator = figures.plan.battery, figures.plan.generator
    system = figures.plan.machine.system_v
    if battery is not None and battery.nominal_v != system:
        severity: Severity = "stop" if battery.nominal_v < system else "caution"
        yield say(severity, (battery.id,), (
            f"{battery.name} is a {battery.nominal_v} V battery on a {system} V machine: "
            + ("its charging voltage destroys it." if severity == "stop"
               else "the machine's charging never fills it.")), "machine")
        return
    if battery is None or generator is None or figures.generator_fault:
        return
    least, most, never = set_point_band_v(battery.chemistry, battery.nominal_v)
    at, kind = f"{generator.set_v:.3g} V", {"lfp": "LiFePO4", "agm": "AGM", "flooded": "flooded"}[battery.chemistry]
    of = f"{battery.name} ({kind})"
    warm = " (at 25 °C; a hot battery wants about 0.02 V less per kelvin)" if battery.chemistry != "lfp" else ""
    if generator.set_v > most + 1e-9:
        does = "it boils and dries out"
        if battery.chemistry == "lfp":
            does = "its protection cuts it off, and what is on sees the generator alone"
        yield say("stop" if generator.set_v > most + 0.5 * battery.nominal_v / 12 else "caution",
                      (generator.id, battery.id), (
            f"The regulator holds {at}; {of} takes up to {most:.3g} V{warm}: {does}."), "machine")
    elif generator.set_v < max(least, never) - 1e-9:
        yield say("caution", (generator.id, battery.id), (
            f"The regulator holds {at}; {of} wants at least {max(least, never):.3g} V{warm}: it is never filled."),
            "machine")


def _soon(share: float) -> str:
    """Words for a small share of a lamp's usual 500 hours."""
    hours = 500 * share
    if hours < 1 / 60:
        return "seconds"
    return f"{hours * 60:.0f} minutes" if hours < 1 else f"{hours:.0f} hours"


@rule(
    "source.joined",
    meaning="Two regulated outputs, or two packs, lie on one wire with nothing between them: the one with the higher "
            "voltage carries everything, drives current into the other, or their regulators work against each other.",
    cure="Each with circuits of its own; a diode in each output; a combiner or changeover between packs.",
    source="What the plan's wires join; parallel sources: (V1 - V2) / (R1 + R2)")
def side_by_side(figures: Figures, say: Say) -> Iterator[Finding]:
    """Outputs and packs whose positives are joined by copper alone."""
    topology, plan = figures.topology, figures.plan
    outputs = [(p, p.at("pos")) for p in plan.parts if plan.second_supply(p.id)]
    for sources in (outputs, [(p, p.at("pos")) for p in plan.packs]):
        for n, (one, plus) in enumerate(sources):
            seen = topology.reached([topology.node(plus)], lambda link: _is_copper(topology, link))
            for other, there in sources[n + 1:]:
                if plus in topology.wired and topology.node(there) in seen:
                    yield say("stop", (one.id, other.id), (
                        f"{one.name} and {other.name} lie on one wire with nothing between them.{_flows(one, other)}"),
                        "circuit")


def _is_copper(topology: Topology, link: Link) -> bool:
    """A wire, fuse or joint: no diode, no contact, and nothing of a combiner's."""
    if link.element in topology.wires or link.element in topology.protecting:
        return True
    branch = topology.branches.get(link.element)
    return branch is not None and not (branch.opens or branch.divides)


def _flows(one: Part, other: Part) -> str:
    if not isinstance(one, Pack) or not isinstance(other, Pack):
        return " The one that is set a little higher carries everything; a short of one shorts both."
    ohm = one.ohm + other.ohm
    apart_a = abs(one.resting_v - other.resting_v) / ohm
    now = f" As they are charged, {amps(apart_a)} flow from one into the other." if apart_a > ALIKE_A else ""
    return f"{now} For each volt between them it is {amps(1 / ohm)}, whatever the lower one may take."
