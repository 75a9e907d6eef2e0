"""An analysis that one worker made is read by the others; not that of another core, nor a damaged one."""

import os
import time
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.core.cache import caches

from loadstar.core.analysis import CORE_VERSION
from loadstar.core.begin import Wish, begun
from loadstar.core.plan.model import Plan
from loadstar.demo import fit_out
from loadstar.web.evidence.kept import ByIdentity
from loadstar.web.plans import known as module
from loadstar.web.plans import shared
from loadstar.web.plans.known import Known, Tried, known, pack
from loadstar.web.plans.models import PlanSummary
from loadstar.web.room import Left


@pytest.fixture(autouse=True)
def empty():
    """Nothing known yet."""
    caches["analyses"].clear()
    known.cache_clear()


@pytest.fixture
def counted(monkeypatch):
    """How often something was computed."""
    made = []
    monkeypatch.setattr(module, "analyse", lambda plan, real=module.analyse: made.append(plan) or real(plan))
    return made


def test_another_worker_reads_what_one_computed(counted):
    stored = pack(fit_out()[0])
    first = known(stored)
    findings = first.analysis.findings
    cures = [first.cure_of(f) for f in findings]
    known.cache_clear()  # as in another process
    second = known(stored)
    assert second is not first and second.analysis.findings == findings and len(counted) == 1
    assert [second.cure_of(f) for f in findings] == cures and any(cures)
    assert second.analysis.states.keys() == first.analysis.states.keys()
    for state, row in first.analysis.states.items():
        assert second.analysis.states[state].current("W1") == row.current("W1")


def test_another_version_of_the_core_computes_anew(counted, monkeypatch):
    stored = pack(fit_out()[0])
    _ = known(stored).analysis
    known.cache_clear()
    monkeypatch.setattr(module, "program", lambda: "another")
    _ = known(stored).analysis
    assert len(counted) == 2


def test_what_was_too_large_is_tried_again_after_a_while(counted, settings, monkeypatch):
    settings.COMPUTE_S = 0
    one = Known(fit_out()[0], "x", 1)
    assert one.analysis.left_out and one.analysis.left_out and len(counted) == 1
    assert 590 < one._stale_at - time.monotonic() <= 600  # seconds
    settings.COMPUTE_S = 60
    monkeypatch.setattr(one, "_stale_at", -1.0)
    caches["analyses"].clear()
    assert not one.analysis.left_out and len(counted) == 2


def test_trying_ways_out_ends(settings):
    settings.COMPUTE_S = 60
    one = Known(fit_out()[0], "y", 1)
    finding = next(f for f in one.analysis.findings if f.proposals)
    settings.COMPUTE_S = 0
    assert one.cure_of(finding) is None


@pytest.fixture
def files(settings, tmp_path):
    """The cache as it is when Loadstar serves: files that all workers read."""
    settings.CACHES = {"analyses": {"BACKEND": "django.core.cache.backends.filebased.FileBasedCache",
                                    "LOCATION": tmp_path / "cache"}}
    return tmp_path / "cache"


