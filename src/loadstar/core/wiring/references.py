"""What is every node referred to, and what touches the frame that must not?

Nodes joined by copper in a state form a group; a group is named after what holds its potential. A frame that carries
one end of a generator's winding must not meet the DC side's negative where a full-wave rectifier joins the two: part
of every turn is then shorted. A pack's negative is nobody's frame. Kill wires stop the engine by being grounded and
never meet a supply.
"""

from dataclasses import dataclass

from ..doc.states import States
from ..parts.generator import Generator
from ..parts.inside import FRAME
from ..parts.kill import KillWire
from ..plan.model import Plan
from ..plan.stands import Stands
from ..refs import TerminalRef
from .circuit import STRAP
from .topology import Topology

NEGATIVE, POSITIVE, OUTPUT, WINDING, KILL, ADRIFT = "negative", "positive", "output", "winding", "kill", "adrift"


@dataclass(frozen=True)
class Reference:
    """A group of nodes with one potential reference: in words, its terminals, and whether it may touch the frame."""

    kind: str
    words: str
    terminals: tuple[TerminalRef, ...]
    on_frame: bool
    frame_words: str


class Groups:
    """Which nodes copper joins in a state (None: every contact taken as closed); loads and coils join nothing."""

    def __init__(self, topology: Topology, state: States | None, closed: dict[str, bool] | None = None,
                 without: frozenset[str] = frozenset(), stands: Stands | None = None) -> None:
        self.topology = topology
        self._parent: dict[str, str] = {}
        for link in topology.links:
            if link.element not in without and (
                    state is None or topology.conducts(link.element, state, closed or {}, stands)):
                self._parent[self.of(link.a)] = self.of(link.b)

    def of(self, node: str) -> str:
        """The group of a node."""
        parent = self._parent
        while (above := parent.get(node, node)) != node:
            parent[node] = node = parent.get(above, above)  # halves the way for the next who asks
        return node

    def of_terminal(self, terminal: str) -> str:
        """The group of a terminal."""
        return self.of(self.topology.node(terminal))


def references(topology: Topology, state: States, closed: dict[str, bool]) -> tuple[Reference, ...]:
    """Every group of a state with more than one terminal, or with a supply's end, in a steady order."""
    plan, groups = topology.plan, Groups(topology, state, closed)
    members: dict[str, list[TerminalRef]] = {}
    for part in plan.parts:
        for terminal in terminals_in_use(topology, part.id):
            members.setdefault(groups.of_terminal(terminal), []).append(terminal)
    frame = groups.of(FRAME)
    found = []
    for group, terminals in members.items():
        kind, words = _named(topology, groups, group)
        if len(terminals) > 1 or kind != ADRIFT:
            on_frame = group == frame and topology.uses_frame
            found.append(Reference(kind, words, tuple(terminals), on_frame, _frame_words(plan, kind, on_frame)))
    order = (NEGATIVE, POSITIVE, OUTPUT, WINDING, KILL, ADRIFT)
    return tuple(sorted(found, key=lambda r: (order.index(r.kind), r.terminals)))


def terminals_in_use(topology: Topology, part: str) -> list[TerminalRef]:
    """The terminals of a part that a wire or a join reaches, and a supply's own."""
    own = topology.parts[part]
    ends = [own.at(end) for end in own.OWN_ENDS]
    return [*ends, *sorted(t for t in topology.wired if t.part == part and t not in ends)]


def _named(topology: Topology, groups: Groups, group: str) -> tuple[str, str]:
    for _, point in topology.points:
        if groups.of_terminal(point.terminal) == group:
            return point.kind, point.words
    if groups.of(FRAME) == group and topology.machine.chassis == "winding":
        return WINDING, "the frame: one end of the generator's winding"
    return ADRIFT, "joined to no supply in this state"


def _frame_words(plan: Plan, kind: str, on_frame: bool) -> str:
    if kind == NEGATIVE and plan.machine.chassis == "negative":
        return "is the frame" if on_frame else "may touch the frame"
    if kind == NEGATIVE:
        return "touches the frame and must not" if on_frame else "must not touch the frame"
    if kind == WINDING:
        return "is the frame"
    if kind == KILL:
        return "grounded stops the engine; never fed"
    return "touches the frame: a short" if on_frame else "never touches the frame"


@dataclass(frozen=True)
class Meeting:
    """The DC side's negative and something else meet on the frame: at which joints."""

    joints: tuple[str, ...]
    words: tuple[str, ...]


def negative_on_frame(topology: Topology) -> Meeting:
    """Every joint at which the DC side's negative reaches the frame."""
    groups = Groups(topology, None, without=frozenset(_joints(topology)))
    negative = groups.of(topology.negative)
    joints = [(element, words) for element, (node, words) in _joints(topology).items() if groups.of(node) == negative]
    return Meeting(tuple(j for j, _ in joints), tuple(w for _, w in joints))


def _joints(topology: Topology) -> dict[str, tuple[str, str]]:
    """Every joint to the frame: its node away from the frame, and its words."""
    found: dict[str, tuple[str, str]] = {}
    for link in topology.links:
        branch = topology.branches.get(link.element)
        if branch is not None and branch.joint:
            found[link.element] = (link.b if branch.a == FRAME else link.a, branch.joint)
    return found


def two_references(topology: Topology) -> tuple[Generator, Meeting] | None:
    """A full-wave rectifier between a winding end on the frame and a DC negative on the frame; None where that is
    not."""
    generator = topology.plan.generator
    if generator is None or generator.tied != "frame" or generator.rectifier != "full":
        return None
    meeting = negative_on_frame(topology)
    if topology.plan.machine.chassis == "negative" and not topology.uses_frame:
        meeting = Meeting((STRAP,), ("the strap from battery negative",))
    return (generator, meeting) if meeting.joints else None


def kill_wires_fed(topology: Topology) -> list[tuple[KillWire, str]]:
    """Kill wires that some position of the contacts joins to a supply's live side, and to which."""
    groups, found = Groups(topology, None), []
    live = {groups.of(r.positive): r.part for r in topology.roots}
    for wire in topology.plan.of(KillWire):
        if root := live.get(groups.of_terminal(wire.at("t"))):
            found.append((wire, topology.parts[root].name))
    return found
