"""The log of the work, the readings of the proof and what was closed as built, as data and as tables; text that a
spreadsheet would take for a formula made harmless."""

import csv
import io
import json
from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from .survey import harmless

Text = Annotated[str, Field(max_length=300)]


class _Row(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class LogRow(_Row):
    """A line of the log."""

    revision: Annotated[int, Field(ge=1)]
    operation: Annotated[str, Field(max_length=80)]
    element: Annotated[str, Field(max_length=12)] = ""
    what: Literal["done", "again", "note"]
    spec: Annotated[str, Field(max_length=200)] = ""
    tool: Annotated[str, Field(max_length=60)] = ""
    pull_n: float | None = None
    note: Text = ""
    at: Annotated[str, Field(max_length=40)]
    by: Annotated[str, Field(max_length=80)]


class ProofRow(_Row):
    """A reading; `value`, `expected` and `plain` null: an open circuit."""

    revision: Annotated[int, Field(ge=1)]
    step: Annotated[str, Field(max_length=60)] = ""
    load: Annotated[str, Field(max_length=12)] = ""
    quantity: Annotated[str, Field(max_length=4)] = ""
    row: Annotated[str, Field(max_length=16)] = ""
    red: Annotated[str, Field(max_length=16)] = ""
    black: Annotated[str, Field(max_length=16)] = ""
    value: float | None = None
    expected: float | None = None
    spread: float = 0.0
    plain: float | None = None
    instrument: Annotated[str, Field(max_length=60)] = ""
    at: Annotated[str, Field(max_length=40)]
    by: Annotated[str, Field(max_length=80)]


class BuiltRow(_Row):
    """A revision closed as built."""

    revision: Annotated[int, Field(ge=1)]
    note: Text = ""
    unproved: tuple[Text, ...] = ()
    at: Annotated[str, Field(max_length=40)]
    by: Annotated[str, Field(max_length=80)]


class PhotoRow(_Row):
    """A photograph: of what, its caption, its member in the file."""

    element: Annotated[str, Field(max_length=12)]
    caption: Annotated[str, Field(max_length=120)] = ""
    member: Annotated[str, Field(pattern=r"^photos/[a-z0-9-]{1,40}\.jpg$")]
    at: Annotated[str, Field(max_length=40)]
    by: Annotated[str, Field(max_length=80)]


class Records(_Row):
    """All of them, of one plan."""

    log: Annotated[tuple[LogRow, ...], Field(max_length=20_000)] = ()
    proof: Annotated[tuple[ProofRow, ...], Field(max_length=20_000)] = ()
    as_built: Annotated[tuple[BuiltRow, ...], Field(max_length=1000)] = ()
    photos: Annotated[tuple[PhotoRow, ...], Field(max_length=200)] = ()


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
