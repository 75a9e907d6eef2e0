"""Whole circuits from what somebody wants: a horn on a button, indicators with their flasher, a starter with its
solenoid.

Each asks a few things with a sensible first choice, and becomes the same edits that could be made one by one: switches,
flashers, leads and accessories, each with its fuse and wires. Nothing here decides a size.
"""

from collections.abc import Mapping

from pydantic import ValidationError

from ..edits import Several
from ..edits.builder import Builder
from ..errors import PlanError
from ..plan.model import Plan
from ..plan.speech import validation_faults
from .base import Intent
from .convert import ToDc, ToLed
from .electric import BrakeCutoff, SwitchedConverter, Traction
from .feeds import BlockOnPlug, ChargingLead, Navigation, Outlet, RunOutput
from .lamps import BrakeLamp, HeadLamp, Indicators
from .leads import LeadPlug
from .motors import Fan, Horn, StarterControl
from .renew import NewEnd, RenewBattery, RenewGenerator
from .repair import FoundCircuit, RepairWire
from .stores import SecondPack, SecondStore

__all__ = ["INTENTS", "Intent", "asked_for", "carried_out", "offered"]

INTENTS: dict[str, type[Intent]] = {kind.KEY: kind for kind in (
    HeadLamp, Indicators, BrakeLamp, Horn, StarterControl, Fan, Outlet, BlockOnPlug, Navigation, ChargingLead, Traction,
    SwitchedConverter, BrakeCutoff, FoundCircuit, RepairWire, NewEnd, RenewGenerator, RenewBattery, ToLed, SecondStore,
    SecondPack, RunOutput, ToDc, LeadPlug)}


def offered(plan: Plan) -> list[type[Intent]]:
    """What may be wanted on a machine."""
    return [kind for kind in INTENTS.values() if plan.machine.system in kind.FITS]


def asked_for(kind: type[Intent], values: Mapping[str, object]) -> Intent:
    """What is wanted, from what was asked. PlanError where something of it cannot be."""
    try:
        return kind.model_validate(values)
    except ValidationError as error:
        raise PlanError(*validation_faults(error, "")) from error


def carried_out(plan: Plan, intent: Intent) -> Several:
    """The one step that makes what is wanted. PlanError where something does not go."""
    b = Builder(plan.name, plan)
    intent.make(b)
    return Several(edits=tuple(b.steps[1:]), words=f"{intent.TITLE[:1].lower()}{intent.TITLE[1:]}: made")
