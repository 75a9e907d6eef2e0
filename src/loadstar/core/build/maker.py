"""Puts operations together, with what each waits for."""

from dataclasses import dataclass, field, replace

from ..analysis import Analysis
from ..doc.wires import Wire
from ..ends.choose import End
from ..parts.can import as_accessory
from .operations import BENCH, FIT, MINUTES, MOST_KEY, PREPARE, SITTING_OF, TOOLS, Kind, Operation, Work


@dataclass(frozen=True)
class On:
    """What an operation is done to: the element, the group it is made with, and where."""

    element: str
    group: str = PREPARE
    where: str = BENCH


@dataclass(frozen=True)
class How:
    """With which tool ("": the usual one), to what exactly, with how many N, out of what stock, in which sitting ("":
    the usual one), and what it is done to in words."""

    spec: str = ""
    tool: str = ""
    pull_n: int | None = None
    uses: tuple[str, ...] = ()
    sitting: str = ""
    row: str = ""


@dataclass
class Maker:
    """What is put together: operations and edges."""

    a: Analysis
    made: dict[str, Operation] = field(default_factory=dict)
    edges: dict[str, set[str]] = field(default_factory=dict)

    def add(self, kind: Kind, about: str, words: str, on: On, after: tuple[str, ...] = (), how: How | None = None
            ) -> str:
        """Put one in; its key."""
        key, how = f"{kind}/{about}"[:MOST_KEY], how or How()
        minutes = self.a.plan.rules.work_pace_frac * MINUTES[kind]
        self.made[key] = Operation(key, kind, on.element, words, on.where, how.tool or TOOLS[kind], minutes, how.spec,
                                   on.group, how.pull_n, how.uses, how.sitting or SITTING_OF[kind], how.row)
        self.edges.setdefault(key, set()).update(after)
        return key

    def ends_at(self, part: str) -> list[End]:
        """The ends of wires at a part."""
        return self.a.ends.at(part) if self.a.ends else []

    def group_of(self, wire: Wire) -> str:
        """The sub-harness a wire belongs to: that of the accessory it was made for, or of what feeds them all."""
        part = self.a.plan.part_by_id.get(wire.made_for or "")
        return part.name if part is not None else "feeds and returns"

    def polarity(self, wire: Wire) -> str:
        """Which of an accessory's two wires one is or goes to, in words; "" where nobody has found out, or it comes to
        none."""
        for end in (wire.a, wire.b):
            load = as_accessory(self.a.plan.part(end.part))
            if load is not None and load.live_wire:
                return f"its live wire ({load.live_wire})" if end == load.at("pos") else "its other wire"
        return ""

    def on(self, wire: Wire) -> On:
        """A wire, made with its sub-harness at the bench."""
        return On(wire.id, self.group_of(wire))

    def grouped(self) -> Work:
        """Sub-harnesses by stage, then in the order of the plan; an operation that waits for another's goes into the
        later one."""
        first: dict[str, str] = {}
        for wire in self.a.plan.wires:
            part = self.a.plan.part_by_id.get(wire.made_for or "")
            stage = part.stage if part is not None else ""
            name = self.group_of(wire)
            first[name] = min(first.get(name, stage), stage)
        names = [PREPARE, *sorted(first, key=lambda name: first[name]), FIT]
        rank = {name: n for n, name in enumerate(names)}
        level: dict[str, int] = {}

        def of(key: str) -> int:
            if key not in level:
                level[key] = rank[self.made[key].group]  # so that a circle ends
                level[key] = max(level[key], *(of(k) for k in self.edges[key]), 0)
            return level[key]

        made = {key: replace(o, group=names[of(key)]) for key, o in self.made.items()}
        return Work(made, {k: frozenset(v) for k, v in self.edges.items()}, tuple(n for n in names if any(
            o.group == n for o in made.values())), first)
