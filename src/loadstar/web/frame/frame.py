"""What every plan page knows: plan, state, selection, run list, headline, findings, undo, links."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest
from django.urls import reverse

from loadstar.core.analysis import Analysis
from loadstar.core.doc.states import STATE_NAMES, States
from loadstar.core.findings import Finding
from loadstar.core.headline import Head, headline
from loadstar.core.plan.model import Plan
from loadstar.core.supply.choose import supply_of
from loadstar.core.whatif.outlook import Span

from ..plans.models import PlanHead
from ..records import store, undo
from ..workshop.access import whole_number
from ..workshop.models import Membership
from .opened import OpenForm
from .units import Units
from .weighed import Weighed, untried, weighed


@dataclass
class Frame:
    """One page of one plan."""

    request: HttpRequest
    membership: Membership
    row: PlanHead
    loaded: store.Loaded
    station: str
    state: States
    select: str
    keeps: tuple[str, ...] = ()
    notice: str = ""
    conflict: store.Conflict | None = None
    extra: dict[str, Any] = field(default_factory=dict)
    opened: OpenForm | None = None
    tries: bool = False  # whether its findings are shown with what mends them
    former: int | None = None  # the revision that is looked at, when it is not the newest

    @property
    def plan(self) -> Plan:
        """The document."""
        return self.loaded.plan

    @property
    def analysis(self) -> Analysis:
        """Everything computed about it."""
        return self.loaded.analysis

    @property
    def may_edit(self) -> bool:
        """Whether the member may change it."""
        return self.membership.may_edit and self.former is None and self.row.archived is None

    @property
    def made_on(self) -> int:
        """The revision that what was sent was made on."""
        return self.number("base")

    def number(self, name: str) -> int:
        """A whole number that the page sends for itself, be there such a revision or not; a 404 when it is none."""
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
        """What a station's own addresses keep beside state and selection, as the station says."""
        return {key: self.request.GET.get(key, "")[:12] for key in self.keeps}

    @property
    def base(self) -> dict[str, object]:
        """Arguments of every address of this plan."""
        return {"workshop": self.membership.workshop.slug, "plan": self.row.pk}

    def link(self, station: str = "", **changes: Any) -> str:
        """A station's address with this state and selection; keyword arguments replace, empty ones drop."""
        query = {"state": self.state, "sel": self.select, "rev": str(self.former or "")}
        if not station or station == self.station:
            query |= self.kept
        if station and station != self.station and "sel" not in changes:
            query["sel"] = self.select if self.select.startswith("L") else ""
        query |= {k: str(v) for k, v in changes.items()}
        text = urlencode({k: v for k, v in query.items() if v})
        return reverse("station",
                       kwargs={**self.base, "station": station or self.station}) + (f"?{text}" if text else "")

    def element_link(self, station: str) -> str:
        """A station's address with "{}" for the element to select."""
        return self.link(station, sel="XX").replace("sel=XX", "sel={}")

    def working_link(self, key: str) -> str:
        """The address of a figure's working."""
        return reverse("working", kwargs=self.base) + "?" + urlencode(
            {"key": key, "state": self.state, "from": self.station, "sel": self.select, **self.former_query})

    @property
    def former_query(self) -> dict[str, int]:
        """What every address of a former revision carries."""
        return {"rev": self.former} if self.former else {}

    def url(self, name: str) -> str:
        """Another address of this plan."""
        return reverse(name, kwargs=self.base)

    @property
    def findings_at(self) -> str:
        """The address of its findings, which lead back to this page."""
        return self.url("findings") + "?" + urlencode(
            {"next": self.request.get_full_path(), **self.former_query}, safe="/")

    @property
    def bands_at(self) -> str:
        """The address of the headline's spans in this state."""
        return self.url("bands") + "?" + urlencode(
            {"state": self.state, "from": self.station, **self.former_query})

    @cached_property
    def states(self) -> list[dict[str, object]]:
        """The state bar."""
        return [{"key": s, "name": STATE_NAMES[s], "here": s == self.state, "link": self.link(state=s)}
                for s in self.analysis.source.states]

    @cached_property
    def undo_labels(self) -> tuple[str, str]:
        """What undo and redo would do."""
        return undo.can_undo_redo(self.row, self.membership.person) if self.may_edit else ("", "")

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, gravest first."""
        return self.analysis.findings

    @property
    def weighed(self) -> list[Weighed]:
        """The same as they are shown: on a page that waits for it with what was tried of them."""
        return self.tried(self.findings) if self.tries else untried(self.findings)

    def tried(self, findings: Iterable[Finding]) -> list[Weighed]:
        """Some of them with what mends them, for who may change the plan, and what they hang on."""
        return weighed(self.loaded.known, self.units, findings, cures=self.may_edit)

    @cached_property
    def counts(self) -> list[tuple[str, int]]:
        """Findings by severity."""
        return [(s, n) for s in ("stop", "caution", "advice", "note")
                if (n := sum(1 for f in self.findings if f.severity == s))]

    @property
    def rests_on(self) -> int:
        """How many figures of the plan could be measured and have not been."""
        return self.loaded.known.rests_on

    @cached_property
    def bands(self) -> dict[States, tuple[Span | None, ...]] | None:
        """Between what the headline's figures lie, by state; None as long as nobody has looked. Without anything
        unknown there is nothing to look for."""
        if not self.rests_on:
            return {}
        found = self.loaded.known.outlook_so_far
        return None if found is None else found.bands

    @property
    def headline_spans(self) -> list[tuple[Head, Span | None]]:
        """The headline with the spans that are known."""
        spans = (self.bands or {}).get(self.state, (None,) * len(self.headline))
        return list(zip(self.headline, spans, strict=True))

    @cached_property
    def headline(self) -> tuple[Head, ...]:
        """The five figures that are always in sight."""
        return headline(self.analysis, self.state)


def frame_for(request: HttpRequest, membership: Membership, plan: int, station: str,
              keeps: tuple[str, ...] = ()) -> Frame:
    """The frame of a plan of the member's workshop; 404 when it is another's. `station` is the page's, or the one it
    leads back to."""
    row = PlanHead.objects.filter(pk=plan, workshop=membership.workshop).select_related("summary").first()
    if row is None:
        raise Http404
    state, former = request.GET.get("state", ""), _former(request, row)
    loaded = store.load(row, former)
    source = supply_of(loaded.plan)
    usual = source.usual_state if source.usual_state in source.states else source.states[-1]
    chosen = next((s for s in source.states if s == state), usual)
    return Frame(request, membership, row, loaded, station, chosen, request.GET.get("sel", "")[:20], keeps,
                 former=former)


def _former(request: HttpRequest, row: PlanHead) -> int | None:
    """The revision asked for by `rev`, when it is an older one; it can only be looked at."""
    text = request.GET.get("rev", "")
    if not text:
        return None
    number = whole_number(text)
    if request.method == "POST" or not 1 <= number <= row.head:
        raise Http404
    return number if number != row.head else None
