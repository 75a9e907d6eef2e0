"""Form fields whose limits come from the plan's own models, so that page and core cannot disagree.

A field says what it accepts in a sentence, takes a decimal comma, and converts units at the edge. Nothing typed is
lost: a form that is sent back shows it as it was.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from dataclasses import field as by_default
from typing import Any, Union, get_args, get_origin

import annotated_types
from django import forms
from django.core.exceptions import ValidationError
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from loadstar.core.parts.asks import Ask
from loadstar.core.parts.dimensions import Dimensions
from loadstar.core.plan.speech import unit_of
from loadstar.core.quantities import NoQuantity, read

from .units import Units, figure
from .widgets import Choice, Lines, Text, Ticks


def limits(model: type[BaseModel], field: str) -> tuple[float | None, float | None, bool]:
    """Lowest and highest accepted value of a model's field, and whether the lowest itself is excluded."""
    low = high = None
    exclusive = False
    for note in _metadata(model, field):
        for one in note.metadata if hasattr(note, "metadata") else (note,):
            if isinstance(one, annotated_types.Ge):
                low = float(one.ge)  # type: ignore[arg-type]
            elif isinstance(one, annotated_types.Gt):
                low, exclusive = float(one.gt), True  # type: ignore[arg-type]
            elif isinstance(one, annotated_types.Le):
                high = float(one.le)  # type: ignore[arg-type]
    return low, high, exclusive


def _info(model: type[BaseModel], field: str) -> FieldInfo | None:
    """What a model says of a field; of a part's size and mass its dimensions say it. None of what is neither's."""
    return model.model_fields.get(field) or Dimensions.model_fields.get(field)


def _metadata(model: type[BaseModel], field: str) -> list[Any]:
    info = _info(model, field)
    assert info is not None, field
    found = list(info.metadata)
    todo = [info.annotation]
    while todo:
        annotation = todo.pop()
        if get_origin(annotation) is Union or str(get_origin(annotation)) == "<class 'types.UnionType'>":
            todo += get_args(annotation)
        elif hasattr(annotation, "__metadata__"):
            found += annotation.__metadata__  # type: ignore[union-attr]
    return found


def is_number(model: type[BaseModel], field: str) -> bool:
    """Whether a model's field holds a number, or nothing: a size or rating that is chosen from a list."""
    info = _info(model, field)
    return info is not None and float in (info.annotation, *get_args(info.annotation), *(
        get_args(one)[0] for one in get_args(info.annotation) if hasattr(one, "__metadata__")))


PER_CENT = 100.0
WRITTEN = {"minutes": "min", "(a share of 1)": "%"}  # a field's unit as it stands beside it
LONG_WORDS = 17  # a choice with longer words takes a whole line


class QuantityField(forms.CharField):
    """A number with a unit, within the model's limits."""

    def __init__(self, spec: Ask, model: type[BaseModel], units: Units) -> None:
        self.core_unit = WRITTEN.get(unit := unit_of(spec.name) if spec.unit is None else spec.unit, unit)
        self.units = units
        self.times = PER_CENT if spec.name.endswith("_frac") else 1.0  # a share is asked in per cent
        low, high, self.exclusive = limits(model, spec.name)
        self.low, self.high = (None if edge is None else edge * self.times for edge in (low, high))
        super().__init__(required=not spec.optional, label=spec.label, help_text=spec.help, max_length=40,
                         widget=Text(attrs={"inputmode": "decimal", "autocomplete": "off"}))
        self.unit_label = units.unit(self.core_unit)
        self.error_messages["required"] = f"A number is needed here: {self.accepted()}."

    def accepted(self) -> str:
        """What would be accepted, in words."""
        low = figure(self.units.shown(self.low, self.core_unit), trimmed=True) if self.low is not None else None
        high = self._edge(self.high) if self.high is not None else None
        first = f"more than {low}" if self.exclusive else f"from {low}"
        if low is not None and high is not None:
            return f"{first} {'up ' if self.exclusive else ''}to {high}"
        return f"{first} {self.unit_label}".strip() if low is not None else "any number"

    def _edge(self, value: float) -> str:
        return figure(self.units.shown(value, self.core_unit), self.unit_label, trimmed=True)

    def clean(self, value: Any) -> float | None:
        """The value in the core's unit."""
        text = str(super().clean(value) or "").strip()
        if not text:
            return None
        try:
            taken = read(text, self.core_unit, self.unit_label)
        except NoQuantity as error:
            raise ValidationError(f"{error} It may be {self.accepted()}.") from error
        slack = 1e-9 * max(1.0, abs(taken))
        under = self.low is not None and (taken <= self.low if self.exclusive else taken < self.low - slack)
        if under or (self.high is not None and taken > self.high + slack):
            shown = figure(self.units.shown(taken, self.core_unit), self.unit_label)
            raise ValidationError(f"{shown} is outside what is accepted: {self.accepted()}.")
        return taken / self.times

    def prepare_value(self, value: Any) -> Any:
        """A stored number in the person's unit; typed text as it is."""
        if isinstance(value, int | float):
            shown = self.units.shown(float(value) * self.times, self.core_unit)
            return f"{shown:.6g}"
        return value


