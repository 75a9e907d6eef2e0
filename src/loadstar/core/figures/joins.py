"""What copper joins, and what lives by it though it should not."""

from dataclasses import dataclass
from functools import cached_property

from ..doc.states import States
from ..parts.load import LoadPart
from ..plan.model import Plan
from ..wiring.references import Groups
from ..wiring.topology import Topology
from .volts import Volts


@dataclass(frozen=True)
class Joins:
    """Groups of joined nodes, and loads that are joined as nobody meant them to be."""

    plan: Plan
    topology: Topology
    volts: Volts

    @cached_property
    def joined(self) -> Groups:
        """Which nodes copper joins with every contact closed."""
        return Groups(self.topology, None)

    @cached_property
    def in_series(self) -> tuple[tuple[LoadPart, LoadPart], ...]:
        """Pairs of loads of which the one's negative is the other's positive, and joined to no supply."""
        groups = self.joined
        rails = {groups.of(end) for root in self.topology.roots for end in (root.positive, root.negative)}
        begins = {groups.of_terminal(p.at("pos")): p for p in self.plan.loads}
        return tuple((p, begins[end]) for p in self.plan.loads
                     if (end := groups.of_terminal(p.at("neg"))) in begins and end not in rails
                     and begins[end] is not p)

    @cached_property
    def back_fed(self) -> tuple[tuple[str, tuple[States, ...], tuple[str, ...]], ...]:
        """The machine's own wires and relays that are dead or open in a state, yet live behind from another feed:
        which, in which states, and the loads that live then though they are not meant to."""
        found: dict[str, tuple[list[States], dict[str, None]]] = {}
        own = {p.id for p in self.plan.parts if p.FUSED_BEFORE}  # what the machine itself has users on
        gates = [b for b in self.topology.branches.values() if b.follows or (b.opens and b.ref.part in own)]
        for state, result in self.volts.states.items():
            if result.solution is None or self.topology.source.key == "magneto":
                continue
            parted = [g for g in gates if not self.topology.conducts(g.ref, state, result.closed)]
            if not parted:
                continue
            groups = Groups(self.topology, state, result.closed)
            live = groups.of(self.topology.positive)
            alive = [p for p in self.plan.loads if state in self.volts.lives_beyond(p)]
            for gate in parted:
                if groups.of_terminal(gate.b) != live:
                    continue
                part = gate.ref.part
                victims = [p.id for p in alive if gate.ref in {k.element for k in self.topology.paths[p.id].feed}
                           or groups.of_terminal(p.at("pos")) == groups.of_terminal(gate.b)]
                if victims or part in own:
                    states, who = found.setdefault(part, ([], {}))
                    states.append(state)
                    who.update(dict.fromkeys(victims))
        return tuple((e, tuple(states), tuple(who)) for e, (states, who) in found.items())
