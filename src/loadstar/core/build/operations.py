"""What has to be done to make and fit a plan's harness, and what must come before what.

Each operation is known by a key that stays while the plan changes elsewhere, so that what has been done stays done;
`spec` says what it was done to, so that a plan that changed afterwards shows it.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

Kind = Literal["disconnect", "photograph", "mark", "cut", "thread", "strip", "crimp core", "crimp insulation", "pull",
               "insert", "lock", "seal home", "splice", "solder", "heat", "beep", "cover", "lay in", "connect", "test",
               "tie", "bodywork", "battery"]
BENCH, MACHINE = "bench", "machine"
PREPARE, FIT = "before anything", "on the machine"
# Minutes that one usually takes a practised hand; overridden by what the workshop's own log shows.
MINUTES: dict[Kind, float] = {
    "disconnect": 3, "photograph": 2, "mark": 0.5, "cut": 1, "thread": 0.5, "strip": 0.5, "crimp core": 1,
    "crimp insulation": 0.5, "pull": 0.5, "insert": 0.5, "lock": 0.5, "seal home": 0.3, "splice": 2, "solder": 3,
    "heat": 1, "beep": 1, "cover": 6, "lay in": 5, "connect": 2, "test": 4, "tie": 4, "bodywork": 8, "battery": 3}
TOOLS: dict[Kind, str] = {
    "disconnect": "spanner", "photograph": "camera", "mark": "label", "cut": "side cutter", "thread": "hand",
    "strip": "stripper", "pull": "pull gauge", "insert": "hand", "lock": "hand", "seal home": "hand",
    "solder": "soldering iron", "heat": "hot air", "beep": "meter", "cover": "hand", "lay in": "hand",
    "connect": "spanner", "test": "meter", "tie": "tie cutter", "bodywork": "screwdriver", "battery": "spanner"}
# What is done in one sitting, in the order in which it usually comes; what has several is told apart behind the word.
SITTINGS = ("take off", "supply off", "photograph", "cut", "sleeve", "end", "splice", "push in", "beep", "shrink",
            "cover", "lay in", "gate", "connect", "supply on", "try", "tie", "refit")
SITTING_OF: dict[Kind, str] = {
    "disconnect": "supply off", "photograph": "photograph", "mark": "cut", "cut": "cut", "thread": "sleeve",
    "strip": "end", "crimp core": "end", "crimp insulation": "end", "pull": "end", "insert": "push in",
    "lock": "push in", "seal home": "push in", "splice": "splice", "solder": "end", "heat": "shrink", "beep": "beep",
    "cover": "cover", "lay in": "lay in", "connect": "connect", "test": "try", "tie": "tie", "bodywork": "refit",
    "battery": "supply on"}
CRIMPS: tuple[Kind, ...] = ("crimp core", "splice", "solder")
MOST_KEY = 80


@dataclass(frozen=True)
class Operation:
    """One thing to do: its key, kind, the element it is done to, in words, where (the bench, or a place), with which
    tool and die, minutes, what it is done to exactly, N to pull with, and what has to be there (stock by its name).
    `sitting` is what it is done together with, `row` what it is done to, in words: operations of one row are one line.
    """

    key: str
    kind: Kind
    element: str
    words: str
    where: str
    tool: str
    minutes: float
    spec: str
    group: str
    pull_n: int | None = None
    uses: tuple[str, ...] = ()
    sitting: str = ""
    row: str = ""


@dataclass(frozen=True)
class Work:
    """All operations by key, and for each what must be done before it."""

    operations: dict[str, Operation]
    before: dict[str, frozenset[str]]
    groups: tuple[str, ...]  # in the order they are made: preparation, sub-harnesses, the machine
    stage: Mapping[str, str] = field(default_factory=dict)  # of each sub-harness ("": of the first)

    def of(self, group: str) -> list[Operation]:
        """The operations of a group, by key."""
        return [o for o in self.operations.values() if o.group == group]


def circle(before: Mapping[str, frozenset[str]]) -> tuple[str, ...]:
    """Operations that wait for one another in a circle; none where there is an order."""
    left = dict(before)
    while left:
        free = [k for k, waits in left.items() if not waits & left.keys()]
        if not free:
            return tuple(sorted(left))
        for key in free:
            del left[key]
    return ()
