"""Which feed for this accessory? Each is tried on a copy of the plan, analysed, and set against the plan without it."""

from dataclasses import dataclass

from ..analysis import Analysis, analyse
from ..edits import ChangeElement, Edit, RemoveElement, apply
from ..errors import PlanError
from ..findings import Finding
from ..materials.conductors import copper_mass_g
from ..parts.base import Part
from ..parts.load import LoadPart
from ..plan.model import Plan


@dataclass(frozen=True)
class FeedOption:
    """One feed as it would be: what it adds, what it loses on the way, what would be found; or why it is refused."""

    feed: str
    name: str
    kind: str
    here: bool
    refused: str = ""
    parts: tuple[str, ...] = ()
    wires: int = 0
    wire_m: float = 0.0
    copper_g: float = 0.0
    drop_frac: float | None = None
    findings: tuple[Finding, ...] = ()
    edit: Edit | None = None

    @property
    def stops(self) -> int:
        """Stop findings that this feed would bring."""
        return sum(f.severity == "stop" for f in self.findings)


def compare_feeds(plan: Plan, load_id: str) -> tuple[FeedOption, ...]:
    """Every feed of the plan for one accessory, fewest stops first, then fewest parts and least wire."""
    load = next(p for p in plan.loads if p.id == load_id)
    without = apply(plan, RemoveElement(id=load_id))
    base = analyse(without)
    old = {_key(f) for f in base.findings}
    found = [_tried(plan, base, old, load, part) for part in plan.parts
             if part.can_feed]
    return tuple(sorted(found,
                        key=lambda o: (bool(o.refused), o.stops, len(o.findings), len(o.parts), o.wire_m, o.feed)))


def _tried(plan: Plan, base: Analysis, old: set[tuple[str, tuple[str, ...]]], load: LoadPart, feed: Part
           ) -> FeedOption:
    here = load.feed == feed.id
    edit = ChangeElement(id=load.id, values={"feed": feed.id})
    try:
        made = analyse(plan if here else apply(plan, edit))
    except PlanError as error:
        return FeedOption(feed.id, feed.name, feed.kind, here, refused=error.faults[0].sentence)
    before = {p.id for p in base.plan.parts} | {w.id for w in base.plan.wires}
    parts = tuple(p.name for p in made.plan.parts if p.id not in before and p.id != load.id)
    wires = [w for w in made.wires.values() if w.id not in before]
    now = next(p for p in made.plan.loads if p.id == load.id)
    state, lost = made.volts.worst_drop(now)
    return FeedOption(
        feed.id, feed.name, feed.kind, here, "", parts, len(wires), sum(w.length_m for w in wires),
        sum(copper_mass_g(w.area_mm2, w.length_m) for w in wires), lost if state else None,
        tuple(f for f in made.findings if _key(f) not in old and f.severity != "note"), None if here else edit)


def _key(finding: Finding) -> tuple[str, tuple[str, ...]]:
    return finding.rule, finding.elements[:1]
