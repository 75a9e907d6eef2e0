"""Rules about accessories: complete circuit, polarity, voltage at the load, drop, standing draw."""

from collections.abc import Iterator

from ..amounts import apart, percent
from ..budget.ledger import supply_a
from ..doc.states import JUDGED_STATES, LIVES_WITH, STATE_NAMES, States
from ..edits import ChangeElement
from ..figures.figures import Figures
from ..findings import Finding, Proposal, Severity
from ..materials.conductors import BY_AREA
from ..parts.load import LIGHT_EXPONENT, LoadPart
from ..parts.port import Port
from ..parts.second import SecondBattery
from ..parts.tap import Tap
from ..sizing.argument import stands
from ..sizing.drops import LEAST_GAIN, drop_limit_frac
from ..wiring.circuit import LEAD_NEAR_M
from ..wiring.conductor import conductor
from .registry import Say, rule
from .wires import freed
from .words import amps, listed, named, opener, state, verb

DIM_FRAC = 0.75  # of the stated voltage
HARDLY_FRAC = 0.25  # of its light or heat
RUNS_ON_SHARE = 0.05  # of the battery, that a stop may take
LEAD_STOWED_M = 0.3  # more than this over has to be put somewhere
BOX_NEAR_M = 0.05  # room that a new end needs behind a box
LEAST_ON_A = 1e-3  # a dead load also lies on the solver's floor; a collapsing one has current


@rule(
    "load.in-series",
    meaning="Two accessories hang one behind the other: they share the voltage, and neither gets what it needs.",
    cure="Give each a feed and a return of its own.",
    source="The plan's wires")
