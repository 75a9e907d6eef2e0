"""`./loadstar pack`: everything about a plan file as files, or nothing and a sentence."""

import csv
import io
import subprocess
from pathlib import Path

import ezdxf
import pytest
from reference.simulator import needs_ngspice, run_ngspice

from loadstar import cli, demo
from loadstar.core.analysis import analyse
from loadstar.core.plan import document
from loadstar.exchange import cut, records
from loadstar.pack import files_of

EXAMPLE = Path(__file__).resolve().parents[2] / "examples" / "winter-counts.json"


def test_the_files_of_a_plan_are_written_and_can_be_read_again(tmp_path, capsys):
    assert cli.main(["pack", str(EXAMPLE), "--into", str(tmp_path / "out" / "here")]) == 0
    folder = tmp_path / "out" / "here"
    assert document.from_json((folder / "plan.json").read_bytes()) == document.from_json(EXAMPLE.read_bytes())
    assert ezdxf.readfile(folder / "drawings" / "board.dxf").header["$INSUNITS"] == 4  # millimetres
    rows = list(csv.reader(io.StringIO((folder / "tables" / "order.csv").read_text(encoding="utf-8"))))
    assert rows[0][:2] == ["group", "what"]
    assert "sheet 1 of" in (folder / "drawings" / "circuit-1.svg").read_text()
    assert "files in" in capsys.readouterr().out


def test_the_cut_list_has_what_is_made_and_nothing_that_stays():
    stays = 0
    for path in sorted((EXAMPLE.parent / "jobs").glob("*.json"))[:8]:
        analysis = analyse(document.from_json(path.read_bytes()))
        rows = list(csv.DictReader(io.StringIO(cut.to_csv(analysis))))
        untouched = {w.id for w in analysis.plan.wires if analysis.topology.untouched(w)}
        stays += len(untouched)
        assert {r["wire"] for r in rows} == analysis.wires.keys() - untouched, path.name
    assert stays


def test_the_same_plan_gives_the_same_bytes():
    first, second = (files_of(analyse(demo.winter()[0])) for _ in range(2))
    assert first == second and "drawings/board.dxf" in first


@needs_ngspice
def test_its_netlists_run():
    for name, data in files_of(analyse(demo.winter()[0])).items():
        if name.startswith("netlists/"):
            assert run_ngspice(data.decode())


def test_what_cannot_be_written_or_read_is_said_with_another_exit_code(tmp_path, capsys):
    (tmp_path / "file").write_text("no folder")
    assert cli.main(["pack", str(EXAMPLE), "--into", str(tmp_path / "file")]) == 2
    assert "cannot be written" in capsys.readouterr().err
    assert cli.main(["pack", str(tmp_path / "none.json"), "--into", str(tmp_path / "out")]) == 2
    assert not (tmp_path / "out").exists()


def test_a_full_disk_leaves_nothing_half_done(tmp_path, capsys, monkeypatch):
    real = Path.write_bytes
    written = []

    def write(self, data):
        written.append(self)
        if len(written) > 3:
            raise OSError(28, "No space left on device")
        return real(self, data)

    monkeypatch.setattr(Path, "write_bytes", write)
    assert cli.main(["pack", str(EXAMPLE), "--into", str(tmp_path / "out")]) == 2
    assert "No space left" in capsys.readouterr().err and not (tmp_path / "out").exists()
    assert list(tmp_path.iterdir()) == []


def test_a_plan_without_a_supply_has_no_drawing_and_no_netlists():
    bare = demo.as_found()[0].model_copy(update={"parts": (), "wires": (), "readings": (), "joins": (), "plugs": ()})
    found = files_of(analyse(bare))
    assert set(found) == {"plan.json", "survey.json", "tables/pins.csv", "tables/order.csv"}


def test_records_are_what_they_were_and_refused_in_words():
    row = records.LogRow(revision=1, operation="cut/W1", what="done", at="2026-11-27T12:00:00+00:00", by="Tern",
                         note="=1+1", pull_n=61.5)
    kept = records.Records(log=(row,))
    assert records.from_json(records.to_json(kept)) == kept
    table = records.to_csv(records.LOG_COLUMNS, [row.model_dump()])
    assert "'=1+1" in table and table.startswith("revision,operation") and table.endswith("\r\n")
    for data in (b"[]", b"{", b'{"log": [{}]}', b'{"log": [], "more": 1}'):
        with pytest.raises(ValueError, match="records cannot be taken"):
            records.from_json(data)


def test_the_launcher_knows_it():
    done = subprocess.run(["python3", "loadstar", "--help"], capture_output=True, text=True, check=True,
                          cwd=EXAMPLE.parents[1])
    assert "pack" in done.stdout
