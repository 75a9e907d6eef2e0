"""The commands of `./loadstar`: each is one function; `main` picks one and turns a Stop into its sentence."""

import argparse
import os
import shutil
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from . import keep, packages, server, status
from .database import PrivateDatabase
from .environment import ensure, is_ready
from .folder import NAMES, DataFolder
from .front import build_front_end, compare_front_end
from .manage import base_environment, manage
from .paths import PYTHON, ROOT, VAR, VENV, ready_var
from .say import Stop, from_os_error, step

DEFAULT_PORT = "8700"


def _port(text: str) -> int:
    if not (text.isascii() and text.isdigit()) or not 1 <= int(text) <= 65535:
        raise argparse.ArgumentTypeError(f"{text} is no port: it must be a whole number from 1 to 65535 "
                                         "(--port, or LOADSTAR_PORT)")
    return int(text)


def _parser() -> argparse.ArgumentParser:
    """What can be said, and what each word takes."""
    parser = argparse.ArgumentParser(prog="./loadstar",
                                     description="Loadstar: plan, size and prove small-vehicle wiring.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, text in (("demo", "serve with the demo workshop"), ("serve", "serve your own workshop")):
        one = commands.add_parser(name, help=text)
        one.add_argument("--port", type=_port, default=os.environ.get("LOADSTAR_PORT", DEFAULT_PORT))
        one.add_argument("--lan", nargs="?", const="", metavar="ADDRESS",
                         help="let telephones of the same network in, over TLS: at this machine's address, or this one")
    for name, text in (("stop", "end what runs"), ("status", "say what runs")):
        one = commands.add_parser(name, help=text)
        one.add_argument("mode", nargs="?", choices=sorted(NAMES), help="only this one")
    _of_backups(commands)
    _of_building(commands)
    for name, text in (("check", "findings and headline of a plan file, without server or database"),
                       ("netlist", "a state of a plan file as a SPICE netlist"),
                       ("pack", "all files of a plan file, into a folder")):
        commands.add_parser(name, help=text).add_argument("rest", nargs=argparse.REMAINDER)
    return parser


def _of_backups(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    for name, text in (("backup", "everything into one file, while people work"),
                       ("restore", "a backup into an empty data folder"),
                       ("verify", "restore a backup into a throwaway server and compare")):
        one = commands.add_parser(name, help=text)
        one.add_argument("file", type=Path)
        if name != "verify":
            one.add_argument("--demo", action="store_const", dest="mode", const="demo", default="serve",
                             help="the demonstration's data instead of your own")
    one = commands.add_parser("reset", help="a one-time address for somebody who forgot the password")
    one.add_argument("name")


def _of_building(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    one = commands.add_parser("test", help="install what is missing and run every test")
    one.add_argument("rest", nargs=argparse.REMAINDER, help="given to pytest as it is")
    one = commands.add_parser("mutants", help="does each room's own suite see small faults put into the room?")
    one.add_argument("rest", nargs=argparse.REMAINDER, help="rooms, --number, --seed")
    for name, text in (
        ("lint", "ruff, strict mypy on the core, layer contracts, sizes"),
        ("build", "rebuild CSS, scripts, fonts, generated docs"),
        ("shots", "retake docs/screenshots from demo data"),
    ):
        commands.add_parser(name, help=text)
    one = commands.add_parser("bench", help="measure, as ratios within one run")
    one.add_argument("--against", metavar="REVISION", help="the same work on another revision too, as ratios")
    one.add_argument("--growth", action="store_true", help="how the parts of an analysis grow with its wires")


def main(words: Sequence[str]) -> int:
    """Run one command; returns the exit code."""
    given = _parser().parse_args(words)
    try:
        return _run(given)
    except Stop as stop:
        print(f"loadstar: {stop}", file=sys.stderr)
        return 1
    except OSError as error:
        print(f"loadstar: {from_os_error(error, error.filename or VAR)}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _run(given: argparse.Namespace) -> int:
    match given.command:
        case "demo" | "serve":
            return server.run(given.command, given.port, given.lan)
        case "stop":
            return status.stop(given.mode)
        case "status":
            return status.tell(given.mode)
        case "backup" | "restore" | "verify":
            return _keep(given)
        case "reset":
            return _reset(given.name)
        case "test":
            return run_tests(given.rest)
        case "lint":
            _ready("dev")
            return lint()
        case "build":
            _ready("dev")
            build_front_end()
            return _python("-m", "loadstar.exchange.docs")
        case "mutants":
            _ready("dev", "mutants")
            with throwaway_database() as environment:
                return _python("tools/mutants.py", *given.rest, environment=environment)
        case "check" | "netlist" | "pack":
            if not is_ready("run"):  # else nothing is written: any folder that can be read will do
                _ready()
            return _python("-m", "loadstar.cli", given.command, *given.rest)
        case _:
            if getattr(given, "growth", False):
                _ready("dev")
                return _python("tools/bench.py", "--growth")
            against = getattr(given, "against", None)
            return with_demo(given.command, *(("--against", against) if against else ()))


def _keep(given: argparse.Namespace) -> int:
    file = given.file.resolve()
    packages.ensure(packages.RUN)
    ensure("run")
    match given.command:
        case "backup":
            print(keep.backup(file, given.mode))
        case "restore":
            print(keep.restore(file, given.mode))
        case _:
            print(keep.verify(file))
    return 0


def _reset(name: str) -> int:
    ensure("run")
    folder = DataFolder("serve")
    with keep.reached(folder) as access:
        environment = base_environment("serve", access.url, folder.secrets()["django"])
        print(manage(environment, "reset", name), end="")
    return 0


def _ready(*more: str) -> None:
    ready_var()
    packages.ensure(packages.CORE if not (VENV / ".made").exists() else [])
    ensure("run", *more)


def _python(*words: str, environment: dict[str, str] | None = None) -> int:
    wanted = {**os.environ, "PYTHONPATH": str(ROOT / "src"), **(environment or {})}
    return subprocess.run([str(PYTHON), *words], env=wanted, check=False).returncode


def lint() -> int:
    """Style, types and layers; the first failing tool's exit code."""
    for tool, words in (
        ("ruff", ["ruff", "check", "--quiet", str(ROOT)]),
        ("mypy", ["mypy", "--config-file", str(ROOT / "pyproject.toml")]),
        ("import-linter", ["importlinter.cli", "lint", "--config", str(ROOT / "pyproject.toml")]),
    ):
        step(f"lint: {tool}")
        code = _lint_imports() if tool == "import-linter" else _python("-m", *words)
        if code:
            return code
    step("lint: sizes")
    return _python(str(ROOT / "tools" / "house.py"))


def _lint_imports() -> int:
    done = subprocess.run([str(VENV / "bin" / "lint-imports"), "--config", str(ROOT / "pyproject.toml"), "--no-cache"],
                          env={**os.environ, "PYTHONPATH": str(ROOT / "src")}, cwd=ROOT,
                          capture_output=True, text=True, check=False)
    if done.returncode:
        print(done.stdout + done.stderr)
    return done.returncode


def run_tests(rest: list[str]) -> int:
    """Everything: lint, front-end build compared with what is committed, all tests on a throwaway MariaDB."""
    ready_var()
    packages.ensure(packages.RUN + packages.TEST)
    ensure("run", "dev")
    if not rest:
        if code := lint():
            return code
        compare_front_end()
    with throwaway_database() as environment:
        # whole files, in order: those at a browser, which take longest, first and not one of them alone at the end
        arguments = rest or ["-n", "2", "--dist", "loadfile", "--no-loadscope-reorder"]
        return _python("-m", "pytest", *arguments, environment=environment)


class throwaway_database:
    """A context with a database for tests in memory; gives the environment that points at it."""

    def __enter__(self) -> dict[str, str]:
        memory = Path("/dev/shm")
        parent = memory if memory.is_dir() and os.access(memory, os.W_OK) else VAR
        self.folder = parent / f"loadstar-test-{os.getpid()}"
        self.database = PrivateDatabase(self.folder, "test-only", throwaway=True)
        self.database.start()
        return {
            "LOADSTAR_DATABASE_URL": self.database.url, "LOADSTAR_MODE": "test", "LOADSTAR_SECRET_KEY": "test-only",
            "DJANGO_SETTINGS_MODULE": "loadstar.web.settings", "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1",
        }

    def __exit__(self, *_: object) -> None:
        self.database.stop()
        shutil.rmtree(self.folder, ignore_errors=True)


def with_demo(name: str, *more: str) -> int:
    """Run `bench` or `shots` of tools/ against a demo application of their own."""
    ready_var()
    packages.ensure(packages.RUN + packages.TEST)
    ensure("run", "dev")
    with throwaway_database() as environment:
        environment |= {"LOADSTAR_MODE": "demo", "PYTHONPATH": str(ROOT / "src")}
        manage({**os.environ, **environment}, "migrate", "--verbosity=0", "--no-input")
        manage({**os.environ, **environment}, "prepare", "--demo")
        return _python(str(ROOT / "tools" / f"{name}.py"), *more, environment=environment)
