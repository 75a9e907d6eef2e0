"""Rules about triggers, relays, contacts, modules and plugs: what their pins and contacts may carry."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..feeds.compare import JUDGED_V, on_tap_a
from ..findings import Finding
from ..plan.edits import ChangeElement, MoveEnd
from ..plan.model import STATE_NAMES, FusePart, Module, Relay, Switch, Tap, Way
from .registry import rule

CIRCUITS, SURVEY, LOADS = "circuits", "survey", "loads"
# Share of a contact's resistive rating that a kind of load may use (ISO 7588-kind relays, usual data).
CONTACT_SHARE = {"lamp": 0.5, "motor": 0.45}
KIND_WORDS = {"lamp": "lamps (their cold filaments take about ten times as much)", "motor": "motors (stall and spark)"}
COPPER_PER_K = 0.00393


def coil_a(relay: Relay, volts_v: float) -> float:
    """What a relay's coil draws."""
    return volts_v / relay.coil_ohm


def triggered_by(analysis: Analysis, tap: Tap) -> list[Relay]:
    """Relays whose coil hangs on a found wire."""
    node = analysis.topology.node(f"{tap.id}.pin")
    ends = {w.b if w.a == f"{tap.id}.pin" else w.a for w in analysis.plan.wires if f"{tap.id}.pin" in (w.a, w.b)}
    return [p for p in analysis.plan.parts if isinstance(p, Relay)
            and (f"{p.id}.86" in ends or analysis.topology.node(f"{p.id}.86") == node)]


def running_v(analysis: Analysis) -> float:
    """The voltage that a trigger is judged at: the regulator's, or the battery's."""
    generator = analysis.plan.generator
    return generator.set_v if generator else float(analysis.plan.machine.system_v) * 12.6 / 12


@rule("feed.trigger-overloaded", meaning="The coils hung on a found wire draw more than it is believed to give.",
      cure="A relay with a larger coil resistance, a module whose trigger only senses, or another wire.",
      source="Ohm's law on the coil; the wire's stated rating")
def trigger_overloaded(analysis: Analysis) -> Iterator[Finding]:
    """Coil current of the relays on each found wire against its rating."""
    volts = running_v(analysis)
    for tap in analysis.plan.parts:
        if not isinstance(tap, Tap):
            continue
        relays = triggered_by(analysis, tap)
        amps = sum(coil_a(k, volts) for k in relays)
        if relays and amps + tap.others_a > tap.rated_a:
            others = [t for t in analysis.plan.parts if isinstance(t, Tap) and t.live == tap.live and t.id != tap.id
                      and not t.never and t.rated_a - t.others_a > amps]
            wire = next((w for w in analysis.plan.wires if w.a == f"{tap.id}.pin" and w.b == f"{relays[0].id}.86"), None)
            cure = MoveEnd(id=wire.id, end="a", to=f"{others[0].id}.pin") if others and wire else None
            yield Finding("feed.trigger-overloaded", "caution", (tap.id, *(k.id for k in relays)), (
                f"{tap.name} is believed good for {tap.rated_a:g} A; the coil{'s' if len(relays) > 1 else ''} on it "
                f"draw{'' if len(relays) > 1 else 's'} {amps:.2f} A at {volts:.1f} V. Ways out: a relay with a larger coil "
                "resistance, a module whose trigger only senses, another pin."), CIRCUITS, f"trigger/{tap.id}", cure,
                f"Take {others[0].name} instead" if cure else "")


@rule("feed.plug-overloaded", meaning="With everything on a plug that may be on together it is over its rating, judged at "
      "12.0 V.", cure="Never both at once, a second feed, or a relay from the battery.", source="The plug's stated rating")
def plug_overloaded(analysis: Analysis) -> Iterator[Finding]:
    """Coincident current of every tap at 12.0 V (the machine's own users counted)."""
    for part in analysis.plan.parts:
        if not isinstance(part, Tap):
            continue
        users = [p.name for p in analysis.plan.loads if p.feed == part.id]
        amps = on_tap_a(analysis.plan, part.id)
        if users and amps > part.rated_a:
            yield Finding("feed.plug-overloaded", "stop" if amps > 1.35 * part.rated_a else "caution", (part.id,), (
                f"{part.name} is rated {part.rated_a:g} A; {' and '.join(users[:3])} together draw {amps:.1f} A at "
                f"{JUDGED_V:.1f} V. Never both at once, a second feed, or a relay from the battery."), CIRCUITS,
                f"tap/{part.id}")


@rule("feed.plug-fuse", meaning="The factory fuse before a plug carries more than it should for long.",
      cure="Another feed; never a larger factory fuse.", source="Continuous share of a fuse: house rule")
