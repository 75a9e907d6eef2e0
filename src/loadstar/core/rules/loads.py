"""Rules about accessories: complete circuit, polarity, voltage at the load, drop, standing draw."""

from collections.abc import Iterator

from ..amounts import apart, percent
from ..doc.states import JUDGED_STATES, LIVES_WITH, STATE_NAMES, States
from ..figures.figures import Figures
from ..figures.lamps import on_ac
from ..figures.packs import is_starved
from ..findings import Finding, Severity
from ..parts.load import LIGHT_EXPONENT, LoadPart
from ..parts.port import Port
from ..sizing.drops import LEAST_GAIN, drop_limit_frac
from .registry import Say, rule
from .wires import freed
from .words import named, state

DIM_FRAC = 0.75  # of the stated voltage
HARDLY_FRAC = 0.25  # of its light or heat
LEAST_ON_A = 1e-3  # a dead load also lies on the solver's floor; a collapsing one has current


@rule(
    "load.in-series",
    meaning="Two accessories hang one behind the other: they share the voltage, and neither gets what it needs.",
    cure="Give each a feed and a return of its own.",
    source="The plan's wires")
def in_series(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads whose current comes through another load."""
    for first, second in figures.joins.in_series:
        yield say("stop", (first.id, second.id), (
            f"{first.name} and {second.name} are in series: they share "
            f"the voltage."),
            "circuit")


@rule(
    "load.no-circuit",
    meaning="An accessory has no way from the battery to it, or none back.",
    cure="Remove it and add it again, or connect it.",
    source="The plan's wires")
def no_circuit(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads without feed or return."""
    if not figures.topology.positive:
        return
    serial = {p.id for pair in figures.joins.in_series for p in pair}
    for load in figures.plan.loads:
        path = figures.path(load.id)
        if not path.complete and load.id not in serial and not figures.volts.reversed_in(load.id):
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
        where = figures.volts.reversed_in(load.id)
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
    told = {p.id for pair in figures.joins.in_series for p in pair}
    for load in figures.plan.loads:
        port = figures.plan.is_one(figures.plan.hangs_on(load), Port)
        if (not figures.states or not figures.path(load.id).complete or load.id in told
                or figures.volts.reversed_in(load.id) or (port and not port.enabled)):
            continue
        dead = [s for s in figures.plan.lives_in(load) if s in figures.states and s not in ("cranking", "charging")
                and figures.states[s].solution is not None and figures.volts.across_v(load.id, s) is None]
        dead = [s for s in dead if figures.source.gives_in(s) and not (load.guest and s == "parked")]
        if dead:
            yield say("stop", (load.id,), (
                f"{load.name} gets no voltage in: {', '.join(STATE_NAMES[s] for s in dead)}; it must be live then. "
                "Its relay is not pulled in, or its feed is dead."), "circuit")


@rule(
    "load.lives-on",
    meaning="An accessory has voltage in a state in which it is not meant to be live: it drains the battery, and wakes "
            "when nobody expects it.",
    cure="Feed it from what is live only then, or plan it as live then.",
    source="Solved network")
def lives_on(figures: Figures, say: Say) -> Iterator[Finding]:
    """Loads that live longer than meant, where no second feed is told of."""
    fed_back = {e for _, _, victims in figures.joins.back_fed for e in victims}
    for load in figures.plan.loads:
        states = [s for s in figures.volts.lives_beyond(load) if s in ("parked", "key_on", "charging")]
        if states and load.id not in fed_back:
            yield say("caution", (load.id,), (
                f"{load.name} also has voltage in: {', '.join(STATE_NAMES[s] for s in states)}; it must be live "
                f"only {LIVES_WITH[load.live]}. Its feed is live then and nothing switches it."), "circuit")


@rule(
    "load.outside-window",
    meaning="The voltage at an accessory is outside what its maker accepts.",
    cure="Less drop (thicker wire, shorter way), another feed, or an accessory that accepts it.",
    source="The accessory's stated window; solved network")
def outside_window(figures: Figures, say: Say) -> Iterator[Finding]:
    """Volts at every load in every judged state against its window."""
    serial = {p.id for pair in figures.joins.in_series for p in pair}
    for load in figures.plan.loads:
        if load.id in serial or figures.volts.reversed_in(load.id):
            continue
        dim, by_coil = _is_dim(figures, load) or is_starved(figures, load.id), on_ac(figures, load)
        for name, volts in _volts(figures, load, JUDGED_STATES):
            if load.id in _on_floor(figures, name) or dim:
                continue  # said by load.not-carried, which shows no voltage, by load.dim, or of its overloaded source
            got_v = load.sees_v(volts, on_ac=by_coil)
            if got_v < load.window_low_v - 1e-9 and load.behaviour != "filament":
                yield say("stop", (load.id,), (
                    f"{load.name} gets {got_v:.2f} V ({state(name)}); below {load.window_low_v:g} V it "
                    "does not work."), "circuit", f"load_v/{load.id}/{name}")
                break
        highest = max(((load.sees_v(v, on_ac=by_coil), s) for s in JUDGED_STATES
                       if (v := figures.volts.most_v(load.id, s)) is not None), default=None)
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
        found = None if load.id in over_speed or on_ac(figures, load) else _is_dim(figures, load)
        if found is None:
            continue
        volts, name = found
        share = volts / load.at_v
        left = share ** (LIGHT_EXPONENT if load.behaviour == "filament" else 2)
        result = {"filament": f"about {percent(left)} of its light", "resistor": f"about {percent(left)} of its heat"}
        what = result.get(load.behaviour, "it can fail to start, and its rated current does not hold here")
        yield say("caution" if left < HARDLY_FRAC else "advice", (load.id,), (
            f"{load.name} is made for {load.at_v:g} V and gets {volts:.3g} V at the most ({state(name)}): {what}."),
            "accessory",
            f"load_v/{load.id}/{name}")


def _is_dim(figures: Figures, load: LoadPart) -> tuple[float, States] | None:
    """The most that a load gets and when, if that is under three quarters of what it is made for; else None."""
    serial = {p.id for pair in figures.joins.in_series for p in pair}
    best = max(((v, s) for s, v in _volts(figures, load, JUDGED_STATES) if load.id not in _on_floor(figures, s)),
               default=None)
    if best is None or best[0] >= DIM_FRAC * load.at_v or load.id in serial or is_starved(figures, load.id):
        return None
    # Electronics say by their window what they take; only where that leaves out the stated voltage is it said here.
    windowed = load.behaviour in ("power", "current") and load.window_low_v <= load.at_v <= load.window_high_v
    state_lost, lost = figures.volts.worst_drop(load)
    # then the way to it is what is wrong, and load.drop tells it
    wires_fault = state_lost is not None and lost > 1 - DIM_FRAC
    return None if windowed or wires_fault else best


@rule(
    "load.drops-out",
    meaning="An accessory's voltage falls below its window while the starter turns.",
    cure="Make it live with the engine only, or accept that it restarts.",
    source="Solved network, cranking")
def drops_out(figures: Figures, say: Say) -> Iterator[Finding]:
    """Electronics that restart at every start."""
    for load in figures.plan.loads:
        volts = figures.volts.across_v(load.id, "cranking")
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
    serial = {p.id for pair in figures.joins.in_series for p in pair}
    found: dict[str, States] = {}
    for name in JUDGED_STATES:
        for element in _on_floor(figures, name):
            part = figures.topology.parts.get(element)
            starved = is_starved(figures, element)
            if part and element not in serial and not starved and not figures.volts.reversed_in(
                    element) and _powered(figures, element, name):
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
        name, lost = figures.volts.worst_drop(load)
        limit = drop_limit_frac(figures.plan, load)
        if name is None or lost <= limit + 1e-9 or not figures.path(load.id).complete or _weak(figures, load, name,
                                                                                               lost, limit):
            continue
        result = figures.volts.row(load.id, name)
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
        name, lost = figures.volts.worst_drop(load)
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
    result, begins = figures.volts.row(load.id, name), figures.volts.begins_v(load.id, name)
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


def _volts(figures: Figures, load: LoadPart, states: tuple[States, ...]) -> list[tuple[States, float]]:
    return [(s, v) for s in states if (v := figures.volts.across_v(load.id, s)) is not None and v > 0.5]


def _on_floor(figures: Figures, name: States) -> tuple[str, ...]:
    return tuple(dict.fromkeys(
        e for row in figures.volts.rows if row.state == name and row.solution for e in row.solution.on_floor
        if figures.plan.is_one(e, LoadPart) is None or (e in row.solution.fed and abs(row.current(e)) > LEAST_ON_A)))


def _powered(figures: Figures, element: str, name: States) -> bool:
    load = figures.plan.is_one(element, LoadPart)
    return load is None or name in figures.plan.lives_in(load)
