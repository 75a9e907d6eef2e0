"""Reading a backup: rows of known tables and nothing else. What is damaged, forged, locked or a bomb is one sentence;
the readers themselves, on files made here; whole commands are tried in `tests/launcher/test_keep.py`."""

import hashlib
import io
import json
import random
import re
import zipfile
from pathlib import Path

import pytest
from django.db import connection

from loadstar.web.keeping import reading, restoring
from loadstar.web.keeping.backup import LEFT_OUT, sums_of, write
from loadstar.web.keeping.faults import Damaged
from loadstar.web.keeping.reading import Backup
from loadstar.web.keeping.tables import KINDS, Table, tables

OLD = Path(__file__).parents[1] / "launcher" / "data" / "0.9.0.zip"
pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def known(db):
    """The tables that a backup may fill."""
    return {name: table for name, table in tables(connection).items() if name not in LEFT_OUT}


@pytest.fixture(scope="module")
def of_0_9_0():
    """The tables that one of 0.9.0 fills, as it says of them itself."""
    with zipfile.ZipFile(OLD) as opened:
        text = opened.read("data.sql").decode()
    found = {}
    for name, body in re.findall(r"CREATE TABLE `(\w+)` \((.*?)\n\) ENGINE", text, re.DOTALL):
        columns = re.findall(r"\n  `(\w+)` ([a-z]+)", body)
        kinds = tuple(KINDS.get(kind, "text") for _, kind in columns)
        found[name] = Table(name, tuple(column for column, _ in columns), kinds, ("id",))
    return found


@pytest.fixture
def written(shop, tmp_path):
    """A backup of this version."""
    path = tmp_path / "all.zip"
    with path.open("w+b") as file:
        write(connection, file)
    return path.read_bytes()


def read(data, known):
    """All its rows."""
    backup = Backup(io.BytesIO(data))
    backup.migrations()
    return list(backup.rows(known))


def repacked(data, change):
    """A backup with its manifest (as data) and its rows put otherwise, and sealed again as a clever forger would."""
    with zipfile.ZipFile(io.BytesIO(data)) as opened:
        names = [n for n in opened.namelist() if n != "manifest.json"]
        manifest, rows = change(json.loads(opened.read("manifest.json")), opened.read(names[0]))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr(names[0], rows)
        if manifest is not None:
            made.writestr("manifest.json", manifest if isinstance(manifest, str) else json.dumps(manifest))
        made.comment = b"loadstar sha256 " + b"0" * 64
    return sealed(out.getvalue())


def sealed(data):
    """With the sum of its bytes at its end."""
    return data[:-64] + hashlib.sha256(data[:-64]).hexdigest().encode()


