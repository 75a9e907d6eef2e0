"""What the readings as found say against the machine, and what has only been believed or contradicts itself."""

from collections.abc import Iterator

from ..doc.states import LIVES_WITH, OCCASIONS
from ..edits.survey import Confirm
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.tap import Tap
from ..survey.continuity import understand
from ..survey.health import judged
from ..survey.pins import classify
from ..survey.shows import kind_words
from .registry import Say, rule
from .words import named

# of a 12 V battery that nothing charges; a 6 V one: half
ENGINE_OFF_MOST_V = {"flooded": 13.3, "agm": 13.3, "lfp": 13.9}


@rule(
    "survey.found",
    meaning="A reading taken at the posts of the machine as found shows a weak battery, poor charging, or a high "
            "key-off current.",
    cure="Repair what was found before anything is planned on it.",
    source="Battery model of docs/physics.md; usual charging voltages")
def as_found(figures: Figures, say: Say) -> Iterator[Finding]:
    """Judgements of the readings at the posts that are not in order."""
    for one in judged(figures.plan):
        if one.severity:
            yield say(one.severity, (one.reading.element,), one.sentence, "machine", one.working)


@rule(
    "survey.contradiction",
    meaning="The readings of a pin contradict each other: no kind of pin shows all of them.",
    cure="Measure again; a loose probe or a wrong range is likelier than a new kind of pin.",
    source="Likelihood of each reading by kind of pin")
def contradiction(figures: Figures, say: Say) -> Iterator[Finding]:
    """Pins with readings that do not fit what they most likely are."""
    with_readings = {r.element for r in figures.plan.readings}
    for pin in figures.plan.of(Tap):
        if pin.id in with_readings and (verdict := classify(figures.plan, pin)).conflicts:
            used = bool(figures.plan.fed_from(pin.id))
            yield say("caution" if used else "advice", (pin.id,), (
                f"{pin.name}: {verdict.conflicts[0]}. Measure again."), "machine")

LASTING = ("constant", "key", "engine")  # live as long as key or engine: no lamp's, brake's or horn's own wire


@rule(
    "survey.as-entered",
    meaning="What a pin was entered as is not what its readings show.",
    cure="Accept what the readings show, or measure again.",
    source="Likelihood of each reading by kind of pin")
def not_as_entered(figures: Figures, say: Say) -> Iterator[Finding]:
    """Pins in use whose settled readings say something else."""
    plan = figures.plan
    with_readings = {r.element for r in plan.readings}
    used = {p.feed for p in plan.loads} | {end.part for w in plan.wires for end in (w.a, w.b)}
    for pin in plan.taps:
        if pin.id not in with_readings or pin.id not in used:
            continue
        verdict = classify(plan, pin)
        if verdict.is_sure and (verdict.kind in LASTING or verdict.kind == "ground" if pin.live in OCCASIONS
                                else verdict.live != pin.live):
            planned = LIVES_WITH[pin.live]
            shown = kind_words(plan)[verdict.kind] if verdict.kind else ""
            yield say("stop" if verdict.live is None else "caution", (pin.id,), (
                f"{pin.name} is planned as live {planned}; its readings show: {shown}."), "machine")


@rule(
    "survey.unlikely",
    meaning="A reading is higher than the machine can give in that state.",
    cure="Ask whether a charger was on, the engine was running, or the probes were elsewhere.",
    source="Usual voltages of the system")
def unlikely(figures: Figures, say: Say) -> Iterator[Finding]:
    """Charging voltages with the engine off, and voltages the wrong way round."""
    plan = figures.plan
    most = ENGINE_OFF_MOST_V[plan.battery.chemistry] * plan.machine.system_v / 12 if plan.battery else float("inf")
    for r in plan.readings:
        if r.quantity != "V":
            continue
        if r.state in ("key_off", "key_on", "lamp_on", "cranking") and r.value > most and (
                plan.battery is None or r.element != plan.battery.id):
            yield say("note", (r.element,), (
                f"{r.value:g} V at {named(figures, r.element)} with the engine off is a charging voltage: was a "
                "charger on, or did the engine run?"), "machine")
        elif r.value < -0.5:
            yield say("note", (r.element,), (
                f"{r.value:g} V at {named(figures, r.element)}: the probes were the other way round."), "machine")


@rule(
    "survey.believed",
    meaning="A feed or trigger in use is not confirmed: it is usual on such a machine or copied from another, and not "
            "confirmed on this one.",
    cure="Probe it here, then confirm it.",
    source="Machines of one family differ")
def believed(figures: Figures, say: Say) -> Iterator[Finding]:
    """Believed pins that the plan relies on."""
    used = {p.feed for p in figures.plan.loads} | {end.part for w in figures.plan.wires for end in (w.a, w.b)}
    for pin in figures.plan.taps:
        if pin.standing == "believed" and pin.id in used:
            yield say("advice", (pin.id,), (
                f"{pin.name} is not confirmed: probe it on this machine before you rely on it."),
                "machine", "",
                (Proposal(Confirm(ids=(pin.id,)), f"{pin.name} was seen here"),))


@rule(
    "survey.continuity",
    meaning="A continuity table contradicts itself.",
    cure="Test the named pairs again.",
    source="What is joined to the same is joined to each other")
def tables(figures: Figures, say: Say) -> Iterator[Finding]:
    """Tables with tests that cannot all be right."""
    for table in figures.plan.tables:
        result = understand(table)
        if not result.consistent:
            yield say("advice", (table.id,), f"{table.name}: {result.sentences[0]}", "machine")
