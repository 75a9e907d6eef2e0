"""The harness weighed against an earlier revision or another plan of the workshop, and what was taken off."""

from typing import Any

from django.http import Http404

from loadstar.core.harness.loom import Loom
from loadstar.core.harness.weigh import taken_off, weigh

from ...frame.frame import Frame
from ...plans.models import PlanHead, PlanSummary, Revision
from ...records import store
from ...workshop.access import whole_number

MOST_REVISIONS = 40


def weighed(frame: Frame, loom: Loom) -> dict[str, Any]:
    """Branch by branch against what is chosen."""
    chosen = frame.kept["against"]
    revisions = Revision.objects.filter(plan=frame.row).order_by("-number").values_list("number", "label")
    plans = PlanSummary.objects.filter(workshop=frame.membership.workshop, plan__archived=None).exclude(pk=frame.row.pk)
    choices = [(f"r{number}", f"Revision {number}: {label}") for number, label in revisions[:MOST_REVISIONS]
               if number != frame.loaded.number]
    choices += [(f"p{pk}", f"Plan: {name}") for pk, name in plans.order_by("name").values_list("pk", "name")]
    shown = {"choices": [(key, words, key == chosen) for key, words in choices],
             "off": taken_off(frame.plan.removed), "removed": frame.plan.removed, "against": None}
    if chosen:
        other = _other(frame, chosen)
        shown |= {"against": dict(choices).get(chosen, f"Revision {other.number}"),
                  "empty": other.analysis.loom is None,
                  "weighed": weigh(loom, other.analysis.loom) if other.analysis.loom else None}
    return shown


def _other(frame: Frame, chosen: str) -> store.Loaded:
    """A revision of this plan, or another plan of the workshop; a 404 where there is none."""
    number = whole_number(chosen[1:])
    if chosen[0] == "r":
        if not 1 <= number <= frame.row.head:
            raise Http404
        return store.load(frame.row, number)
    row = PlanHead.objects.filter(pk=number, workshop=frame.membership.workshop).first() if chosen[0] == "p" else None
    if row is None:
        raise Http404
    return store.load(row)
