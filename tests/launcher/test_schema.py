"""First starts and upgrades that are cut short at any moment are mended by starting again; newer data are refused."""

import gzip
import json
import zipfile
from pathlib import Path

import pytest

from launcher import access, schema
from launcher.folder import read_json, write_json
from launcher.manage import manage
from launcher.say import Stop

DATA = Path(__file__).parent / "data"


def counted(private, table):
    return int(access.ask(private.access, f"SELECT COUNT(*) FROM loadstar.{table}")[0][0])


def put_old(private, environment, version="0.3.0"):
    """The data of a workshop that ran an earlier version are in the database."""
    access.empty(private.access)
    if version == "0.3.0":  # as its own tables had them, by the client: the file is ours
        access.ask(private.access, "USE loadstar;\n" + gzip.decompress((DATA / "0.3.0.sql.gz").read_bytes()).decode())
        return
    with (DATA / f"{version}.zip").open("rb") as file:
        manage(environment, "read_in", str(file.fileno()), descriptors=(file.fileno(),))


def test_a_first_start_cut_short_is_begun_again(data, capsys):
    own, private, environment = data
    write_json(own.path / "schema.json", {"state": "first"})
    access.ask(private.access, "CREATE TABLE loadstar.workshop_person (id INT); CREATE TABLE loadstar.half (id INT)")
    schema.bring_up(own, private.access, environment)
    assert "making the tables again" in capsys.readouterr().out
    assert counted(private, "workshop_person") == 0 and "half" not in access.tables(private.access)
    assert read_json(own.path / "schema.json") == {"state": "whole"}
    assert schema.standing(environment).missing == ()


def test_a_first_start_of_0_3_0_cut_short_is_begun_again(data):
    own, private, environment = data
    access.ask(private.access, "CREATE TABLE loadstar.workshop_person (id INT); CREATE TABLE loadstar.half (id INT)")
    schema.bring_up(own, private.access, environment)
    assert "half" not in access.tables(private.access)


@pytest.mark.parametrize(("version", "revisions"), [("0.3.0", 32), ("0.9.0", 45)])
def test_data_of_earlier_versions_are_written_out_then_upgraded(data, capsys, version, revisions):
    own, private, environment = data
    put_old(private, environment, version)
    if version != "0.3.0":
        write_json(own.path / "schema.json", {"state": "whole"})
    tables = ("workshop_workshop", "workshop_membership", "plans_revision")
    before = [counted(private, table) for table in tables]
    schema.bring_up(own, private.access, environment)
    assert "upgrading the data" in capsys.readouterr().out
    kept, = (own.path / "dumps").glob("before-upgrade-*.zip")
    with zipfile.ZipFile(kept) as opened:
        told = json.loads(opened.read("manifest.json"))["tables"]
    assert [told[table]["rows"] for table in tables] == before == [counted(private, table) for table in tables]
    assert before[2] == revisions
    assert read_json(own.path / "schema.json") == {"state": "whole"}
    schema.bring_up(own, private.access, environment)
    assert len(list((own.path / "dumps").iterdir())) == 1  # nothing to do: nothing written out


def test_an_upgrade_cut_short_is_rolled_back_and_done_again(data, capsys):
    own, private, environment = data
    put_old(private, environment, "0.9.0")
    (own.path / "dumps").mkdir()
    manage(environment, "write_out", str(own.path / "dumps" / "before.zip"), "--whole")
    write_json(own.path / "schema.json", {"state": "upgrading", "dump": "dumps/before.zip"})
    access.ask(private.access, "USE loadstar; DROP TABLE plans_revision; DROP TABLE django_migrations")
    schema.bring_up(own, private.access, environment)
    assert "putting back the state before it" in capsys.readouterr().out
    assert counted(private, "plans_revision") == 45
    assert schema.standing(environment).missing == ()
    (own.path / "dumps" / "before.zip").unlink()
    for name, words in (("before.zip", "is gone: restore a backup"), ("before.sql", "start that version once more")):
        (own.path / "dumps" / "before.sql").touch()
        write_json(own.path / "schema.json", {"state": "upgrading", "dump": f"dumps/{name}"})
        with pytest.raises(Stop, match=words):
            schema.bring_up(own, private.access, environment)


def test_newer_data_are_refused_and_left_alone(data):
    own, private, environment = data
    schema.bring_up(own, private.access, environment)
    access.ask(private.access, "INSERT INTO loadstar.django_migrations (app, name, applied) "
                             "VALUES ('plans', '9999_later', NOW())")
    with pytest.raises(Stop, match=r"newer Loadstar \(plans\.9999_later"):
        schema.bring_up(own, private.access, environment)
    assert "plans_revision" in access.tables(private.access)


def test_the_demonstration_s_sign_in_does_not_work_in_serve(data):
    """The published password signed in as owner after `demo`, then `serve` on the same data."""
    own, private, environment = data
    put_old(private, environment)
    schema.bring_up(own, private.access, environment)
    access.ask(private.access, "DELETE FROM loadstar.workshop_membership WHERE person_id IN (SELECT id FROM "
                             "loadstar.workshop_person WHERE username = 'Maren'); "
                             "DELETE FROM loadstar.plans_revision; DELETE FROM loadstar.plans_plansummary; "
                             "DELETE FROM loadstar.plans_planhead; "
                             "DELETE FROM loadstar.workshop_person WHERE username = 'Maren'")
    said = schema.manage(environment, "prepare")
    assert "has been locked" in said and "enter this code" in said
    password, = access.ask(private.access, "SELECT password FROM loadstar.workshop_person")[0]
    assert password.startswith("!")
    assert "locked" not in schema.manage(environment, "prepare")


def test_the_state_is_written_whole_or_not_at_all(tmp_path):
    path = tmp_path / "schema.json"
    write_json(path, {"state": "whole"})
    assert json.loads(path.read_text()) == {"state": "whole"} and path.stat().st_mode & 0o777 == 0o600
    assert [p.name for p in tmp_path.iterdir()] == ["schema.json"]
    path.write_text("{")
    assert read_json(path) == {} == read_json(tmp_path / "none.json")
