"""What nobody means to send: mutated plan files, form fields and posted edits, against a demonstration that runs.

    python tools/fuzz.py ADDRESS [--files 3000] [--fields 3000] [--edits 1000] [--seed 1]

Nothing may be answered with 500, and no answer may hold a trace. Ends with exit code 1 when something was.
"""

import argparse
import json
import random
import re
import sys
import urllib.error
from collections import Counter
from copy import deepcopy
from typing import Any

from crowd import Worker

HOSTILE: tuple[Any, ...] = (
    "", " ", "0", "-1", "1e308", "1e999", "nan", "inf", "²", "١", "9" * 400, "x" * 3000, "<script>alert(1)</script>",
    "{{ 7*7 }}", "'; DROP TABLE plans_planhead; --", "../../etc/passwd", "\0", "\x1b[31m", "\ud7ff", "\u202etxt",
    "ﷺ" * 90, "=1+1", "\t=1", "null", "None", "L1", "P1", "W1", "BT1.pos", "[]", "{}", "%00", "%s", "\r\n", "😀" * 60)
VALUES: tuple[Any, ...] = (*HOSTILE, None, True, 0, -1, 1e308, 10**30, [], {}, [[]], {"a": {}}, ["x"] * 50, 0.1, "key")
ADDRESSES = ("loads/", "survey/", "circuits/", "budget/", "rules/", "handover/")


def mutated(data: Any, dice: random.Random, times: int = 3) -> Any:
    """A document with some of its values, keys or elements put wrong."""
    data = json.loads(json.dumps(data))
    for _ in range(dice.randint(1, times)):
        at: Any = data
        for _ in range(dice.randint(0, 4)):
            inner = [k for k in at if isinstance(at[k], dict | list) and at[k]] if isinstance(at, dict) else [
                n for n, v in enumerate(at) if isinstance(v, dict | list) and v]
            if not inner:
                break
            at = at[dice.choice(inner)]
        if isinstance(at, dict) and at:
            key = dice.choice(list(at))
            if dice.random() < 0.2:
                at[str(dice.choice(HOSTILE))] = at.pop(key)
            elif dice.random() < 0.2:
                del at[key]
            else:
                at[key] = deepcopy(dice.choice(VALUES))
        elif at:
            n = dice.randrange(len(at))
            at[n:n + 1] = dice.choice(([], [at[n], at[n]], [deepcopy(dice.choice(VALUES))]))
    return data


