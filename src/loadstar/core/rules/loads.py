"""Rules about accessories: complete circuit, voltage at the load, drop, standing draw."""

from collections.abc import Iterator

from ..analysis import Analysis
from ..findings import Finding, Severity
from ..plan.edits import SetWire
from ..plan.model import JUDGED_STATES, LIVE_STATES, RUNNING, STATE_NAMES, Coil, LoadPart, States
from ..sizing.choose import drop_limit_frac
from .registry import rule

CIRCUITS, LOADS = "circuits", "loads"


@rule("load.no-circuit", meaning="An accessory has no way from the battery to it, or none back.",
      cure="Take it out and add it again, or connect it.", source="The plan's wires")
def no_circuit(analysis: Analysis) -> Iterator[Finding]:
    """Loads without feed or return."""
    if not analysis.topology.positive:
        return
    for load in analysis.plan.loads:
        path = analysis.path(load.id)
        if not path.complete:
            missing = "feed" if not path.feed else "return"
            yield Finding("load.no-circuit", "stop", (load.id,), f"{load.name} has no {missing}: it cannot work.",
                          CIRCUITS)


@rule("load.reversed", meaning="An accessory's positive lies below its negative: LED, converters and electronics do not "
      "work so, and some are destroyed.", cure="Change its two wires over.", source="Solved network; polarity")
def is_reversed(analysis: Analysis) -> Iterator[Finding]:
    """Loads with their polarity reversed in any state."""
    for load in analysis.plan.loads:
        state = next((s for s in analysis.states if analysis.is_reversed(load.id, s)), None)
        if state is not None:
            kind: Severity = "caution" if load.behaviour in ("resistor", "filament") else "stop"
            yield Finding("load.reversed", kind, (load.id,), (
                f"{load.name} has its polarity reversed ({STATE_NAMES[state].lower()}): change its two wires over."), CIRCUITS)


@rule("load.not-live", meaning="An accessory gets no voltage in a state in which it must live.",
      cure="See to its relay, trigger or feed.", source="Solved network")
def not_live(analysis: Analysis) -> Iterator[Finding]:
    """Loads that are dead in a state they are meant to live in."""
    for load in analysis.plan.loads:
        if not analysis.states or not analysis.path(load.id).complete:
            continue
        dead = [s for s in LIVE_STATES[load.live] if s in analysis.states and s not in ("cranking", "charging")
                and analysis.states[s].solution is not None and analysis.across_v(load.id, s) is None]
        if isinstance(analysis.plan.supply, Coil):
            dead = [s for s in dead if s in RUNNING]  # a coil gives nothing while the engine stands
        if dead:
            yield Finding("load.not-live", "stop", (load.id,), (
                f"{load.name} gets no voltage in: {', '.join(STATE_NAMES[s] for s in dead)}; it is meant to live then. "
                "Its relay is not pulled in, or its feed is dead."), CIRCUITS)


@rule("load.outside-window", meaning="The voltage at an accessory is outside what its maker accepts.",
      cure="Less drop (thicker wire, shorter way), another feed, or an accessory that accepts it.",
      source="The accessory's stated window; solved network")
def outside_window(analysis: Analysis) -> Iterator[Finding]:
    """Volts at every load in every judged state against its window."""
    for load in analysis.plan.loads:
        for state, volts in _volts(analysis, load, JUDGED_STATES):
            if load.id in _on_floor(analysis, state):
                continue  # said by load.not-carried, which shows no voltage
            if volts < load.window_low_v - 1e-9 and load.behaviour != "filament":
                yield Finding("load.outside-window", "stop", (load.id,), (
                    f"{load.name} gets {volts:.2f} V ({STATE_NAMES[state].lower()}); below {load.window_low_v:g} V it "
                    "does not work."), CIRCUITS, f"load_v/{load.id}/{state}")
                break
        highest = max(((v, s) for s, v in _volts(analysis, load, JUDGED_STATES)), default=None)
        if highest and highest[0] > load.window_high_v + 1e-9:
            yield Finding("load.outside-window", "stop", (load.id,), (
                f"{load.name} gets {highest[0]:.2f} V ({STATE_NAMES[highest[1]].lower()}); it accepts up to "
                f"{load.window_high_v:g} V and may be destroyed."), LOADS, f"load_v/{load.id}/{highest[1]}")