def test_files_that_were_cut_short_are_computed_anew(counted, files):
    stored = pack(fit_out()[0])
    findings = known(stored).analysis.findings
    for n, damage in enumerate((lambda b: b[:len(b) // 2], lambda b: b"", lambda b: b[:30] + b"\0" * (len(b) - 30))):
        known.cache_clear()
        for file in files.iterdir():
            file.write_bytes(damage(file.read_bytes()))
        assert known(stored).analysis.findings == findings
        assert len(counted) == n + 2
    known.cache_clear()
    assert known(stored).analysis.findings == findings and len(counted) == 4  # the last one was whole again


def test_no_room_for_the_cache_is_no_fault(counted, settings, tmp_path):
    (tmp_path / "file").write_text("in the way")
    settings.CACHES = {"analyses": {"BACKEND": "django.core.cache.backends.filebased.FileBasedCache",
                                    "LOCATION": tmp_path / "file"}}
    assert known(pack(fit_out()[0])).analysis.findings and len(counted) == 1


def test_a_look_that_did_not_come_to_its_end_is_the_last_until_one_does(monkeypatch):
    stored = pack(begun(Plan(), Wish("scooter", "small", "", ("grips",))))
    one = known(stored)
    assert one.last_look is None and one.outlook_so_far is None
    monkeypatch.setattr(module, "LOOK_S", 0.0)
    first = one.outlook()
    assert first.untried and one.last_look is first and one.outlook_so_far is None
    monkeypatch.setattr(module, "LOOK_S", 600.0)
    whole = one.outlook()
    assert not whole.untried and one.last_look is whole and one.outlook() is whole
    known.cache_clear()  # as in another process, which has looked at nothing
    assert known(stored).last_look.ranked == whole.ranked


def test_places_are_tried_as_far_as_one_look_comes_and_the_next_goes_on(monkeypatch):
    plan = begun(Plan(), Wish("scooter", "small", "", ("grips",)))
    grips, every = plan.loads[0].id, len(plan.places)
    stored = pack(plan)
    monkeypatch.setattr(module, "LOOK_S", 0.0)
    assert known(stored).places(grips).untried == every
    monkeypatch.setattr(module, "LOOK_S", 600.0)
    whole = known(stored).places(grips)
    assert whole.untried == 0 and len(whole.options) == every


def test_one_look_tries_some_places_and_ends(monkeypatch):
    plan = begun(Plan(), Wish("scooter", "small", "", ("grips",)))
    clock, asked = iter(range(1000)), []
    monkeypatch.setattr(module, "LOOK_S", 3.0)
    monkeypatch.setattr(module, "time", SimpleNamespace(monotonic=lambda: float(next(clock))))
    monkeypatch.setattr(module, "ranked", tuple)
    tried = Known(plan, "z", 1)._tried_in_turn("places", list("abcdefgh"), lambda place: asked.append(place) or place)
    assert tried.options == ("a", "b") and asked == ["a", "b"]  # after 1 and 2 seconds; after 3 the look is over


def test_so_much_is_remembered_in_each_process():
    assert known.cache.maxsize == 400 * 1024 * 1024


@pytest.mark.parametrize(("version", "older"), [(CORE_VERSION, False), ("1", True), (f"{CORE_VERSION}.1", True)])
def test_figures_of_another_core_are_told_apart(version, older):
    assert PlanSummary(core_version="".join(list(version))).of_an_older_core is older  # equal, not the same


def test_what_is_left_to_try_is_counted():
    assert [Tried((), 5).untried, Tried((object(),) * 3, 5).untried] == [5, 2]


def test_the_shared_files_are_kept_up_to_their_bound_and_the_oldest_go_first(tmp_path, monkeypatch):
    """Half a gigabyte in all; whatever is over it goes, no more."""
    assert shared.MOST_BYTES == 512 * 1024 * 1024
    files = shared.Files(str(tmp_path), {"OPTIONS": {"MAX_ENTRIES": 100}})
    for n in range(4):
        files.set(f"one-{n}", bytes(range(256)) * 40)
        path = files._key_to_file(f"one-{n}")
        os.utime(path, (1000 + n, 1000 + n))
    files._cull()
    assert all(files.get(f"one-{n}") for n in range(4))
    size = Path(files._key_to_file("one-0")).stat().st_size
    monkeypatch.setattr(shared, "MOST_BYTES", 4 * size - 1)
    files._cull()
    assert [files.get(f"one-{n}") is not None for n in range(4)] == [False, True, True, True]


@pytest.mark.parametrize(("free_mb", "scarce", "none"), [
    (500, False, False), (499.9, True, False), (48, True, False), (47.9, True, True)])
def test_room_is_scarce_below_half_a_gigabyte_and_none_below_48_megabytes(tmp_path, free_mb, scarce, none):
    left = Left(int(free_mb * 1024**2), tmp_path)
    assert (left.scarce, left.none) == (scarce, none)
    assert ("the disk is full" in left.words) == none
    assert f"{free_mb:.0f} MB free at {tmp_path}" in left.words


def test_a_kept_figure_is_of_the_very_same_analysis():
    one, other = object(), object()
    assert ByIdentity(one) == ByIdentity(one) and hash(ByIdentity(one)) == hash(ByIdentity(one))
    assert ByIdentity(one) != ByIdentity(other) and ByIdentity(one) != one
