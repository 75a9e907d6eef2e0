"""Many people at once: how long views and edits take, whether anything fails, and whether all cores are used.

    python tools/crowd.py ADDRESS [--people 1 10 50] [--seconds 30] [--pause 4] [--heavy PLAN.json]

ADDRESS is that of a demonstration that runs. Each person works on a plan of their own, a copy of the demonstration's
first; 15 of 100 requests are edits. Between two requests a person reads for --pause seconds, more or less; 0 asks
without a break, which shows how much can be served at most. With --heavy somebody edits that plan all the while.
"""

import argparse
import http.cookiejar
import json
import os
import random
import re
import statistics
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
import uuid
from dataclasses import dataclass, field
from pathlib import Path

PAGES = ("survey/", "loads/", "budget/", "circuits/", "handover/", "findings/", "history/")
EDITS = 0.15


@dataclass
class Measured:
    """Seconds of each request, by kind; what went wrong."""

    view: list[float] = field(default_factory=list)
    edit: list[float] = field(default_factory=list)
    heavy: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


class Worker:
    """One person with a browser."""

    def __init__(self, address: str) -> None:
        self.address = address.rstrip("/")
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.get("/sign-in/")
        self.bench = self.post("/enter-demo/").geturl().removeprefix(self.address)
        self.plan = ""

    def get(self, path: str) -> str:
        """A page's text."""
        with self.opener.open(self.address + path, timeout=120) as answer:
            return str(answer.read().decode(errors="replace"))

    def paper(self, path: str) -> bytes:
        """A paper or file that is made beside the request: asked for again until it is there."""
        while True:
            with self.opener.open(self.address + path, timeout=120) as answer:
                data = bytes(answer.read())
            if b'http-equiv="refresh"' not in data:
                return data
            time.sleep(0.5)

    @staticmethod
    def text_of(answer: "urllib.request.http.client.HTTPResponse") -> str:  # type: ignore[name-defined]
        """What `post` was answered."""
        return str(answer.text)  # type: ignore[attr-defined]

    def post(self, path: str, **form: str) -> "urllib.request.http.client.HTTPResponse":  # type: ignore[name-defined]
        """Send a form."""
        token = next(c.value for c in self.jar if c.name == "csrftoken")
        data = urllib.parse.urlencode({**form, "csrfmiddlewaretoken": token}).encode()
        answer = self.opener.open(urllib.request.Request(self.address + path, data,
                                                         {"Referer": self.address + path}), timeout=120)
        answer.text = answer.read().decode(errors="replace")
        return answer

    def send_file(self, path: str, field: str, data: bytes, **form: str) -> str:
        """Send a form with a file; the address that it leads to."""
        token, edge = next(c.value for c in self.jar if c.name == "csrftoken"), uuid.uuid4().hex
        body = b""
        for name, value in {**form, "csrfmiddlewaretoken": token}.items():
            body += f'--{edge}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode()
        body += (f'--{edge}\r\nContent-Disposition: form-data; name="{field}"; filename="file"\r\n\r\n'.encode() + data
                 + f"\r\n--{edge}--\r\n".encode())
        request = urllib.request.Request(f"{self.address}{path}", body, {
            "Content-Type": f"multipart/form-data; boundary={edge}", "Referer": self.address})
        with self.opener.open(request, timeout=120) as answer:
            return str(answer.geturl())

    def take_in(self, plan: bytes) -> None:
        """Import a plan and work on it."""
        at = self.send_file(f"{self.bench}import/", "file", plan)
        while "/jobs/" in at:  # it takes a while, and its page leads on to the plan
            time.sleep(0.5)
            with self.opener.open(at, timeout=120) as answer:
                at = answer.geturl()
        self.plan = re.match(r".*/p/\d+/", at)[0].removeprefix(self.address)  # type: ignore[index]

    def work(self, until: float, pause_s: float, measured: Measured, dice: random.Random) -> None:
        """Views and edits until the time is over."""
        head = 1
        time.sleep(dice.uniform(0, pause_s))
        while time.monotonic() < until:
            begun = time.perf_counter()
            try:
                if dice.random() < EDITS:
                    name = f"plan {uuid.uuid4().hex[:8]}"
                    self.post(f"{self.plan}edit/", base=str(head), next=f"{self.plan}loads/",
                              edit=json.dumps({"kind": "rename", "name": name}))
                    head += 1
                    measured.edit.append(time.perf_counter() - begun)
                    if name not in self.get(f"{self.plan}loads/"):
                        measured.wrong.append(f"edit {name} is not there")
                else:
                    self.get(self.plan + dice.choice(PAGES))
                    measured.view.append(time.perf_counter() - begun)
            except (urllib.error.URLError, OSError) as error:
                measured.wrong.append(str(error))
            time.sleep(pause_s * dice.uniform(0.5, 1.5))

    def stare(self, until: float, measured: Measured) -> None:
        """Open the pages of a large plan again and again, each time after an edit, so that it is computed anew."""
        head = 1
        while time.monotonic() < until:
            begun = time.perf_counter()
            try:
                self.post(f"{self.plan}edit/", base=str(head), next=f"{self.plan}handover/",
                          edit=json.dumps({"kind": "rename", "name": f"large {uuid.uuid4().hex[:8]}"}))
                head += 1
            except (urllib.error.URLError, OSError) as error:
                measured.wrong.append(f"large plan: {error}")
            measured.heavy.append(time.perf_counter() - begun)


