"""The workshop's shelf: what is there, what it costs, taken in and out as a table."""


from django.contrib import messages
from django.db.models import Count
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from loadstar.core.shelf import Stock
from loadstar.exchange import shelf as table

from ...records.found_by import lowered
from ...records.models import Need, ShelfItem
from ...records.shelf import stock_of
from ...workshop.access import member_view, require_edit
from ...workshop.models import Membership, Trail, Workshop
from ...workshop.trail import note

MOST_BYTES = 1024 * 1024
MOST_USES = 200  # plans that are listed


@member_view
def shelf(request: HttpRequest, membership: Membership) -> HttpResponse:
    """The shelf as a list. POST changes one line, or puts a new one on."""
    told: dict[str, str] = {}
    typed = request.POST.dict() if request.method == "POST" else {}
    if typed:
        require_edit(membership)
        read = table.from_csv(_as_table(typed))
        if read.stock:
            (stock,) = read.stock
            _keep(membership.workshop, [stock])
            messages.success(request, f"{stock.what} is on the shelf: {stock.here:g}.")
            return redirect("shelf", membership.workshop.slug)
        told = {"what": " ".join(fault.removeprefix("Line 2: ").capitalize() for fault in read.faults)}
    return _page(request, membership, typed, told)


@member_view
@require_POST
def shelf_file(request: HttpRequest, membership: Membership) -> HttpResponse:
    """A table taken in: lines of the same name are replaced, others stay; all of it, or none."""
    require_edit(membership)
    sent = request.FILES.get("table")
    if sent is None or sent.size is None or sent.size > MOST_BYTES:
        told = "Choose a file." if sent is None else f"The file is larger than {MOST_BYTES // 1024:,} kB."
        return _page(request, membership, {}, {"table": told})
    try:
        read = table.from_csv(sent.read().decode("utf-8-sig"))
    except (UnicodeDecodeError, table.csv.Error):
        return _page(request, membership, {}, {"table": "This is no table in UTF-8."})
    if read.faults:
        return _page(request, membership, {}, {"table": " ".join(read.faults)})
    _keep(membership.workshop, read.stock)
    note(Trail.What.IMPORTED, membership.person, membership.workshop, f"shelf, {len(read.stock)} lines")
    messages.success(request, f"{len(read.stock)} lines taken in.")
    return redirect("shelf", membership.workshop.slug)


@member_view
@require_POST
def shelf_take_off(request: HttpRequest, membership: Membership) -> HttpResponse:
    """One line taken off."""
    require_edit(membership)
    what = request.POST.get("what", "")
    gone, _ = ShelfItem.objects.filter(workshop=membership.workshop, what=what).delete()
    if gone:
        messages.success(request, f"{what} is off the shelf.")
    return redirect("shelf", membership.workshop.slug)


@member_view
def shelf_csv(request: HttpRequest, membership: Membership) -> HttpResponse:
    """The shelf as a table."""
    note(Trail.What.EXPORTED, membership.person, membership.workshop, "shelf")
    response = HttpResponse("\ufeff" + table.to_csv(stock_of(membership.workshop)),
                            content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="loadstar-shelf.csv"'
    return response


def _page(request: HttpRequest, membership: Membership, typed: dict[str, str], told: dict[str, str]) -> HttpResponse:
    stock = stock_of(membership.workshop)
    chosen = next((s for s in stock if s.what == request.GET.get("what")), None)
    if chosen is not None and not typed:
        typed = {name: "" if (value := getattr(chosen, name)) is None else f"{value:g}" if isinstance(value, float)
                 else " ".join(f"{m:g}" for m in value) if isinstance(value, tuple) else value
                 for name in table.COLUMNS}
    mine = Need.objects.filter(workshop=membership.workshop, text__in={lowered(s.what, Need) for s in stock})
    found = dict(mine.values_list("text").annotate(plans=Count("pk")))
    used = {s.what: found.get(lowered(s.what, Need), 0) for s in stock}
    asked = request.GET.get("used", "")
    return render(request, "ends/shelf.html", {
        "membership": membership, "stock": stock, "typed": {"pack": "1", "what": request.GET.get("what", ""), **typed},
        "told": told, "low": sum(s.is_low for s in stock), "used": used, "asked": asked,
        "uses": _uses(membership.workshop, asked) if asked else ()}, status=422 if told else 200)


def _uses(workshop: Workshop, what: str) -> list[Need]:
    """The plans that need a thing, those begun last first."""
    found = Need.objects.filter(workshop=workshop, text=lowered(what, Need)).select_related("plan__summary")
    return list(found.order_by("-plan_id")[:MOST_USES])


def _as_table(typed: dict[str, str]) -> str:
    """One line as it was typed, as a table of one: judged as every other is."""
    text = table.io.StringIO()
    writer = table.csv.writer(text, delimiter=";")
    writer.writerow(table.COLUMNS)
    writer.writerow([" ".join(typed.get(name, "").split()) for name in table.COLUMNS])
    return text.getvalue()


def _keep(workshop: Workshop, stock: "list[Stock] | tuple[Stock, ...]") -> None:
    ShelfItem.objects.bulk_create(
        [ShelfItem(workshop=workshop, **{name: getattr(one, name) for name in table.COLUMNS}) for one in stock],
        update_conflicts=True,
        update_fields=[name for name in table.COLUMNS if name != "what"])
