"""What the page of a plan's house rules shows, each rule with its reason."""

from typing import Any

from django.http import Http404

from loadstar.core.plan.model import Plan

from ...frame.asks import RULE_GROUPS
from ...frame.fields import ModelForm, QuantityField
from ...frame.forms import open_form
from ...frame.frame import Frame


def rules(frame: Frame) -> dict[str, Any]:
    """The house rules of the plan; the form has them all."""
    if frame.opened and frame.opened.kind != "rules":
        raise Http404  # the form of something else: no page leads here
    # who may not change them reads them
    opened = frame.opened or open_form(frame.plan, frame.units, element="rules")
    return {"workshop_rules": frame.plan.workshop_rules,
            "groups": grouped(opened.form, frame.plan) if opened else []}


def _said(field: Any, value: Any) -> str:
    """A rule's value as its field shows it."""
    if isinstance(field, QuantityField):
        return f"{field.prepare_value(value)} {field.unit_label}".strip()
    words = dict(getattr(field, "choices", ()))
    text = {True: "yes", False: "no"}.get(value, f"{value:g}" if isinstance(value, float) else str(value))
    return str(words.get(text, text))


def grouped(form: ModelForm, plan: Plan | None = None) -> list[dict[str, Any]]:
    """A rules form's fields in their groups, each with its reason and whether the plan departs from the workshop."""
    groups = []
    for title, specs in RULE_GROUPS:
        rows = []
        for spec in specs:
            departs = plan is not None and getattr(plan.rules, spec.name) != getattr(plan.workshop_rules, spec.name)
            rows.append({"field": form[spec.name], "departs": departs,
                         "value": "" if plan is None else _said(form.fields[spec.name], getattr(plan.rules, spec.name)),
                         "usual": _said(form.fields[spec.name], getattr(plan.workshop_rules, spec.name))
                         if plan is not None else None,
                         "why": form[f"why_{spec.name}"] if f"why_{spec.name}" in form.fields else None})
        groups.append({"title": title, "rows": rows})
    return groups