def plug_fuse(analysis: Analysis) -> Iterator[Finding]:
    """Share of the factory fuse before each tap."""
    share = analysis.plan.rules.fuse_share_frac
    for part in analysis.plan.parts:
        if isinstance(part, Tap) and part.fused_a and any(p.feed == part.id for p in analysis.plan.loads):
            amps = on_tap_a(analysis.plan, part.id)
            if amps > share * part.fused_a and amps <= part.rated_a:
                yield Finding("feed.plug-fuse", "caution", (part.id,), (
                    f"The {part.fused_a:g} A factory fuse before {part.name} would carry {amps:.1f} A, "
                    f"{amps / part.fused_a:.0%} of its rating; the house rule is {share:.0%}."), CIRCUITS, f"tap/{part.id}")


@rule("feed.run-on", meaning="A line stays live some seconds after key or engine is off; what hangs on it does too.",
      cure="Nothing is wrong; do not take it for dead at once.", source="The line's stated delay")
def run_on(analysis: Analysis) -> Iterator[Finding]:
    """Feeds and triggers with an off-delay."""
    for part in analysis.plan.parts:
        if isinstance(part, Tap) and part.off_delay_s > 0:
            users = [p.name for p in analysis.plan.loads if p.feed == part.id]
            users += [k.name for k in triggered_by(analysis, part)]
            if users:
                yield Finding("feed.run-on", "note", (part.id,), (
                    f"{part.name} stays live {part.off_delay_s:g} s after: so do {', '.join(users[:3])}."), SURVEY)


@rule("feed.never", meaning="A wire of the airbag, ABS, throttle or CAN system is used as feed or trigger.",
      cure="Another wire. These are never tapped.", source="Airbags, ABS and throttle wires are never tapped")
def never(analysis: Analysis) -> Iterator[Finding]:
    """Forbidden wires in use."""
    for part in analysis.plan.parts:
        if isinstance(part, Tap) and (never := analysis.plan.never(part)) and any(f"{part.id}.pin" in (w.a, w.b) for w in analysis.plan.wires):
            yield Finding("feed.never", "stop", (part.id,), (
                f"{part.name} belongs to the {never} system: it is never tapped."), CIRCUITS)


@rule("feed.module-total", meaning="All ways of a module together carry more than it is rated for.",
      cure="A second module, or heavy loads from elsewhere.", source="The module's stated total")
def module_total(analysis: Analysis) -> Iterator[Finding]:
    """Sum of a module's ways."""
    for part in analysis.plan.parts:
        if isinstance(part, Module):
            ways = [j.b.split(".")[0] for j in analysis.plan.joins if j.a == f"{part.id}.in"]
            amps = sum(analysis.peak_a(w) for w in ways)
            if amps > part.total_a:
                yield Finding("feed.module-total", "stop", (part.id,), (
                    f"{part.name} carries {part.total_a:g} A in all; its ways ask for {amps:.1f} A."), CIRCUITS)
            if len(ways) > part.ways:
                yield Finding("feed.module-total", "stop", (part.id,), (
                    f"{part.name} has {part.ways} ways and {len(ways)} are used."), CIRCUITS)


@rule("feed.module-way", meaning="A way of a module is set, or asked, for more than the module's ways may carry.",
      cure="Two ways in parallel where the maker allows it, or another feed.", source="The module's stated limit per way")
def module_way(analysis: Analysis) -> Iterator[Finding]:
    """Limit of every way against its module."""
    for part in analysis.plan.parts:
        if not isinstance(part, Way) or analysis.sized is None:
            continue
        home = next((j.a.split(".")[0] for j in analysis.plan.joins if j.b == f"{part.id}.a"), "")
        module = analysis.topology.parts.get(home)
        limit = analysis.rating_a(part.id)
        if isinstance(module, Module) and limit > module.way_most_a:
            yield Finding("feed.module-way", "stop", (part.id, module.id), (
                f"{part.name} would have to be set to {limit:g} A; a way of {module.name} carries {module.way_most_a:g} A."),
                CIRCUITS)
        if analysis.peak_a(part.id) > limit:
            yield Finding("feed.module-way", "stop", (part.id,), (
                f"{part.name} is set to {limit:g} A and asked for {analysis.peak_a(part.id):.3g} A: it switches off."), CIRCUITS)


@rule("relay.pull-in", meaning="A hot coil needs more volts than it gets: the relay may not pull in.",
      cure="A cooler place, a trigger with less drop, a relay with a lower pull-in voltage.",
      source="V(T) = V20 (1 + 0.00393 (T - 20)), copper coil")
