"""Where everything that is moved by hand, foot or warmth stands in a state of the machine.

A state is judged with everything on that may be on at once: each switch where it is taken to stand, which is where
most hangs on it unless the plan says so, each button pressed. Every other stand is looked at besides, one at a time
with the rest as they were, and once with nothing pressed, as the machine is ridden. Only what a contact keeps apart
counts as apart; what somebody says is never on together is a belief and changes nothing here.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from ..doc.states import LIVE_STATES, OCCASIONS, Live, States, moved_by
from ..parts.base import Part
from ..parts.can import as_between
from ..parts.fed import Fed
from ..parts.load import LoadPart
from ..parts.selector import Selector
from ..parts.tap import Tap
from .model import Plan

OFF = ""  # where an occasion stands that is not there
GROUP_WORDS = {"brake": "brake", "horn": "horn", "turn": "indicators", "lamp": "lamps", "hot": "warmth"}
Stands = dict[str, str]  # by part, or by an occasion's group


@dataclass(frozen=True)
class Mover:
    """A part that is moved, or an occasion of the machine's own wires. It may stand at each of `stands`, at rest first,
    and is taken to stand at `usual`."""

    key: str
    name: str
    stands: tuple[str, ...]
    usual: str
    springs_back: bool

    def words(self, stand: str) -> str:
        """That it stands there."""
        if stand == OFF:
            return f"no {self.name}"
        return f"{self.name} at {stand}" if " " not in stand else f"{self.name}, {stand}"


@dataclass(frozen=True)
class Turned:
    """A state with its switches otherwise than they are taken to stand, and how in words. `is_ridden`: as the machine
    is ridden, with nothing pressed."""

    stands: Stands
    words: str
    is_ridden: bool = False


def movers(plan: Plan, state: States) -> tuple[Mover, ...]:
    """Everything that is moved and has a wire, and where each may stand in a state."""
    found = []
    for part in plan.parts:
        if part.id in plan.wired and (stands := part.stands_in(state)):
            most = {stand: (_on_w(plan, part, stand), part.joined_at(stand)) for stand in stands}
            usual = part.taken_at if part.taken_at in stands else max(stands, key=lambda stand: most[stand])
            found.append(Mover(part.id, part.name, stands, usual, part.springs_back))
    return (*found, *_occasions(plan, state))


def _on_w(plan: Plan, part: Part, stand: str) -> float:
    """Watts that are on while a part stands there: of what hangs on it, straight or past others, each of those where
    most is on, and of what its wire pulls in by a relay."""
    straight = sum(p.power_w for p in plan.loads if part.is_lit(p.live, stand)
                   and (p.feed == part.id or p.live == stand))
    return straight + sum(_below_w(plan, p) for p in _hanging_on(plan, part) if part.is_lit(p.live, stand))


def _below_w(plan: Plan, part: Fed) -> float:
    """Watts of what hangs on a part at the most."""
    stands = part.stands_in("idle") or part.stands_in("on") or ("",)
    return max(_on_w(plan, part, stand) for stand in stands)


def _hanging_on(plan: Plan, part: Part) -> list[Fed]:
    return [between for p in plan.parts if p.hangs_on == part.id and (between := as_between(p))]


def _occasions(plan: Plan, state: States) -> list[Mover]:
    """The machine's own wires that live by an occasion and have something on them: of one group, one at a time."""
    groups: dict[str, dict[Live, float]] = {}
    for tap in plan.of(Tap):
        if tap.id in plan.wired and (group := moved_by(tap.live)) and state in LIVE_STATES[tap.live]:
            fed_w = sum(p.power_w for p in plan.loads if p.feed == tap.id or p.live == tap.live)
            members = groups.setdefault(group, {})
            members[tap.live] = members.get(tap.live, 0.0) + fed_w
    found = []
    for group, members in groups.items():
        passing = all(OCCASIONS[live].comes == "for moments" for live in members)
        usual = OFF if state == "cranking" and passing else max(members, key=lambda live: members[live])
        stands = (OFF,) if usual == OFF else (OFF, *members) if passing else tuple(members)
        found.append(Mover(group, GROUP_WORDS[group], stands, usual, passing))
    return found


def never_together(plan: Plan, weight: Mapping[str, float]) -> set[str]:
    """Of some loads, with a weight by id, those that are off whenever the heaviest are on: a switch joins them in no
    common position, or their occasions exclude each other."""
    loads = [p for p in plan.loads if p.id in weight]
    found: set[str] = set()
    for switch in plan.of(Selector):
        mine = [p for p in loads if p.feed == switch.id]
        lit = [[p for p in mine if switch.is_lit(p.live, at.name)] for at in switch.table]
        most = max(lit, key=lambda on: sum(weight[p.id] for p in on), default=[])
        found |= {p.id for p in mine} - {p.id for p in most}
    grouped: dict[str, dict[Live, float]] = {}
    by_wire = [p for p in loads if moved_by(p.live) and not plan.is_one(p.feed, Selector)]
    for load in by_wire:
        members = grouped.setdefault(moved_by(load.live), {})
        members[load.live] = members.get(load.live, 0.0) + weight[load.id]
    for members in grouped.values():
        heaviest = max(members, key=lambda live: members[live])
        found |= {p.id for p in by_wire if p.live in members and p.live != heaviest}
    return found


def together(plan: Plan, feed: str, volts_v: float) -> list[LoadPart]:
    """The loads that are fed from a part and may be on together: of what is kept apart, those that draw most at a
    voltage."""
    mine = plan.fed_from(feed)
    apart = never_together(plan, {p.id: p.draws_a(volts_v) for p in mine})
    return [p for p in mine if p.id not in apart]


def usual_stands(plan: Plan, state: States) -> Stands:
    """Where everything is taken to stand."""
    return {m.key: m.usual for m in movers(plan, state)}


def turned(plan: Plan, state: States) -> list[Turned]:
    """The same state with one thing at another of its stands, and with nothing pressed; none while the starter turns or
    a pack is charged."""
    if state in ("cranking", "charging"):
        return []
    every = movers(plan, state)
    usual = {m.key: m.usual for m in every}
    sprung = [m for m in every if m.springs_back and m.usual != m.stands[0]]
    found = [Turned({**usual, m.key: stand}, m.words(stand), sprung == [m] and stand == m.stands[0])
             for m in every for stand in m.stands if stand != m.usual]
    if len(sprung) > 1:
        found.append(Turned({**usual, **{m.key: m.stands[0] for m in sprung}}, "nothing pressed", True))
    return found