class WordsField(forms.ChoiceField):
    """A choice that knows whether its words need a whole line."""

    widget = Choice

    @property
    def is_long(self) -> bool:
        """Whether any of its words would be cut in half a line."""
        return any(len(str(words)) > LONG_WORDS for _, words in self.choices)

    def prepare_value(self, value: Any) -> Any:
        """A stored size as the list has it: 6, not 6.0, or it would not be found there and another be sent back."""
        return f"{value:g}" if isinstance(value, float) else value


class SeveralField(forms.MultipleChoiceField):
    """Any number of a list, each with a tick. None ticked is sent too, so that a tick can be taken away."""

    widget = Ticks
    is_long = True

    def prepare_value(self, value: Any) -> Any:
        """What is ticked."""
        return list(value or ())


@dataclass(frozen=True)
class Asked:
    """What a form asks: which fields of which model, in whose units, with what to choose from."""

    model: type[BaseModel]
    specs: tuple[Ask, ...]
    units: Units
    choices: Mapping[str, Any] = by_default(default_factory=dict)


class ModelForm(forms.Form):
    """A form over some fields of a plan model; `values()` is what an edit takes."""

    def __init__(self, data: Any, asked: "Asked", initial: dict[str, Any] | None = None, prefix: str = "") -> None:
        super().__init__(data, initial=initial or {}, prefix=prefix or None)
        model, specs, units, choices = asked.model, asked.specs, asked.units, asked.choices
        self.kinds, self.model = {spec.name: spec.kind for spec in specs}, model
        defaults = {n: f.default for n, f in model.model_fields.items() if not f.is_required()}
        for spec in specs:
            self.fields[spec.name] = self._field(spec, model, units, choices.get(spec.name))
            if spec.name not in self.initial and spec.name in defaults and defaults[spec.name] is not None:
                self.initial[spec.name] = defaults[spec.name]
            if spec.kind == "yes":
                self.initial[spec.name] = "yes" if self.initial.get(spec.name) in (True, "yes") else "no"
        if self.is_bound:  # a field that was not sent at all stays as it is; one that was sent empty is empty
            self.data = {**{self.add_prefix(s.name): self.fields[s.name].prepare_value(self.initial[s.name])
                            for s in specs
                            if self.initial.get(s.name) is not None}, **data.dict(),
                         **{self.add_prefix(s.name): [one for one in data.getlist(self.add_prefix(s.name)) if one]
                            for s in specs if s.kind == "several" and self.add_prefix(s.name) in data}}
        for name, field in self.fields.items():
            field.widget.attrs.setdefault("id", f"id_{self.add_prefix(name)}")

    @staticmethod
    def _field(spec: Ask, model: type[BaseModel], units: Units, choices: Any) -> forms.Field:
        if spec.kind == "quantity":
            return QuantityField(spec, model, units)
        if spec.kind == "yes":
            return forms.ChoiceField(label=spec.label, help_text=spec.help, choices=(("yes", "yes"), ("no", "no")),
                                     widget=Choice)
        if spec.kind == "several":
            return SeveralField(label=spec.label, help_text=spec.help, required=not spec.optional,
                                choices=choices or spec.choices, widget=Ticks(attrs={"aria-label": spec.label}),
                                error_messages={"invalid_choice": "Choose from the list."})
        if spec.kind in ("choice", "whole"):
            return WordsField(label=spec.label, help_text=spec.help, required=not spec.optional,
                                     choices=choices or spec.choices,
                                     error_messages={"required": "Choose one of the list.",
                                                     "invalid_choice": "Choose one of the list."})
        widget = Lines(attrs={"rows": 2}) if spec.kind == "note" else Text()
        made = forms.CharField(label=spec.label, help_text=spec.help, required=not spec.optional, widget=widget,
                               max_length=400 if spec.kind == "note" else 80,
                               error_messages={"required": "This may not be empty."})
        made.is_long = spec.kind == "note"  # type: ignore[attr-defined] - it takes a whole line
        return made

    def clean(self) -> dict[str, Any]:
        """A quantity whose text is as it was shown is what it was, to the last digit."""
        cleaned = super().clean() or self.cleaned_data
        for name in cleaned:
            field, was = self.fields[name], self.initial.get(name)
            if isinstance(field, QuantityField) and isinstance(was, int | float) and (
                    str(self.data.get(self.add_prefix(name), "")).strip() == field.prepare_value(was)):
                cleaned[name] = was
        return cleaned

    def values(self) -> dict[str, Any]:
        """Cleaned values by model field; what was left open is None, or "" where the document has it so."""
        return {name: self._value(name, value) for name, value in self.cleaned_data.items()}

    def _value(self, name: str, value: Any) -> Any:
        kind = self.kinds.get(name)
        if kind == "yes":
            return value == "yes"
        if value is None or (value == "" and kind in ("choice", "whole")):
            info = _info(self.model, name)
            return "" if info is not None and info.default == "" else None
        if kind == "whole":
            return int(value)
        return float(value) if kind == "choice" and is_number(self.model, name) else value

    def place_faults(self, faults: Any) -> None:
        """Put a PlanError's faults beside their fields, or above the form."""
        for fault in faults:
            self.add_error(fault.field if fault.field in self.fields else None, fault.sentence)
