"""Kill -9 at random moments of first start, upgrade, edit, backup and restore: does the same command always start
again, is every acknowledged edit there, and does every plan live?

    python tools/kills.py [--rounds 100] [--seed 1]

Each round runs Loadstar on a data folder of its own in memory, kills its launcher or all of its processes, starts it
again by the same command, and looks. Ends with exit code 1 when any round failed.
"""

import argparse
import gzip
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import threading
import time
import uuid
from collections import Counter
from pathlib import Path

from beside import head_of, look, put_away, renamed, send, until_killed
from crowd import Worker

from launcher import access, database, folder, manage

ROOT = Path(__file__).resolve().parents[1]
DATA = ROOT / "tests" / "launcher" / "data"
MEMORY = Path("/dev/shm")
# Of ten rounds so many; killed within so many seconds.
KINDS = {"first start": (1, 12.0), "upgrade of 0.3.0": (1, 6.0), "upgrade of 0.9.0": (1, 6.0), "edit": (5, 6.0),
         "backup": (1, 2.5), "restore": (1, 6.0)}
EDITS = 50  # that a round of edits is killed after, about
LONGEST_S = 90.0
REVISIONS = {"0.3.0": 32, "0.9.0": 45}
counted: Counter[str] = Counter()


class Round:
    """One data folder, and the commands that run on it."""

    def __init__(self, where: Path, like: Path | None = None) -> None:
        self.var = where
        self.var.mkdir()
        if like is not None:
            shutil.copytree(like / "demo", self.var / "demo", ignore=shutil.ignore_patterns("s.sock", "running.json"))
        (self.var / "venv").symlink_to(ROOT / "var" / "venv")
        self.port = database.free_port()
        self.environment = {**os.environ, "LOADSTAR_VAR": str(where), "LOADSTAR_WORKERS": "1"}
        self.address = f"http://127.0.0.1:{self.port}"

    def start(self, *words: str) -> "subprocess.Popen[str]":
        """Begin a command."""
        return subprocess.Popen([sys.executable, str(ROOT / "loadstar"), *words], env=self.environment, text=True,
                                stdout=subprocess.PIPE, stderr=subprocess.STDOUT, start_new_session=True)

    def demo(self) -> "subprocess.Popen[str]":
        """Begin the demonstration."""
        return self.start("demo", "--port", str(self.port))

    def served(self) -> "subprocess.Popen[str]":
        """The demonstration, running; RuntimeError with what it said when it does not come up."""
        process = self.demo()
        said = []
        for line in process.stdout:  # type: ignore[union-attr]
            said.append(line)
            if "Loadstar is at" in line:
                threading.Thread(target=process.stdout.read, daemon=True).start()  # type: ignore[union-attr]
                return process
        raise RuntimeError("it did not start again:\n" + "".join(said))

    def kill(self, process: "subprocess.Popen[str]", everything: bool) -> None:
        """Kill -9 the launcher, or every process on this folder at once."""
        pids = [process.pid]
        if everything:
            pids += [int(p.name) for p in Path("/proc").iterdir() if p.name.isdigit() and self._is_of_this(p)]
        for pid in pids:
            try:
                os.kill(pid, signal.SIGKILL)
            except ProcessLookupError:
                continue
        process.wait()

    def _is_of_this(self, process: Path) -> bool:
        try:
            return f"LOADSTAR_VAR={self.var}".encode() in (process / "environ").read_bytes()
        except OSError:
            return False

    def end(self) -> None:
        """Stop what runs and throw the folder away."""
        self.start("stop").wait()
        shutil.rmtree(self.var)


def first_start(one: Round, dice: random.Random, everything: bool, wait_s: float) -> None:
    """Killed while the first tables and the demonstration are being made."""
    process = one.demo()
    time.sleep(wait_s)
    one.kill(process, everything)
    one.served()
    _every_plan_lives(one, 9)


def upgrade(one: Round, version: str, everything: bool, wait_s: float) -> None:
    """Killed while the data of an earlier version are upgraded: every revision is there after, every plan lives."""
    own = folder.DataFolder("demo", one.var / "demo")
    own.path.mkdir(mode=0o700)
    server = database.PrivateDatabase(own.database, own.secrets()["database"])
    server.start()
    if version == "0.3.0":
        access.empty(server.access)
        access.ask(server.access, "USE loadstar;\n" + gzip.decompress((DATA / "0.3.0.sql.gz").read_bytes()).decode())
    else:
        with (DATA / f"{version}.zip").open("rb") as file:
            manage.manage(manage.base_environment("demo", server.url, "x"), "read_in", str(file.fileno()),
                          descriptors=(file.fileno(),))
        folder.write_json(own.path / "schema.json", {"state": "whole"})
    server.stop()
    process = one.demo()
    time.sleep(wait_s)
    one.kill(process, everything)
    one.served()
    there = access.Access("127.0.0.1", int(own.running()["database_port"]), "loadstar", own.secrets()["database"],
                          "loadstar")
    found = int(access.ask(there, "SELECT COUNT(*) FROM loadstar.plans_revision")[0][0])
    if found != REVISIONS[version]:
        raise RuntimeError(f"{found} revisions of {REVISIONS[version]} are there after the upgrade")
    _every_plan_lives(one, 1)


