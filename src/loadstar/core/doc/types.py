"""Words and figures as a document holds them: ids, names, colours, sizes that are listed, and the base of every
element."""

from typing import Annotated, Literal, Self, get_args

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from ..materials.conductors import AREAS_MM2, INSULATIONS
from ..materials.fuses import EVERY_RATING_A, RATINGS_A
from .texts import one_line, some_lines

Id = Annotated[str, Field(pattern=r"^[A-Z]{1,2}[0-9]{1,6}$")]
ONE_LINE, SOME_LINES = BeforeValidator(one_line), BeforeValidator(some_lines)
MOST_NAME = 80  # letters
Name = Annotated[str, Field(min_length=1, max_length=MOST_NAME), ONE_LINE]
Note = Annotated[str, Field(max_length=400), SOME_LINES]
Colour = Literal["", "BK", "BN", "RD", "OG", "YE", "GN", "BU", "VT", "GY", "WH", "PK", "TQ"]
InsulationCode = Literal["A", "B", "105", "C", "D"]
assert set(get_args(InsulationCode)) == set(INSULATIONS)
Standing = Literal["found", "believed"]  # on this machine, or taken over from another and not yet confirmed here
# Of one figure: usual for such a machine or thing, taken over from another and not yet confirmed, or measured here. A
# figure without one was stated by somebody.
FieldStanding = Literal["typical", "believed", "found"]
Marks = dict[Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,39}$")], FieldStanding]
NeverTapped = Literal["", "airbag", "ABS", "throttle", "CAN"]


def _listed(values: tuple[float, ...], what: str) -> AfterValidator:
    def check(value: float) -> float:
        if value not in values:
            raise ValueError(f"must be one of the {what} {', '.join(f'{v:g}' for v in values)}")
        return value
    return AfterValidator(check)


BladeRating = Annotated[float, _listed(RATINGS_A, "blade-fuse ratings")]
FuseRating = Annotated[float, _listed(EVERY_RATING_A, "fuse ratings")]
AreaMm2 = Annotated[float, _listed(AREAS_MM2, "sizes")]
LeastAreaMm2 = Annotated[float, _listed((0.35, 0.5, 0.75, 1.0), "sizes")]


class Doc(BaseModel):
    """Base of everything in the document: frozen, nothing unknown, no NaN or infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Marked(Doc):
    """An element whose figures have a standing each: `marks` names those that nobody simply stated, by field."""

    marks: Marks = {}

    @model_validator(mode="after")
    def _marks_are_fields(self) -> Self:
        if unknown := sorted(self.marks.keys() - type(self).model_fields.keys()):
            raise ValueError(f"names a figure that is not there: {unknown[0]}")
        return self

    def standing_of(self, field: str) -> Literal["stated", "typical", "believed", "found"]:
        """How a figure is known."""
        return self.marks.get(field, "stated")
