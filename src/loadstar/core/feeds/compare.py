"""Which feed for this accessory? Each is tried on a copy of the plan, analysed, and set against the plan without it.

"Which tap" asks less: can the wire or plug carry it, with what is already on it, at 12.0 V?
"""

from dataclasses import dataclass

from ..analysis import Analysis, analyse
from ..findings import Finding
from ..materials.conductors import copper_mass_g
from ..plan.edits import ChangeElement, Edit, RemoveElement, apply
from ..plan.errors import PlanError
from ..plan.model import FEEDS, LIVE_STATES, LoadPart, Plan, Port, Tap
from ..plan.recipes import LIVE_WORDS
from ..survey.pins import suspect
from ..wiring.circuit import accessory_current_a

JUDGED_V = 12.0


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
    found = [_tried(plan, base, old, load, part.id, part.name, part.kind) for part in plan.parts
             if part.kind in FEEDS and not (isinstance(part, Tap) and part.function != "feed")]
    return tuple(sorted(found, key=lambda o: (bool(o.refused), o.stops, len(o.findings), len(o.parts), o.wire_m, o.feed)))


def _tried(plan: Plan, base: Analysis, old: set[tuple[str, tuple[str, ...]]], load: LoadPart, feed: str, name: str,
           kind: str) -> FeedOption:
    here = load.feed == feed
    edit = ChangeElement(id=load.id, values={"feed": feed})
    try:
        made = analyse(plan if here else apply(plan, edit))
    except PlanError as error:
        return FeedOption(feed, name, kind, here, refused=error.faults[0].sentence)
    before = {p.id for p in base.plan.parts} | {w.id for w in base.plan.wires}
    parts = tuple(p.name for p in made.plan.parts if p.id not in before and p.id != load.id)
    wires = [w for w in made.wires.values() if w.id not in before]
    now = made.plan.part(load.id)
    assert isinstance(now, LoadPart)
    state, lost = made.worst_drop(now)
    return FeedOption(
        feed, name, kind, here, "", parts, len(wires), sum(w.length_m for w in wires),
        sum(copper_mass_g(w.area_mm2, w.length_m) for w in wires), lost if state else None,
        tuple(f for f in made.findings if _key(f) not in old and f.severity != "note"), None if here else edit)


def _key(finding: Finding) -> tuple[str, tuple[str, ...]]:
    return finding.rule, finding.elements[:1]


@dataclass(frozen=True)
class TapAnswer:
    """What a found wire or plug has to spare for a load, and what it is short of (empty: it can carry it)."""

    tap: str
    name: str
    rated_a: float
    others_a: float
    asked_a: float
    short_of: tuple[str, ...]

    @property
    def spare_a(self) -> float:
        """What would be left of its rating; negative when it is over."""
        return self.rated_a - self.others_a - self.asked_a


def on_tap_a(plan: Plan, tap: str, volts_v: float = JUDGED_V) -> float:
    """Current on a found wire or plug with everything on it that may be on together, at a voltage."""
    part = plan.part(tap)
    assert isinstance(part, Tap)
    return part.others_a + sum(accessory_current_a(p, volts_v) for p in plan.loads if p.feed == tap)


def which_tap(plan: Plan, load: LoadPart) -> tuple[TapAnswer, ...]:
    """Every found wire and plug for a load, those that can carry it first, the largest spare first."""
    found = []
    for part in plan.taps:
        asked = accessory_current_a(load, JUDGED_V)
        others = on_tap_a(plan, part.id) - (asked if load.feed == part.id else 0.0)
        short: list[str] = []
        if never := plan.never(part):
            short.append(f"belongs to the {never} system: never tapped")
        if part.live != load.live:
            short.append(f"is {LIVE_WORDS[part.live]}; this is to be {LIVE_WORDS[load.live]}")
        over = others + asked - part.rated_a
        if over > 0:
            short.append(f"{over:.1f} A short at {JUDGED_V:.1f} V")
        if part.fused_a is None and not part.unfused:
            short.append("its factory fuse is not known: find it")
        elif part.fused_a is not None and not part.unfused and others + asked > plan.rules.fuse_share_frac * part.fused_a:
            short.append(f"its {part.fused_a:g} A fuse would carry {(others + asked) / part.fused_a:.0%}")
        if why := suspect(plan, part):
            short.append(why)
        if part.standing == "believed":
            short.append("is only believed, from another machine: probe it here")
        if part.off_delay_s > 0 and load.live != "always":
            short.append(f"stays live {part.off_delay_s:g} s after")
        found.append(TapAnswer(part.id, part.name, part.rated_a, others, asked, tuple(short)))
    return tuple(sorted(found, key=lambda t: (len(t.short_of), -t.spare_a, t.tap)))


def port_asked_w(plan: Plan, port: Port) -> float:
    """Watts asked of a light port, with everything on it that may be on together."""
    return sum(accessory_current_a(p, port.out_v) * port.out_v for p in plan.loads
               if p.feed == port.id and set(LIVE_STATES[p.live]))
