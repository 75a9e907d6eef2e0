"""Papers: circuit cards and pin maps as PDF; plan and survey as files."""

from django.http import Http404, HttpRequest, HttpResponse

from loadstar.core.harness.tiling import BAR_MM, PAPERS_MM, correction
from loadstar.core.order import order
from loadstar.core.plan import document
from loadstar.core.quantities import read
from loadstar.draw import dxf
from loadstar.draw.board import file_svg
from loadstar.exchange import cut as cut_table
from loadstar.exchange import order as order_table
from loadstar.exchange import survey as exchange

from ..frame.frame import Frame, frame_for
from ..frame.registry import STATIONS
from ..frame.show import show
from ..workshop.access import member_view
from ..workshop.models import Membership, Trail
from ..workshop.trail import note
from .beside import ALONE, paper
from .board import bench_of
from .labels import FORMS
from .machine import SIZES, wanted
from .names import PAPERS


@member_view
def export_json(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The plan in the open format of docs/format."""
    frame = frame_for(request, membership, plan, "handover")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"plan {frame.plan.name}, revision "
         f"{frame.loaded.number}")
    response = HttpResponse(document.to_json(frame.plan), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="loadstar-plan-{frame.row.pk}-r{frame.loaded.number}.json"'
    return response


@member_view
def card(request: HttpRequest, membership: Membership, plan: int, load: str) -> HttpResponse:
    """The circuit card of one accessory, or of a circuit that none has."""
    frame = frame_for(request, membership, plan, "handover")
    if load not in {*(one.id for one in frame.plan.loads), *frame.analysis.mains} or not ALONE["card"].there(frame):
        raise Http404
    return paper(frame, "card", "handover", load=load)


@member_view
def survey_json(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The survey in the open format of docs/format."""
    frame = frame_for(request, membership, plan, "survey")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"survey of {frame.plan.name}")
    return _file(exchange.to_json(frame.plan), "application/json", f"loadstar-survey-{frame.row.pk}.json")


@member_view
def survey_csv(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Every pin as a line of a table."""
    frame = frame_for(request, membership, plan, "survey")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"survey of {frame.plan.name}")
    return _file("\ufeff" + exchange.to_csv(frame.plan), "text/csv; charset=utf-8", f"loadstar-pins-{frame.row.pk}.csv")


@member_view
def pin_maps(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The pin maps of every connector as cards, with wire labels."""
    frame = frame_for(request, membership, plan, "survey")
    if not ALONE["pin-maps"].there(frame):
        raise Http404
    return paper(frame, "pin-maps", "survey")


@member_view
def crimp_card(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Every kind of end that the plan uses, to scale."""
    frame = frame_for(request, membership, plan, "ends")
    if not ALONE["crimp-card"].there(frame):
        raise Http404
    return paper(frame, "crimp-card", "ends")


@member_view
def labels(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Labels for the ends of every wire."""
    frame = frame_for(request, membership, plan, "ends")
    form = next((f for f in FORMS if f == request.GET.get("form", FORMS[0])), None)
    if not ALONE["labels"].there(frame) or form is None:
        raise Http404
    return paper(frame, "labels", "ends", form=form)


@member_view
def work_sheet(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The work sheet, to be ticked by hand."""
    frame = frame_for(request, membership, plan, "build")
    if not ALONE["work-sheet"].there(frame):
        raise Http404
    return paper(frame, "work-sheet", "build")


@member_view
def machine(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The machine's papers in one, or (`only`) one of them."""
    frame = frame_for(request, membership, plan, "handover")
    only, size = request.GET.get("only", ""), request.GET.get("size", "A4")
    if (only and only not in wanted(frame, only)) or only not in ("", *PAPERS) or size not in SIZES:
        raise Http404
    _noted(frame, "papers of")
    return paper(frame, "papers", "handover", only=only, size=size)


@member_view
def machine_zip(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The machine's file: plan, records, tables, drawings, netlists, papers, photographs."""
    frame = frame_for(request, membership, plan, "handover")
    _noted(frame, "machine's file of")
    return paper(frame, "machine", "handover", attached=True, only="", size="A4")


def _noted(frame: Frame, what: str) -> None:
    """In the trail, once for each that is made and not for every look at how far it is."""
    if "again" not in frame.request.GET:
        note(Trail.What.EXPORTED, frame.membership.person, frame.membership.workshop, f"{what} {frame.plan.name}")


@member_view
def order_csv(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """What the harness needs, as lines of a table."""
    frame = frame_for(request, membership, plan, "ends")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"order list of {frame.plan.name}")
    return _file("\ufeff" + order_table.to_csv(order(frame.analysis)), "text/csv; charset=utf-8",
                 f"loadstar-order-{frame.row.pk}.csv")


@member_view
def cut_csv(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """Every wire as it is cut, stripped and ended, as lines of a table."""
    frame = frame_for(request, membership, plan, "ends")
    note(Trail.What.EXPORTED, membership.person, membership.workshop, f"cut list of {frame.plan.name}")
    return _file("\ufeff" + cut_table.to_csv(frame.analysis), "text/csv; charset=utf-8",
                 f"loadstar-cut-{frame.row.pk}.csv")


@member_view
def board_pdf(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The board over pages at its true size, scaled by what the bars of the test page measured. A bar that cannot be
    comes back with the form that it was typed in."""
    frame = _laid_flat(frame_for(request, membership, plan, "route", STATIONS["route"].keeps))
    typed = {"paper": "A4", "across": f"{BAR_MM:g}", "along": f"{BAR_MM:g}", "bench": "", **request.GET.dict()}
    told: dict[str, str] = {}
    scale: dict[str, float | None] = {}
    for name in ("across", "along"):
        try:
            scale[name] = correction(read(typed[name], "mm"))
        except ValueError as error:
            told[name] = str(error)
    try:
        scale["bench_mm"] = bench_of(typed["bench"])
    except ValueError as error:
        told["bench"] = str(error)
    if typed["paper"] not in PAPERS_MM:
        told["paper"] = f"Choose {', '.join(PAPERS_MM)}."
    if told:
        frame.kept |= {"view": "board"}
        frame.extra |= {"print": typed, "told": told}
        return show(frame, STATIONS["route"], None, 422)
    return paper(frame, "board", "route", paper=typed["paper"], **scale)


@member_view
def board_dxf(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The board as a drawing in layers."""
    frame = _laid_flat(frame_for(request, membership, plan, "route"))
    return _file(dxf.board_dxf(frame.analysis), "image/vnd.dxf", f"board-{frame.row.pk}.dxf")


@member_view
def board_svg(request: HttpRequest, membership: Membership, plan: int) -> HttpResponse:
    """The board as a picture at its true size."""
    frame = _laid_flat(frame_for(request, membership, plan, "route"))
    return _file(file_svg(frame.analysis), "image/svg+xml", f"board-{frame.row.pk}.svg")


def _laid_flat(frame: Frame) -> Frame:
    """The frame, where its harness can lie flat; else there is no such paper."""
    if not ALONE["board"].there(frame):
        raise Http404
    return frame


def _file(text: str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
