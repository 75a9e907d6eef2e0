"""Runs the application: private database, tables, demo data, gunicorn; and ends all of it cleanly."""

import os
import signal
import socket
import subprocess
import time
from dataclasses import dataclass, field
from datetime import datetime
from functools import partial
from types import FrameType

from . import children, packages, schema
from .access import Access
from .account import lay_root_down
from .database import PrivateDatabase, free_port
from .environment import ensure
from .folder import DataFolder
from .lan import Lan, open_to
from .manage import base_environment, manage
from .paths import PYTHON, VAR, ready_var
from .say import Stop, step, tail_of
from .watch import Beside, Watch


def check_port(port: int) -> None:
    """Refuse a port that somebody already listens on."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise Stop(f"Port {port} on 127.0.0.1 is in use or not allowed: end what listens there, "
                       "or choose another with --port.") from error


@dataclass
class Running:
    """What was started, to be ended in the opposite order."""

    folder: DataFolder
    environment: dict[str, str]
    lan: Lan | None = None
    database: PrivateDatabase | None = None
    meter: "subprocess.Popen[bytes] | None" = None
    application: "subprocess.Popen[bytes] | None" = None
    beside: list[Beside] = field(default_factory=list)

    def address(self, port: int) -> str:
        """Where it is found on this machine."""
        return f"{'https' if self.lan else 'http'}://127.0.0.1:{port}/"

    def end(self) -> None:
        """End all of it."""
        started = (self.application, self.meter, *(one.process for one in self.beside))
        for process in started:
            children.ask_to_end(process)
        for process in started:
            children.end(process)
        if self.database:
            self.database.stop()


def run(mode: str, port: int, lan: str | None = None) -> int:
    """Serve until told to end. `mode` is "demo" or "serve", `lan` the address that telephones come to ("": one of this
    machine's; None: nowhere but here); returns the exit code."""
    ready_var()
    folder = DataFolder(mode)
    folder.hold()
    end_left_over(folder)
    check_port(port)
    packages.ensure(packages.RUN)
    ensure("run")
    if mode == "serve":
        folder.adopt(VAR)
    lay_root_down(folder.path)
    _end_on_signals()
    running = Running(folder, {}, None if lan is None else open_to(lan, port, folder.path / "tls"))
    try:
        _start(running, mode, port)
        print(f"\nLoadstar is at {running.address(port)}   (Ctrl-C or ./loadstar stop {mode} ends it)", flush=True)
        if running.lan:
            running.lan.tell(mode)
        assert running.application is not None
        return Watch(folder, running.application, running.database, running.beside, running.environment).run()
    except KeyboardInterrupt:
        return 0
    finally:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, signal.SIG_IGN)
        running.end()
        folder.say_nothing()
        print("\nLoadstar has stopped.", flush=True)


def _start(running: Running, mode: str, port: int) -> None:
    folder, kept = running.folder, running.folder.secrets()
    outside = os.environ.get("LOADSTAR_DATABASE_URL")
    if not outside:
        step("starting the database")
        running.database = PrivateDatabase(folder.database, kept["database"])
        running.database.start()
    url = outside or running.database.url  # type: ignore[union-attr]
    running.environment |= {**base_environment(mode, url, kept["django"]), "LOADSTAR_DATA": str(folder.path),
                            "LOADSTAR_WORK": "beside", **(running.lan.environment if running.lan else {})}
    schema.bring_up(folder, Access.of(url), running.environment)
    print(manage(running.environment, "prepare", *(["--demo"] if mode == "demo" else [])), end="", flush=True)
    if mode == "demo" and not os.environ.get("LOADSTAR_METER"):
        running.meter = _start_meter(running.environment)
    running.application = _start_gunicorn(running, port)
    running.beside = [Beside(start, start()) for start in [partial(_start_beside, running)] * workers()]
    folder.say(mode=mode, process=os.getpid(), process_begun=children.begun_at(os.getpid()),
               address=running.address(port), application=running.application.pid,
               database_port=Access.of(url).port, since=datetime.now().astimezone().isoformat(timespec="seconds"))


