"""What does an unknown switch, lead or plug do, by what beeped?

Joining is taken as carried on: where 1 beeps to 2 and 2 to 3, 1 must beep to 3. A test that says otherwise is pointed
out.
"""

from dataclasses import dataclass
from itertools import combinations

from ..doc.survey import Continuity

Pair = tuple[int, int]


@dataclass(frozen=True)
class PositionResult:
    """One position: groups of joined terminals, pairs that nobody has tested and that nothing else settles, and tests
    that contradict the others."""

    position: int
    groups: tuple[tuple[int, ...], ...]
    untested: tuple[Pair, ...]
    contradicted: tuple[Pair, ...]


@dataclass(frozen=True)
class ContinuityResult:
    """What a table says: each position, and in words what the thing does."""

    positions: tuple[PositionResult, ...]
    sentences: tuple[str, ...]
    complete: bool
    consistent: bool


def understand(table: Continuity) -> ContinuityResult:
    """What a continuity table says."""
    positions = tuple(_position(table, at) for at in range(len(table.positions)))
    consistent = not any(p.contradicted for p in positions)
    complete = not any(p.untested for p in positions)
    return ContinuityResult(positions, tuple(_sentences(table, positions, complete)), complete, consistent)


def as_positions(table: Continuity) -> str | None:
    """The positions of a switch as a plan's switch has them ("off; dip: in+dip"); None where the table is not settled,
    is of no switch, or its names cannot be told apart once they are short."""
    result = understand(table)
    terminals, positions = [_short(t, 8) for t in table.terminals], [_short(p, 24, " -") for p in table.positions]
    if not (result.complete and result.consistent) or len(set(terminals)) < len(terminals) or (
            len(set(positions)) < max(len(positions), 2)) or "" in (*terminals, *positions):
        return None
    said = [(positions[at.position], [[terminals[i] for i in group] for group in at.groups]) for at in result.positions]
    said.sort(key=lambda one: bool(one[1]))  # it rests where nothing is joined, if there is such a position
    return "; ".join(name + (": " + ", ".join("+".join(group) for group in groups) if groups else "")
                     for name, groups in said) if any(groups for _, groups in said) else None


def _short(name: str, most: int, also: str = "") -> str:
    """A name of letters and digits, so long at the most."""
    return "".join(c for c in name.lower() if (c.isascii() and c.isalnum()) or c in also)[:most].strip(also)


def _position(table: Continuity, at: int) -> PositionResult:
    tests = {(min(b.a, b.b), max(b.a, b.b)): b.beeps for b in table.beeps if b.position == at}
    parent = list(range(len(table.terminals)))

    def root(i: int) -> int:
        while parent[i] != i:
            i = parent[i]
        return i

    for (a, b), beeps in tests.items():
        if beeps:
            parent[root(a)] = root(b)
    members: dict[int, list[int]] = {}
    for i in range(len(table.terminals)):
        members.setdefault(root(i), []).append(i)
    contradicted = tuple(pair for pair, beeps in tests.items() if not beeps and root(pair[0]) == root(pair[1]))
    # Two groups are known to be apart when any one pair of them was silent.
    apart = {frozenset((root(a), root(b))) for (a, b), beeps in tests.items() if not beeps}
    untested, asked = [], set()
    for a, b in combinations(range(len(table.terminals)), 2):
        groups = frozenset((root(a), root(b)))
        if len(groups) == 2 and groups not in apart and groups not in asked:
            untested.append((a, b))
            asked.add(groups)  # one test of the two groups is enough
    return PositionResult(at, tuple(tuple(g) for g in members.values() if len(g) > 1), tuple(untested), contradicted)


def _sentences(table: Continuity, positions: tuple[PositionResult, ...], complete: bool) -> list[str]:
    name, said = table.terminals, []
    for p in positions:
        for a, b in p.contradicted:
            said.append(
                f"In {table.positions[p.position]}, {name[a]} and {name[b]} were silent although others join them: "
                f"test these again.")
    if any(p.contradicted for p in positions):
        return said
    joined = [{pair for g in p.groups for pair in combinations(g, 2)} for p in positions]
    for p in positions:
        groups = " and ".join(" with ".join(name[i] for i in g) for g in p.groups)
        where = "" if len(positions) == 1 else f"In {table.positions[p.position]}: "
        if groups:
            said.append(f"{where}{groups[:1].upper() + groups[1:] if not where else groups} joined.")
        elif not p.untested:
            said.append(f"{where}{'n' if where else 'N'}othing joined.")
    if not complete:
        left = sum(len(p.untested) for p in positions)
        said.append(f"{left} more test{'s' if left > 1 else ''} would settle the rest.")
        return said
    if len(positions) > 1:
        said += _switch(name, positions, joined)
    else:
        said += _lead(name, positions[0])
    return said


def _switch(name: tuple[str, ...], positions: tuple[PositionResult, ...], joined: list[set[Pair]]) -> list[str]:
    """What a thing with positions is: a plain contact, a changeover with its common terminal, or two things in one."""
    always = set.intersection(*joined)
    changing = set.union(*joined) - always
    said = [f"{name[a]} and {name[b]} are joined in every position: one conductor." for a, b in sorted(always)]
    if not changing:
        return [*said, "No position changes anything: this is no switch between these terminals, or it is broken."]
    partners: dict[int, set[int]] = {}
    for a, b in changing:
        partners.setdefault(a, set()).add(b)
        partners.setdefault(b, set()).add(a)
    commons = [i for i, others in partners.items() if len(others) > 1
               and not any({tuple(sorted((i, o))) for o in others} <= j for j in joined)]
    for i in sorted(commons):
        others = ", ".join(name[o] for o in sorted(partners[i]))
        said.append(f"{name[i]} is the common terminal: it is switched over between {others}.")
    for group in sorted({g for p in positions for g in p.groups if set(combinations(g, 2)) & changing
                         and not set(g) & set(commons)}):
        words = " and ".join((", ".join(name[i] for i in group[:-1]), name[group[-1]]))
        said.append(f"{words} are a contact that some positions close." if len(group) == 2
                    else f"{words} are joined together by some positions.")
    unused = [n for i, n in enumerate(name) if i not in partners and not any(i in pair for pair in always)]
    if unused:
        said.append(f"{', '.join(unused)} {'is' if len(unused) == 1 else 'are'} joined to nothing in any position.")
    return said


def _lead(name: tuple[str, ...], only: PositionResult) -> list[str]:
    """For a lead or plug: which conductor is the centre pin, and which ends hang free."""
    said = []
    for group in only.groups:
        words = [name[i] for i in group]
        centre = next((w for w in words if "centre" in w.lower() or "tip" in w.lower()), None)
        if centre and len(words) == 2:
            said.append(f"{next(w for w in words if w != centre)} is the conductor of the {centre.lower()}.")
    inside = {i for g in only.groups for i in g}
    free = [n for i, n in enumerate(name) if i not in inside]
    if free:
        said.append(
            f"{', '.join(free)} {'goes' if len(free) == 1 else 'go'} nowhere here: broken, or the other end is "
            f"elsewhere.")
    return said
