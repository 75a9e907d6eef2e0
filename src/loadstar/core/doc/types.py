"""Words and figures as a document holds them: ids, names, colours, sizes that are listed, and the base of every
element."""

from typing import Annotated, Literal, get_args

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field

from ..materials.conductors import AREAS_MM2, INSULATIONS
from ..materials.fuses import RATINGS_A
from .texts import one_line, some_lines

Id = Annotated[str, Field(pattern=r"^[A-Z]{1,2}[0-9]{1,6}$")]
ONE_LINE, SOME_LINES = BeforeValidator(one_line), BeforeValidator(some_lines)
Name = Annotated[str, Field(min_length=1, max_length=80), ONE_LINE]
Note = Annotated[str, Field(max_length=400), SOME_LINES]
Colour = Literal["", "BK", "BN", "RD", "OG", "YE", "GN", "BU", "VT", "GY", "WH", "PK", "TQ"]
InsulationCode = Literal["A", "B", "105", "C", "D"]
assert set(get_args(InsulationCode)) == set(INSULATIONS)
Standing = Literal["found", "believed"]  # on this machine, or taken over from another and not yet confirmed here
NeverTapped = Literal["", "airbag", "ABS", "throttle", "CAN"]


def _listed(values: tuple[float, ...], what: str) -> AfterValidator:
    def check(value: float) -> float:
        if value not in values:
            raise ValueError(f"must be one of the {what} {', '.join(f'{v:g}' for v in values)}")
        return value
    return AfterValidator(check)


BladeRating = Annotated[float, _listed(RATINGS_A, "blade-fuse ratings")]
AreaMm2 = Annotated[float, _listed(AREAS_MM2, "sizes")]
LeastAreaMm2 = Annotated[float, _listed((0.35, 0.5, 0.75, 1.0), "sizes")]


class Doc(BaseModel):
    """Base of everything in the document: frozen, nothing unknown, no NaN or infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
