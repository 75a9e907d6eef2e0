"""Backup, restore, verify: the same rows come back; what is damaged, strange or of another version is told; nothing in
a file is run."""

import gzip
import hashlib
import io
import json
import os
import shutil
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

import pytest

from launcher import access, keep, schema
from launcher.database import PrivateDatabase
from launcher.folder import DataFolder
from launcher.manage import base_environment, manage
from launcher.paths import ROOT
from launcher.say import Stop

DATA = Path(__file__).parent / "data"


@pytest.fixture
def filled(data):
    """A data folder as after the first start, with rows that a dump could spoil."""
    own, private, environment = data
    schema.bring_up(own, private.access, environment)
    access.ask(private.access, r"""
        INSERT INTO loadstar.workshop_workshop (name, slug, house_rules) VALUES
          ('Tide; DROP', 'tide', '{"a": "line\\nbreak"}'), ('Möwe “2” \' \\', 'moewe', '{}');
        INSERT INTO loadstar.django_session (session_key, session_data, expire_date) VALUES ('k', 'secret', NOW())""")
    own.say(database_port=private.port)
    return own, private, environment


@pytest.fixture(scope="module")
def written():
    """A backup of this version, made from that of 0.9.0."""
    where = Path(tempfile.mkdtemp(prefix="loadstar-written-", dir="/dev/shm"))
    private = PrivateDatabase(where / "db", "only-here", throwaway=True)
    private.start()
    try:
        environment = base_environment("serve", private.url, "test-only")
        with (DATA / "0.9.0.zip").open("rb") as file:
            manage(environment, "read_in", str(file.fileno()), descriptors=(file.fileno(),))
        manage(environment, "write_out", str(where / "all.zip"))
    finally:
        private.stop()
    yield where / "all.zip"
    shutil.rmtree(where)


def test_what_was_backed_up_comes_back(filled, tmp_path):
    own, _, _ = filled
    file = tmp_path / "all.zip"
    assert "rows of" in keep.backup(file)
    assert file.stat().st_mode & 0o777 == 0o600
    with zipfile.ZipFile(file) as opened:
        told = json.loads(opened.read("manifest.json"))
        text = opened.read("rows.jsonl").decode()
    assert told["tables"]["workshop_workshop"]["rows"] == 2 and "django_session" not in told["tables"]
    assert "secret" not in text and own.secrets()["database"] not in text
    assert "is whole" in keep.verify(file)
    with pytest.raises(Stop, match="has data already"):
        keep.restore(file, "demo") if (DataFolder("demo").database.mkdir(parents=True) or True) else None
    DataFolder("demo").database.rmdir()
    assert "Restored into" in keep.restore(file, "demo")
    with keep.reached(DataFolder("demo")) as there:
        again = tmp_path / "again.zip"
        manage(base_environment("serve", there.url, "x"), "write_out", str(again))
        with zipfile.ZipFile(again) as opened:
            assert opened.read("rows.jsonl").decode() == text
        assert access.ask(there, "SELECT name FROM loadstar.workshop_workshop ORDER BY id")[1] == [r"Möwe “2” ' \\"]


def test_backups_of_0_9_0_and_of_data_of_0_3_0_are_restored_and_upgraded(var, tmp_path):
    old = tmp_path / "0.3.0.zip"
    text = gzip.decompress((DATA / "0.3.0.sql.gz").read_bytes())
    counted = {}
    for line in text.split(b"\n"):
        if line.startswith(b"INSERT INTO `"):
            table = line.split(b"`")[1].decode()
            count, digest = counted.setdefault(table, [0, hashlib.sha256()])
            digest.update(line + b"\n")
            counted[table][0] = count + 1
    with zipfile.ZipFile(old, "w") as made:
        made.writestr("manifest.json", json.dumps({"format": 1, "made": "then", "tables": {
            table: {"rows": count, "sha256": digest.hexdigest()} for table, (count, digest) in counted.items()}}))
        made.writestr("data.sql", text)
    for mode, file, revisions in (("serve", old, 32), ("demo", DATA / "0.9.0.zip", 45)):
        assert "is whole" in keep.verify(file)
        keep.restore(file, mode)
        with keep.reached(DataFolder(mode)) as there:
            schema.bring_up(DataFolder(mode), there, base_environment(mode, there.url, "x"))
            assert access.ask(there, "SELECT COUNT(*) FROM loadstar.plans_revision") == [[str(revisions)]]


