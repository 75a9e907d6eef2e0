"""Rules about other supplies: magneto lighting, total loss, regulators, starter leads."""

from collections.abc import Iterator

from ..edits import ChangeElement, SetMachine
from ..figures.figures import Figures
from ..figures.winding import stator_short_a, winding_leads
from ..findings import Finding, Proposal, Severity
from ..materials.charging import SET_POINTS, set_point_band_v
from ..materials.typical import starter_a
from ..parts.base import Part
from ..parts.can import as_pack
from ..sizing.drops import starter_drop_v, starter_leads
from ..wiring.circuit import Link
from ..wiring.topology import Topology
from .registry import Say, rule
from .wires import freed
from .words import amps, listed, verb

ALIKE_A = 0.5  # between packs: less is not worth a word


@rule(
    "supply.coil-and-battery",
    meaning="A lighting coil's AC is joined to the battery's DC: the coil charges and discharges the battery by turns, "
            "and what hangs there sees neither.",
    cure="Keep them apart: only the frame may be common to both.",
    source="What copper joins, every contact closed")
def coil_and_battery(figures: Figures, say: Say) -> Iterator[Finding]:
    """A coil's lamp end on the copper of another supply's positive."""
    coil, groups = figures.topology.side_coil, figures.joins.joined
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
        amps = stator_short_a(figures)
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
        f"{found.warm_c:.0f} °C; {found.area_mm2:g} mm² withstands {found.class_c:g} °C."), "machine", "winding_lead",
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
    "starter.current-unsaid",
    meaning="There is a starter, and the machine's cranking current is 0 A: what its leads carry is not known, so they "
            "are sized for nothing and would burn.",
    cure="Say what the starter draws, measured by a clamp or a shunt while cranking, or take what is usual until then.",
    source="Nothing cranks on 0 A; usual amps by the kind of machine (docs/tables.md, cranking_a)")
def starter_unsaid(figures: Figures, say: Say) -> Iterator[Finding]:
    """A starter of which nobody has said what it draws."""
    leads = starter_leads(figures.topology)
    if leads and figures.plan.machine.cranking_a <= 0:
        usual = starter_a(figures.plan.machine.kind)
        yield say("stop", leads, (
            f"Nobody has said what the starter draws while cranking: {listed(leads)} {verb(len(leads), 'is', 'are')} "
            f"sized for 0 A. Measure it, or take what is usual, {usual:g} A, until then."), "machine", "",
            (Proposal(SetMachine(values={"cranking_a": usual}, marks={"cranking_a": "typical"}), f"Take {usual:g} A"),))


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
    meaning="A starter's leads carry no fuse by custom: a short to frame draws all that the battery has.",
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
    first, second = as_pack(one), as_pack(other)
    if first is None or second is None:
        return " The one that is set a little higher carries everything; a short of one shorts both."
    ohm = first.ohm + second.ohm
    apart_a = abs(first.resting_v - second.resting_v) / ohm
    now = f" As they are charged, {amps(apart_a)} flow from one into the other." if apart_a > ALIKE_A else ""
    return f"{now} For each volt between them it is {amps(1 / ohm)}, whatever the lower one may take."