def in_series(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads whose current comes through another load."""
    for first, second in figures.in_series:
        yield say("stop", (first.id, second.id), (
            f"{first.name} and {second.name} are in series: the one's negative is the other's positive, so they share "
            f"the voltage."),
            "circuit")


@rule(
    "load.no-circuit",
    meaning="An accessory has no way from the battery to it, or none back.",
    cure="Take it out and add it again, or connect it.",
    source="The plan's wires")
def no_circuit(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads without feed or return."""
    if not figures.topology.positive:
        return
    serial = {p.id for pair in figures.in_series for p in pair}
    for load in figures.plan.loads:
        path = figures.path(load.id)
        if not path.complete and load.id not in serial and not figures.reversed_in(load.id):
            missing = "feed" if not path.feed else "return"
            yield say("stop", (load.id,), f"{load.name} has no {missing}: it cannot work.",
                          "circuit")


@rule(
    "load.reversed",
    meaning="An accessory's positive lies below its negative: LED, converters and electronics do not work so, and "
            "some are destroyed.",
    cure="Change its two wires over.",
    source="Solved network; polarity")
def is_reversed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads with their polarity reversed in any state."""
    for load in figures.plan.loads:
        where = figures.reversed_in(load.id)
        if where is not None:
            kind: Severity = "caution" if load.behaviour in ("resistor", "filament") else "stop"
            yield say(kind, (load.id,), (
                f"{load.name} has its polarity reversed ({state(where)}): change its two wires over."), "circuit")


@rule(
    "load.not-live",
    meaning="An accessory gets no voltage in a state in which it must live.",
    cure="See to its relay, trigger or feed.",
    source="Solved network")
def not_live(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads that are dead in a state they are meant to live in, unless something else that is told makes them so."""
    told = {p.id for pair in figures.in_series for p in pair}
    for load in figures.plan.loads:
        port = figures.plan.is_one(figures.plan.hangs_on(load), Port)
        if (not figures.states or not figures.path(load.id).complete or load.id in told or figures.reversed_in(load.id)
                or (port and not port.enabled)):
            continue
        dead = [s for s in figures.plan.lives_in(load) if s in figures.states and s not in ("cranking", "charging")
                and figures.states[s].solution is not None and figures.across_v(load.id, s) is None]
        dead = [s for s in dead if figures.source.gives_in(s)]
        if dead:
            yield say("stop", (load.id,), (
                f"{load.name} gets no voltage in: {', '.join(STATE_NAMES[s] for s in dead)}; it is meant to live then. "
                "Its relay is not pulled in, or its feed is dead."), "circuit")


@rule(
    "load.lives-on",
    meaning="An accessory has voltage in a state in which it is not meant to live: it drains the battery, and wakes "
            "when nobody expects it.",
    cure="Feed it from what lives with it only, or plan it as living then.",
    source="Solved network")
def lives_on(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads that live longer than meant, where no second feed is told of."""
    fed_back = {e for _, _, victims in figures.back_fed for e in victims}
    for load in figures.plan.loads:
        states = [s for s in figures.lives_beyond(load) if s in ("parked", "key_on", "charging")]
        if states and load.id not in fed_back:
            yield say("caution", (load.id,), (
                f"{load.name} also has voltage in: {', '.join(STATE_NAMES[s] for s in states)}; it is meant to live "
                f"{LIVES_WITH[load.live]}. Its feed is live then and nothing switches it."), "circuit")


@rule(
    "load.outside-window",
    meaning="The voltage at an accessory is outside what its maker accepts.",
    cure="Less drop (thicker wire, shorter way), another feed, or an accessory that accepts it.",
    source="The accessory's stated window; solved network")
def outside_window(figures: Figures, say: Say) -> Iterator[Finding]:
    """Volts at every load in every judged state against its window."""
    serial = {p.id for pair in figures.in_series for p in pair}
    for load in figures.plan.loads:
        if load.id in serial or figures.reversed_in(load.id):
            continue
        dim, on_ac = _is_dim(figures, load) or figures.is_starved(load.id), figures.on_ac(load)
        for name, volts in _volts(figures, load, JUDGED_STATES):
            if load.id in _on_floor(figures, name) or dim:
                continue  # said by load.not-carried, which shows no voltage, by load.dim, or of its overloaded source
            got_v = load.sees_v(volts, on_ac=on_ac)
            if got_v < load.window_low_v - 1e-9 and load.behaviour != "filament":
                yield say("stop", (load.id,), (
                    f"{load.name} gets {got_v:.2f} V ({state(name)}); below {load.window_low_v:g} V it "
                    "does not work."), "circuit", f"load_v/{load.id}/{name}")
                break
        highest = max(((load.sees_v(v, on_ac=on_ac), s) for s in JUDGED_STATES
                       if (v := figures.most_v(load.id, s)) is not None), default=None)
        if highest and highest[0] > load.window_high_v + 1e-9:
            yield say("stop", (load.id,), (
                f"{load.name} gets {highest[0]:.2f} V ({state(highest[1])}); it accepts up to "
                f"{load.window_high_v:g} V and may be destroyed."), "accessory", f"load_v/{load.id}/{highest[1]}")


@rule(
    "load.dim",
    meaning="An accessory gets far less than the voltage it is made for: a lamp is dim, a heater cold, electronics do "
            "not start.",
    cure="One made for this voltage.",
    source="Light as V^3.4, heat as V²; the accessory's stated voltage")
def dim(figures: Figures, say: Say) -> Iterator[Finding]:
    """The most that each load gets, engine running or power on, against three quarters of its stated voltage."""
    over_speed = figures.lamps.lamps if figures.lamps else ()  # of these: rule lamp.dim
    for load in figures.plan.loads:
        found = None if load.id in over_speed or figures.on_ac(load) else _is_dim(figures, load)
        if found is None:
            continue
        volts, name = found
        share = volts / load.at_v
        left = share ** (LIGHT_EXPONENT if load.behaviour == "filament" else 2)
        result = {"filament": f"about {percent(left)} of its light", "resistor": f"about {percent(left)} of its heat"}
        what = result.get(load.behaviour, "it need not start, and its stated draw does not hold here")
        yield say("caution" if left < HARDLY_FRAC else "advice", (load.id,), (
            f"{load.name} is made for {load.at_v:g} V and gets {volts:.3g} V at the most ({state(name)}): {what}."),
            "accessory",
            f"load_v/{load.id}/{name}")


def _is_dim(figures: Figures, load: LoadPart) -> tuple[float, States] | None:
    """The most that a load gets and when, if that is under three quarters of what it is made for; else None."""
    serial = {p.id for pair in figures.in_series for p in pair}
    best = max(((v, s) for s, v in _volts(figures, load, JUDGED_STATES) if load.id not in _on_floor(figures, s)),
               default=None)
    if best is None or best[0] >= DIM_FRAC * load.at_v or load.id in serial or figures.is_starved(load.id):
        return None
    # Electronics say by their window what they take; only where that leaves out the stated voltage is it said here.
    windowed = load.behaviour in ("power", "current") and load.window_low_v <= load.at_v <= load.window_high_v
    state_lost, lost = figures.worst_drop(load)
    # then the way to it is what is wrong, and load.drop tells it
    wires_fault = state_lost is not None and lost > 1 - DIM_FRAC
    return None if windowed or wires_fault else best


@rule(
    "load.drops-out",
    meaning="An accessory's voltage falls below its window while the starter turns.",
    cure="Let it live with the engine, or accept that it restarts.",
    source="Solved network, cranking")
def drops_out(figures: Figures, say: Say) -> Iterator[Finding]:
    """Electronics that restart at every start."""
    for load in figures.plan.loads:
        volts = figures.across_v(load.id, "cranking")
        if volts is not None and volts < load.window_low_v and load.category in ("electronics", "tracker"):
            yield say("advice", (load.id,), (
                f"{load.name} sees {volts:.2f} V while cranking, below the {load.window_low_v:g} V it needs: it will "
                "drop out and start again at every start."), "accessory", f"load_v/{load.id}/cranking")


@rule(
    "load.not-carried",
    meaning="A load asks for more power than the source and wires can carry: the voltage collapses.",
    cure="Thicker or shorter wires, a stronger source, a smaller load.",
    source="Solved network")
def not_carried(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads whose voltage collapses to the solver's floor; no voltage is shown."""
    serial = {p.id for pair in figures.in_series for p in pair}
    found: dict[str, States] = {}
    for name in JUDGED_STATES:
        for element in _on_floor(figures, name):
            part = figures.topology.parts.get(element)
            starved = figures.is_starved(element)
            if part and element not in serial and not starved and not figures.reversed_in(element) and _powered(figures,
                element, name):
                found.setdefault(element, name)
    for element, name in found.items():
        path = figures.topology.paths.get(element)
        wires = [figures.wires[k.element] for k in (*path.feed, *path.back)
                 if k.element in figures.wires] if path else []
        yield say("stop", (element,), (
            f"The source and its wires cannot carry {named(figures, element)} ({state(name)}): its voltage "
            "collapses."), "circuit", "", freed(sorted((w for w in wires if w.fixed), key=lambda w: w.area_mm2)))


@rule(
    "load.drop",
    meaning="More of the voltage is lost in feed and return than the house rule allows.",
    cure="A thicker wire on its way, or a shorter one.",
    source="House rule: voltage drop; solved network")
def drop(figures: Figures, say: Say) -> Iterator[Finding]:
    """Drop of every circuit, at operating temperature, with everything on, where the plan's own wires can mend it."""
    for load in figures.plan.loads:
        name, lost = figures.worst_drop(load)
        limit = drop_limit_frac(figures.plan, load)
        if name is None or lost <= limit + 1e-9 or not figures.path(load.id).complete or _weak(figures, load, name,
                                                                                               lost, limit):
            continue
        result = figures.row(load.id, name)
        assert result is not None
        ways = [k.element for k in (*figures.path(load.id).feed, *figures.path(load.id).back)]
        thin = sorted((figures.wires[w] for w in ways if w in figures.wires and figures.wires[w].fixed),
                      key=lambda w: -abs(result.current(w.id)) * w.length_m / w.area_mm2)
        loses, may = apart(lost, limit, 1)
        yield say("caution", (load.id, *(w.id for w in thin[:1])), (
            f"{load.name} loses {loses} of the voltage on the way ({state(name)}); the house rule for it is {may}."),
            "circuit", f"drop/{load.id}/{name}", freed(thin))


@rule(
    "feed.too-weak",
    meaning="What feeds an accessory loses so much by itself, in the machine's own wiring, joints and contacts, that "
            "no thicker wire keeps the house rule.",
    cure="Another feed, a better joint, or a smaller load.",
    source="House rule: voltage drop; solved network with the plan's own wires taken as lossless")
def too_weak(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads that lose too much though their wires are as thick as is of any use."""
    for load in figures.plan.loads:
        name, lost = figures.worst_drop(load)
        limit = drop_limit_frac(figures.plan, load)
        if name is None or lost <= limit + 1e-9 or not figures.path(load.id).complete:
            continue
        weak = _weak(figures, load, name, lost, limit)
        if weak:
            element, volts = weak
            part = figures.topology.parts.get(element)
            what = f"the machine's own wiring before {part.name}" if part and part.FUSED_BEFORE else named(figures,
                                                                                                           element)
            loses, may = apart(lost, limit, 1)
            yield say("caution", (load.id, *([part.id] if part else [])), (
                f"{load.name} loses {loses} of the voltage on the way ({state(name)}); the house rule for it is {may}. "
                f"No thicker wire helps: {what} alone takes {volts:.2f} V. Another feed, a better joint, or a smaller "
                "load."),
                "circuit", f"drop/{load.id}/{name}")


def _weak(figures: Figures, load: LoadPart, name: States, lost: float, limit: float) -> tuple[str, float] | None:
    """What loses most where no thicker wire helps, and its volts; None where one that is fixed by hand is to blame."""
    result, begins = figures.row(load.id, name), figures.begins_v(load.id, name)
    assert result is not None and result.solution is not None
    steps = {k.element: abs(result.solution.across_v(k.a, k.b))
             for k in (*figures.path(load.id).feed, *figures.path(load.id).back)}
    rest = {e: v for e, v in steps.items() if e not in figures.wires}
    fixed = any(figures.wires[e].fixed and v > LEAST_GAIN * limit * begins
                for e, v in steps.items() if e in figures.wires)
    if fixed and sum(rest.values()) < limit * begins:
        return None
    most = max(rest or steps, key=lambda e: (rest or steps)[e])
    return most, (rest or steps)[most]


@rule(
    "load.always-live",
    meaning="An accessory is live with the key off: it drains the battery, and strangers can use it.",
    cure="Let it live with the key, or say why it must not.",
    source="House rule: switched unless chosen")
def always_live(figures: Figures, say: Say) -> Iterator[Finding]:
    """Constant feeds that nobody has given a reason for; what a second battery is there for needs none."""
    apart = {p.id for p in figures.plan.of(SecondBattery)}
    for load in figures.plan.loads:
        if (load.live == "always" and not load.reason_always.strip() and figures.plan.hangs_on(load) not in apart
                and figures.plan.rules.always_loads == "with a reason"):
            yield say("advice", (load.id,), (
                f"{load.name} is always live and no reason is given: with the key off it drains the battery."),
                "accessory")


@rule(
    "load.runs-on",
    meaning="An accessory stays on for a time after the key is off, and takes from the battery at every stop.",
    cure="A shorter time, or let it go off with the key.",
    source="Amps at the battery's rested voltage times the stated minutes")
def runs_on(figures: Figures, say: Say) -> Iterator[Finding]:
    """What each takes at a stop, against the battery."""
    battery = figures.plan.battery
    for load in figures.plan.loads:
        if load.runs_on_min <= 0 or load.live == "always":
            continue
        at_v = figures.source.resting_v("parked") if figures.source.part else load.at_v
        taken_ah = supply_a(figures.plan, load, at_v) * load.runs_on_min / 60
        share = taken_ah / battery.capacity_ah if battery else 0.0
        yield say("caution" if share > RUNS_ON_SHARE else "note", (load.id,), (
            f"{load.name} stays on for {load.runs_on_min:g} minutes after the key: it takes {taken_ah:.2g} Ah at every "
            f"stop{f', {percent(share)} of the battery' if share >= 0.01 else ''}."), "energy")


@rule(
    "load.two-grounds",
    meaning="An accessory's body is on the frame and it has a return wire of its own: its return current shares the "
            "two ways. A radio hears the rest of the machine through it, and where the engine's strap fails the "
            "starter's current comes back through the thin wire.",
    cure="One of the two: an isolated mounting, or no return wire.",
    source="Return practice: one reference, one way back")
def two_grounds(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads with both returns on a machine whose frame is negative."""
    for load in figures.plan.loads:
        if load.body == "on the frame" and load.returns == "own wire" and figures.plan.machine.chassis == "negative":
            yield say("advice", (load.id,), (
                f"{load.name} has two grounds, its body on the frame and a wire of its own: a radio may pick up noise "
                "that way, and if the engine's strap fails a starter's current returns through the thin wire."),
                "circuit", "",
                (Proposal(ChangeElement(id=load.id, values={"body": "isolated"}), "Its body is isolated"),))


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
        way_m = max((figures.topology.geometry[w.id].length_m for w in figures.plan.wires
                     if load.id in (w.a.part, w.b.part)), default=lead_m)
        comes = f"{load.name} comes with {lead_m:.2f} m of lead and needs {way_m:.2f} m"
        plug = load.lead_end == "plug"
        if way_m > lead_m + LEAD_NEAR_M:
            how = ", with the like of its plug, or past the plug cut off" if plug else ""
            yield say("advice", (load.id,), (
                f"{comes}: lengthen it by {way_m - lead_m:.2f} m{how}."), "circuit")
        elif lead_m > way_m + LEAD_STOWED_M:
            yield say("note", (load.id,), (
                f"{comes}: {_cut_or_stow(load, lead_m, way_m)}"), "circuit")
        elif plug and figures.plan.is_one(load.feed, Tap) is None:
            yield say("note", (load.id,), (
                f"{load.name}'s lead ends in a plug, and it is fed from {figures.plan.part(load.feed).name}: fit the "
                "like there, or cut the plug off."), "circuit")


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
    return f"{rest}, or it is cut {way_m:.2f} m from it{past or ''} and made up anew.{lost}"


@rule(
    "feed.back-feed",
    meaning="A wire or accessory is reached from two feeds that are not live together: the one that is live wakes "
            "what hangs on the other, through its fuse and contacts.",
    cure="Part the two; or a diode or relay for each where both must reach it.",
    source="What copper joins in each state")
def back_feed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Dead plugs and wires of the machine, and loads, that another feed brings to life."""
    for source, states, victims in figures.back_fed:
        part = figures.topology.parts[source]
        who = listed(named(figures, v) for v in victims)
        when = listed(state(s) for s in states)
        if part.FUSED_BEFORE:  # the machine's own, with whatever hangs on it
            also = f" With it {verb(len(victims), 'wakes', 'wake')} {who}." if who else ""
            yield say("stop", (source, *victims), (
                f"{part.name} is dead in {when}, yet the plan joins it to what is live then: everything that the "
                f"machine has on it wakes, through wires and fuses not meant for that.{also}"), "circuit")
        else:
            yield say("caution", (source, *victims), (
                f"{part.name} is open in {when}, yet what it switches is live from another feed: {who} "
                f"{verb(len(victims), 'wakes', 'wake')} when not meant to."), "circuit")


def _volts(figures: Figures, load: LoadPart, states: tuple[States, ...]) -> list[tuple[States, float]]:
    return [(s, v) for s in states if (v := figures.across_v(load.id, s)) is not None and v > 0.5]


def _on_floor(figures: Figures, name: States) -> tuple[str, ...]:
    return tuple(dict.fromkeys(
        e for row in figures.rows if row.state == name and row.solution for e in row.solution.on_floor
        if figures.plan.is_one(e, LoadPart) is None or (e in row.solution.fed and abs(row.current(e)) > LEAST_ON_A)))


def _powered(figures: Figures, element: str, name: States) -> bool:
    load = figures.plan.is_one(element, LoadPart)
    return load is None or name in figures.plan.lives_in(load)
