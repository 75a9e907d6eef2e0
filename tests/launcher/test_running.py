"""Holding a folder, stopping, what a killed launcher leaves, logs that grow: with real processes."""

import os
import signal
import subprocess
import sys
import time

import pytest

from launcher import children, commands, database, folder, server, status, watch
from launcher.paths import ROOT
from launcher.say import Stop


def test_one_loadstar_a_folder(var):
    one, two = folder.DataFolder("demo"), folder.DataFolder("demo")
    one.hold()
    one.say(address="http://127.0.0.1:1/", process=os.getpid())
    with pytest.raises(Stop, match=r"already runs on .*, at http://127\.0\.0\.1:1/: \./loadstar stop demo ends it"):
        two.hold()
    assert two.running()["process"] == os.getpid()
    folder.DataFolder("serve").hold()  # the workshop's own is another folder


def test_nothing_runs(var, capsys):
    assert status.tell(None) == 3 and status.stop(None) == 0
    assert "demo: not running" in capsys.readouterr().out


@pytest.mark.parametrize("port", ["80000", "0", "abc", "-1", "²"])
def test_ports_that_are_none(port, capsys, monkeypatch):
    for words, environment in ((["demo", "--port", port], None), (["serve"], port)):
        if environment:
            monkeypatch.setenv("LOADSTAR_PORT", environment)
        with pytest.raises(SystemExit) as ended:
            commands.main(words)
        assert ended.value.code == 2
        assert "is no port: it must be a whole number from 1 to 65535" in capsys.readouterr().err


def test_workers_are_as_many_as_cores_unless_said(monkeypatch):
    monkeypatch.delenv("LOADSTAR_WORKERS", raising=False)
    assert server.workers() == len(os.sched_getaffinity(0))
    monkeypatch.setenv("LOADSTAR_WORKERS", "3")
    assert server.workers() == 3
    for wrong in ("0", "many", "-2", "65"):
        monkeypatch.setenv("LOADSTAR_WORKERS", wrong)
        with pytest.raises(Stop, match="whole number from 1 to 64"):
            server.workers()


def test_a_log_is_turned_over(tmp_path, monkeypatch):
    monkeypatch.setattr(watch, "LOG_MOST_BYTES", 10)
    log = tmp_path / "application.log"
    with log.open("ab", buffering=0) as writer:
        for n in range(6):
            writer.write(b"line %d, long enough\n" % n)
            watch.turn_over(log)
    assert sorted(p.name for p in tmp_path.iterdir()) == [f"application.log{x}" for x in ("", ".1", ".2", ".3")]
    assert log.read_bytes() == b"" and (tmp_path / "application.log.1").read_bytes() == b"line 5, long enough\n"


def test_children_end_with_a_launcher_that_is_killed():
    words = "import sys, time; sys.path.insert(0, 'tools'); from launcher import children; " \
            "print(children.start(['sleep', '300']).pid, flush=True); time.sleep(300)"
    parent = subprocess.Popen([sys.executable, "-c", words], cwd=ROOT, stdout=subprocess.PIPE, text=True)
    child = int(parent.stdout.readline())
    assert "sleep" in children.command_line(child)
    parent.kill()
    parent.wait()
    deadline = time.monotonic() + 5
    while "sleep" in children.command_line(child) and time.monotonic() < deadline:
        time.sleep(0.02)
    assert "sleep" not in children.command_line(child)


def test_a_database_left_by_a_killed_launcher_is_ended(var):
    own = folder.DataFolder("demo")
    own.hold()
    left = database.PrivateDatabase(own.database, "x", throwaway=True)
    left.start()
    assert server.end_left_over(own) is True  # no application, but its database
    assert left.process.wait(20) is not None


def test_killed_in_the_first_start_then_while_serving_then_stopped(started, memory):
    first = started()
    mark = memory / "demo" / "schema.json"
    while not mark.exists():
        assert first.poll() is None, first.stdout.read()
        time.sleep(0.01)
    first.kill()
    first.wait()
    second = started()
    assert started.answers() == "well\n"
    told = started.run("status", "demo")
    assert told.returncode == 0 and started.address in told.stdout and ", well, answers in" in told.stdout
    again = started.run("demo", "--port", "1")
    assert again.returncode == 1 and "already runs on" in again.stderr
    second.kill()  # -9 while it serves: its children end by themselves
    second.wait()
    third = started()
    assert started.answers() == "well\n"
    ended = started.run("stop")
    assert ended.returncode == 0 and ended.stdout == "Ended: demo.\n"
    assert third.wait(30) == 0
    assert "Loadstar has stopped." in third.stdout.read()
    assert not (memory / "demo" / "running.json").exists()


@pytest.mark.parametrize("number", [signal.SIGHUP, signal.SIGTERM, signal.SIGINT])
def test_every_signal_asks_for_the_same_end(number):
    words = ("import sys, time; sys.path.insert(0, 'tools'); from launcher import server; server._end_on_signals()\n"
             "try:\n    print('ready', flush=True); time.sleep(60)\n"
             "except KeyboardInterrupt:\n    print('ended'); sys.exit(7)")
    process = subprocess.Popen([sys.executable, "-c", words], cwd=ROOT, stdout=subprocess.PIPE, text=True)
    assert process.stdout.readline() == "ready\n"
    process.send_signal(number)
    assert process.wait(10) == 7
    assert (process.stdout.read() == "") == (number == signal.SIGHUP)  # nobody reads what is printed


def test_stop_ends_nobody_else_s_process(var, capsys):
    """A number out of a stale file was signalled, whoever had it by then."""
    bystander = subprocess.Popen(["sleep", "60"])
    own = folder.DataFolder("demo")
    own.hold()
    for told in ({"process": bystander.pid}, {"process": bystander.pid, "process_begun": 1},
                 {"process": os.getpid(), "process_begun": 1}):
        own.say(address="http://127.0.0.1:1/", application=bystander.pid, **told)
        with pytest.raises(Stop, match="just starting or stopping"):
            server.stop("demo")
    assert server.end_left_over(own) is False and bystander.poll() is None
    assert own.left_running() == {}  # what was said by one that is gone is taken back
    assert children.begun_at(bystander.pid) > 0 and children.begun_at(2**22 + 1) is None
    bystander.kill()


def test_an_empty_set_up_code_is_made_anew(tmp_path, settings):
    from loadstar.web.service.management.commands.prepare import Command

    settings.SETUP_CODE_FILE = tmp_path / "setup-code"
    settings.SETUP_CODE_FILE.touch()
    made = Command.setup_code()
    assert len(made) == 24 and Command.setup_code() == made
    assert (tmp_path / "setup-code").stat().st_mode & 0o777 == 0o600 and len(list(tmp_path.iterdir())) == 1


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can go on as somebody else")
def test_root_does_not_serve_from_where_its_account_cannot_reach(tmp_path):
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    words = (f"import sys; sys.path.insert(0, 'tools'); from pathlib import Path; from launcher import account; "
             f"account.lay_root_down(Path({str(closed / 'var' / 'own')!r}))")
    done = subprocess.run([sys.executable, "-c", words], cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 1 and "does not run as root" in done.stderr and "put Loadstar where it can" in done.stderr


def test_a_password_with_any_sign_goes_into_the_address_and_out_of_it():
    from launcher.access import Access

    one = Access("127.0.0.1", 3306, "load/star", "a/b@c:d#e?f%g h", "loadstar")
    assert Access.of(one.url) == one
