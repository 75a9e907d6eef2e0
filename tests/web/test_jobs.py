"""The twenty-one jobs: built through the pages, exported, checked by the command, their netlists given to the
simulator in every state and at every stand of their switches.

`./loadstar test tests/web/test_jobs.py --write-jobs` writes examples/jobs anew; then read what has changed.
"""

from pathlib import Path

import pytest
from jobs import electric, engines, feeding, harnesses
from jobs.expected import BEGUN, EXPECTED
from jobs.pages import Pages
from reference.simulator import assert_agrees, needs_ngspice

from loadstar.cli import main
from loadstar.core.analysis import analyse
from loadstar.core.figures.registry import working
from loadstar.core.plan import document
from loadstar.core.stages import stages

JOBS = {**feeding.JOBS, **electric.JOBS, **engines.JOBS, **harnesses.JOBS}
KEPT = Path(__file__).resolve().parents[2] / "examples" / "jobs"


def kept(key: str) -> Path:
    """The file of a job."""
    return KEPT / f"{key}.json"


def test_every_job_is_there_once():
    assert sorted(JOBS) == sorted(EXPECTED)
    assert [int(key[:2]) for key in sorted(JOBS)] == list(range(1, 22))
    assert sorted(p.stem for p in KEPT.glob("*.json")) == sorted(JOBS)


@pytest.mark.django_db
@pytest.mark.parametrize("key", sorted(JOBS))
def test_a_job_is_built_through_the_pages(inside, shop, key, request):
    """Every form is taken, and what comes out is the file that is kept."""
    pages = Pages(inside, shop)
    JOBS[key](pages)
    made = pages.export()
    if request.config.getoption("--write-jobs"):
        KEPT.mkdir(exist_ok=True)
        kept(key).write_bytes(made)
    assert made == kept(key).read_bytes(), "meant so? then run it with --write-jobs, and read what has changed"


@pytest.mark.parametrize("key", sorted(JOBS))
def test_a_job_finds_what_it_must_and_nothing_else(key, capsys):
    plan, wanted = document.from_json(kept(key).read_bytes()), EXPECTED[key]
    a = analyse(plan)
    grave = {f.rule for f in a.findings if f.severity in ("stop", "caution")}
    assert grave - BEGUN == wanted.grave
    assert wanted.also <= {f.rule for f in a.findings}
    for figure, value, near in wanted.figures:
        assert working(a, figure).value == pytest.approx(value, abs=near), figure
    stops = any(f.severity == "stop" for f in a.findings)
    assert main(["check", str(kept(key))]) == (1 if stops else 0)
    assert plan.name in capsys.readouterr().out


@needs_ngspice
@pytest.mark.parametrize("key", sorted(JOBS))
def test_a_job_agrees_with_the_simulator_at_every_stand(key):
    a = analyse(document.from_json(kept(key).read_bytes()))
    tried = 0
    for state in a.states:
        for turn, row in enumerate(a.volts.turns(state)):
            if row.solution is not None:
                assert_agrees(a, state, turn=turn)
                tried += 1
    assert tried >= len([s for s in a.states if a.source.gives_in(s)])


def test_the_stages_of_a_conversion_are_each_complete(capsys):
    found = stages(document.from_json(kept("11-full-electrics").read_bytes()))
    assert [s.letter for s in found] == ["A", "B", "C"]
    assert not any(s.lacks for s in found)
    assert [len(s.new_parts) > 3 for s in found] == [True, True, True]
    assert "flasher.load" not in {f.rule for f in found[0].analysis.findings}
    assert main(["check", "--stages", str(kept("11-full-electrics"))]) == 0
    assert "Stage B" in capsys.readouterr().out
