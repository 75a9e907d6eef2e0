"""In which situations is a plan solved: its states, and beside them what its sources may ever have to carry alone.

A changeover switch is also solved at its other position, joined packs also each alone, and packs also nearly empty, where
constant powers draw most. Those rows size wires and fuses; they are not states that a page shows.
"""

from dataclasses import dataclass

from ..doc.states import STATE_NAMES, States
from ..plan.model import Plan


@dataclass(frozen=True)
class Situation:
    """A state with the changeover at `position` ("" as the plan has it), without the packs in `away`, or with packs `empty`."""

    state: States
    position: str = ""
    away: frozenset[str] = frozenset()
    empty: bool = False
    words: str = ""


def situations(plan: Plan) -> tuple[Situation, ...]:
    """Every row that is solved: the plan's states in their order, then what sizing looks at besides."""
    found = [Situation(state, words=STATE_NAMES[state]) for state in plan.states]
    packs = plan.packs
    if not packs:
        return tuple(found)
    found.append(Situation("full", empty=True, words="Full power, pack nearly empty"))
    combiner = plan.combiner
    if combiner is None or len(packs) != 2:
        return tuple(found)
    asked: tuple[tuple[States, bool], ...] = (("full", False), ("charging", False), ("full", True))
    for state, empty in asked:
        name = STATE_NAMES[state] + (", nearly empty" if empty else "")
        if combiner.way == "changeover":
            other = "b" if combiner.position == "a" else "a"
            used = packs["ab".index(other)]
            found.append(Situation(state, position=other, empty=empty, words=f"{name}, switch at {used.name}"))
        else:
            found += [Situation(state, away=frozenset({gone.id}), empty=empty, words=f"{name}, {kept.name} alone")
                      for gone, kept in (packs, packs[::-1])]
    return tuple(found)
