"""The tables of a database and the rows in them: as values of JSON, typed by the column that they stand in.

A whole number, a number with a fraction, a text, what the database writes as text (moments), null, or bytes in base64.
"""

import base64
import json
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from django.db.backends.base.base import BaseDatabaseWrapper
from MySQLdb.cursors import SSCursor

Value = None | int | float | str
KINDS = {**dict.fromkeys(("tinyint", "smallint", "mediumint", "int", "bigint"), "whole"),
         **dict.fromkeys(("float", "double"), "number"),
         **dict.fromkeys(("datetime", "timestamp", "date", "time", "year", "decimal"), "written"),
         **dict.fromkeys(("tinyblob", "blob", "mediumblob", "longblob", "binary", "varbinary"), "bytes")}
FETCHED = 100  # rows asked of the server at a time


@dataclass(frozen=True)
class Table:
    """A table's columns in their order, each with the kind of its values (whole, number, text, written, bytes), and
    the columns of its key."""

    name: str
    columns: tuple[str, ...]
    kinds: tuple[str, ...]
    key: tuple[str, ...]


def tables(connection: BaseDatabaseWrapper) -> dict[str, Table]:
    """Every table of the database, by name."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT table_name, column_name, data_type, column_key FROM information_schema.columns "
                       "WHERE table_schema = DATABASE() ORDER BY table_name, ordinal_position")
        rows = cursor.fetchall()
    return {name: Table(name, tuple(r[1] for r in rows if r[0] == name),
                        tuple(KINDS.get(r[2], "text") for r in rows if r[0] == name),
                        tuple(r[1] for r in rows if r[0] == name and r[3] == "PRI"))
            for name in sorted({r[0] for r in rows})}


def rows(connection: BaseDatabaseWrapper, table: Table) -> Iterator[list[Value]]:
    """The table's rows in the order of its key, a few at a time from the server; of one moment where the connection's
    transaction is."""
    columns = ", ".join(f"CAST(`{c}` AS CHAR)" if kind == "written" else f"`{c}`"
                        for c, kind in zip(table.columns, table.kinds, strict=True))
    key = ", ".join(f"`{c}`" for c in table.key or table.columns)
    with SSCursor(connection.connection) as cursor:
        cursor.execute(f"SELECT {columns} FROM `{table.name}` ORDER BY {key}")
        while some := cursor.fetchmany(FETCHED):
            for row in some:
                yield [_kept(value, kind) for value, kind in zip(row, table.kinds, strict=True)]


def _kept(value: Any, kind: str) -> Value:
    """What the driver gave, as a value of JSON."""
    if value is None:
        return None
    match kind:
        case "whole":
            return int(value)
        case "number":
            return float(value)
        case "bytes":
            return base64.b64encode(value).decode()
        case _:
            return value if isinstance(value, str) else bytes(value).decode()  # JSON comes as bytes


def line(values: Sequence[Value]) -> bytes:
    """A row as it is written: one line."""
    return json.dumps(values, ensure_ascii=False, separators=(",", ":"), allow_nan=False).encode() + b"\n"


def checked(values: object, table: Table) -> list[Value]:
    """A row out of a file, if it is one of this table: ValueError where a value is not of its column's kind."""
    if not isinstance(values, list) or len(values) != len(table.columns):
        raise ValueError("it has not the table's columns")
    for value, kind, column in zip(values, table.kinds, table.columns, strict=True):
        if value is not None and not _is(value, kind):
            raise ValueError(f"{column} is no {kind if kind != 'bytes' else 'base64'}")
    return values


def _is(value: object, kind: str) -> bool:
    match kind:
        case "whole":
            return isinstance(value, int) and not isinstance(value, bool)
        case "number":
            return isinstance(value, float) and math.isfinite(value)
        case _:
            return isinstance(value, str)


def parameters(values: Sequence[Value], table: Table) -> list[Any]:
    """A row as the driver takes it. ValueError where bytes are no base64."""
    return [base64.b64decode(v, validate=True) if kind == "bytes" and isinstance(v, str) else v
            for v, kind in zip(values, table.kinds, strict=True)]
