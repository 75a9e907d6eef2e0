"""Backup, restore, verify: the same rows come back, and what is damaged or of another version is told."""

import json
import zipfile

import pytest

from launcher import dump, keep, schema
from launcher.folder import DataFolder
from launcher.say import Stop


@pytest.fixture
def filled(data):
    """A data folder as after the first start, with rows that a dump could spoil."""
    own, private, environment = data
    schema.bring_up(own, private.access, environment)
    dump.ask(private.access, r"""
        INSERT INTO loadstar.workshop_workshop (name, slug, house_rules) VALUES
          ('Tide; DROP', 'tide', '{"a": "line\\nbreak"}'), ('Möwe “2” \' \\', 'moewe', '{}');
        INSERT INTO loadstar.django_session (session_key, session_data, expire_date) VALUES ('k', 'secret', NOW())""")
    own.say(database_port=private.port)
    return own, private, environment


def test_what_was_backed_up_comes_back(filled, tmp_path):
    own, _, _ = filled
    file = tmp_path / "all.zip"
    assert "rows of" in keep.backup(file)
    assert file.stat().st_mode & 0o777 == 0o600
    with zipfile.ZipFile(file) as opened:
        told = json.loads(opened.read("manifest.json"))
        text = opened.read("data.sql").decode()
    assert told["tables"]["workshop_workshop"]["rows"] == 2 and "django_session" not in told["tables"]
    assert "secret" not in text and own.secrets()["database"] not in text
    assert "is whole" in keep.verify(file)
    with pytest.raises(Stop, match="has data already"):
        keep.restore(file, "demo") if (DataFolder("demo").database.mkdir(parents=True) or True) else None
    DataFolder("demo").database.rmdir()
    assert "Restored into" in keep.restore(file, "demo")
    with keep.reached(DataFolder("demo")) as access:
        again = tmp_path / "again.sql"
        dump.write(access, again, keep.LEFT_OUT)
        assert dump.sums(again) == told["tables"]
        assert dump.ask(access, "SELECT name FROM loadstar.workshop_workshop ORDER BY id")[1] == [r"Möwe “2” ' \\"]


SPOILT = (
    (lambda m, d: (m, d.replace(b"moewe", b"moeve")), "is damaged"),
    (lambda m, d: (m, d.replace(b"INSERT INTO `workshop_workshop`", b"-- ", 1)), "is damaged"),
    (lambda m, d: ({**m, "format": 9}, d), "backup format 9; this version reads format 1"),
    (lambda m, d: ({"made": "x"}, d), "lacks its tables"), (lambda m, d: (None, d), "no backup of Loadstar"))


def test_a_damaged_backup_is_refused(filled, tmp_path):
    file, bad = tmp_path / "all.zip", tmp_path / "bad.zip"
    keep.backup(file)
    for spoil, words in SPOILT:
        with zipfile.ZipFile(file) as opened, zipfile.ZipFile(bad, "w") as spoilt:
            manifest, text = spoil(json.loads(opened.read("manifest.json")), opened.read("data.sql"))
            if manifest is not None:
                spoilt.writestr("manifest.json", json.dumps(manifest))
            spoilt.writestr("data.sql", text)
        for act in (keep.verify, lambda f: keep.restore(f, "demo")):
            with pytest.raises(Stop, match=words):
                act(bad)
    assert not DataFolder("demo").database.exists()
    cut = tmp_path / "cut.zip"
    cut.write_bytes(file.read_bytes()[:-200])
    with pytest.raises(Stop, match="no backup of Loadstar"):
        keep.verify(cut)


def test_nothing_to_back_up(var, tmp_path):
    with pytest.raises(Stop, match="There are no data"):
        keep.backup(tmp_path / "x.zip")
    with pytest.raises(Stop, match="no file"):
        keep.verify(tmp_path / "none.zip")
