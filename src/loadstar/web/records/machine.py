"""The machine's file: a plan with all its records, out of this workshop and into another."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from loadstar.core.errors import PlanError, refuse
from loadstar.core.plan import document
from loadstar.exchange import machine_file
from loadstar.exchange import records as table
from loadstar.exchange.machine_file import FileFault
from loadstar.pack import files_of

from ..plans.models import PlanHead
from ..workshop.models import Person, Workshop
from . import store
from .models import AsBuilt, BuildEntry, Photo, ProofReading
from .photos import MAX_BYTES, reencoded

BUILT, LOG, PROOF = "as_built", "log", "proof"


def records_of(row: PlanHead) -> table.Records:
    """What is on record of a plan."""
    def who(one: Any) -> str:
        return getattr(one, "named", "") or one.by.shown_name

    log = [table.LogRow(revision=e.revision, operation=e.operation, element=e.element, what=e.what, spec=e.spec,
                        tool=e.tool, pull_n=e.pull_n, note=e.note, at=e.at.isoformat(), by=who(e))
           for e in BuildEntry.objects.filter(plan=row).select_related("by").order_by("pk")]
    proof = [table.ProofRow(revision=r.revision, step=r.step, load=r.load, quantity=r.quantity, row=r.row, red=r.red,
                            black=r.black, value=r.value, expected=r.expected, spread=r.spread, plain=r.plain,
                            instrument=r.instrument, off=r.off, at=r.taken.isoformat(), by=who(r))
             for r in ProofReading.objects.filter(plan=row).select_related("by").order_by("pk")]
    closed = AsBuilt.objects.filter(plan=row).select_related("by").order_by("revision")
    built = [table.BuiltRow(revision=b.revision, note=b.note, unproved=tuple(b.unproved), at=b.at.isoformat(),
                            by=who(b)) for b in closed]
    every = Photo.objects.filter(plan=row).defer("image").select_related("by").order_by("pk")
    photos = [table.PhotoRow(element=p.element, caption=p.caption, member=f"photos/{n}.jpg", at=p.taken.isoformat(),
                             by=who(p), marks={int(way): tuple(at) for way, at in p.marks.items()})
              for n, p in enumerate(every, 1)]
    return table.Records(log=tuple(log), proof=tuple(proof), as_built=tuple(built), photos=tuple(photos))


def file_of(loaded: store.Loaded, papers: Mapping[str, bytes]) -> bytes:
    """The machine's file of a revision, with its papers as PDF, by name."""
    row, kept = loaded.row, records_of(loaded.row)
    members = files_of(loaded.analysis)
    members[machine_file.RECORDS] = table.to_json(kept)
    members["tables/log.csv"] = table.to_csv(table.LOG_COLUMNS, (r.model_dump() for r in kept.log)).encode()
    members["tables/proof.csv"] = table.to_csv(table.PROOF_COLUMNS, (r.model_dump() for r in kept.proof)).encode()
    members |= {f"papers/{name}.pdf": data for name, data in papers.items()}
    for n, photo in enumerate(Photo.objects.filter(plan=row).order_by("pk"), 1):
        members[f"photos/{n}.jpg"] = bytes(photo.image)
    return machine_file.pack(members, {"plan": loaded.plan.name, "machine": loaded.plan.machine.name,
                                       "revision": loaded.number})


def take_in(workshop: Workshop, person: Person, data: bytes) -> PlanHead:
    """A plan with its records and photographs from a machine's file: all of it, or nothing. PlanError in words."""
    try:
        members = machine_file.unpack(data)
        plan = document.from_json(members[machine_file.PLAN])
        kept = table.from_json(members[machine_file.RECORDS]) if machine_file.RECORDS in members else table.Records()
        pictures = [(p, _picture(members, p.member)) for p in kept.photos]
    except (FileFault, ValueError) as error:
        if isinstance(error, PlanError):
            raise
        raise refuse("", "file", str(error)) from error
    with transaction.atomic():
        row = store.take_in(workshop, person, plan)
        BuildEntry.objects.bulk_create(BuildEntry(
            plan=row, by=person, named=r.by, at=table.moment(r.at), token=f"file-{n}",
            **r.model_dump(exclude={"by", "at"})) for n, r in enumerate(kept.log))
        ProofReading.objects.bulk_create(ProofReading(
            plan=row, by=person, named=r.by, taken=table.moment(r.at), **r.model_dump(exclude={"by", "at"}))
            for r in kept.proof)
        AsBuilt.objects.bulk_create(AsBuilt(
            plan=row, by=person, named=r.by, at=table.moment(r.at), revision=r.revision, note=r.note,
            unproved=list(r.unproved)) for r in kept.as_built)
        for one, (image, width, height) in pictures:
            made = Photo.objects.create(plan=row, element=one.element, caption=one.caption, image=image, width=width,
                                        height=height, by=person, named=one.by,
                                        marks={str(way): list(at) for way, at in one.marks.items()})
            Photo.objects.filter(pk=made.pk).update(taken=table.moment(one.at))
    return row


def _picture(members: dict[str, bytes], name: str) -> tuple[bytes, int, int]:
    """A photograph of the file, encoded anew as one that is sent: nothing of its bytes is kept."""
    if name not in members:
        raise FileFault(f"{name} is on record and not in the file.")
    if len(members[name]) > MAX_BYTES:
        raise FileFault(f"{name} is larger than any photograph that is taken.")
    try:
        return reencoded(members[name])
    except PlanError as error:
        raise FileFault(f"{name}: {error.faults[0].sentence}") from error
