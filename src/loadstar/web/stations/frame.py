"""What every plan page knows: plan, state, selection, run list, headline, findings, undo, links."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest
from django.urls import reverse

from loadstar.core.analysis import CORE_VERSION, Analysis
from loadstar.core.doc.states import RUNNING, STATE_NAMES, States
from loadstar.core.findings import Finding, worst
from loadstar.core.plan.model import Plan
from loadstar.core.whatif.cures import Cures

from ..plans import store
from ..plans.models import PlanRow
from ..workshop.models import Membership
from .units import Units

STATIONS = (("survey", "Survey"), ("loads", "Loads"), ("budget", "Budget"), ("circuits", "Circuits"),
            ("handover", "Handover"))
NUMBERS = {"survey": 1, "loads": 2, "budget": 3, "circuits": 4, "handover": 9, "rules": 0}


@dataclass(frozen=True)
class Head:
    """One of the five figures that are always in sight."""

    label: str
    value: float | None
    unit: str
    kind: str
    detail: str
    severity: str
    station: str
    select: str
    working: str


@dataclass
class Frame:
    """One page of one plan."""

    request: HttpRequest
    membership: Membership
    row: PlanRow
    loaded: store.Loaded
    station: str
    state: States
    select: str
    notice: str = ""
    conflict: store.Conflict | None = None
    extra: dict[str, Any] = field(default_factory=dict)

    @property
    def plan(self) -> Plan:
        """The document."""
        return self.loaded.plan

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it."""
        return self.loaded.analysis

    @property
    def cures(self) -> Cures:
        """What mends its findings."""
        return self.loaded.known.cures

    @property
    def may_edit(self) -> bool:
        """Whether the member may change it."""
        return self.membership.may_edit

    @property
    def made_on(self) -> int:
        """The revision that what was sent was made on."""
        return self.number("base")

    def number(self, name: str) -> int:
        """A whole number that the page sends for itself; a 404 when it is none, since no page sends that."""
        try:
            return int(self.request.POST.get(name, ""))
        except ValueError as error:
            raise Http404 from error

    @cached_property
    def units(self) -> Units:
        """The member's units."""
        return Units.of(self.membership.person)

    @cached_property
    def kept(self) -> dict[str, str]:
        """What a station's own addresses keep beside state and selection: which part of the survey, seen from which side."""
        return {key: self.request.GET.get(key, "")[:12] for key in ("view", "side")} if self.station == "survey" else {}

    @property
    def base(self) -> dict[str, object]:
        """Arguments of every address of this plan."""
        return {"workshop": self.membership.workshop.slug, "plan": self.row.pk}

    def link(self, station: str = "", **changes: Any) -> str:
        """A station's address with this state and selection; keyword arguments replace, empty ones drop."""
        query = {"state": self.state, "sel": self.select}
        if not station or station == self.station:
            query |= self.kept
        if station and station != self.station and "sel" not in changes:
            query["sel"] = self.select if self.select.startswith("L") else ""
        query |= {k: str(v) for k, v in changes.items()}
        text = urlencode({k: v for k, v in query.items() if v})
        return reverse("station", kwargs={**self.base, "station": station or self.station}) + (f"?{text}" if text else "")

    def element_link(self, station: str) -> str:
        """A station's address with "{}" for the element to select."""
        return self.link(station, sel="XX").replace("sel=XX", "sel={}")

    def working_link(self, key: str) -> str:
        """The address of a figure's working."""
        return reverse("working", kwargs=self.base) + "?" + urlencode(
            {"key": key, "state": self.state, "from": self.station, "sel": self.select})

    def url(self, name: str) -> str:
        """Another address of this plan."""
        return reverse(name, kwargs=self.base)

    @cached_property
    def states(self) -> list[dict[str, object]]:
        """The state bar."""
        return [{"key": s, "name": STATE_NAMES[s], "here": s == self.state, "link": self.link(state=s)}
                for s in self.plan.states]

    @cached_property
    def stations(self) -> list[dict[str, object]]:
        """The run list with its marks."""
        made = []
        for key, name in STATIONS:
            here = [f for f in self.analysis.findings if f.station == key]
            counts = [(s, sum(1 for f in here if f.severity == s)) for s in ("stop", "caution", "advice")]
            made.append({"key": key, "name": name, "number": NUMBERS[key], "here": key == self.station,
                         "link": self.link(key), "counts": [(s, n) for s, n in counts if n], "mark": self._mark(key)})
        return made

    def _mark(self, station: str) -> str:
        plan = self.plan
        supplied = plan.generator or plan.packs or plan.of_kind("coil") or plan.machine.system == "total_loss"
        begun = {"survey": bool(plan.places), "loads": bool(plan.loads), "budget": bool(supplied),
                 "circuits": bool(plan.wires), "handover": bool(plan.loads)}[station]
        return "clear" if begun else "nothing yet"

    @cached_property
    def undo_labels(self) -> tuple[str, str]:
        """What undo and redo would do."""
        return store.can_undo_redo(self.row, self.membership.person) if self.may_edit else ("", "")

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, gravest first."""
        return self.analysis.findings

    @cached_property
    def counts(self) -> list[tuple[str, int]]:
        """Findings by severity."""
        return [(s, n) for s in ("stop", "caution", "advice", "note")
                if (n := sum(1 for f in self.findings if f.severity == s))]

    @cached_property
    def headline(self) -> list[Head]:
        """Margin, lowest load, hottest wire, weakest protection, days parked."""
        a, state = self.analysis, self.state
        return [self._margin(a, state), self._lowest(a, state), self._hottest(a, state), self._weakest(a),
                self._parked(a)]

    def _margin(self, a: Analysis, state: States) -> Head:
        if a.pack:
            over = any(f.rule in ("pack.bms", "pack.cuts-out") for f in a.findings)
            return Head("To the pack's limit, full power", a.bms_margin_a(), "A", "figure", "continuous limit less full power",
                        "caution" if over else "", "budget", "", "bms_margin")
        if a.lamps:
            lamp, volts = a.hardest_lamp()
            return Head(f"Most for a lamp, cruise: {lamp.name}", volts, "V", "figure", lamp.name,
                        self._severity(lamp.id, "lamp.over"), "budget", "", f"lamp_v/{lamp.id}/cruise")
        if self.plan.generator is None and self.plan.machine.system != "total_loss":
            return Head("Charging margin", None, "A", "none", "no generator yet", "", "survey", "", "")
        account = a.ledgers[state]
        short = state in RUNNING and account.margin_a < 0
        detail = "battery pays" if account.margin_a < 0 else "charges"
        return Head(f"Margin, {STATE_NAMES[state].lower()}: {detail}", account.margin_a, "A", "figure", detail,
                    "caution" if short else "", "budget", "", f"margin/{state}")

    def _lowest(self, a: Analysis, state: States) -> Head:
        lowest = a.lowest_load((state,))
        if lowest is None:
            return Head("Lowest at a load", None, "V", "none", f"none live, {STATE_NAMES[state].lower()}", "",
                        "circuits", "", "")
        load, _, volts = lowest
        return Head(f"Lowest, {STATE_NAMES[state].lower()}: {load.name}", volts, "V", "figure", load.name,
                    self._severity(load.id, "load."), "circuits", load.id, f"load_v/{load.id}/{state}")

    def _hottest(self, a: Analysis, state: States) -> Head:
        hottest = a.hottest_wire(state) if a.states else None
        if hottest is None:
            return Head("Hottest wire", None, "°C", "none", "no wires yet", "", "circuits", "", "")
        wire, warm = hottest
        limit = f"{self.units.shown(a.wires[wire].class_c, '°C'):.0f} {self.units.unit('°C')}"
        return Head(f"Hottest, {STATE_NAMES[state].lower()}: {wire} of {limit}", warm, "°C", "figure", wire,
                    self._severity(wire, "wire.too-hot"), "circuits", wire, f"wire_c/{wire}/{state}")

    def _weakest(self, a: Analysis) -> Head:
        weakest = a.weakest_wire()
        if weakest is None:
            return Head("Weakest protection", None, "×", "none", "no fuse yet", "", "circuits", "", "")
        wire, strength = weakest
        guard = a.wires[wire].guard
        return Head(f"Weakest: {wire} behind {guard.fuse if guard else 'nothing'}", strength, "×", "figure", wire,
                    self._severity(wire, "wire.not-protected"), "circuits", wire, f"strength/{wire}")

    def _parked(self, a: Analysis) -> Head:
        if a.pack:
            return Head("Range with the accessories", a.pack.range_km, "km", "figure", "from full", "", "budget", "", "range")
        if a.total_loss:
            return Head("Total loss: runs for", a.total_loss.usable_min / 60, "h", "span", "from a full battery", "", "budget", "",
                        "total_loss")
        if a.lamps and (worst := a.worst_when_one_fails()):
            gone, other, volts = worst
            return Head(f"{other.name}, town, if {gone.name} fails", volts, "V", "figure", other.name,
                        self._severity(gone.id, "lamp.takes"), "budget", "", f"lamp_failed/{gone.id}/{other.id}")
        if a.parked is None:
            return Head("Parked until no start", None, "days", "none", "no battery yet", "", "budget", "", "")
        short = any(f.rule in ("budget.parked", "budget.crank") for f in a.findings)
        return Head("Parked until no start", a.parked.days * 24, "h", "span", "from a full battery",
                    "caution" if short else "", "budget", "", "parked")

    def _severity(self, element: str, rule: str) -> str:
        here = [f for f in self.analysis.by_element.get(element, ()) if f.rule.startswith(rule)]
        return worst(here) or ""


def frame_for(request: HttpRequest, membership: Membership, plan: int, station: str) -> Frame:
    """The frame of a plan of the member's workshop; 404 when it is another's."""
    row = PlanRow.objects.filter(pk=plan, workshop=membership.workshop).first()
    if row is None or station not in NUMBERS:
        raise Http404
    state = request.GET.get("state", "")
    loaded = store.load(row)
    if row.core_version != CORE_VERSION:  # what the bench shows of it was computed by an older core
        store.project(row, loaded.known)
    states = loaded.plan.states
    usual: States = "idle" if "idle" in states else "assist"
    chosen = next((s for s in states if s == state), usual)
    return Frame(request, membership, row, loaded, station, chosen, request.GET.get("sel", "")[:20])
