"""Backups of 0.4.0 to 0.9.0 hold SQL text. It is read here, line by line, as rows of literals, and nothing in it is
run.

Taken is what those versions wrote, and nothing else: `INSERT INTO` one table with its columns and one row of literals.
The few lines about the shape of tables that stand between are passed over; a line that those versions never wrote is
refused.
"""

import base64
import re
from collections.abc import Iterable, Iterator, Sequence

from .faults import Damaged
from .tables import Table, Value, checked

INSERT = re.compile(rb"INSERT INTO `(\w{1,64})` \(((?:`\w{1,64}`, )*`\w{1,64}`)\) VALUES \((.*)\);\n", re.DOTALL)
LITERAL = re.compile(rb"(NULL)|0x((?:[0-9A-F]{2})+)|(-?\d+)(?![\d.e])|(-?\d+(?:\.\d+)?(?:e[+-]?\d+)?)"
                     rb"|'([^'\\]*(?:\\.[^'\\]*)*)'", re.DOTALL)
BETWEEN = re.compile(
    rb"|/\*M!999999\\- enable the sandbox mode \*/ ?"
    rb"|/\*!\d{5} SET [\w@ =,'+:-]+ \*/;|/\*!\d{5} ALTER TABLE `\w+` (DIS|EN)ABLE KEYS \*/;"
    rb"|DROP TABLE IF EXISTS `\w+`;|CREATE TABLE `\w+` \(|  (`\w+` |PRIMARY KEY |UNIQUE KEY |KEY |CONSTRAINT )[^;]*"
    rb"|\) ENGINE=InnoDB[^;]*;|SET @OLD_AUTOCOMMIT=@@AUTOCOMMIT, @@AUTOCOMMIT=0;|SET AUTOCOMMIT=@OLD_AUTOCOMMIT;"
    rb"|(COMMIT|commit);|set autocommit=0;")
ESCAPED = {b"0": b"\0", b"b": b"\b", b"n": b"\n", b"r": b"\r", b"t": b"\t", b"Z": b"\x1a"}


Literal = Value | bytes  # bytes where the text had hexadecimal digits


def rows(lines: Iterable[bytes]) -> Iterator[tuple[str, list[str], list[Literal], bytes]]:
    """Table, columns, values and the line itself of every row. Damaged where a line is none that a backup has."""
    for number, text in enumerate(lines, 1):
        if found := INSERT.fullmatch(text):
            columns = found[2].decode().replace("`", "").split(", ")
            yield found[1].decode(), columns, _values(found[3], number), text
        elif not BETWEEN.fullmatch(text.rstrip(b"\n")):
            raise Damaged(f"holds something that is no row of a table, in line {number}: nothing of it was run")


def typed(values: Sequence[Literal], table: Table) -> list[Value]:
    """A row of literals as the table's columns have it. ValueError where one does not fit its column."""
    found: list[Value] = []
    for value, kind in zip(values, table.kinds, strict=True):
        if kind == "bytes" and value:
            if not isinstance(value, bytes):
                raise ValueError("a text stands where bytes belong")
            found.append(base64.b64encode(value).decode())
        elif isinstance(value, bytes):
            raise ValueError("bytes stand where a text belongs")
        else:
            found.append(float(value) if kind == "number" and isinstance(value, int) else value)
    return checked(found, table)


def _values(text: bytes, number: int) -> list[Literal]:
    found: list[Literal] = []
    at = 0
    while literal := LITERAL.match(text, at):
        found.append(_value(literal, number))
        at = literal.end()
        if at == len(text):
            return found
        if text[at:at + 1] != b",":
            break
        at += 1
    raise Damaged(f"is damaged: line {number} is no row of literals")


def _value(literal: re.Match[bytes], number: int) -> Literal:
    null, hexed, whole, fraction, quoted = literal.groups()
    if null:
        return None
    if whole is not None:
        return int(whole) if len(whole) < 25 else float(whole)
    if fraction is not None:
        return float(fraction)
    if hexed is not None:
        return bytes.fromhex(hexed.decode())
    try:
        return re.sub(rb"\\(.)", lambda m: ESCAPED.get(m[1], m[1]), quoted, flags=re.DOTALL).decode()
    except UnicodeDecodeError as error:
        raise Damaged(f"is damaged: line {number} is no text in UTF-8") from error
