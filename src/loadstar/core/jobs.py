"""What the work is: fit, renew, repair, convert, a second source, strip down, or write down only.

Each kind of job says which pages it needs, in its order, and what of it can be made whole (`core/intents`). Nothing is
hidden by it: what it does not need stands behind the rest.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from .doc.machine import JobKind, SystemKind
from .intents import INTENTS
from .plan.model import Plan

ALL = ("survey", "loads", "budget", "circuits", "route", "ends", "build", "prove", "handover")
ANY: tuple[SystemKind, ...] = ("battery", "total_loss", "magneto", "ignition_only", "pack")


@dataclass(frozen=True)
class Task:
    """One thing that a job can be: its key, what it is called, the whole intent that makes it ("": none does), the
    page where it begins otherwise with what is shown there, and the machines that can have it."""

    key: str
    words: str
    intent: str = ""
    page: str = "survey"
    view: str = ""
    systems: tuple[SystemKind, ...] = ANY

    @property
    def fits(self) -> tuple[SystemKind, ...]:
        """The machines that can have it."""
        return INTENTS[self.intent].FITS if self.intent else self.systems


@dataclass(frozen=True)
class Job:
    """A kind of job: what it is called and what it comes to, its tasks, the pages that it needs in turn with what is
    done on each, and whether the beginning asks what is wanted."""

    key: JobKind
    words: str
    says: str
    tasks: tuple[Task, ...]
    pages: Mapping[str, str] = field(default_factory=dict)
    wants: bool = False


_FOUND = "how the machine is, before anything is unplugged"
_PAPERS = "what was done, what was measured, what was taken off and where it is"
JOBS: Mapping[JobKind, Job] = {job.key: job for job in (
    Job("fit", "Fit something", "Accessories, outlets, lamps, with their feeds, fuses and wires.", (
        Task("accessories", "accessories of any kind", page="loads"),
        Task("plug on a lead", "a plug on a bare lead", "plug on a lead"),
        Task("many leads", "a controller with many leads", page="ends", view="pins"),
        Task("traction", "traction leads", "traction"), Task("charging lead", "a charging lead", "charging lead"),
        Task("starter", "a starter with its button", "starter")), {
            "survey": "where power may be taken", "loads": "what is wanted", "budget": "whether there is enough",
            "circuits": "feed, fuse, relay, wire", "route": "where it runs, how long",
            "ends": "connectors, what to buy", "build": "the order of work", "prove": "what the meter must show",
            "handover": _PAPERS}, wants=True),
    Job("renew", "Renew a part", "A generator, a battery, a connector, a controller.", (
        Task("generator", "generator", "renew generator"), Task("battery", "battery", "renew battery"),
        Task("connector", "a connector or a wire's end", "new end"),
        Task("controller", "a controller with its leads", page="ends", view="pins")), {
            "survey": "the old pin map, colours, and what the new part's are", "circuits": "what the ways stand",
            "ends": "connectors and terminals", "build": "the order of work", "prove": "what the meter must show",
            "handover": _PAPERS}),
    Job("repair", "Repair", "A broken or burnt wire, a corroded joint, a fuse that blows.", (
        Task("fuse", "a fuse that blows, or is the wrong one", "found circuit"),
        Task("wire", "a broken or burnt wire", "repair wire"), Task("joint", "a corroded joint or end", "new end")), {
            "circuits": "the circuit as it is wired, and what it stands",
            "prove": "readings, and what explains a wrong one",
            "ends": "new terminations", "build": "the order of work", "survey": _FOUND, "handover": _PAPERS}),
    Job("convert", "Convert", "AC to DC, ignition only to full electrics, filament to LED, new lamps.", (
        Task("dc", "AC lighting to DC", "ac to dc"),
        Task("electrics", "ignition only to full electrics", page="loads", systems=("ignition_only",)),
        Task("led", "lamps to LED", "led"), Task("head lamp", "head lamp with dip switch", "head lamp"),
        Task("indicators", "indicators with a flasher", "indicators"), Task("starter", "electric starting", "starter")),
        dict.fromkeys(ALL, ""), wants=True),
    Job("second source", "Second source", "A second battery or pack, and what joins it to the first.", (
        Task("battery", "a second battery", "second battery"), Task("pack", "a second pack", "second pack"),
        Task("charging lead", "a charging lead", "charging lead")), {
            "survey": _FOUND, "budget": "what it gives, how long, how far",
            "circuits": "its leads, fuses, what joins it",
            "route": "where it sits and runs", "ends": "connectors, what to buy", "build": "the order of work",
            "prove": "each alone, then both", "handover": _PAPERS}),
    Job("strip down", "Strip down", "A harness cut down for competition: what goes, what moves, what that saves.", (
        Task("off", "parts and wires that go", view="removed"),
        Task("weigh", "weigh the harness", page="route", view="weigh"),
        Task("circuit", "a circuit that stays", "found circuit")), {
            "survey": "what is taken off, and where it is kept", "circuits": "what stays",
            "route": "shorter ways, grams",
            "ends": "new terminations", "build": "the order of work", "prove": "what the meter must show",
            "handover": _PAPERS}),
    Job("write down", "Write down only", "Plugs, pins, ratings and readings of a machine, to be used again.", (
        Task("survey", "connectors and pins", view="plugs"), Task("tables", "an unknown switch or lead", view="tables"),
        Task("circuit", "a circuit that is there", "found circuit")), {
            "survey": _FOUND, "prove": "readings", "handover": "the record"}),
)}
for _job in JOBS.values():
    assert set(_job.pages) <= set(ALL), _job.key
    assert all(task.intent in ("", *INTENTS) for task in _job.tasks), _job.key


def tasks_for(plan: Plan) -> tuple[Task, ...]:
    """What a plan's job can be on its machine."""
    return tuple(task for task in JOBS[plan.job].tasks if plan.machine.system in task.fits)


def task_of(text: str) -> tuple[Job, Task] | None:
    """A job and a task of it by their keys, "renew/generator"; None where there is none such."""
    kind, _, key = text.partition("/")
    job = next((job for job in JOBS.values() if job.key == kind), None)
    task = next((task for task in job.tasks if task.key == key), None) if job else None
    return (job, task) if job and task else None
