"""Papers made beside the request, by revision and by what else they tell of: asked for again, one that is there is
handed out as it is."""

import hashlib
import io
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.core.handlers.wsgi import WSGIRequest
from django.db.models import Count, Max
from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone

from loadstar.core.errors import PlanError, refuse

from ..frame.frame import Frame, frame_for
from ..jobs import work
from ..jobs.kinds import Made, Piece
from ..jobs.models import Job
from ..jobs.views import answer
from ..plans.known import program
from ..records.machine import file_of
from ..records.models import AsBuilt, BuildEntry, Photo, ProofReading, Reserved, ShelfItem
from ..workshop.models import Membership
from . import board, machine
from .binding import bind
from .card import card_pdf
from .crimp import crimp_card_pdf
from .labels import FORMS, labels_pdf
from .names import PAPERS
from .pinmaps import is_plugged, pin_maps_pdf
from .press import foot_of
from .sheet import work_sheet_pdf

PDF, ZIP = "application/pdf", "application/zip"


@dataclass(frozen=True)
class Paper:
    """A paper: its title, the name of its file (without revision and ending), how it is made of a frame and of what was
    asked for in words, and of which plans there is one. `usual` is what is asked for where nobody chose."""

    title: str
    file: str
    make: Callable[[Frame, Mapping[str, Any]], bytes]
    there: Callable[[Frame], bool]
    usual: Mapping[str, Any] = field(default_factory=dict)


def _wired(frame: Frame) -> bool:
    return bool(frame.analysis.wires)


def _ended(frame: Frame) -> bool:
    ends = frame.analysis.ends
    return ends is not None and any(end.chosen for end in ends.every)


def _lies_flat(frame: Frame) -> bool:
    loom = frame.analysis.loom
    return loom is not None and bool(loom.bundles) and not loom.cuts


def _circuits(frame: Frame) -> bool:
    return bool(frame.analysis.states)


ALONE: dict[str, Paper] = {
    "card": Paper("Circuit card", "circuit-card-{load}", lambda f, a: card_pdf(f, a["load"]), _circuits),
    "pin-maps": Paper("Pin maps", "pin-maps", lambda f, a: pin_maps_pdf(f), is_plugged),
    "crimp-card": Paper("Crimp card", "crimp-card", lambda f, a: crimp_card_pdf(f), _ended),
    "labels": Paper("Wire labels", "wire-labels", lambda f, a: labels_pdf(f, a["form"]), _wired, {"form": FORMS[0]}),
    "work-sheet": Paper("Work sheet", "work-sheet", lambda f, a: work_sheet_pdf(f), _wired),
    "board": Paper("The board", "board-{plan}", lambda f, a: board.board_pdf(
        f, board.Print(a["paper"], a["across"], a["along"], a.get("bench_mm"))), _lies_flat,
        {"paper": "A4", "across": 1.0, "along": 1.0})}
# What the machine's file holds beside its papers; and a card of each circuit, in one.
BESIDE, CARDS = ("work-sheet", "board", "crimp-card", "labels", "pin-maps"), "circuit-cards"


def paper(frame: Frame, name: str, station: str, attached: bool = False, **asked: Any) -> HttpResponse:
    """A paper of the plan that the frame shows; made now, or kept from before. 429 when too many are being made."""
    request, loaded = frame.request, frame.loaded
    asked = {**asked, "paper_of": name, "plan": frame.row.pk, "revision": loaded.number, "station": station,
             "state": frame.state, "scheme": request.scheme, "host": request.get_host()}
    units = frame.units
    told = json.dumps([program(), asked, repr(units), timezone.localdate().isoformat(), _records_told(frame)],
                      sort_keys=True)
    title = f"{ALONE[name].title if name in ALONE else _title(name, asked)}, {frame.plan.name}"
    try:
        job = work.ask(frame.membership, "paper", title, hashlib.sha256(told.encode()).hexdigest(), asked)
    except PlanError as error:
        return render(request, "error.html", {"title": "Wait a moment", "text": error.faults[0].sentence}, status=429)
    return answer(request, frame.membership, job, attached=attached)


def _title(name: str, asked: Mapping[str, Any]) -> str:
    return "Machine's file" if name == "machine" else PAPERS.get(asked["only"], "Papers")