class Fuzz:
    """Sends and counts."""

    def __init__(self, worker: Worker, seed: int) -> None:
        self.worker, self.dice = worker, random.Random(seed)
        self.statuses: Counter[int] = Counter()
        self.wrong: list[str] = []

    def sent(self, what: str, act: Any) -> None:
        """Send one thing; note how it was answered."""
        try:
            text = act()
            status = 200
        except urllib.error.HTTPError as error:
            status, text = error.code, error.read().decode(errors="replace")
        self.statuses[status] += 1
        if status >= 500 or "Traceback (most recent" in str(text):
            self.wrong.append(f"{status} {what[:300]}")

    def files(self, number: int, plan: Any) -> None:
        """Mutated plan files, now and then cut or with bytes put wrong."""
        for n in range(number):
            data = json.dumps(mutated(plan, self.dice), ensure_ascii=self.dice.random() < 0.5).encode(errors="replace")
            if n % 7 == 0:
                data = data[:self.dice.randrange(len(data))]
            elif n % 7 == 1:
                at = self.dice.randrange(len(data))
                data = data[:at] + bytes([self.dice.randrange(256)]) + data[at + 1:]
            self.sent(f"file {n}", lambda data=data: self.worker.take_in(data))

    def fields(self, number: int) -> None:
        """Every form of every station with one field or several put wrong."""
        forms = []
        for address in ADDRESSES:
            for query in ("", "?sel=L1", "?sel=BT1", "?sel=W1", "?add=load&usual=usb",
                          "?add=load&usual=other", "?add=place", "?view=plugs", "?view=measure", "?view=reuse"):
                if address == "rules/" and "add" in query:
                    continue  # a station without such a form
                page = self.worker.get(self.worker.plan + address + query)
                for form in re.findall(r'<form method="post" action="([^"]+)"(.*?)</form>', page, re.S):
                    names = re.findall(r'name="([^"]+)"', form[1])
                    forms.append((form[0].replace("&amp;", "&"), sorted({*names} - {"csrfmiddlewaretoken"})))
        forms.append((f"{self.worker.bench}begin/", ["machine", "name", "size", "survey", "wanted"]))
        forms.append((f"{self.worker.bench}tour/", ["do"]))
        forms = [f for f in forms if f[0].startswith("/w/") and not f[0].endswith(("archive/", "sign-out/"))]
        for n in range(number):
            path, names = self.dice.choice(forms)
            values = {name: str(self.dice.choice(HOSTILE)) if self.dice.random() < 0.4 else "1" for name in names}
            self.sent(f"field {n} {path} {values}", lambda p=path, v=values: self.worker.post(p, **v))

    def edits(self, number: int) -> None:
        """Edits as data."""
        usual = [{"kind": "rename", "name": "a"}, {"kind": "set_wire", "id": "W1", "values": {"area_mm2": 1.0}},
                 {"kind": "change", "id": "L1", "values": {"amount": 5, "name": "x"}}, {"kind": "remove", "id": "L2"},
                 {"kind": "add", "what": "load", "values": {"name": "x", "place": "P1", "feed": "B1"}},
                 {"kind": "set_machine", "values": {"idle_rpm": 900}}, {"kind": "several", "edits": [
                     {"kind": "move_end", "id": "W1", "end": "a", "to": "BT1.pos"}]},
                 {"kind": "set_scale", "a": "P1", "b": "P2", "length_mm": 300}, {"kind": "confirm", "ids": ["L1"]},
                 {"kind": "vouch", "id": "L1", "fields": ["amount"]}, {
                     "kind": "change", "id": "G1", "values": {"rating1_w": 90}, "marks": {"rating1_w": "typical"}}]
        for n in range(number):
            edit = json.dumps(mutated(self.dice.choice(usual), self.dice), ensure_ascii=True)
            head = re.search(r'history/">(\d+)</a>', self.worker.get(self.worker.plan + "handover/"))
            self.sent(f"edit {n} {edit}", lambda e=edit, h=head: self.worker.post(
                self.worker.plan + "edit/", base=h[1] if h else "1", edit=e, next=self.worker.plan + "loads/"))


def main() -> int:
    """Send all of it."""
    parser = argparse.ArgumentParser()
    parser.add_argument("address")
    for name, usual in (("files", 3000), ("fields", 3000), ("edits", 1000), ("seed", 1)):
        parser.add_argument(f"--{name}", type=int, default=usual)
    given = parser.parse_args()
    worker = Worker(given.address)
    plan = worker.get(re.findall(r'href="(/w/[^"]+/p/\d+/)"', worker.get(worker.bench))[0] + "plan.json")
    begun = worker.post(f"{worker.bench}begin/", size="touring motorcycle/middle", wanted="grips", name="for all forms")
    own = worker.plan = re.match(r"/w/[^/]+/p/\d+/", begun.geturl().removeprefix(given.address))[0]  # type: ignore[index]
    fuzz = Fuzz(worker, given.seed)
    for what, act in (("fields", lambda: fuzz.fields(given.fields)), ("edits", lambda: fuzz.edits(given.edits)),
                      ("files", lambda: fuzz.files(given.files, json.loads(plan)))):
        worker.plan = own
        act()
        print(f"{what}: {dict(sorted(fuzz.statuses.items()))}, {len(fuzz.wrong)} wrong", flush=True)
        fuzz.statuses.clear()
    print("\n".join(fuzz.wrong[:40]))
    return 1 if fuzz.wrong else 0


if __name__ == "__main__":
    sys.exit(main())
