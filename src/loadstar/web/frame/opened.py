"""A form with what it is about."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from django.forms import BoundField

from loadstar.core.materials.accessories import ACCESSORIES
from loadstar.core.materials.hazards import HAZARDS
from loadstar.core.materials.sizes import USUAL as USUAL_SIZES
from loadstar.core.parts.registry import KINDS
from loadstar.core.plan.standing import OPEN

from .asks import SIZES as SIZES_ASKED
from .fields import ModelForm

# Of a long form, what is asked first, and the words that the rest is folded under.
HEAD = {"load": ("name", "place", "live", "feed"), "run": ("a", "b", "length_m", "covering", *HAZARDS)}
FOLDED = {"load": "What it draws, and how", "run": "Ties, hole, slack, headstock, side, air"}
SIZE_NAMES = frozenset(spec.name for spec in SIZES_ASKED)
# Of an accessory what is asked of the lead that it comes with, in this order.
LEAD = ("plugged", "lead_m", "lead_mm2", "live_wire", "lead_end", "lead_fuse_a", "lead_box_m", "lead_plug_mm",
        "supplied_lead")


@dataclass(frozen=True)
class OpenForm:
    """A form with what it is about. `id` is empty for something new; `known` says of its fields how they are known,
    where nobody stated them; `told` says in a line what the folded fields say."""

    kind: str
    id: str
    title: str
    form: ModelForm
    removable: bool
    believed: bool = False
    known: Mapping[str, str] = field(default_factory=dict)
    usual: str = ""
    told: str = ""

    @property
    def head(self) -> list[BoundField]:
        """What is asked first; everything, where the form is short."""
        return [f for f in self._asked if f.name in HEAD.get(self.kind, self.form.fields)]

    @property
    def folded(self) -> str:
        """What the rest is."""
        return FOLDED.get(self.kind, "")

    @property
    def rest(self) -> list[BoundField]:
        """What is folded."""
        return [f for f in self._asked if f.name not in HEAD.get(self.kind, self.form.fields)]

    @property
    def _asked(self) -> list[BoundField]:
        return [f for f in self.form if self.kind not in KINDS or f.name not in SIZE_NAMES.union(self._of_lead)]

    @property
    def _of_lead(self) -> tuple[str, ...]:
        return LEAD if self.kind == "load" else ()

    @property
    def lead(self) -> list[BoundField]:
        """Of an accessory what is asked of the lead that it comes with."""
        return [self.form[name] for name in self._of_lead]

    @property
    def lead_shown(self) -> bool:
        """Whether anything of it has been said, or will not do."""
        return any(f.errors or f.value() not in ("", None, False, "False", "no") for f in self.lead)

    @property
    def sizes(self) -> list[BoundField]:
        """Of a part what it measures and weighs, and in which stage it is made."""
        if self.kind not in KINDS:
            return []
        return [f for f in self.form if f.name in SIZE_NAMES and f.name not in self._of_lead]

    @property
    def sizes_shown(self) -> bool:
        """Whether any of these has been said, or will not do."""
        return any(f.errors or f.value() for f in self.sizes)

    @property
    def usual_size(self) -> str:
        """What such a thing usually measures and weighs, in words; "" where no table has it."""
        found = USUAL_SIZES.get(self.kind)
        return (f"Such a thing is usually {found.long_mm:g} × {found.wide_mm:g} × {found.deep_mm:g} mm and weighs "
                f"{found.mass_g:g} g.") if found else ""

    @property
    def is_unfolded(self) -> bool:
        """Whether the rest has to be seen: nothing is known of it yet, or something there will not do."""
        return (self.is_new and not self.usual) or any(f.errors for f in self.rest)

    @property
    def vouch(self) -> dict[str, Any]:
        """The edit that says that all of it is as on the label."""
        return {"kind": "vouch", "id": self.id, "fields": [f for f, known in self.known.items() if known in OPEN]}

    @property
    def look_for(self) -> str:
        """What to read on the label of such an accessory; "" where the list does not have it."""
        return ACCESSORIES[self.usual].label if self.usual in ACCESSORIES else ""

    @property
    def is_usual(self) -> bool:
        """Whether any of its figures is only usual or believed."""
        return bool(self.id) and any(known in OPEN for known in self.known.values())

    @property
    def confirm(self) -> dict[str, Any]:
        """The edit that says it was found so on this machine."""
        return {"kind": "confirm", "ids": [self.id]}

    @property
    def is_new(self) -> bool:
        """Whether it adds something."""
        return not self.id and self.kind not in ("machine", "rules")
