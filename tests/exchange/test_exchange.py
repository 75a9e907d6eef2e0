"""Reports, generated documents, example files and the command line."""

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest
from builders import Bench, wide_plan

from loadstar import cli
from loadstar.core.analysis import analyse
from loadstar.core.edits.standing import set_figure
from loadstar.core.plan import document
from loadstar.demo import fit_out, winter
from loadstar.exchange.docs import DOCUMENTS, ROOT
from loadstar.exchange.netlist import netlist
from loadstar.exchange.report import report

EXAMPLES = ROOT / "examples"


@pytest.mark.parametrize("name", DOCUMENTS)
def test_generated_documents_are_current(name):
    assert (ROOT / name).read_text() == DOCUMENTS[name](), "run ./loadstar build"


@pytest.mark.parametrize(("name", "make"), [("survey-season", fit_out), ("winter-counts", winter)])
def test_example_files_are_the_demonstration(name, make):
    assert (EXAMPLES / f"{name}.json").read_text() == document.to_json(make()[0])


def test_report_is_plain_and_complete():
    analysis = analyse(fit_out()[0])
    data = json.loads(json.dumps(report(analysis), allow_nan=False))
    assert set(data["wires"]) == {w.id for w in analysis.plan.wires}
    assert data["states"]["idle"]["posts_v"] == analysis.states["idle"].posts_v
    assert len(data["findings"]) == len(analysis.findings)
    assert data["budget"]["break_even_rpm"] == pytest.approx(3037, abs=2)


def test_check_says_findings_and_exits_by_the_gravest(capsys):
    assert cli.main(["check", str(EXAMPLES / "survey-season.json")]) == 1
    said = capsys.readouterr().out
    assert "STOP    wire.not-protected" in said
    assert "does not certify" in said
    assert cli.main(["check", str(EXAMPLES / "winter-counts.json")]) == 0
    assert "Nothing was found wrong" in capsys.readouterr().out