def end_left_over(folder: DataFolder) -> bool:
    """End what an earlier launcher of this folder left running; whether there was anything."""
    left = folder.left_running().get("application")

    def is_ours(pid: int) -> bool:
        """By its command and by the folder that it serves: its number may be somebody else's by now."""
        return ("loadstar.web.wsgi" in children.command_line(pid)
                and children.has_in_environment(pid, f"LOADSTAR_DATA={folder.path}"))
    ended = isinstance(left, int) and is_ours(left)
    if isinstance(left, int) and ended:
        step(f"an earlier start left its application running (process {left}); ending it")
        children.end_by_id(left, is_ours)
    before = PrivateDatabase(folder.database, "")
    ended = before.end_left_over() or ended
    folder.say_nothing()
    return ended


def _start_meter(environment: dict[str, str]) -> "subprocess.Popen[bytes]":
    """The simulated meter on the demonstration's machine; the application is told where it listens."""
    port = free_port()
    environment["LOADSTAR_METER"] = f"127.0.0.1:{port}"
    return children.start([str(PYTHON), "-m", "loadstar.standins.meter", "--port", str(port)], environment=environment)


def _end_on_signals() -> None:
    def interrupt(number: int, _frame: FrameType | None) -> None:
        if number == signal.SIGHUP:  # the terminal is gone: nobody reads what is printed
            for descriptor in (1, 2):
                os.dup2(os.open(os.devnull, os.O_WRONLY), descriptor)
        raise KeyboardInterrupt

    # A shell starts background commands with SIGINT ignored; Loadstar is to end on it all the same.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, interrupt)


def workers() -> int:
    """How many application processes: LOADSTAR_WORKERS, else one for each core."""
    text = os.environ.get("LOADSTAR_WORKERS", "")
    if not text:
        return len(os.sched_getaffinity(0))
    if not (text.isascii() and text.isdigit()) or not 1 <= int(text) <= 64:
        raise Stop(f"LOADSTAR_WORKERS is {text}: it must be a whole number from 1 to 64.")
    return int(text)


def gunicorn(port: int, number: int) -> list[str]:
    """The application's command line; all of it is loaded before the workers part, and so is in memory once."""
    return [str(PYTHON), "-m", "gunicorn", "loadstar.web.wsgi:application", "--bind", f"127.0.0.1:{port}",
            "--config", "python:loadstar.web.gunicorn", "--workers", str(number)]


def _start_gunicorn(running: Running, port: int) -> "subprocess.Popen[bytes]":
    log = running.folder.log
    with log.open("ab") as sink:
        words = [*gunicorn(port, workers()), *(running.lan.words if running.lan else ())]
        process = children.start(words, environment=running.environment, stdout=sink)
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        if process.poll() is not None:
            raise Stop(f"The application ended while starting; {log} ends with:\n"
                       f"{tail_of(log.read_text(errors='replace'))}")
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return process
        time.sleep(0.05)
    children.end(process)
    raise Stop(f"The application did not answer within 30 s; see {log}.")


def _start_beside(running: Running) -> "subprocess.Popen[bytes]":
    """A process that makes papers and takes files in, beside those that answer pages."""
    with running.folder.log.open("ab") as sink:
        return children.start([str(PYTHON), "-m", "django", "work"], environment=running.environment, stdout=sink)


def _is_launcher(pid: int, begun: object) -> bool:
    """Whether a process is the one that said so: of that number, begun then, and a Loadstar."""
    return "loadstar" in children.command_line(pid) and children.begun_at(pid) == begun


def stop(mode: str) -> bool:
    """End the Loadstar of a mode, and what a killed one left behind; whether there was any."""
    folder = DataFolder(mode)
    told = folder.running()
    pid = told.get("process")
    if not isinstance(pid, int) or not _is_launcher(pid, told.get("process_begun")):
        if folder.held():
            raise Stop(f"A Loadstar is just starting or stopping on {folder.path}: try again in a moment.")
        return end_left_over(folder) if folder.path.exists() else False
    try:
        os.kill(pid, signal.SIGTERM)
    except PermissionError as error:
        raise Stop(f"The Loadstar on {folder.path} (process {pid}) belongs to another account: stop it as that one, "
                   "or as root.") from error
    until = time.monotonic() + 60
    while folder.held():
        if time.monotonic() > until:
            raise Stop(f"The Loadstar on {folder.path} (process {pid}) has not ended within a minute.")
        time.sleep(0.1)
    return True
