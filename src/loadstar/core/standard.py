"""Back to standard: the steps that undo a plan's work, in order, from the plan and the survey."""

from collections import defaultdict
from collections.abc import Iterator

from .analysis import Analysis
from .parts.base import Part
from .parts.can import as_accessory


def back(analysis: Analysis) -> tuple[str, ...]:
    """What is done one after the other to have the machine as it was."""
    how = analysis.source.handling
    return (f"{how.off}.", *_bodywork(analysis), *_accessories(analysis), *_machine_s_own(analysis), *_plugs(analysis),
            *_removed(analysis), "Refit the bodywork.", f"{how.on}.", f"{how.tried}.")


OWN = ("generator", "coil", "frame", "drive", "port", "kill", "starter")  # kinds that the machine itself has


def _own(part: Part) -> bool:
    """Whether a part is the machine's own: something is joined to it, and it stays."""
    return part.AS_FOUND or part.STORES or part.kind in OWN


def _bodywork(analysis: Analysis) -> Iterator[str]:
    used = {p.place for p in analysis.plan.parts if p.id in analysis.plan.wired}
    for place in analysis.plan.places:
        if place.reach and place.id in used:
            yield f"Reach {place.name}: {place.reach}."


def _accessories(analysis: Analysis) -> Iterator[str]:
    """Accessories off, with what was put in for them."""
    plan, joined = analysis.plan, _joined(analysis)
    for load in plan.loads:
        if wires := joined[load.id]:
            yield f"Remove {load.name} at {plan.place(load.place).name}, with {', '.join(wires)}."
    added = [p.name for p in plan.parts if not _own(p) and as_accessory(p) is None
             and (p.made_for is not None or p.id in plan.wired)]
    if added:
        yield f"Remove what was put in between: {', '.join(dict.fromkeys(added))}."


def _machine_s_own(analysis: Analysis) -> Iterator[str]:
    """What was joined to the machine itself, taken off it again."""
    joined = _joined(analysis)
    for part in analysis.plan.parts:
        if _own(part) and (wires := joined[part.id]):
            how = " and close its plug again" if part.in_plug else ""
            yield f"Take {', '.join(wires)} off {part.name}{how}."


def _joined(analysis: Analysis) -> dict[str, list[str]]:
    """The wires at each part, by its id, in the plan's order."""
    found: dict[str, list[str]] = defaultdict(list)
    for wire in analysis.plan.wires:
        for part in dict.fromkeys((wire.a.part, wire.b.part)):
            found[part].append(wire.id)
    return found


def _plugs(analysis: Analysis) -> Iterator[str]:
    """Plugs that were opened or renewed, by their maps."""
    plan = analysis.plan
    for plug in plan.plugs:
        pins = plan.pins(plug.id)
        if any(p.new_colour or p.id in plan.wired for p in pins):
            yield f"{plug.name}: every wire back by its pin map as found."


def _removed(analysis: Analysis) -> Iterator[str]:
    for part in analysis.plan.removed:
        kept = f", kept at {part.stored}" if part.stored else ", where it is kept nobody has written down"
        yield f"Put back {part.name}{kept}."
