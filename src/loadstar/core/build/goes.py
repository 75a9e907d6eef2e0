"""Work by the handful: all that is done in one sitting, with one tool, without putting it down, is one go.

Operations of one sitting are taken together as far as what they wait for allows, and the order of the sittings is one
with as few goes as can be found. The order of a go's operations is one in which they can be done.
"""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from .operations import CRIMPS, FIT, PREPARE, SITTINGS, Operation, Work, circle

BEAM, SHAPE = 16, "cover/shape."


class Circle(ValueError):
    """Operations wait for one another in a circle; `keys` names them."""

    def __init__(self, keys: tuple[str, ...]) -> None:
        super().__init__(", ".join(keys))
        self.keys = keys


@dataclass(frozen=True)
class Line:
    """What is done to one thing in a go: what it is done to, in words, and the operations."""

    key: str
    words: str
    operations: tuple[Operation, ...]

    @property
    def steps(self) -> str:
        """What is done to it, in short; nothing where the words say it all."""
        if len(self.operations) == 1:
            return ""
        return ", ".join(dict.fromkeys(STEPS.get(o.kind, o.kind).format(o) for o in self.operations))

    @property
    def main(self) -> Operation:
        """The one that the rest hangs on: its crimp or joint, else its first."""
        return next((o for o in self.operations if o.kind in CRIMPS), self.operations[0])

    @property
    def pull(self) -> Operation | None:
        """The pull that is asked."""
        return next((o for o in self.operations if o.pull_n), None)


# How an operation is named beside others of its line.
STEPS = {"thread": "slide on {0.spec}", "strip": "strip {0.spec}", "crimp core": "crimp", "crimp insulation": "wings",
         "pull": "pull {0.pull_n} N", "mark": "label", "insert": "push in", "seal home": "seal home", "splice": "crimp",
         "solder": "solder"}


@dataclass(frozen=True)
class Go:
    """A go: by its first operation's key, the sitting, in words, what its lines have in common, and these."""

    key: str
    sitting: str
    words: str
    detail: str
    lines: tuple[Line, ...]

    @cached_property
    def operations(self) -> tuple[Operation, ...]:
        """All of them, in an order in which they can be done."""
        return tuple(o for line in self.lines for o in line.operations)

    @property
    def tools(self) -> tuple[str, ...]:
        """What is in the hand, each once."""
        return tuple(dict.fromkeys(o.tool for o in self.operations if o.tool not in ("hand", "label")))


def goes(work: Work) -> tuple[Go, ...]:
    """The goes of a plan, in order: stage after stage at the bench, then on the machine. Raises Circle where operations
    wait for one another."""
    if stuck := circle(work.before):
        raise Circle(stuck)
    stages = sorted({work.stage.get(g, "") for g in work.groups if g not in (PREPARE, FIT)})
    parts: list[list[Operation]] = [work.of(PREPARE)]
    parts += [[o for g in work.groups if g not in (PREPARE, FIT) and work.stage.get(g, "") == stage for o in work.of(g)]
              for stage in stages]
    parts.append(work.of(FIT))
    done: set[str] = set()
    return tuple(go for part in parts for go in _in_turn(part, work.before, done))


def _in_turn(operations: Sequence[Operation], before: Mapping[str, frozenset[str]], done: set[str]) -> Iterator[Go]:
    for sitting in _Search(operations, before, done).sittings():
        doable = _doable({o.key: o for o in operations if o.sitting == sitting and o.key not in done}, before, done)
        done.update(o.key for o in doable)
        yield _go(sitting, doable)


