"""Forms of the survey: a connector with the row of each of its pins, a reading, what a continuity table was told."""

import re
from dataclasses import dataclass
from typing import Any

from django.forms import BoundField

from loadstar.core.doc.survey import Plug, Reading
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.parts.asks import Ask
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plan
from loadstar.core.survey.following import following
from loadstar.core.survey.shows import state_words

from ...frame.asks import PIN, PLUG, READING
from ...frame.fields import Asked, ModelForm, QuantityField
from ...frame.units import Units

LEAST_ROWS = 12
HEAD = ("name", "place", "use", "ways", "never", "reach")


@dataclass(frozen=True)
class PlugSheet:
    """A connector's form and one form for each way."""

    id: str
    plug: ModelForm
    pins: tuple[tuple[int, ModelForm], ...]

    @property
    def head(self) -> list[BoundField]:
        """What every connector is asked first."""
        return [self.plug[name] for name in HEAD]

    @property
    def rest(self) -> list[BoundField]:
        """What is asked for the pin map."""
        return [field for field in self.plug if field.name not in HEAD]

    @property
    def rest_wrong(self) -> bool:
        """Whether one of the rest will not do, so that it has to be seen."""
        return any(field.errors for field in self.rest)

    @property
    def ways(self) -> int:
        """How many ways are asked for; 0 when that is no number."""
        return _whole(self.plug["ways"].value())

    def is_valid(self) -> bool:
        """Whether the connector and every way that it has are filled in as accepted."""
        whole = self.plug.is_valid()
        ways = int(self.plug.cleaned_data.get("ways") or 0) if whole else self.ways
        return all([whole, *(form.is_valid() for n, form in self.pins if n <= ways)])

    def edit(self) -> PutPlug:
        """The edit that the sheet stands for."""
        values = {k: "" if v is None else v for k, v in self.plug.values().items()}
        pins = []
        for number, form in self.pins:
            if number <= values["ways"]:
                row = {k: "" if v is None and k != "fused_a" else v for k, v in form.values().items()
                       if k != "rated_a" or v is not None}
                row["function"], _, live = row["function"].partition("/")
                pins.append({"way": number, **row, **({"live": live} if live else {})})
        return PutPlug(id=self.id, values=values, pins=tuple(pins))

    def place_faults(self, faults: Any) -> None:
        """Beside the connector's fields, or above the sheet."""
        self.plug.place_faults(faults)


def plug_form(plan: Plan, units: Units, plug: Plug | None, data: Any = None) -> PlugSheet:
    """The sheet of a connector, or of a new one."""
    stored = plug.model_dump() if plug else {"ways": 4}
    places = [("", "choose a place"), *((p.id, f"{p.name} ({p.id})") for p in plan.places)]
    head = ModelForm(data, Asked(Plug, PLUG, units, {"place": places}), stored)
    there = {p.way: p for p in plan.pins(plug.id)} if plug else {}
    rows = max(LEAST_ROWS, plug.ways if plug else 0, _whole(data.get("ways") if data is not None else 0))
    pins = tuple((n, ModelForm(data, Asked(Tap, PIN, units), _pin_values(there.get(n)), f"pin-{n}"))
                 for n in range(1, rows + 1))
    return PlugSheet(plug.id if plug else "", head, pins)


def _whole(value: Any) -> int:
    """A number of ways as typed or stored; 0 for what is none."""
    text = f"{value:g}" if isinstance(value, float | int) else str(value or "").strip()
    return min(int(text), 60) if re.fullmatch(r"\d{1,2}", text) else 0


def _pin_values(pin: Tap | None) -> dict[str, Any]:
    if pin is None:
        return {"function": "unknown", "rated_a": "", "fused_a": ""}
    unknown = {"rated_a": ""} if pin.standing_of("rated_a") == "typical" else {}  # a usual figure is no fact
    return {**pin.model_dump(), **unknown, "function": f"feed/{pin.live}" if pin.function == "feed" else pin.function}


class ReadingForm(ModelForm):
    """A reading's form: its value may carry its unit, and only its own."""

    def __init__(self, data: Any, asked: Asked, initial: dict[str, Any] | None = None) -> None:
        super().__init__(data, asked, initial)
        measured = str(self.data.get("quantity", "")) if self.is_bound else ""
        value = self.fields["value"]
        assert isinstance(value, QuantityField)
        value.core_unit = measured if measured in ("V", "A", "s", "ohm") else ""


def value_form(data: Any) -> ReadingForm:
    """Only the value of a reading, the rest being known."""
    return ReadingForm(data, Asked(Reading, (Ask("value", "It shows", unit=""),), Units()))


def reading_form(plan: Plan, units: Units, data: Any = None) -> ReadingForm:
    """The form of one reading: at the supply's posts, or at a pin or found wire; empty, what follows the last one."""
    places = [(plan.supply.id, f"{plan.supply.name} ({plan.supply.id}), its posts")] if plan.supply else []
    places += [(p.id, f"{p.name} ({p.id})") for p in plan.of(Tap)]
    follows = following(plan) if data is None else None
    return ReadingForm(data, Asked(Reading, READING, units, {"element": places,
                                                             "state": list(state_words(plan).items())}),
                       vars(follows) if follows else None)


def beeps_of(data: Any) -> tuple[dict[str, Any], ...]:
    """The tests of a continuity table's form, position by position."""
    found: list[dict[str, Any]] = []
    rest = "silent" if data.get("rest") == "silent" else ""
    for name, value in data.items():
        asked = re.fullmatch(r"t-(\d{1,2})-(\d{1,2})-(\d{1,2})", name)
        value = value or rest
        if asked and value in ("beeps", "silent"):
            position, a, b = (int(n) for n in asked.groups())
            found.append({"position": position, "a": a, "b": b, "beeps": value == "beeps"})
    return tuple(sorted(found, key=lambda test: (test["position"], test["a"], test["b"])))


def named(text: str) -> tuple[str, ...]:
    """Names from a line, set apart by commas or semicolons."""
    return tuple(word.strip() for word in re.split(r"[,;\n]", text) if word.strip())