def busy_s() -> float:
    """Seconds that all cores together have worked since the machine started."""
    numbers = [int(x) for x in Path("/proc/stat").read_text().splitlines()[0].split()[1:]]
    return (sum(numbers) - numbers[3] - numbers[4]) / os.sysconf("SC_CLK_TCK")


def crowd(address: str, people: int, seconds: float, pause_s: float, heavy: Path | None) -> str:
    """One run; a line about it."""
    first = Worker(address)
    plan = first.get(re.findall(r'href="(/w/[^"]+/p/\d+/)"', first.get(first.bench))[0] + "plan.json").encode()
    workers = [Worker(address) for _ in range(people)]
    for worker in workers:
        worker.take_in(plan)
    measured, before, until = Measured(), busy_s(), time.monotonic() + seconds
    threads = [threading.Thread(target=w.work, args=(until, pause_s, measured, random.Random(n)))
               for n, w in enumerate(workers)]
    if heavy:
        first.take_in(heavy.read_bytes())
        until += 1
        threads.append(threading.Thread(target=first.stare, args=(until, measured)))
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    cores = (busy_s() - before) / (seconds * (os.cpu_count() or 1))
    return (f"{people} people{', a large plan open' if heavy else ''}: views {_told(measured.view, seconds)}; edits "
            f"{_told(measured.edit, seconds)}; {len(measured.wrong)} wrong; cores {cores:.0%} busy"
            + (f"; the large plan {_told(measured.heavy, seconds)}" if heavy else "")
            + "".join(f"\n    {one}" for one in measured.wrong[:5]))


def _told(times: list[float], seconds: float) -> str:
    if len(times) < 2:
        return f"{len(times)} in all"
    cut = statistics.quantiles(times, n=20)
    return f"{len(times) / seconds:.1f}/s, median {cut[9] * 1000:.0f} ms, p95 {cut[18] * 1000:.0f} ms"


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("address")
    parser.add_argument("--people", type=int, nargs="+", default=[1, 10, 50])
    parser.add_argument("--seconds", type=float, default=30)
    parser.add_argument("--pause", type=float, default=4)
    parser.add_argument("--heavy", type=Path)
    given = parser.parse_args()
    for number in given.people:
        print(crowd(given.address, number, given.seconds, given.pause, given.heavy), flush=True)