def _records_told(frame: Frame) -> list[Any]:
    """What a paper tells of beside the plan: it is another one when this is."""
    row, workshop = frame.row, frame.membership.workshop
    found: list[Any] = [workshop.name, frame.membership.person_id]
    for model in (BuildEntry, ProofReading, AsBuilt, Photo, Reserved):
        found += model.objects.filter(plan=row).aggregate(n=Count("pk"), last=Max("pk")).values()
    shelf = ShelfItem.objects.filter(workshop=workshop).order_by("pk").values_list()
    return [*found, hashlib.sha256(repr(list(shelf)).encode()).hexdigest()]


class Papers:
    """The kind of job that makes them."""

    patience_s: float | None = 20.0

    def pieces(self, job: Job) -> Sequence[Piece]:
        """The papers of a machine, long ones in slices."""
        name = job.asked["paper_of"]
        if name in ALONE:
            return [Piece(name, ALONE[name].title)]
        frame = _frame(job)
        found = [Piece(f"{s.paper}.{s.number}.{int(s.last)}", PAPERS[s.paper], pages)
                 for s, pages in machine.slices(frame, job.asked["only"])]
        return [*found, *_beside(frame)] if name == "machine" else found

    def piece(self, job: Job, key: str) -> bytes:
        """One of them."""
        asked = job.asked
        if key in ALONE:
            return ALONE[key].make(_frame(job), {**ALONE[key].usual, **asked})
        if key.startswith(f"{CARDS}."):
            return card_pdf(_frame(job), key.removeprefix(f"{CARDS}."))
        name, number, last = key.split(".")
        return machine.slice_pdf(_frame(job), name, int(number), last == "1", asked["size"], bool(asked["only"]))

    def whole(self, job: Job, made: Sequence[bytes]) -> Made:
        """The pages bound; the machine's file packed around them."""
        asked = job.asked
        name, revision = asked["paper_of"], asked["revision"]
        frame = _frame(job)
        foot = foot_of(frame)
        if name in ALONE:
            return Made(bind(made, foot), PDF, f"{ALONE[name].file.format(**asked)}-r{revision}.pdf")
        papers: dict[str, list[bytes]] = {}
        for piece, data in zip(self.pieces(job), made, strict=True):
            papers.setdefault(piece.key.split(".")[0], []).append(data)
        slices = [(paper, data) for paper, every in papers.items() if paper in PAPERS for data in every]
        pages = machine.bound(frame, slices, asked["size"])
        if name == "machine":
            beside = {paper: bind(every, foot) for paper, every in papers.items() if paper not in PAPERS}
            return Made(file_of(frame.loaded, {"all": pages, **beside}), ZIP,
                        f"loadstar-machine-{asked['plan']}-r{revision}.zip")
        return Made(pages, PDF, f"{asked['only'] or 'papers'}-r{revision}.pdf")


def _beside(frame: Frame) -> list[Piece]:
    """What the machine's file holds beside its papers."""
    found = [Piece(one, ALONE[one].title) for one in BESIDE if ALONE[one].there(frame)]
    if ALONE["card"].there(frame):
        circuits = (*frame.plan.loads, *(main.part for main in frame.analysis.mains.values()))
        found += [Piece(f"{CARDS}.{part.id}", f"Circuit card of {part.name}") for part in circuits]
    return found


def _frame(job: Job) -> Frame:
    """The frame of the page that asked, as its member sees it."""
    asked = job.asked
    membership = Membership.objects.select_related("workshop", "person").filter(
        person=job.person_id, workshop=job.workshop_id).first()
    if membership is None:
        raise refuse("", "file", "Whoever asked for it no longer belongs to this workshop.")
    host, _, port = asked["host"].partition(":")
    request = WSGIRequest({
        "REQUEST_METHOD": "GET", "PATH_INFO": "/", "wsgi.input": io.BytesIO(), "wsgi.url_scheme": asked["scheme"],
        "HTTP_HOST": asked["host"], "SERVER_NAME": host, "SERVER_PORT": port or "80",
        "QUERY_STRING": f"rev={asked['revision']}&state={asked['state']}"})
    request.user = membership.person
    return frame_for(request, membership, asked["plan"], asked["station"])
