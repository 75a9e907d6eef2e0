"""The log of the work, the readings of the proof and what was closed as built, as data and as tables; text that a
spreadsheet would take for a formula made harmless."""

import csv
import io
import json
from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Annotated, Any, Literal, Self

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    TypeAdapter,
    ValidationError,
    model_validator,
)

from loadstar.core.doc.texts import one_line

from .survey import harmless

MOST_REVISION, MOST_UNPROVED = 1_000_000, 5000  # more than any plan has
FIRST_YEAR, LAST_YEAR = 2000, 2100


def moment(text: str) -> datetime:
    """What is written as a moment (ISO 8601); without a zone it is UTC. ValueError when no workshop can have written
    it."""
    found = datetime.fromisoformat(text)
    if not FIRST_YEAR <= found.year < LAST_YEAR:
        raise ValueError(f"{found.year} is no year of a workshop's records")
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def _written(text: str) -> str:
    moment(text)
    return text


def _text(most: int, **more: Any) -> Any:
    return Annotated[str, BeforeValidator(one_line), Field(max_length=most, **more)]


Moment = Annotated[str, Field(max_length=40), AfterValidator(_written)]
Number = Annotated[int, Field(ge=1, le=MOST_REVISION)]


class _Row(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class LogRow(_Row):
    """A line of the log."""

    revision: Number
    operation: _text(80)
    element: _text(12) = ""
    what: Literal["done", "again", "note"]
    spec: _text(200) = ""
    tool: _text(60) = ""
    pull_n: float | None = None
    note: _text(300) = ""
    at: Moment
    by: _text(80)


class ProofRow(_Row):
    """A reading; `value`, `expected` and `plain` null: an open circuit."""

    revision: Number
    step: _text(60) = ""
    load: _text(12) = ""
    quantity: _text(4) = ""
    row: _text(16) = ""
    red: _text(16) = ""
    black: _text(16) = ""
    value: float | None = None
    expected: float | None = None
    spread: float = 0.0
    plain: float | None = None
    off: _text(200) = ""
    instrument: _text(60) = ""
    at: Moment
    by: _text(80)


class BuiltRow(_Row):
    """A revision closed as built."""

    revision: Number
    note: _text(300) = ""
    unproved: tuple[_text(300), ...] = ()
    at: Moment
    by: _text(80)


Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class PhotoRow(_Row):
    """A photograph: of what, its caption, its member in the file; where the ways of a connector are on it, how far
    across and down, of 1."""

    element: _text(12)
    caption: _text(120) = ""
    member: Annotated[str, Field(pattern=r"^photos/[a-z0-9-]{1,40}\.jpg$")]
    at: Moment
    by: _text(80)
    marks: Annotated[dict[Annotated[int, Field(ge=1, le=60)], tuple[Share, Share]], Field(max_length=60)] = {}


class Records(_Row):
    """All of them, of one plan."""

    log: Annotated[tuple[LogRow, ...], Field(max_length=20_000)] = ()
    proof: Annotated[tuple[ProofRow, ...], Field(max_length=20_000)] = ()
    as_built: Annotated[tuple[BuiltRow, ...], Field(max_length=300)] = ()
    photos: Annotated[tuple[PhotoRow, ...], Field(max_length=40)] = ()

    @model_validator(mode="after")
    def _each_once(self) -> Self:
        if sum(len(b.unproved) for b in self.as_built) > MOST_UNPROVED:
            raise ValueError(f"more than {MOST_UNPROVED} circuits are said to be unproved")
        for what, keys in (("closed as built", [b.revision for b in self.as_built]),
                           ("a photograph's member", [p.member for p in self.photos])):
            if len(set(keys)) != len(keys):
                raise ValueError(f"one of them is {what} twice")
        return self


_RECORDS = TypeAdapter(Records)


def to_json(records: Records) -> bytes:
    """As they stand in the machine's file."""
    return (json.dumps(records.model_dump(mode="json"), indent=1, sort_keys=True, ensure_ascii=False) + "\n").encode()


def from_json(data: bytes) -> Records:
    """Records from a file; ValueError, in words, where they are none."""
    try:
        return _RECORDS.validate_json(data)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(x) for x in first["loc"])
        raise ValueError(f"The records cannot be taken: {where}: {first['msg']}.") from error


LOG_COLUMNS = tuple(LogRow.model_fields)
PROOF_COLUMNS = tuple(ProofRow.model_fields)


def to_csv(columns: Sequence[str], rows: Iterable[Mapping[str, Any]]) -> str:
    """Rows as a table (RFC 4180); nothing is empty."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(columns)
    for row in rows:
        table.writerow(["" if row[c] is None else harmless(str(row[c])) for c in columns])
    return out.getvalue()
