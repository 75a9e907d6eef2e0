"""Runs the application: private database, migrations, demo data, gunicorn; and ends all of it cleanly."""

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from types import FrameType

from . import packages
from .database import PrivateDatabase, free_port, load_secrets
from .environment import ensure
from .paths import PYTHON, ROOT, VAR, ready_var
from .say import Stop, full_disk, step, tail_of


def base_environment(mode: str, database_url: str, secret: str) -> dict[str, str]:
    """The environment the application's processes run in."""
    return {
        **os.environ, "PYTHONPATH": str(ROOT / "src"), "DJANGO_SETTINGS_MODULE": "loadstar.web.settings",
        "LOADSTAR_MODE": mode, "LOADSTAR_DATABASE_URL": database_url, "LOADSTAR_SECRET_KEY": secret,
        "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1",
    }


def check_port(port: int) -> None:
    """Refuse a port that somebody already listens on."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise Stop(f"Port {port} on 127.0.0.1 is in use or not allowed: end what listens there, "
                       "or choose another with --port.") from error


def manage(environment: dict[str, str], *words: str) -> str:
    """Run one Django management command; its output, or a sentence when it fails."""
    done = subprocess.run([str(PYTHON), "-m", "django", *words], env=environment, cwd=ROOT,
                          capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)
    if done.returncode:
        said = done.stdout + done.stderr
        if "No space left" in said or "Errcode: 28" in said or "is full" in said:
            raise full_disk(VAR)
        raise Stop(f"{words[0]} failed; it ended with:\n{tail_of(said)}")
    return done.stdout


def run(mode: str, port: int) -> int:
    """Serve until interrupted. `mode` is "demo" or "serve"; returns the exit code."""
    ready_var()
    check_port(port)
    packages.ensure(packages.RUN)
    ensure("run")
    kept = load_secrets()
    outside = os.environ.get("LOADSTAR_DATABASE_URL")
    database = None if outside else PrivateDatabase(VAR / "db", kept["database"])
    _stop_on_terminate()
    application: subprocess.Popen[bytes] | None = None
    meter: subprocess.Popen[bytes] | None = None
    try:
        if database:
            step("starting the database")
            database.start()
        environment = base_environment(mode, outside or database.url, kept["django"])  # type: ignore[union-attr]
        environment["LOADSTAR_VAR"] = str(VAR)
        print(manage(environment, "prepare", *(["--demo"] if mode == "demo" else [])), end="", flush=True)
        if mode == "demo" and not os.environ.get("LOADSTAR_METER"):
            meter = _start_meter(environment)
        application = _start_gunicorn(environment, port)
        print(f"\nLoadstar is at http://127.0.0.1:{port}/   (Ctrl-C ends it)", flush=True)
        return _watch(application, database)
    except KeyboardInterrupt:
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for process in (application, meter):
            _end(process)
        if database:
            database.stop()
        print("\nLoadstar has stopped.", flush=True)


def _end(process: "subprocess.Popen[bytes] | None") -> None:
    if process is not None and process.poll() is None:
        process.terminate()
        try:
            process.wait(15)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _start_meter(environment: dict[str, str]) -> "subprocess.Popen[bytes]":
    """The simulated meter on the demonstration's machine; the application is told where it listens."""
    port = free_port()
    environment["LOADSTAR_METER"] = f"127.0.0.1:{port}"
    return subprocess.Popen([str(PYTHON), "-m", "loadstar.standins.meter", "--port", str(port)], env=environment,
                            cwd=ROOT,
                            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                            start_new_session=True)


def _stop_on_terminate() -> None:
    def interrupt(_number: int, _frame: FrameType | None) -> None:
        raise KeyboardInterrupt

    # A shell starts background commands with SIGINT ignored; Loadstar is to end on it all the same.
    signal.signal(signal.SIGINT, interrupt)
    signal.signal(signal.SIGTERM, interrupt)


def _start_gunicorn(environment: dict[str, str], port: int) -> subprocess.Popen[bytes]:
    log = VAR / "application.log"
    with log.open("ab") as sink:
        process = subprocess.Popen(
            [str(PYTHON), "-m", "gunicorn", "loadstar.web.wsgi:application", "--bind", f"127.0.0.1:{port}",
             "--workers", os.environ.get("LOADSTAR_WORKERS", "1"),  # one keeps what is computed for everybody
             "--threads", "8", "--preload", "--timeout", "60", "--error-logfile", "-", "--no-control-socket"],
            env=environment, cwd=ROOT, stdin=subprocess.DEVNULL, stdout=sink, stderr=sink, start_new_session=True)
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        if process.poll() is not None:
            raise Stop(f"The application ended while starting; {log} ends with:\n"
                       f"{tail_of(Path(log).read_text(errors='replace'))}")
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return process
        time.sleep(0.05)
    process.terminate()
    raise Stop(f"The application did not answer within 30 s; see {log}.")


def _watch(application: subprocess.Popen[bytes], database: PrivateDatabase | None) -> int:
    while True:
        if application.poll() is not None:
            print(f"The application ended by itself; see {VAR / 'application.log'}.", file=sys.stderr)
            return 1
        if database and database.process and database.process.poll() is not None:
            # Pages say so by themselves; the database comes back without losing the application.
            step("the database ended by itself; starting it again on its old port")
            database.restart()
        time.sleep(0.5)