def test_check_as_json(capsys):
    assert cli.main(["check", str(EXAMPLES / "winter-counts.json"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["core_version"]


def test_check_of_what_is_unknown_of_a_plan(capsys, tmp_path):
    """Nothing of a plan that says all, or that has no supply to analyse; else each figure, most telling first."""
    some = Bench()
    lamp = some.lamp()
    some.plan = set_figure(some.plan, lamp, "amount", 18.0, "typical")
    bare = set_figure(Bench(battery=False).plan, "G1", "rating1_w", 120.0, "typical")
    for plan, figures in ((Bench().plan, []), (bare, []), (some.plan, ["L1.amount"])):
        path = tmp_path / "plan.json"
        path.write_text(document.to_json(plan))
        assert cli.main(["check", str(path), "--unknown", "--json"]) == 0
        assert [f["figure"] for f in json.loads(capsys.readouterr().out)["figures"]] == figures
        assert cli.main(["check", str(path), "--unknown"]) == 0
        said = capsys.readouterr().out
        assert said == "Nothing is left to measure.\n" if not figures else (
            said.startswith("1. ") and "(L1.amount): 18 W, typical" in said)


@pytest.mark.parametrize(("amount", "area_mm2", "code", "word"), [
    (18, None, 0, ""), (48, 1.0, 0, "CAUTION"), (180, 0.5, 1, "STOP")])
def test_stages_exit_by_what_stops_one_of_them(capsys, tmp_path, amount, area_mm2, code, word):
    b = Bench()
    b.change(b.lamp(amount), stage="A")
    for wire in b.plan.wires:
        b.wire(wire.id, area_mm2=area_mm2)
    path = tmp_path / "plan.json"
    path.write_text(document.to_json(b.plan))
    assert cli.main(["check", str(path), "--stages"]) == code
    said = capsys.readouterr().out
    assert "Stage A: " in said and word in said and ("STOP" in said) == bool(code)


@pytest.mark.parametrize(("content", "said"), [
    (b"{", "breaks off"), (b"{}", "no Loadstar plan"), (b"\xff\xff", "UTF-8"),
    (b'{"format": "loadstar-plan"}', "version")])
def test_check_of_what_is_no_plan(tmp_path: Path, capsys, content, said):
    path = tmp_path / "x.json"
    path.write_bytes(content)
    assert cli.main(["check", str(path)]) == 2
    error = capsys.readouterr().err
    assert said in error
    assert "Traceback" not in error
    assert len(error.splitlines()) == 1


def test_check_of_a_file_that_is_not_there(capsys):
    assert cli.main(["check", "/nowhere/plan.json"]) == 2
    assert "cannot be opened" in capsys.readouterr().err


def test_check_names_the_element(tmp_path: Path, capsys):
    data = json.loads((EXAMPLES / "winter-counts.json").read_text())
    data["wires"][0]["b"] = "F77.a"
    path = tmp_path / "x.json"
    path.write_text(json.dumps(data))
    assert cli.main(["check", str(path)]) == 2
    assert "W1" in capsys.readouterr().err


def test_a_netlist_on_standard_output(capsys):
    assert cli.main(["netlist", str(EXAMPLES / "tide-hauler.json"), "--state", "assist"]) == 0
    text = capsys.readouterr().out
    assert text.startswith("* Survey cargo and second pack: Assist")
    assert ".op" in text
    assert "BC" in text
    assert text.rstrip().endswith(".end")


def test_a_netlist_of_ac_lamps(capsys):
    assert cli.main(["netlist", str(EXAMPLES / "ferry-runner.json"), "--state", "town"]) == 0
    text = capsys.readouterr().out
    assert ".ac lin 1" in text
    assert "LS0" in text


@pytest.mark.parametrize(("behaviour", "amount", "unit", "at_13_a"), [
    ("power", 60, "W", 60 / 13), ("current", 4, "A", 4.0), ("filament", 60, "W", 60 / 12 * (13 / 12) ** 0.55)])
def test_a_netlist_s_load_draws_what_it_is_said_to_and_goes_on_below_its_floor(behaviour, amount, unit, at_13_a):
    """By hand at 13 V (a filament's power goes with volts to the power of 1.55); at its floor both of its laws meet,
    and at 0 V nothing flows."""
    b = Bench()
    b.load(behaviour=behaviour, amount=amount, unit=unit, at_v=12, window_low_v=8)
    line = next(x for x in netlist(analyse(b.plan), "key_on").splitlines() if x.startswith("BL"))
    across, floor, above, below = re.fullmatch(r".* I = (\S+) >= (\S+) \? (.+) : (.+) ; .*", line).groups()

    def amps(law: str, volts: float) -> float:
        return float(eval(law.replace(across, f"({volts})"), {"pow": pow, "min": min}))

    assert amps(above, 13.0) == pytest.approx(at_13_a, rel=1e-3)
    assert amps(above, float(floor)) == pytest.approx(amps(below, float(floor)), rel=1e-9)
    assert amps(below, 0.0) == 0


def test_a_netlist_of_a_state_that_is_not_there(capsys):
    assert cli.main(["netlist", str(EXAMPLES / "tide-hauler.json"), "--state", "idle"]) == 2
    assert "has no state idle; it has parked, on, assist, full, charging" in capsys.readouterr().err


def test_a_netlist_of_no_plan(capsys, tmp_path):
    path = tmp_path / "no.json"
    path.write_text("{")
    assert cli.main(["netlist", str(path)]) == 2
    assert "not whole JSON" in capsys.readouterr().err
    assert cli.main(["netlist", str(tmp_path / "gone.json")]) == 2


@pytest.mark.parametrize("name", sorted(p.stem for p in EXAMPLES.glob("*.json")))
def test_every_example_is_checked_in_words(name, capsys):
    code = cli.main(["check", str(EXAMPLES / f"{name}.json")])
    said = capsys.readouterr().out
    assert code == (1 if "STOP" in said else 0)
    assert "Loadstar calculates; it does not certify." in said
    assert "nan" not in said


def test_a_reader_that_goes_away_early_is_no_fault(tmp_path):
    wide = tmp_path / "wide.json"
    wide.write_text(document.to_json(wide_plan()))  # its report is more than a pipe holds
    command = f"{sys.executable} -m loadstar.cli check {wide} --json | head -c 50"
    done = subprocess.run(["bash", "-c", f"set -o pipefail; {command}"], capture_output=True, text=True, check=False,
                          env={**os.environ, "PYTHONPATH": str(ROOT / "src")})
    assert (done.returncode, done.stderr, len(done.stdout)) == (0, "", 50)


def test_the_report_says_what_the_survey_found():
    said = report(analyse(document.from_json((EXAMPLES / "as-found-in-spring.json").read_bytes())))["survey"]
    assert said["pins"]["T3"]["kind"] == "key" and said["pins"]["T3"]["sure_frac"] > 0.9
    assert {r["what"] for r in said["readings"]} == {"rested", "cranking", "idle", "raised", "standing"}
    assert said["tables"]["CT1"][0] == "In dipped: 1 with 2 joined."
