"""What nobody means to send: mutated plan files, machine's files, photographs, backups, form fields and posted edits,
against a demonstration that runs.

    python tools/fuzz.py ADDRESS [--files 3000] [--fields 3000] [--edits 1000] [--machines 500] [--photos 300]
                         [--backups 500] [--seed 1]

Nothing may be answered with 500, no answer and no log may hold a trace, no file may appear outside the data folders,
and no process may be started by what is in a file: the readers run under a hook that ends them if they try. Ends with
exit code 1 when something was wrong.
"""

import argparse
import hashlib
import io
import json
import random
import re
import subprocess
import sys
import urllib.error
import zipfile
from collections import Counter
from copy import deepcopy
from pathlib import Path
from typing import Any

from crowd import Worker
from PIL import Image

ROOT = Path(__file__).resolve().parents[1]
OLD = ROOT / "tests" / "launcher" / "data" / "0.9.0.zip"
# In a process of its own: a backup is read to its last row, and nothing else may be done by it.
READER = """
import io, os, sys
sys.path.insert(0, "src")
os.environ.update(DJANGO_SETTINGS_MODULE="loadstar.web.settings", LOADSTAR_SECRET_KEY="x")
import django; django.setup()
from loadstar.web.keeping import literals
from loadstar.web.keeping.reading import Backup
from loadstar.web.keeping.faults import Damaged
from loadstar.web.keeping.tables import Table
watched = False
def hook(event, of):
    if watched and (event in ("subprocess.Popen", "os.system", "os.exec", "os.posix_spawn", "os.fork", "socket.connect")
                    or (event == "open" and isinstance(of[1], str) and set(of[1]) & set("wax+"))):
        print("DID", event, str(of)[:200], flush=True); os._exit(3)
sys.addaudithook(hook)
class Any(dict):
    def __contains__(self, name): return True
    def __getitem__(self, name): return Loose(name, (), (), ())
class Loose(Table): pass
for line in sys.stdin:
    path = line.strip(); data = open(path, "rb").read(); watched = True
    try:
        backup = Backup(io.BytesIO(data)); backup.migrations()
        if backup.format == 1:
            rows = sum(1 for _ in literals.rows(backup._lines()))
        else:
            rows = sum(1 for _ in backup.rows(Any()))
        said = f"read {rows}"
    except Damaged as fault:
        said = f"damaged: {fault}"
    except MemoryError:
        said = "damaged: memory"
    except BaseException as error:
        said = f"TRACE {error!r}"
    watched = False
    print(repr(said[:300]), flush=True)
"""

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


    def bytes_mutated(self, data: bytes) -> bytes:
        """Bytes put wrong, cut, doubled or put in."""
        found = bytearray(data)
        for _ in range(self.dice.randint(1, 6)):
            at = self.dice.randrange(max(len(found), 1))
            match self.dice.randrange(5):
                case 0:
                    found[at:at + 1] = bytes([self.dice.randrange(256)])
                case 1:
                    del found[at:at + self.dice.randint(1, 4000)]
                case 2:
                    found[at:at] = self.dice.randbytes(self.dice.randint(1, 200))
                case 3:
                    found[at:at] = found[at:at + self.dice.randint(1, 2000)]
                case _:
                    found[at:at + 4] = self.dice.choice((b"\0\0\0\0", b"\xff\xff\xff\xff", b"PK\x01\x02", b"\\!id"))
        return bytes(found)

    def machines(self, number: int) -> None:
        """Machine's files: their bytes put wrong, or their members, with sums that fit."""
        whole = self.worker.paper(f"{self.worker.plan}machine.zip")
        with zipfile.ZipFile(io.BytesIO(whole)) as opened:
            members = {name: opened.read(name) for name in opened.namelist()}
        manifest = json.loads(members.pop("manifest.json"))
        for n in range(number):
            if n % 3 == 0:
                data = self.bytes_mutated(whole)
            else:
                changed = dict(members)
                name = self.dice.choice(("plan.json", "records.json", "records.json"))
                changed[name] = json.dumps(mutated(json.loads(members[name]), self.dice)).encode(errors="replace")
                if n % 3 == 2:
                    other = self.dice.choice(list(changed))
                    changed[other] = self.bytes_mutated(changed[other])
                told = {**manifest, "members": [{"name": k, "bytes": len(v), "sha256": hashlib.sha256(v).hexdigest()}
                                                for k, v in changed.items()]}
                out = io.BytesIO()
                with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
                    for key, value in {"manifest.json": json.dumps(told).encode(), **changed}.items():
                        made.writestr(key, value)
                data = out.getvalue()
            self.sent(f"machine's file {n}", lambda data=data: self.worker.take_in(data))

    def photos(self, number: int) -> None:
        """Photographs: their bytes put wrong, of strange sizes and kinds."""
        page = self.worker.get(f"{self.worker.plan}survey/?view=plugs")
        base = re.search(r'name="base" value="(\d+)"', page)
        element = re.search(r'name="element" value="(\w+)"', page)
        for n in range(number):
            form = self.dice.choice(("JPEG", "PNG", "WEBP", "GIF", "TIFF", "BMP"))
            size = self.dice.choice(((64, 48), (1, 1), (3000, 20), (1, 4000), (1200, 900)))
            out = io.BytesIO()
            Image.new(self.dice.choice(("RGB", "L")), size, 90).save(out, form)
            data = out.getvalue() if n % 9 == 0 else self.bytes_mutated(out.getvalue())
            self.sent(f"photograph {n} {form} {size}", lambda data=data: self.worker.send_file(
                f"{self.worker.plan}survey/photo/", "photo", data, base=base[1] if base else "1",
                element=element[1] if element else "W1", caption="x"))

    def backups(self, number: int) -> None:
        """Backups, of this version and of 0.9.0: their bytes put wrong, or their rows with everything sealed anew."""
        where = Path("/dev/shm") / "loadstar-fuzz.zip"
        reader = subprocess.Popen([sys.executable, "-c", READER], cwd=ROOT, text=True, stdin=subprocess.PIPE,
                                  stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
        whole = OLD.read_bytes()
        with zipfile.ZipFile(OLD) as opened:
            told, rows = opened.read("manifest.json"), opened.read("data.sql")
        for n in range(number):
            if n % 2:
                data = self.bytes_mutated(whole)
            else:
                out = io.BytesIO()
                with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
                    if n % 4:
                        made.writestr("manifest.json", told)
                        made.writestr("data.sql", self.bytes_mutated(rows))
                    else:
                        made.writestr("manifest.json", json.dumps(mutated(
                            {**json.loads(told), "format": 2, "migrations": [["plans", "0001_initial"]]}, self.dice)))
                        made.writestr("rows.jsonl", self.bytes_mutated(
                            b'{"table": "a", "columns": []}\n' + b"[]\n" * 400))
                        made.comment = b"loadstar sha256 " + b"0" * 64
                data = out.getvalue()
                data = data[:-64] + hashlib.sha256(data[:-64]).hexdigest().encode() if not n % 4 else data
            where.write_bytes(data)
            reader.stdin.write(f"{where}\n")  # type: ignore[union-attr]
            reader.stdin.flush()  # type: ignore[union-attr]
            said = reader.stdout.readline().strip().strip("'\"")  # type: ignore[union-attr]
            self.statuses[200 if said.startswith("read") else 422] += 1
            if not said.startswith(("read", "damaged")):
                self.wrong.append(f"backup {n}: {said}")
                break
        reader.stdin.close()  # type: ignore[union-attr]
        reader.wait()
        where.unlink(missing_ok=True)


def main() -> int:
    """Send all of it."""
    parser = argparse.ArgumentParser()
    parser.add_argument("address")
    for name, usual in (("files", 3000), ("fields", 3000), ("edits", 1000), ("machines", 500), ("photos", 300),
                        ("backups", 500), ("seed", 1)):
        parser.add_argument(f"--{name}", type=int, default=usual)
    given = parser.parse_args()
    worker = Worker(given.address)
    plan = worker.get(re.findall(r'href="(/w/[^"]+/p/\d+/)"', worker.get(worker.bench))[0] + "plan.json")
    begun = worker.post(f"{worker.bench}begin/", size="touring motorcycle/middle", wanted="grips", name="for all forms")
    at = begun.geturl().removeprefix(given.address)
    own = worker.plan = re.match(r"/w/[^/]+/p/\d+/", at)[0]  # type: ignore[index]
    fuzz = Fuzz(worker, given.seed)
    for what, act in (("backups", lambda: fuzz.backups(given.backups)), ("fields", lambda: fuzz.fields(given.fields)),
                      ("edits", lambda: fuzz.edits(given.edits)), ("photos", lambda: fuzz.photos(given.photos)),
                      ("machines", lambda: fuzz.machines(given.machines)),
                      ("files", lambda: fuzz.files(given.files, json.loads(plan)))):
        worker.plan = own
        act()
        print(f"{what}: {dict(sorted(fuzz.statuses.items()))}, {len(fuzz.wrong)} wrong", flush=True)
        fuzz.statuses.clear()
    print("\n".join(fuzz.wrong[:40]))
    return 1 if fuzz.wrong else 0


if __name__ == "__main__":
    sys.exit(main())
