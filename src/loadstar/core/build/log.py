"""What the log of the work says of a plan: what is done, what was made to an older plan, what went wrong."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from .operations import CRIMPS, Operation, Work

REDONE_OFTEN = 2
MADE_AGAIN, NOT_PULLED, BY_HAND = 2.0, 2.0, 1.5  # how much likelier a fault is where this happened; guessed
HELD = "held"  # a pull without a gauge's figure: it held what is asked


@dataclass(frozen=True)
class Entry:
    """One line of the log, in the order written: an operation done, to be done again, or a note on it."""

    operation: str
    what: Literal["done", "again", "note"]
    spec: str = ""
    revision: int = 0
    by: str = ""
    at: str = ""
    tool: str = ""
    pull_n: float | None = None
    note: str = ""
    element: str = ""


@dataclass(frozen=True)
class Changed:
    """Something made to an older plan: the operation as it now is, what it was done to, and in which revision."""

    operation: Operation
    was: str
    revision: int


@dataclass(frozen=True)
class Told:
    """What the log shows that should not be: how grave, of which element, in a sentence."""

    severity: Literal["caution", "advice"]
    element: str
    sentence: str


@dataclass(frozen=True)
class Standing:
    """How far the work is: operations done as the plan is now, those made to an older one, how often an element was
    done again, those whose pull was too little, and minutes left."""

    done: frozenset[str]
    changed: tuple[Changed, ...]
    again: Mapping[str, int]
    weak: tuple[Operation, ...]
    minutes_left: float
    told: tuple[Told, ...]

    @property
    def hours_left(self) -> float:
        """The same in hours."""
        return self.minutes_left / 60


def standing(work: Work, entries: Iterable[Entry]) -> Standing:
    """Where the work stands after these lines."""
    last: dict[str, Entry] = {}
    again: Counter[str] = Counter()
    for entry in entries:
        if entry.what == "again":
            again[entry.element] += 1
            for later in _behind(work, entry.operation):  # of what is made again nothing that came after it stands
                last.pop(later, None)
        if entry.what in ("done", "again"):
            last[entry.operation] = entry
    made = {key: e for key, e in last.items() if e.what == "done" and key in work.operations}
    changed = tuple(Changed(work.operations[key], e.spec, e.revision) for key, e in made.items()
                    if e.spec != work.operations[key].spec)
    weak = tuple(o for key, e in made.items() if (o := work.operations[key]).pull_n is not None
                 and e.pull_n is not None and e.pull_n < o.pull_n)
    done = frozenset(made) - {c.operation.key for c in changed} - {o.key for o in weak}
    left = sum(o.minutes for key, o in work.operations.items() if key not in done)
    return Standing(done, changed, dict(again), weak, left, tuple(_told(work, made, changed, again, weak)))


def _behind(work: Work, key: str) -> set[str]:
    """The operations of the same line that wait for one, each after the other."""
    row = work.operations[key].row if key in work.operations else ""
    mine = {o.key for o in work.operations.values() if row and o.row == row}
    found = {key}
    while fresh := {k for k in mine - found if work.before[k] & found}:
        found |= fresh
    return found - {key}


def _told(work: Work, made: Mapping[str, Entry], changed: Sequence[Changed], again: Mapping[str, int],
          weak: Sequence[Operation]) -> list[Told]:
    found = [Told("caution", c.operation.element,
                  f"{c.operation.words}: made to revision {c.revision} ({c.was}); the plan now has {c.operation.spec}. "
                  "Check it.") for c in changed]
    found += [Told("caution", o.element, f"{o.words}: it was pulled with less. Make it again.") for o in weak]
    found += [Told("advice", element, f"{element} has been done again {count} times: is it the tool, the die, the "
                   "terminal?") for element, count in again.items() if count >= REDONE_OFTEN and element]
    if any(work.operations[key].sitting == "refit" for key in made):
        waiting = [o for o in work.operations.values() if o.kind == "test" and o.key not in made]
        if waiting:
            found.append(Told("caution", "", f"It is being closed up, and {len(waiting)} "
                              f"circuit{'s have' if len(waiting) > 1 else ' has'} not been tried."))
    return found


def left_out(work: Work, keys: Iterable[str], done: frozenset[str]) -> tuple[Operation, ...]:
    """What some operations, ticked together, came after and has not been ticked: what that leaves unproved."""
    ticked = {*keys, *done}
    return tuple(work.operations[k] for k in sorted({k for key in ticked - done for k in work.before.get(key, ())
                                                     if k in work.operations} - ticked))


def weights(work: Work, entries: Iterable[Entry]) -> dict[str, float]:
    """How much likelier than usual a fault is, by element, as the log shows the work: done again, made by the plainest
    tool, not pulled."""
    found: dict[str, float] = {}
    crimped: dict[str, Entry] = {}
    pulled: set[str] = set()
    for entry in entries:
        operation = work.operations.get(entry.operation)
        if operation is None:
            continue
        if entry.what == "again":
            found[operation.element] = found.get(operation.element, 1.0) * MADE_AGAIN
        elif entry.what == "done" and operation.kind in CRIMPS:
            crimped[operation.element] = entry
        elif entry.what == "done" and operation.kind == "pull":
            pulled.add(operation.element)
    for element, entry in crimped.items():
        if element not in pulled:
            found[element] = found.get(element, 1.0) * NOT_PULLED
        if "hand" in entry.tool or "pliers" in entry.tool:
            found[element] = found.get(element, 1.0) * BY_HAND
    return found


@dataclass(frozen=True)
class Kit:
    """What to lay out for some operations: tools with their dies, and what is used up, each with how often."""

    tools: tuple[str, ...]
    uses: tuple[tuple[str, int], ...]


def kit(operations: Iterable[Operation]) -> Kit:
    """What has to lie there before it is begun."""
    every = list(operations)
    uses = Counter(item for o in every for item in o.uses)
    return Kit(tuple(sorted({o.tool for o in every if o.tool not in ("hand", "label")})), tuple(sorted(uses.items())))
