"""What a machine's supply decides about a plan: its states, its rails, what drives it in each, what it counts its
ledger at."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

from ..doc.states import STATE_NAMES, States
from ..parts.base import Part
from ..plan.model import Plan
from ..plan.stands import Stands, turned, usual_stands
from ..refs import TerminalRef

Key = Literal["none", "battery", "total_loss", "pack", "magneto"]
Mode = Literal["battery", "regulated", "pack", "coil"]  # how a state begins to be solved (wiring/sources.py)


@dataclass(frozen=True)
class Situation:
    """A state with everything that is moved at its `stands`, without the packs in `away`, or with packs `empty`.
    `turned`: the state itself, with its switches otherwise than they are taken to stand; `is_ridden`: so, with nothing
    pressed."""

    state: States
    stands: Stands
    away: frozenset[str] = frozenset()
    empty: bool = False
    turned: bool = False
    is_ridden: bool = False
    words: str = ""


@dataclass(frozen=True)
class Handling:
    """How work on a machine begins and ends, in words: its supply made safe, put back, and everything tried; what is
    told of it as a caution, and how amps are measured at it."""

    off: str
    on: str
    tried: str
    caution: str
    amps: str


class Supply:
    """The answers of one way to feed a machine. `part` is what the circuits hang on; None where nothing has been
    entered yet."""

    key: ClassVar[Key] = "none"
    usual_state: ClassVar[States] = "idle"  # that a page opens in

    def __init__(self, plan: Plan, part: Part | None) -> None:
        self.plan, self.part = plan, part

    @property
    def states(self) -> tuple[States, ...]:
        """The states that the machine has."""
        raise NotImplementedError

    @property
    def ends(self) -> tuple[TerminalRef, TerminalRef]:
        """The two terminals that everything hangs on."""
        assert self.part is not None
        plus, minus = map(self.part.at, self.part.OWN_ENDS)
        return plus, minus

    @property
    def place(self) -> str:
        """Where its positive end is."""
        assert self.part is not None
        return self.part.place

    @property
    def breaks_v(self) -> float:
        """Volts that a fuse at its end has to be able to break."""
        raise NotImplementedError

    @property
    def stores(self) -> Sequence[Part]:
        """What pays while nothing else gives."""
        raise NotImplementedError

    @property
    def handling(self) -> Handling:
        """How it is made safe for work and put back."""
        raise NotImplementedError

    def mode(self, state: States) -> Mode:
        """What drives the network in a state, to begin with."""
        raise NotImplementedError

    def resting_v(self, state: States) -> float:
        """The voltage that a state's account is counted at while nothing regulates it."""
        raise NotImplementedError

    def gives_in(self, state: States) -> bool:
        """Whether it gives anything at all in a state."""
        return True

    def situations(self) -> tuple[Situation, ...]:
        """Every row that is solved: the machine's states in their order, then what sizing looks at besides."""
        usual = [Situation(state, usual_stands(self.plan, state), words=STATE_NAMES[state]) for state in self.states]
        return (*usual, *(Situation(state, other.stands, turned=True, is_ridden=other.is_ridden,
                                    words=f"{STATE_NAMES[state]}, {other.words}")
                          for state in self.states for other in turned(self.plan, state)))