def pull_in(analysis: Analysis) -> Iterator[Finding]:
    """Hot pull-in voltage of every relay against the volts over its coil where its loads must live."""
    for part in analysis.plan.parts:
        if not isinstance(part, Relay):
            continue
        warm = analysis.plan.ambient_at(part.place)
        needs = part.pull_in_v * (1 + COPPER_PER_K * (warm - 20))
        for state, result in analysis.states.items():
            if result.solution is None or not result.closed.get(part.id):
                continue
            volts = result.solution.across_v(analysis.topology.node(f"{part.id}.86"), analysis.topology.node(f"{part.id}.85"))
            if volts < needs:
                yield Finding("relay.pull-in", "caution", (part.id,), (
                    f"{part.name}, its coil at {warm:.0f} °C, needs {needs:.1f} V to pull in and gets {volts:.1f} V "
                    f"({STATE_NAMES[state].lower()}): it may not pull in, or let go."), CIRCUITS, f"pull_in/{part.id}")
                break


@rule("relay.suppression", meaning="A coil without suppression throws a spike back into its trigger; a bare diode makes it "
      "let go slowly and its contact burn.", cure="A relay with a resistor (or zener) across the coil.",
      source="Relay practice: a diode slows release 3-10 times")
def suppression(analysis: Analysis) -> Iterator[Finding]:
    """Relays without suppression."""
    for part in analysis.plan.parts:
        if isinstance(part, Relay) and part.suppression == "none":
            yield Finding("relay.suppression", "advice", (part.id,), (
                f"{part.name} has nothing across its coil: its spike goes into the trigger."), CIRCUITS, "",
                ChangeElement(id=part.id, values={"suppression": "resistor"}), "Take one with a resistor")


@rule("contact.kind", meaning="A contact's rating is for resistive loads; lamps and motors wear it out at less.",
      cure="A stronger relay, or a relay beside the switch.", source="Relay data: 40-60 % for lamps, 30-60 % for motors")
def contact_kind(analysis: Analysis) -> Iterator[Finding]:
    """Contacts against their rating for the kind of load behind them."""
    for part in analysis.plan.parts:
        if not isinstance(part, Relay | Switch) or analysis.peak_a(part.id) > part.contact_a:
            continue
        behind = analysis.topology.loads_behind.get(part.id, ())
        for kind, share in CONTACT_SHARE.items():
            mine = [p for p in behind if p.category == kind]
            amps = sum(analysis.peak_a(p.id) for p in mine)
            if mine and amps > share * part.contact_a:
                yield Finding("contact.kind", "caution", (part.id,), (
                    f"{part.name} switches {amps:.3g} A of {KIND_WORDS[kind]}; its {part.contact_a:g} A contact stands "
                    f"{share * part.contact_a:.3g} A of that."), CIRCUITS, f"peak/{part.id}")


@rule("contact.needs-relay", meaning="A switch carries a load that it should only trigger.",
      cure="A relay near the load, the switch in its coil's wire.", source="Practice: inrush against the contact")
def needs_relay(analysis: Analysis) -> Iterator[Finding]:
    """Switches whose load's inrush is over six times their rating."""
    for part in analysis.plan.parts:
        if not isinstance(part, Switch):
            continue
        worst = max((p.inrush_a for p in analysis.topology.loads_behind.get(part.id, ())), default=0.0)
        if worst > 6 * part.contact_a:
            yield Finding("contact.needs-relay", "caution", (part.id,), (
                f"{part.name} ({part.contact_a:g} A) would switch an inrush of {worst:g} A: let it trigger a relay."), CIRCUITS)


@rule("fuse.maker", meaning="The fuse is larger than the accessory's maker asks for.",
      cure="The maker's rating, if it does not open needlessly.", source="The maker's instructions")
def maker_fuse(analysis: Analysis) -> Iterator[Finding]:
    """Last fuse before each load against its maker's."""
    if analysis.sized is None:
        return
    for load in analysis.plan.loads:
        fuses = [k.element for k in analysis.path(load.id).feed
                 if isinstance(analysis.topology.parts.get(k.element), FusePart)]
        if load.maker_fuse_a is not None and fuses and analysis.rating_a(fuses[-1]) > load.maker_fuse_a:
            yield Finding("fuse.maker", "caution", (fuses[-1], load.id), (
                f"{load.name}'s maker asks for a {load.maker_fuse_a:g} A fuse; {fuses[-1]} is "
                f"{analysis.rating_a(fuses[-1]):g} A."), CIRCUITS, "",
                ChangeElement(id=fuses[-1], values={"rating_a": load.maker_fuse_a}), f"Take {load.maker_fuse_a:g} A")


