"""Answers in the pocket: a question, its answer while it is typed, and keeping it in a plan.

The address holds the question and every value, so that an answer can be sent or kept as a bookmark.
"""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from loadstar.core.doc.rules import HouseRules
from loadstar.core.edits import AddElement
from loadstar.core.errors import PlanError, refuse
from loadstar.core.pocket import QUESTIONS
from loadstar.core.pocket.base import Answer, Question, Table
from loadstar.core.pocket.tables import ColourQuestion
from loadstar.core.pocket.wire import NOT_ASKED, WireQuestion

from ..frame.fields import Asked, ModelForm
from ..frame.forms import feeds_of
from ..frame.units import Units
from ..plans.models import PlanHead
from ..records import store
from ..workshop.access import member_view, require_edit, whole_number
from ..workshop.models import Membership
from .colours import wires_so_coloured

FIRST = next(iter(QUESTIONS))
MOST_PLANS = 50


@dataclass(frozen=True)
class _Asked:
    """A question as it was asked; None of it where what was typed is nothing that can be asked."""

    form: ModelForm
    question: Question | None
    answer: Answer | None
    tables: tuple[Table, ...] = ()


def _kind(request: HttpRequest) -> type[Question]:
    key = (request.POST if request.method == "POST" else request.GET).get("q", FIRST)
    if key not in QUESTIONS:
        raise Http404
    return QUESTIONS[key]


def _asked(request: HttpRequest, kind: type[Question], membership: Membership) -> _Asked:
    """What is asked, and the answer by the workshop's rules."""
    sent = request.POST if request.method == "POST" else request.GET
    given = sent if any(field in sent for field in kind.model_fields) else None
    form = ModelForm(given, Asked(kind, kind.ASKS, Units.of(membership.person)))
    if given is not None and not form.is_valid():
        return _Asked(form, None, None)
    rules: HouseRules = membership.workshop.rules
    try:
        question = kind.model_validate(form.values() if given is not None else {})
        answer = question.answer(rules)
    except PlanError as error:
        if not form.is_bound:
            raise
        form.place_faults(error.faults)
        return _Asked(form, None, None)
    more = question.beside(rules) if request.GET.get("beside") else ()
    if isinstance(question, ColourQuestion):
        more = (wires_so_coloured(membership.workshop, question), *more)
    return _Asked(form, question, answer, (*more, *answer.tables))


@member_view
@require_GET
def pocket(request: HttpRequest, membership: Membership) -> HttpResponse:
    """One question with its answer; what is wrong with what was typed stands beside its field."""
    kind = _kind(request)
    asked = _asked(request, kind, membership)
    waits = asked.answer is not None and kind.beside is not Question.beside and "beside" not in request.GET
    kept = membership.may_edit and asked.answer is not None and asked.answer.plan is not None
    return render(request, "pocket/pocket.html", {
        "membership": membership, "asked_key": kind.KEY, "title": kind.TITLE, "asked": asked,
        "questions": [(one.KEY, one.TITLE) for one in QUESTIONS.values()], "may_keep": kept,
        "plans": _plans(membership) if kept and kind is WireQuestion else (),
        "values": [("q", kind.KEY), *_typed(asked)], "units": Units.of(membership.person), "waits": waits,
        "again": f"?{urlencode([*request.GET.lists(), ('beside', ['1'])], doseq=True)}" if waits else ""},
        status=422 if asked.form.is_bound and asked.form.errors else 200)


def _plans(membership: Membership) -> list[PlanHead]:
    """Plans that what it feeds may be kept in, the newest first."""
    return list(membership.workshop.plans.filter(archived=None).select_related("summary").order_by("-pk")[:MOST_PLANS])


@member_view
@require_POST
def keep(request: HttpRequest, membership: Membership) -> HttpResponse:
    """The circuit of an answer as a plan of its own, or what it feeds in one that is there."""
    require_edit(membership)
    kind = _kind(request)
    asked = _asked(request, kind, membership)
    here = f"{reverse('pocket', args=[membership.workshop.slug])}?{urlencode([('q', kind.KEY), *_typed(asked)])}"
    if asked.question is None or asked.answer is None or asked.answer.plan is None:
        messages.error(request, "That was not kept: there is no answer to keep.")
        return redirect(here)
    if into := request.POST.get("plan", "").removeprefix("plan/"):
        row = get_object_or_404(membership.workshop.plans, pk=whole_number(into), archived=None)
        try:
            added = _added(row, membership, asked.question)
        except PlanError as error:
            messages.error(request, f"That was not kept: {error.faults[0].sentence}")
            return redirect(here)
        messages.success(request, "Kept here. Now say what it is and where it sits.")
        return redirect(f"{reverse('station', args=[membership.workshop.slug, row.pk, 'loads'])}?sel={added}")
    row = store.begin(membership.workshop, membership.person, asked.answer.plan, "kept from an answer")
    return redirect("plan", membership.workshop.slug, row.pk)


def _added(row: PlanHead, membership: Membership, question: Question) -> str:
    """What a wire was asked for, as an accessory of a plan: from its first feed, at its first place. Its id."""
    if not isinstance(question, WireQuestion):
        raise Http404
    loaded = store.load(row)
    feeds, places = feeds_of(loaded.plan), loaded.plan.places
    if not feeds or not places:
        raise refuse("", "plan", f"{loaded.plan.name} has nothing yet that could feed it: begin under Survey.")
    draws = question.draws()
    edit = AddElement(what="load", values={
        **draws, "name": f"asked for: {draws['amount']:g} {draws['unit']}", "place": places[0].id, "feed": feeds[0].id,
        "live": "key", "returns": question.returns}, marks=dict.fromkeys(NOT_ASKED, "typical"))
    changed = store.edit(row, membership.person, loaded.number, edit)
    return next(p.id for p in changed.plan.loads if p.id not in loaded.plan.part_by_id)


def _typed(asked: _Asked) -> list[tuple[str, str]]:
    """Every field as it stands in the form."""
    return [(field.name, str(field.value() if field.value() is not None else "")) for field in asked.form]
