"""What ended by itself is brought back, after pauses that grow; on a full disk as soon as there is room."""

import subprocess
import time

import pytest

from launcher import watch
from launcher.folder import DataFolder
from launcher.say import Stop, full_disk
from launcher.watch import Beside, Pauses, Watch


def test_pauses_grow_to_a_minute_and_begin_again():
    now = [100.0]
    pauses = Pauses(now=lambda: now[0])
    assert pauses.due
    waits = []
    for _ in range(9):
        waits.append(pauses.failed())
        assert not pauses.due
        now[0] += waits[-1]
        assert pauses.due
    assert waits == [1, 2, 4, 8, 16, 32, 60, 60, 60]
    pauses.went_well()
    assert pauses.due and pauses.failed() == 1


class Database:
    """One that ended, and comes back when it is told that it may."""

    def __init__(self, faults):
        self.process = subprocess.Popen(["true"])
        self.process.wait()
        self.faults, self.tries = list(faults), 0

    def restart(self):
        self.tries += 1
        if self.faults:
            raise self.faults.pop(0)
        self.process = subprocess.Popen(["sleep", "60"])


@pytest.fixture
def watched(var, monkeypatch):
    """A watch over a database that fails so; with how much is free on its disk."""
    free = [10 * 1024**3]
    monkeypatch.setattr(watch.shutil, "disk_usage", lambda _: type("Usage", (), {"free": free[0]}))

    def over(*faults):
        folder = DataFolder("demo")
        folder.hold()
        database = Database(faults)
        return Watch(folder, None, database, [], {}), database
    over.free = free
    yield over


def test_a_database_that_does_not_start_is_tried_again_and_ends_nothing(watched, capsys):
    one, database = watched(Stop("It will not."), Stop("It will not."))
    for _ in range(4):
        one.look()
    assert database.tries == 1  # after the first pause, not at every look
    said = capsys.readouterr()
    assert "It will not. It is tried again in 1 s." in said.err
    for wait_s, tries in ((1, 2), (1, 2), (2, 3)):
        one.pauses.due_at -= wait_s
        one.look()
        assert database.tries == tries
    assert database.process.poll() is None and "the database is back" in capsys.readouterr().out
    database.process.kill()
    one.look()
    database.process.wait()
    one.look()
    assert database.tries == 4  # at once: it had gone well
    database.process.kill()


def test_on_a_full_disk_it_is_tried_as_soon_as_there_is_room(watched, capsys):
    watched.free[0] = 0
    one, database = watched(full_disk(DataFolder("demo").path), full_disk(DataFolder("demo").path))
    one.look()
    one.pauses.due_at -= 1
    one.look()
    one.look()
    assert database.tries == 2
    assert "or as soon as there is room" in capsys.readouterr().err
    watched.free[0] = 10 * 1024**3
    one.look()
    assert database.tries == 3 and database.process.poll() is None
    database.process.kill()


def test_what_makes_papers_is_started_again_when_it_ends():
    begun = []

    def start():
        begun.append(subprocess.Popen(["true"]))
        return begun[-1]
    one = Beside(start, start())
    for process in begun:
        process.wait()
    one.look()
    one.process.wait()
    one.look()
    assert len(begun) == 2  # not at every look, when it ends at once
    one.begun -= 100
    one.pauses.due_at = time.monotonic() - 1
    one.look()
    assert len(begun) == 3 and one.pauses.pause_s == 2


def test_a_full_disk_is_said_with_its_figure(tmp_path):
    assert f"the disk that holds {tmp_path / 'x'} (" in str(full_disk(tmp_path / "x"))
    assert " MB free): free some space" in str(full_disk(tmp_path))