def forged(file, change):
    """A backup with other rows, and every sum as it is for these: only the rows themselves can be at fault."""
    with zipfile.ZipFile(file) as opened:
        told, rows = json.loads(opened.read("manifest.json")), change(opened.read("rows.jsonl"))
    for block in rows.split(b'{"table": ')[1:]:
        name, body = block.split(b'"')[1].decode(), block.partition(b"\n")[2]
        told["tables"][name] = {"rows": body.count(b"\n"), "sha256": hashlib.sha256(body).hexdigest()}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("rows.jsonl", rows)
        made.writestr("manifest.json", json.dumps(told))
        made.comment = b"loadstar sha256 " + b"0" * 64
    return out.getvalue()[:-64] + hashlib.sha256(out.getvalue()[:-64]).hexdigest().encode()


def test_rows_that_the_database_refuses_or_that_belong_to_nothing_are_told(var, written, tmp_path):
    bad = tmp_path / "bad.zip"
    for old, new, words in ((b'[1,"owner",', b'[1,"owner of more than everything",', "the database refuses its rows"),
                            (b'[1,"owner",1,', b'[1,"owner",4711,', "do not belong together")):
        bad.write_bytes(forged(written, lambda rows, old=old, new=new: rows.replace(old, new)))
        with pytest.raises(Stop, match=words):
            keep.restore(bad, "demo")
        assert not DataFolder("demo").database.exists()
    bad.write_bytes(forged(written, lambda rows: rows).replace(b"PK", b"KP", 1))
    with pytest.raises(Stop, match=r"bad\.zip is damaged"):
        keep.verify(bad)


def test_a_backup_of_a_newer_version_is_told(var, written, tmp_path):
    newer = tmp_path / "newer.zip"
    with zipfile.ZipFile(written) as opened, zipfile.ZipFile(newer, "w") as made:
        told = json.loads(opened.read("manifest.json"))
        made.writestr("rows.jsonl", opened.read("rows.jsonl"))
        told["migrations"].append(["plans", "9999_later"])
        made.writestr("manifest.json", json.dumps(told))
        made.comment = b"loadstar sha256 " + b"0" * 64
    data = newer.read_bytes()[:-64]
    newer.write_bytes(data + hashlib.sha256(data).hexdigest().encode())
    with pytest.raises(Stop, match=r"newer Loadstar, or by none \(plans\.9999_later"):
        keep.verify(newer)


def test_verify_runs_nothing_of_a_file_and_not_as_root(reachable, memory, tmp_path):
    """0.9.0 ran `\\!` lines of a backup, as root, and said that it was whole."""
    (memory / "venv").symlink_to(ROOT / "var" / "venv")
    mark, bad = tmp_path / "was-run", tmp_path / "bad.zip"
    tmp_path.chmod(0o777)
    with zipfile.ZipFile(DATA / "0.9.0.zip") as opened, zipfile.ZipFile(bad, "w") as made:
        made.writestr("manifest.json", opened.read("manifest.json"))
        made.writestr("data.sql", opened.read("data.sql").split(b"\n", 1)[1] + f"\\! touch {mark}\n".encode())
    bad.chmod(0o600)
    done = subprocess.run([sys.executable, "loadstar", "verify", str(bad)], cwd=ROOT, text=True, capture_output=True,
                          env={**os.environ, "LOADSTAR_VAR": str(memory)}, check=False)
    assert done.returncode == 1 and "nothing of it was run" in done.stderr and "Traceback" not in done.stderr
    assert not mark.exists()
    assert ("without root's rights" in done.stdout) == (os.geteuid() == 0)


def test_nothing_to_back_up(var, tmp_path):
    with pytest.raises(Stop, match="There are no data"):
        keep.backup(tmp_path / "x.zip")
    with pytest.raises(Stop, match="no file"):
        keep.verify(tmp_path / "none.zip")
