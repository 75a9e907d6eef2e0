"""Rules about a drive unit's light port: whether it gives anything, and whether that is enough."""

from collections.abc import Iterator

from ..edits import ChangeElement
from ..feeds.taps import port_asked_w
from ..figures.figures import Figures
from ..findings import Finding, Proposal
from ..parts.port import Port
from .registry import Say, rule


@rule(
    "port.not-enabled",
    meaning="The drive's light port gives nothing until service software has enabled it.",
    cure="Have a dealer or service software enable it, or feed the lamp from a converter.",
    source="The drive's port")
def port_off(figures: Figures, say: Say) -> Iterator[Finding]:
    """Light ports in use that are not enabled; with what else is wrong with them, once."""
    for part in figures.plan.of(Port):
        if not part.enabled and figures.plan.fed_from(part.id):
            asked = port_asked_w(figures.plan, part)
            over = asked > part.limit_w
            more = ""
            if over:
                more = (f" And {asked:.3g} W are asked of it, where it gives {part.limit_w:g} W: enabled, it switches "
                        "off.")
            yield say("stop" if over else "caution", (part.id,), (
                f"{part.name} gives nothing yet: a dealer, or service software for the drive, has to enable it.{more}"),
                "circuit",
                f"port/{part.id}" if over else "",
                (Proposal(ChangeElement(id=part.id, values={"enabled": True}), "It has been enabled"),))


@rule(
    "port.overloaded",
    meaning="More watts are asked of a light port than the drive gives: it switches off.",
    cure="A lamp within its watts, or a converter from the pack.",
    source="The port's stated limit")
def port_overloaded(figures: Figures, say: Say) -> Iterator[Finding]:
    """Watts on each enabled light port against its limit."""
    for part in figures.plan.of(Port):
        if part.enabled:
            asked = port_asked_w(figures.plan, part)
            if asked > part.limit_w:
                yield say("stop", (part.id,), (
                    f"{part.name} gives {part.limit_w:g} W at {part.out_v:g} V; {asked:.3g} W are asked of it: the "
                    "drive switches it off."), "circuit", f"port/{part.id}")
