"""A plan built through the pages: every step is a form or a press that a person has, sent as a browser sends it."""

import html
import json
import re
from typing import Any

from loadstar.core.plan.model import Plan
from loadstar.web.plans.models import PlanHead
from loadstar.web.records import store


class Pages:
    """One plan under construction in the workshop of a signed-in client. Elements are called by their names."""

    def __init__(self, client: Any, shop: Any) -> None:
        self.client, self.home = client, f"/w/{shop.workshop.slug}/"
        self.row: Any = None

    @property
    def plan(self) -> Plan:
        """The plan as it stands."""
        self.row.refresh_from_db()
        return store.load(PlanHead.objects.get(pk=self.row.pk)).plan

    def __getitem__(self, name: str) -> str:
        """The id of the part or connector of this name."""
        plan = self.plan
        every = [e.id for e in (*plan.parts, *plan.plugs, *plan.removed) if e.name == name]
        assert len(every) == 1, (name, every, [p.name for p in plan.parts])
        return every[0]

    def at(self, place: str) -> str:
        """The id of a place."""
        return next(p.id for p in self.plan.places if p.name == place)

    def send(self, tail: str, values: dict[str, Any]) -> None:
        """Send a form of the plan; a refusal shows the sentences that the page shows."""
        self.row.refresh_from_db()
        sent = {k: {True: "yes", False: "no"}.get(v, v) if isinstance(v, bool) else v for k, v in values.items()}
        answer = self.client.post(f"{self.home}p/{self.row.pk}/{tail}", {"base": self.row.head, **sent})
        told = re.findall(r'<p class="error"[^>]*>(.*?)</p>', answer.content.decode(), re.S)
        assert answer.status_code == 302, (tail, values, [html.unescape(t) for t in told])

    # -- what a person does ------------------------------------------------------------------------------------------

    def begin(self, kind: str, size: str, name: str, *wanted: str, job: str = "fit/accessories") -> None:
        """Begin a plan from the job, the kind of machine, its size and what is wanted."""
        answer = self.client.post(
            f"{self.home}begin/",
            {"job": job, "size": f"{kind}/{size}", "machine": "", "name": name, "wanted": list(wanted)},
        )
        assert answer.status_code == 302, answer.content.decode()[:2000]
        found = re.search(r"/p/(\d+)/", answer.url)
        assert found, answer.url
        self.row = PlanHead.objects.get(pk=int(found[1]))

    def machine(self, **values: Any) -> None:
        """Change the machine's figures."""
        self.send("survey/?sel=machine", {"for_kind": "machine", "id": "machine", **values})

    def rules(self, **values: Any) -> None:
        """Change house rules."""
        self.send("rules/", {"for_kind": "rules", "id": "rules", **values})

    def add(self, kind: str, name: str, **values: Any) -> str:
        """Add something; its id."""
        station = "loads" if kind == "load" else "survey"
        other = {"usual": "other"} if kind == "load" else {}
        self.send(f"{station}/?add={kind}", {"for_kind": kind, "id": "", **other, "name": name, **values})
        return self[name]

    def change(self, part: str, **values: Any) -> None:
        """Change a part that is there."""
        kind = self.plan.part(self[part]).kind
        station = {"load": "loads", "way": "circuits", "fuse": "circuits"}.get(kind, "survey")
        self.send(f"{station}/?sel={self[part]}", {"for_kind": kind, "id": self[part], **values})

    def want(self, key: str, **values: Any) -> None:
        """A whole circuit from what is wanted."""
        self.send("job/want/", {"want": key, **values})

    def wire(self, a: str, b: str, **values: Any) -> str:
        """Add a wire yourself; its id."""
        self.send("circuits/?add=wire", {"for_kind": "wire", "id": "", "a": a, "b": b, "colour": "BK", **values})
        return self.plan.wires[-1].id

    def fix(self, wire: str, **values: Any) -> None:
        """Fix something of a wire."""
        self.send(f"circuits/?sel={wire}", {"for_kind": "wire", "id": wire, **values})

    def wire_to(self, end: str) -> str:
        """The wire that ends at a terminal."""
        return next(w.id for w in self.plan.wires if end in (w.a, w.b))

    def cut(self, wire: str, *, place: str = "", into: str = "") -> None:
        """Put a connector into a wire."""
        self.send(f"circuits/cut/?sel={wire}", {"id": wire, "place": place, "into": into})

    def plug(self, name: str, place: str, pins: list[dict[str, Any]], **values: Any) -> str:
        """Write a connector down, pin by pin; its id."""
        sent = {f"pin-{n}-{field}": value for n, pin in enumerate(pins, 1) for field, value in pin.items()}
        self.send("survey/plug/?add=plug", {"name": name, "place": place, "ways": len(pins), **values, **sent})
        return self[name]

    def table(self, name: str, terminals: str, positions: str, beeps: dict[str, str]) -> None:
        """A switch that nobody knows, and what beeped: "dip: 1-2" by position and pair."""
        self.send("survey/table/?add=table", {"name": name, "terminals": terminals, "positions": positions})
        table = self.plan.tables[-1]
        self.send(f"survey/table/?sel={table.id}", {"id": table.id, "name": name, **beeps})

    def press(self, **edit: Any) -> None:
        """Press a button that makes an edit."""
        self.send("edit/", {"edit": json.dumps(edit), "next": f"{self.home}p/{self.row.pk}/circuits/"})

    def remove(self, name: str) -> None:
        """Take something out."""
        self.press(kind="remove", id=self[name])

    def export(self) -> bytes:
        """The plan as a file."""
        answer = self.client.get(f"{self.home}p/{self.row.pk}/plan.json")
        assert answer.status_code == 200
        return b"".join(answer.streaming_content) if answer.streaming else answer.content
