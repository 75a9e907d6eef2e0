"""Kill -9 at random moments of first start, upgrade, edit, backup and restore: does the same command always start
again, and is every acknowledged edit there?

    python tools/kills.py [--rounds 60] [--seed 1]

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
from http.client import HTTPException
from pathlib import Path

from crowd import Worker

from launcher import database, dump, folder

ROOT = Path(__file__).resolve().parents[1]
OLD = ROOT / "tests" / "launcher" / "data" / "0.3.0.sql.gz"
MOMENTS = {"first start": 12.0, "upgrade": 6.0, "edit": 4.0, "backup": 1.5, "restore": 3.0}  # within so many seconds


class Round:
    """One data folder, and the commands that run on it."""

    def __init__(self, where: Path) -> None:
        self.var = where
        self.var.mkdir()
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
    Worker(one.address)


def upgrade(one: Round, dice: random.Random, everything: bool, wait_s: float) -> None:
    """Killed while data of 0.3.0 are upgraded."""
    own = folder.DataFolder("demo", one.var / "demo")
    own.path.mkdir(mode=0o700)
    server = database.PrivateDatabase(own.database, own.secrets()["database"])
    server.start()
    text = one.var / "old.sql"
    text.write_bytes(gzip.decompress(OLD.read_bytes()))
    dump.read(server.access, text)
    server.stop()
    first_start(one, dice, everything, wait_s)


def edit(one: Round, dice: random.Random, everything: bool, wait_s: float) -> None:
    """Killed while edits come in: those that were answered must be there."""
    process = one.served()
    worker = Worker(one.address)
    worker.plan = re.findall(r'href="(/w/[^"]+/p/\d+/)"', worker.get(worker.bench))[0]
    answered: list[str] = []

    def send() -> None:
        try:
            page = worker.get(f"{worker.plan}loads/?add=load&usual=usb")
            head = int(re.search(r'name="base" value="(\d+)"', page)[1])  # type: ignore[index]
            while True:
                name = f"plan {uuid.uuid4().hex[:8]}"
                worker.post(f"{worker.plan}edit/", base=str(head), next=f"{worker.plan}loads/",
                            edit=f'{{"kind": "rename", "name": "{name}"}}')
                head += 1
                answered.append(name)
        except (OSError, HTTPException):  # killed in the middle of an answer
            return

    sender = threading.Thread(target=send)
    sender.start()
    time.sleep(wait_s)
    one.kill(process, everything)
    sender.join(60)
    one.served()
    if answered and not _in_history(Worker(one.address), worker.plan, answered):
        raise RuntimeError(f"an acknowledged edit of {len(answered)} is lost")


def _in_history(worker: Worker, plan: str, names: list[str]) -> bool:
    """The newest acknowledged name is the plan's, or one later; and as many revisions as acknowledged are there."""
    history = worker.get(f"{plan}history/")
    newest = int(re.search(r'<td class="n">(\d+)</td>', history)[1])  # type: ignore[index]
    shown = re.search(r"<strong>(plan [0-9a-f]{8})</strong>", history)
    return newest >= len(names) + 5 and shown is not None


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
    one.served()
    file = one.var / "all.zip"
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
    Worker(one.address)


def _run(one: Round, *words: str) -> None:
    process = one.start(*words)
    said = process.communicate()[0]
    if process.returncode:
        raise RuntimeError(f"{words[0]} failed: {said}")


def main() -> int:
    """Every kind of moment in turn."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--rounds", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    dice, failed = random.Random(given.seed), 0
    kinds = [first_start, upgrade, edit, backup, restore]
    for n in range(given.rounds):
        kind = kinds[n % len(kinds)]
        wait_s, everything = dice.uniform(0.0, MOMENTS[kind.__name__.replace("_", " ")]), dice.random() < 0.5
        one = Round(Path("/dev/shm") / f"loadstar-kills-{os.getpid()}-{n}")
        said = f"{n + 1}: {kind.__name__}, {'everything' if everything else 'the launcher'} after {wait_s:.2f} s"
        try:
            kind(one, dice, everything, wait_s)
            print(f"{said}: well", flush=True)
        except Exception as error:  # whatever it is, the round failed, and says so
            failed += 1
            print(f"{said}: FAILED, {error!r}", flush=True)
        finally:
            one.end()
    print(f"{given.rounds - failed} of {given.rounds} rounds well")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