def _every_plan_lives(one: Round, least: int) -> None:
    """Every plan on the bench can be looked at and changed."""
    worker = Worker(one.address)
    plans = sorted(set(re.findall(r'href="(/w/[^"]+/p/\d+/)"', worker.get(worker.bench))))
    if len(plans) < least:
        raise RuntimeError(f"{len(plans)} plans are there of {least}")
    for plan in plans:
        worker.plan = plan
        renamed(worker, head_of(worker), f"alive {uuid.uuid4().hex[:6]}")
        counted["plans alive"] += 1


def edit(one: Round, dice: random.Random, everything: bool, wait_s: float) -> None:
    """Killed while two people edit a plan each, and others look at them and put a third away and back: every edit that
    was answered must be there, and every plan lives."""
    process = one.served()
    benches = [Worker(one.address) for _ in range(4)]
    plans = sorted(set(re.findall(r'href="(/w/[^"]+/p/\d+/)"', benches[0].get(benches[0].bench))))
    answered: dict[str, list[str]] = {plan: [] for plan in plans[:2]}

    threads = [threading.Thread(target=until_killed, args=words) for words in (
        (send, benches[0], plans[0], answered), (send, benches[1], plans[1], answered),
        (look, benches[2], plans[:2], dice), (put_away, benches[3], plans[2]))]
    for thread in threads:
        thread.start()
    wanted, until = dice.randint(0, 2 * EDITS), time.monotonic() + LONGEST_S
    while sum(map(len, answered.values())) < wanted and time.monotonic() < until:
        time.sleep(0.01)
    time.sleep(wait_s / 20)
    one.kill(process, everything)
    for thread in threads:
        thread.join(60)
    one.served()
    worker = Worker(one.address)
    _all_are_there(worker, answered)
    worker.post(f"{plans[2]}unarchive/")
    _every_plan_lives(one, 9)


def _all_are_there(worker: Worker, answered: dict[str, list[str]]) -> None:
    for plan, names in answered.items():
        counted["edits acknowledged"] += len(names)
        labels = "".join(worker.get(f"{plan}history/?page={page}") for page in range(1, 2 + len(names) // 50))
        if lost := [name for name in names if name not in labels]:
            counted["edits lost"] += len(lost)
            raise RuntimeError(f"{len(lost)} acknowledged edits of {len(names)} are lost")


def backup(one: Round, dice: random.Random, everything: bool, wait_s: float) -> None:
    """The backup is killed: no half file under its name, and the next one is whole."""
    one.served()
    file = one.var / "all.zip"
    process = one.start("backup", "--demo", str(file))
    time.sleep(wait_s)
    process.kill()
    process.wait()
    if file.exists():
        _run(one, "verify", str(file))
    _run(one, "backup", "--demo", str(file))
    _run(one, "verify", str(file))


def restore(one: Round, dice: random.Random, everything: bool, wait_s: float) -> None:
    """The restore is killed: the same command again fills the folder, and it starts."""
    file = one.var / "all.zip"
    one.served()
    _run(one, "backup", "--demo", str(file))
    _run(one, "stop")
    (one.var / "demo").rename(one.var / "gone")
    process = one.start("restore", "--demo", str(file))
    time.sleep(wait_s)
    one.kill(process, everything)
    again = one.start("restore", "--demo", str(file))
    said = again.communicate()[0]
    if again.returncode and "has data already" not in said:
        raise RuntimeError(f"restored not again: {said}")
    one.served()
    _every_plan_lives(one, 9)


def _run(one: Round, *words: str) -> None:
    process = one.start(*words)
    said = process.communicate()[0]
    if process.returncode:
        raise RuntimeError(f"{words[0]} failed: {said}")


def made_once(where: Path) -> Path:
    """A demonstration that has been started and stopped, which most rounds begin with a copy of."""
    one = Round(where)
    one.served()
    _run(one, "stop")
    return where


def main() -> int:
    """Every kind of moment in turn."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--rounds", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", choices=(*KINDS, ""), default="", help="one kind of round")
    given = parser.parse_args()
    dice, failed = random.Random(given.seed), 0
    turns = [given.only] if given.only else [name for name, (times, _) in KINDS.items() for _ in range(times)]
    like = made_once(MEMORY / f"loadstar-kills-{os.getpid()}")
    try:
        for n in range(given.rounds):
            name = turns[n % len(turns)]
            wait_s, everything = dice.uniform(0.0, KINDS[name][1]), dice.random() < 0.5
            fresh = name == "first start" or name.startswith("upgrade")
            one = Round(MEMORY / f"loadstar-kills-{os.getpid()}-{n}", None if fresh else like)
            said = f"{n + 1}: {name}, {'everything' if everything else 'the launcher'} after {wait_s:.2f} s"
            try:
                if name.startswith("upgrade"):
                    upgrade(one, name.removeprefix("upgrade of "), everything, wait_s)
                else:
                    {"first start": first_start, "edit": edit, "backup": backup, "restore": restore}[name](
                        one, dice, everything, wait_s)
                print(f"{said}: well", flush=True)
            except Exception as error:  # whatever it is, the round failed, and says so
                failed += 1
                print(f"{said}: FAILED, {error!r}", flush=True)
            finally:
                one.end()
    finally:
        shutil.rmtree(like)
    print(f"{given.rounds - failed} of {given.rounds} rounds well; {dict(counted)}, {counted['edits lost']} lost")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
