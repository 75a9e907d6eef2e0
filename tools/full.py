"""A disk that fills up while people edit, send photographs and take a backup; then the database is killed on the full
disk; then there is room again. Needs root, for a small disk in memory.

    python tools/full.py [--size 420]

Prints what was answered in each phase; exit code 1 when the server ended, something acknowledged was lost, or it did
not come back by itself.
"""

import argparse
import io
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import uuid
from collections import Counter
from pathlib import Path

from crowd import Worker
from kills import Round
from PIL import Image

from launcher import folder

ANSWERS_S = 90.0


class People:
    """Somebody who edits, somebody who sends photographs, somebody who looks: what they were answered, by phase."""

    def __init__(self, address: str) -> None:
        self.phase, self.over = "room", False
        self.answers: dict[str, Counter[str]] = {}
        self.kept: list[str] = []
        self.workers = [Worker(address) for _ in range(3)]
        for worker in self.workers:
            worker.plan = sorted(set(re.findall(r'href="(/w/[^"]+/p/\d+/)"', worker.get(worker.bench))))[0]
        out = io.BytesIO()
        Image.effect_noise((1500, 1100), 90).convert("RGB").save(out, "JPEG", quality=95)
        self.photograph = out.getvalue()
        self.threads = [threading.Thread(target=self._on, args=(act, worker)) for act, worker in zip(
            (self._edit, self._photo, self._look), self.workers, strict=True)]
        for thread in self.threads:
            thread.start()

    def _on(self, act, worker: Worker) -> None:  # type: ignore[no-untyped-def]
        while not self.over:
            try:
                act(worker)
                said = f"{act.__name__.strip('_')} 200"
            except urllib.error.HTTPError as error:
                text = error.read().decode(errors="replace")
                figure = re.search(r"\d+ MB free", text)
                said = f"{act.__name__.strip('_')} {error.code}{' with the figure' if figure else ''}"
            except OSError as error:
                said = f"{act.__name__.strip('_')} {type(error).__name__}"
            self.answers.setdefault(self.phase, Counter())[said] += 1
            time.sleep(0.1)

    def _edit(self, worker: Worker) -> None:
        head = re.search(r'<td class="n">(\d+)</td>', worker.get(f"{worker.plan}history/"))[1]  # type: ignore[index]
        name = f"plan {uuid.uuid4().hex[:8]}"
        page = worker.text_of(worker.post(f"{worker.plan}edit/", base=head, next=f"{worker.plan}loads/",
                                          edit=f'{{"kind": "rename", "name": "{name}"}}'))
        if f"<strong>{name}</strong>" in page:
            self.kept.append(name)

    def _photo(self, worker: Worker) -> None:
        worker.send_file(f"{worker.plan}survey/photo/", "photo", self.photograph, base="1", element="W1", caption="x")

    def _look(self, worker: Worker) -> None:
        worker.get(f"{worker.plan}circuits/")

    def end(self) -> None:
        """No more."""
        self.over = True
        for thread in self.threads:
            thread.join()


def fill(disk: Path, leave_bytes: int) -> None:
    """Take all room but so much."""
    with (disk / "filler").open("ab") as file:
        try:
            while shutil.disk_usage(disk).free > leave_bytes:
                file.write(b"\1" * min(1024**2, max(shutil.disk_usage(disk).free - leave_bytes, 4096)))
                file.flush()
        except OSError:
            return


def room_again(people: People, disk: Path) -> list[str]:
    """How long until edits are taken once there is room; what was wrong."""
    people.phase = "room again"
    (disk / "filler").unlink()
    begun = time.monotonic()
    while not people.answers.get("room again", Counter())["edit 200"]:
        if time.monotonic() - begun > ANSWERS_S:
            return ["it did not come back by itself"]
        time.sleep(0.2)
    print(f"edits are taken again {time.monotonic() - begun:.1f} s after there is room")
    time.sleep(3)
    return []


def judged(people: People) -> list[str]:
    """What was answered in each phase, and whether every edit that was acknowledged is there; what was wrong."""
    people.end()
    wrong = []
    for phase, answers in people.answers.items():
        print(f"{phase}: {dict(sorted(answers.items()))}")
        if bad := [said for said in answers if " 500" in said]:
            wrong.append(f"{phase}: {bad}")
    worker = people.workers[0]
    labels = "".join(worker.get(f"{worker.plan}history/?page={n}") for n in range(1, 2 + len(people.kept) // 50))
    lost = [name for name in people.kept if name not in labels]
    print(f"edits acknowledged {len(people.kept)}, lost {len(lost)}")
    return [*wrong, *([f"lost: {lost[:5]}"] if lost else [])]


def main() -> int:
    """Every phase in turn."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--size", type=int, default=420, help="of the disk, MB")
    given = parser.parse_args()
    disk = Path(tempfile.mkdtemp(prefix="loadstar-full-"))
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={given.size}m,mode=755", "tmpfs", str(disk)], check=True)
    one = Round(disk / "var")
    wrong: list[str] = []
    try:
        server = one.served()
        people = People(one.address)
        time.sleep(4)
        for phase, leave in (("scarce", 30 * 1024**2), ("full", 0)):
            people.phase = phase
            fill(disk, leave)
            time.sleep(6)
        people.phase = "full, backup"
        done = one.start("backup", "--demo", str(disk / "all.zip")).communicate()[0]
        print(f"backup on the full disk: {done.strip().splitlines()[-1][:160]}")
        if "Traceback" in done or (disk / "all.zip").exists():
            wrong.append(f"backup: {done}")
        people.phase = "full, database killed"
        pid = int((disk / "var" / "demo" / "db" / "pid").read_text())
        os.kill(pid, signal.SIGKILL)
        time.sleep(12)
        ended = server.poll() is not None
        print(f"server after the database was killed on the full disk: {'ended' if ended else 'runs'}")
        if ended:
            wrong.append("the server was ended")
        wrong += room_again(people, disk)
        wrong += judged(people)
        log = folder.DataFolder("demo", disk / "var" / "demo").log.read_text(errors="replace")
        print(f"lines of the log {len(log.splitlines())}, traces {log.count('Traceback')}")
    finally:
        one.end()
        subprocess.run(["umount", str(disk)], check=False)
    print("\n".join(wrong) or "nothing wrong")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
