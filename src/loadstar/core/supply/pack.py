"""One traction pack, or two that are joined.

Besides its states a machine on packs is solved with the pack nearly empty, where constant powers draw most; with a
changeover at its other position; and joined packs each alone. Those rows size wires and fuses; they are not states that
a page shows.
"""

from collections.abc import Sequence
from typing import ClassVar

from ..doc.states import PACK_STATES, STATE_NAMES, States
from ..parts.base import Part
from ..parts.combiner import SIDES
from ..parts.pack import Pack
from ..plan.model import Plan
from ..plan.stands import usual_stands
from ..refs import TerminalRef
from .base import Handling, Key, Mode, Situation, Supply

HANDLING = Handling(
    "Take the pack out; cover what stays live", "Put the pack back in",
    "Try every lamp, the horn and the motor, and that each brake lever cuts the motor off",
    "Take the pack out before work. It stores much energy: a short across a lithium pack burns and arcs. Opened, "
    "dropped or swollen cells are not repaired, and its protection is not defeated; mains chargers are not opened. "
    "Above 60 V DC treat it as dangerous to touch.",
    "Amps: the meter in series with the pack's negative lead, everything off, and never while the motor pulls.")
LOOKED_AT: tuple[tuple[States, bool], ...] = (("full", False), ("charging", False), ("full", True))


class PackSupply(Supply):
    """The packs' rested voltage, full while charging."""

    key: ClassVar[Key] = "pack"
    usual_state: ClassVar[States] = "assist"

    def __init__(self, plan: Plan, part: Pack) -> None:
        super().__init__(plan, part)
        self.first, self.packs = part, plan.packs

    @property
    def states(self) -> tuple[States, ...]:
        return PACK_STATES

    @property
    def ends(self) -> tuple[TerminalRef, TerminalRef]:
        joint = self.plan.combiner
        return (joint.at("out") if joint else self.first.at("pos")), self.first.at("neg")

    @property
    def place(self) -> str:
        return (self.plan.combiner or self.first).place

    @property
    def breaks_v(self) -> float:
        return max(p.full_v for p in self.packs)

    @property
    def stores(self) -> Sequence[Part]:
        return self.packs

    @property
    def handling(self) -> Handling:
        return HANDLING

    def mode(self, state: States) -> Mode:
        return "pack"

    def resting_v(self, state: States) -> float:
        return self.first.full_v if state == "charging" else self.first.resting_v

    def situations(self) -> tuple[Situation, ...]:
        stands = {state: usual_stands(self.plan, state) for state in self.states}
        found = [*super().situations(),
                 Situation("full", stands["full"], empty=True, words="Full power, pack nearly empty")]
        joint, packs = self.plan.combiner, self.packs
        if joint is None or len(packs) != 2:
            return tuple(found)
        for state, empty in LOOKED_AT:
            name = STATE_NAMES[state] + (", nearly empty" if empty else "")
            if joint.way == "changeover":
                other = "b" if joint.position == "a" else "a"
                used = packs[SIDES.index(other)]
                found.append(Situation(state, {**stands[state], joint.id: other}, empty=empty,
                                       words=f"{name}, switch at {used.name}"))
            else:
                found += [Situation(state, stands[state], away=frozenset({gone.id}), empty=empty,
                                    words=f"{name}, {kept.name} alone")
                          for gone, kept in (packs, packs[::-1])]
        return tuple(found)