RUN = b"\\! touch /tmp/loadstar-was-run\n"
TRIGGER = b"CREATE TRIGGER x BEFORE INSERT ON workshop_person FOR EACH ROW SET NEW.is_staff = 1;\n"
OF_0_9_0 = (
    (lambda m, d: (m, d + RUN), "no row of a table, in line .*: nothing of it was run"),
    (lambda m, d: (m, d.split(b"\n", 1)[1] + RUN), "no row of a table"),  # without the line about a sandbox
    (lambda m, d: (m, d + TRIGGER), "no row of a table"),
    (lambda m, d: (m, d.replace(b"INSERT INTO `workshop_w", b"REPLACE INTO `workshop_w", 1)), "no row of"),
    (lambda m, d: (m, d.replace(b"VALUES (1,", b"VALUES (SLEEP(9),", 1)), "no row of literals"),
    (lambda m, d: (m, d.replace(b"DROP TABLE IF EXISTS `workshop_person`;", b"DROP DATABASE mysql;")), "no row of"),
    (lambda m, d: (m, d.replace(b"INSERT INTO `workshop_wor", b"INSERT INTO `mysql_wor")), "cannot be taken"),
    (lambda m, d: (m, d.replace(b"Demo technician", b"Some technician")), "is damaged"),
    # A text that never ends took for ever: every way of dividing it was tried.
    (lambda m, d: (m, d + b"INSERT INTO `workshop_workshop` (`id`) VALUES ('" + b"a" * 99 + b");\n"), "no row of"),
    (lambda m, d: (m, d[:len(d) // 2]), "is damaged|no row"))
OF_NOW = (
    (lambda m, d: (m, d.replace(b"Mudflat owner", b"Mudflat thief")), "not what its manifest says"),
    (lambda m, d: (m, d.replace(b'"workshop_person"', b'"mysql.user"')), "no table 'mysql.user'"),
    (lambda m, d: (m, d.replace(b'"workshop_person"', b'"django_session"')), "no table 'django_session'"),
    (lambda m, d: (m, d.replace(b'"username"', b'"username`) SELECT 1 --"')), "other columns"),
    (lambda m, d: (m, d.replace(b',"owner"', b',{"a":1}')), "cannot be taken"),
    (lambda m, d: (m, re.sub(rb"\n\[(\d+),", rb"\n[\1.5,", d)), "is no whole"),
    (lambda m, d: (m, d.replace(b',"owner"', b',"owner",1')), "has not the table's columns"),
    (lambda m, d: (m, b"[1,2]\n" + d), "stands before any table"),
    (lambda m, d: (m, d + b"[" * 100_000 + b"\n"), "cannot be taken"),
    (lambda m, d: ({**m, "format": 9}, d), "backup format '9'; this version reads formats 1 and 2"),
    (lambda m, d: ({**m, "migrations": []}, d), "what state its tables are in"),
    (lambda m, d: ({**m, "tables": {"plans_planrow": 3}}, d), "does not say what its tables hold"),
    (lambda m, d: ({"made": "x"}, d), "lacks its tables"), (lambda m, d: (None, d), "no manifest"),
    (lambda m, d: ("[" * 100_000, d), "no backup of Loadstar"),
    (lambda m, d: (json.dumps(m) + " " * 8_000_000, d), "more than any workshop"))


@pytest.mark.parametrize("number", range(len(OF_0_9_0)))
def test_a_backup_of_0_9_0_that_holds_anything_but_rows_is_refused(of_0_9_0, number):
    change, words = OF_0_9_0[number]
    assert sum(1 for _ in read(OLD.read_bytes(), of_0_9_0)) == 1042
    with pytest.raises(Damaged, match=words):
        read(repacked(OLD.read_bytes(), change), of_0_9_0)


@pytest.mark.parametrize("number", range(len(OF_NOW)))
def test_a_forged_backup_is_refused(written, known, number):
    change, words = OF_NOW[number]
    with pytest.raises(Damaged, match=words):
        read(repacked(written, change), known)


def test_what_is_written_is_read_row_by_row(written, known, shop):
    found = {}
    for table, _ in read(written, known):
        found[table.name] = found.get(table.name, 0) + 1
    assert found["workshop_person"] == 3 and found["plans_revision"] == 1 and "django_session" not in found
    assert found == {name: s.rows for name, s in sums_of(connection).items()}


def test_no_byte_of_a_backup_can_be_changed_or_lost(written, known):
    dice = random.Random(26)
    for at in [dice.randrange(len(written)) for _ in range(300)]:
        with pytest.raises(Damaged):
            read(written[:at] + bytes([written[at] ^ 0x10]) + written[at + 1:], known)
    empty = b"PK\x05\x06" + b"\0" * 18
    for data in (written[:-1], written[:len(written) // 2], written + b"x", b"", b"PK\x03\x04", empty):
        with pytest.raises(Damaged):
            read(data, known)


def test_a_locked_or_strangely_packed_or_nested_backup_is_refused(written, known):
    locked, odd = bytearray(written), bytearray(written)
    locked[locked.rindex(b"PK\x01\x02") + 8] |= 1  # said to be encrypted
    odd[odd.rindex(b"PK\x01\x02") + 10] = 97
    nested, stuffed = io.BytesIO(), io.BytesIO(written)
    with zipfile.ZipFile(nested, "w") as made:
        made.writestr("all.zip", written)
    with zipfile.ZipFile(stuffed, "a") as made:
        made.writestr("more.txt", "x")
    for data, words in ((bytes(locked), "encrypted"), (bytes(odd), "a method that"), (nested.getvalue(), "no manifest"),
                        (stuffed.getvalue(), "and nothing else")):
        with pytest.raises(Damaged, match=words):
            read(data, known)


def test_a_bomb_is_not_unpacked(written, known):
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as made, zipfile.ZipFile(io.BytesIO(written)) as opened:
        made.writestr("manifest.json", opened.read("manifest.json"))
        with made.open("rows.jsonl", "w") as rows:
            for _ in range(100):
                rows.write(b"\0" * 1024**2)
    with pytest.raises(Damaged, match="more than any workshop"):
        read(bomb.getvalue(), known)


def test_a_backup_read_in_is_all_that_it_was_made_of(written, known):
    before = sums_of(connection)
    assert restoring.read_in(connection, Backup(io.BytesIO(written))) == before == sums_of(connection)


def test_rows_that_do_not_come_in_are_told(written, monkeypatch):
    """A server that keeps nothing of who may enter which workshop."""
    insert = restoring._insert
    monkeypatch.setattr(restoring, "_insert", lambda to, table, rows: (
        table is None or table.name == "workshop_membership" or insert(to, table, rows)))
    with pytest.raises(Damaged, match=r"is damaged: of table workshop_membership 0 rows came in of \d+, or others"):
        restoring.read_in(connection, Backup(io.BytesIO(written)))


def test_a_last_line_without_an_end_is_no_row(written, known):
    with pytest.raises(Damaged, match="a line of its rows has no end"):
        read(repacked(written, lambda m, d: (m, d.rstrip(b"\n"))), known)


@pytest.mark.parametrize("more", [0, 1])
def test_a_line_as_long_as_the_bound_is_no_row(written, known, more, monkeypatch):
    with zipfile.ZipFile(io.BytesIO(written)) as opened:
        longest = max(len(line) + 1 for line in opened.read("rows.jsonl").split(b"\n"))
    monkeypatch.setattr(reading, "MOST_LINE", longest + more)
    if more:
        assert read(written, known)
        return
    with pytest.raises(Damaged, match="a line of its rows has no end"):
        read(written, known)


def test_the_bounds_of_a_backup_are_these():
    """64 GiB of rows, 64 MiB a line, 4 MiB of manifest, 200 times unpacked beyond 64 MiB, written down again."""
    assert (reading.MOST_BYTES, reading.MOST_LINE, reading.MOST_MANIFEST, reading.MOST_TIMES) == (
        68_719_476_736, 67_108_864, 4_194_304, 200)
    assert (reading.SMALL_BYTES, reading.SEAL_BYTES, reading.BLOCK) == (67_108_864, 80, 1_048_576)
    assert (restoring.AT_ONCE, restoring.AT_ONCE_BYTES) == (200, 4_194_304)