@rule("load.drops-out", meaning="An accessory's voltage falls below its window while the starter turns.",
      cure="Let it live with the engine, or accept that it restarts.", source="Solved network, cranking")
def drops_out(analysis: Analysis) -> Iterator[Finding]:
    """Electronics that restart at every start."""
    for load in analysis.plan.loads:
        volts = analysis.across_v(load.id, "cranking")
        if volts is not None and volts < load.window_low_v and load.category in ("electronics", "tracker"):
            yield Finding("load.drops-out", "advice", (load.id,), (
                f"{load.name} sees {volts:.2f} V while cranking, below the {load.window_low_v:g} V it needs: it will "
                "drop out and start again at every start."), LOADS, f"load_v/{load.id}/cranking")


@rule("load.not-carried", meaning="A load asks for more power than the source and wires can carry: the voltage "
      "collapses.", cure="Thicker or shorter wires, a stronger source, a smaller load.", source="Solved network")
def not_carried(analysis: Analysis) -> Iterator[Finding]:
    """Loads whose voltage collapses to the solver's floor; no voltage is shown."""
    seen: set[str] = set()
    for state in JUDGED_STATES:
        for element in _on_floor(analysis, state):
            part = analysis.topology.parts.get(element)
            if part is None or element in seen or not _powered(analysis, element, state):
                continue
            seen.add(element)
            yield Finding("load.not-carried", "stop", (element,), (
                f"The source and its wires cannot carry {part.name} ({STATE_NAMES[state].lower()}): its voltage "
                "collapses."), CIRCUITS)


@rule("load.drop", meaning="More of the voltage is lost in feed and return than the house rule allows.",
      cure="A thicker wire on its way, or a shorter one.", source="House rule: voltage drop; solved network")
def drop(analysis: Analysis) -> Iterator[Finding]:
    """Drop of every circuit, at operating temperature, with everything on."""
    for load in analysis.plan.loads:
        state, lost = analysis.worst_drop(load)
        limit = drop_limit_frac(analysis.plan, load)
        if state is None or lost <= limit + 1e-9:
            continue
        result = analysis.states[state]
        ways = [k.element for k in (*analysis.path(load.id).feed, *analysis.path(load.id).back)]
        thin = [w for w in ways if w in analysis.wires and analysis.wires[w].fixed]
        worst_wire = max(thin, key=lambda w: abs(result.current(w)) / analysis.wires[w].area_mm2, default=None)
        cure = SetWire(id=worst_wire, values={"area_mm2": None}) if worst_wire else None
        yield Finding("load.drop", "caution", (load.id, *([worst_wire] if worst_wire else [])), (
            f"{load.name} loses {lost:.1%} of the posts' voltage on the way ({STATE_NAMES[state].lower()}); the house "
            f"rule for it is {limit:.1%}."), CIRCUITS, f"drop/{load.id}/{state}", cure,
            f"Let Loadstar choose {worst_wire}" if cure else "")


@rule("load.always-live", meaning="An accessory is live with the key off: it drains the battery, and strangers can "
      "use it.", cure="Let it live with the key, or say why it must not.", source="House rule: switched unless chosen")
def always_live(analysis: Analysis) -> Iterator[Finding]:
    """Constant feeds that nobody has given a reason for."""
    for load in analysis.plan.loads:
        if (load.live == "always" and not load.reason_always.strip()
                and analysis.plan.rules.always_loads == "with a reason"):
            yield Finding("load.always-live", "advice", (load.id,), (
                f"{load.name} is always live and no reason is given: with the key off it drains the battery."), LOADS)


def _volts(analysis: Analysis, load: LoadPart, states: tuple[States, ...]) -> list[tuple[States, float]]:
    return [(s, v) for s in states if (v := analysis.across_v(load.id, s)) is not None and v > 0.5]


def _on_floor(analysis: Analysis, state: States) -> tuple[str, ...]:
    result = analysis.states.get(state)
    return result.solution.on_floor if result and result.solution else ()


def _powered(analysis: Analysis, element: str, state: States) -> bool:
    # A dead load also lies on the floor; a collapsing one has current and a source that is live.
    load = analysis.topology.parts[element]
    if not isinstance(load, LoadPart):
        return True
    return state in LIVE_STATES[load.live] and abs(analysis.states[state].current(element)) > 1e-3