class _Search:
    """The row of sittings with the fewest goes: of each length the best few are gone on with, by how many sittings are
    left at the least. What is done is a number's bits."""

    def __init__(self, operations: Sequence[Operation], before: Mapping[str, frozenset[str]], done: set[str]) -> None:
        number = {o.key: 1 << n for n, o in enumerate(operations)}
        self.every = sum(number.values())
        self.mine: dict[str, list[tuple[int, int]]] = {}
        for o in operations:
            waits = sum(number[k] for k in before.get(o.key, ()) if k in number and k not in done)
            self.mine.setdefault(o.sitting, []).append((number[o.key], waits))
        self.of = {sitting: sum(bit for bit, _ in several) for sitting, several in self.mine.items()}

    def sittings(self) -> tuple[str, ...]:
        """In turn."""
        row: dict[int, tuple[str, ...]] = {0: ()}
        while self.every not in row:
            fresh: dict[int, tuple[str, ...]] = {}
            for done, path in row.items():
                for sitting in sorted(self.of, key=lambda s: (_rank(s), s)):
                    then = self._after(done, sitting) if self.of[sitting] & ~done else done
                    if then != done and then not in fresh:
                        fresh[then] = (*path, sitting)
            best = sorted(fresh, key=lambda done: (sum(bool(of & ~done) for of in self.of.values()), -done.bit_count()))
            row = {done: fresh[done] for done in best[:BEAM]}
        return row[self.every]

    def _after(self, done: int, sitting: str) -> int:
        """What is done once all has been that can be in a sitting."""
        left, before = self.mine[sitting], -1
        while done != before:
            before, waiting = done, []
            for bit, waits in left:
                if waits & ~done:
                    waiting.append((bit, waits))
                else:
                    done |= bit
            left = waiting
        return done


def _doable(mine: Mapping[str, Operation], before: Mapping[str, frozenset[str]], done: set[str]) -> list[Operation]:
    """What of a sitting can be done now, one after the other."""
    found: list[Operation] = []
    waiting, have = dict(mine), set(done)
    while fresh := [o for o in waiting.values() if before.get(o.key, frozenset()) <= have]:
        for o in fresh:
            found.append(o)
            have.add(o.key)
            del waiting[o.key]
    return found


def _rank(sitting: str) -> int:
    return next(n for n, name in enumerate(SITTINGS) if sitting == name or sitting.startswith(f"{name} "))


def _go(sitting: str, operations: list[Operation]) -> Go:
    rows: dict[str, list[Operation]] = {}
    for o in operations:
        row = o.row or o.key
        rows[row] = [*rows.pop(row, []), o]  # a line comes where its last operation does
    lines = tuple(Line(row, several[0].row if several[0].row and len(several) > 1 else several[0].words, tuple(several))
                  for row, several in rows.items())
    return Go(operations[0].key, sitting, _words(sitting, operations, len(lines)), _detail(operations), lines)


def _detail(operations: list[Operation]) -> str:
    """How ends are stripped and pulled."""
    strips = sorted({o.spec for o in operations if o.kind == "strip"})
    pulls = sorted({o.pull_n for o in operations if o.pull_n})
    return ", ".join([*([f"strip {' or '.join(strips)}"] if strips else []),
                      *([f"pull {' or '.join(map(str, pulls))} N"] if pulls else [])])


def _words(sitting: str, operations: list[Operation], count: int) -> str:
    """A go in words: how many of what."""
    if count == 1 and len(operations) == 1:
        return operations[0].words
    name = SITTINGS[_rank(sitting)]
    about, kinds = sitting[len(name):].strip(), Counter(o.kind for o in operations)
    made = kinds["splice"] or kinds["crimp core"] or kinds["solder"] or count
    does = "Crimp" if kinds["crimp core"] else "Solder" if kinds["solder"] else "Prepare"
    shaped = sum(o.key.startswith(SHAPE) for o in operations)  # taped where they branch: no run of its own
    return {
        "cut": f"Cut and label {_many(kinds['cut'], 'lead')}" if kinds["cut"] else f"Mark {_many(count, 'wire')}",
        "end": f"{does} {made} × {about}", "splice": f"Make {made} × {about}",
        "take off": f"Remove {_many(count, 'cover')}",
        "photograph": f"Photograph and mark {_many(kinds['photograph'], 'connector')}",
        "sleeve": f"Slide {_many(count, 'sleeve')} over their wires",
        "push in": f"Push {_many(kinds['insert'], 'wire')} into connectors", "beep": "Test continuity of "
        f"{_many(count, 'wire')}",
        "shrink": f"Shrink {_many(count, 'tube')}", "cover": f"Cover {_many(count - shaped, 'run')}",
        "lay in": f"Lay in {_many(count, 'run')}", "gate": f"Read {_many(count, 'pack')}",
        "connect": f"Connect {_many(count, 'part')}: {about}",
        "supply on": operations[0].words, "supply off": operations[0].words,
        "try": f"Try {_many(count, 'circuit')}, each alone, then together", "tie": f"Tie down {_many(count, 'run')}",
        "refit": f"Refit {_many(count, 'cover')}"}[name]


def _many(count: int, what: str) -> str:
    return f"{count} {what}{'s' * (count != 1)}"
