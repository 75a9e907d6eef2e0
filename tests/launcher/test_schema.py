"""First starts and upgrades that are cut short at any moment are mended by starting again; newer data are refused."""

import gzip
import json
from pathlib import Path

import pytest

from launcher import dump, schema
from launcher.folder import read_json, write_json
from launcher.say import Stop

OLD = Path(__file__).parent / "data" / "0.3.0.sql.gz"


def counted(private, table):
    return int(dump.ask(private.access, f"SELECT COUNT(*) FROM loadstar.{table}")[0][0])


def put_old(own, private, tmp_path):
    """The data of a workshop that ran 0.3.0 are in the database."""
    text = tmp_path / "old.sql"
    text.write_bytes(gzip.decompress(OLD.read_bytes()))
    dump.read(private.access, text)


def test_a_first_start_cut_short_is_begun_again(data, capsys):
    own, private, environment = data
    write_json(own.path / "schema.json", {"state": "first"})
    dump.ask(private.access, "CREATE TABLE loadstar.workshop_person (id INT); CREATE TABLE loadstar.half (id INT)")
    schema.bring_up(own, private.access, environment)
    assert "making the tables again" in capsys.readouterr().out
    assert counted(private, "workshop_person") == 0 and "half" not in dump.tables(private.access)
    assert read_json(own.path / "schema.json") == {"state": "whole"}
    assert schema.standing(environment).missing == ()


def test_a_first_start_of_0_3_0_cut_short_is_begun_again(data):
    own, private, environment = data
    dump.ask(private.access, "CREATE TABLE loadstar.workshop_person (id INT); CREATE TABLE loadstar.half (id INT)")
    schema.bring_up(own, private.access, environment)
    assert "half" not in dump.tables(private.access)


def test_data_of_0_3_0_are_dumped_then_upgraded(data, tmp_path, capsys):
    own, private, environment = data
    put_old(own, private, tmp_path)
    before = dump.sums(tmp_path / "old.sql")
    schema.bring_up(own, private.access, environment)
    assert "upgrading the data" in capsys.readouterr().out
    kept, = (own.path / "dumps").glob("before-upgrade-*.sql")
    assert dump.sums(kept) == before
    assert read_json(own.path / "schema.json") == {"state": "whole"}
    now = tmp_path / "now.sql"
    dump.write(private.access, now)
    after = dump.sums(now)
    for table in ("workshop_workshop", "workshop_membership", "plans_planrow", "plans_revision"):
        assert after[table]["rows"] == before[table]["rows"] > 0, table
    schema.bring_up(own, private.access, environment)
    assert len(list((own.path / "dumps").iterdir())) == 1  # nothing to do: nothing dumped


def test_an_upgrade_cut_short_is_rolled_back_and_done_again(data, tmp_path, capsys):
    own, private, environment = data
    put_old(own, private, tmp_path)
    (own.path / "dumps").mkdir()
    (own.path / "dumps" / "before.sql").write_bytes((tmp_path / "old.sql").read_bytes())
    write_json(own.path / "schema.json", {"state": "upgrading", "dump": "dumps/before.sql"})
    dump.ask(private.access, "DROP TABLE loadstar.plans_revision; DROP TABLE loadstar.django_migrations")
    schema.bring_up(own, private.access, environment)
    assert "putting back the state before it" in capsys.readouterr().out
    assert counted(private, "plans_revision") == 32
    assert schema.standing(environment).missing == ()
    (own.path / "dumps" / "before.sql").unlink()
    write_json(own.path / "schema.json", {"state": "upgrading", "dump": "dumps/before.sql"})
    with pytest.raises(Stop, match="is gone: restore a backup"):
        schema.bring_up(own, private.access, environment)


def test_newer_data_are_refused_and_left_alone(data):
    own, private, environment = data
    schema.bring_up(own, private.access, environment)
    dump.ask(private.access, "INSERT INTO loadstar.django_migrations (app, name, applied) "
                             "VALUES ('plans', '9999_later', NOW())")
    with pytest.raises(Stop, match=r"newer Loadstar \(plans\.9999_later"):
        schema.bring_up(own, private.access, environment)
    assert "plans_revision" in dump.tables(private.access)


def test_the_demonstration_s_sign_in_does_not_work_in_serve(data, tmp_path):
    """The published password signed in as owner after `demo`, then `serve` on the same data."""
    own, private, environment = data
    put_old(own, private, tmp_path)
    schema.bring_up(own, private.access, environment)
    dump.ask(private.access, "DELETE FROM loadstar.workshop_membership WHERE person_id IN (SELECT id FROM "
                             "loadstar.workshop_person WHERE username = 'Maren'); "
                             "DELETE FROM loadstar.plans_revision; DELETE FROM loadstar.plans_planrow; "
                             "DELETE FROM loadstar.workshop_person WHERE username = 'Maren'")
    said = schema.manage(environment, "prepare")
    assert "has been locked" in said and "enter this code" in said
    password, = dump.ask(private.access, "SELECT password FROM loadstar.workshop_person")[0]
    assert password.startswith("!")
    assert "locked" not in schema.manage(environment, "prepare")


def test_the_state_is_written_whole_or_not_at_all(tmp_path):
    path = tmp_path / "schema.json"
    write_json(path, {"state": "whole"})
    assert json.loads(path.read_text()) == {"state": "whole"} and path.stat().st_mode & 0o777 == 0o600
    assert [p.name for p in tmp_path.iterdir()] == ["schema.json"]
    path.write_text("{")
    assert read_json(path) == {} == read_json(tmp_path / "none.json")
