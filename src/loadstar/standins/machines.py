"""What the simulated meter is held at: a machine as it was found, or a plan with a fault in it."""

import math
import random
from dataclasses import dataclass, field
from functools import cached_property

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.doc.states import LIVE_STATES, OCCASIONS, States
from loadstar.core.doc.survey import MeterState
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plan
from loadstar.core.prove.bench import Bench, volts
from loadstar.core.prove.fault import NONE, Fault
from loadstar.core.prove.faults import candidates, ghosts
from loadstar.core.prove.predict import Quantity
from loadstar.core.prove.readings import meter_sigma, row_key
from loadstar.demo import as_found, hidden_pins

OPEN_OHM, BEEPS_BELOW_OHM, UNPOWERED = 9.9e37, 2.0, "unpowered"
FILAMENT_OHM, COIL_OHM, SIGNAL_V, KEY_SWITCH_DROP_V = 1.6, 60.0, 4.9, 0.15
SOLVED_AS: dict[MeterState, States] = {"key_off": "parked", "key_on": "key_on", "lamp_on": "key_on",
                                       "cranking": "cranking", "idle": "idle",
                                       "raised": "cruise"}


@dataclass
class Machine:
    """A machine to measure on: a plan whose pins are as they really are, and a standing current nobody has noticed."""

    truth: Plan
    standing_a: float = 0.012
    noise: random.Random = field(default_factory=lambda: random.Random(8))

    @cached_property
    def analysis(self) -> Analysis:
        """The machine's solved states."""
        return analyse(self.truth)

    def posts_v(self, state: MeterState) -> float:
        """Volts at the battery's posts."""
        return round(self.analysis.states[SOLVED_AS[state]].posts_v + self.noise.uniform(-0.01, 0.01), 3)

    def volts(self, probe: str, state: MeterState) -> float:
        """Volts from a named point to battery negative. KeyError for a point the machine has not."""
        posts = self.posts_v(state)
        if probe == "battery":
            return posts
        pin = self.pin(probe)
        running = SOLVED_AS[state]
        if pin.function == "feed":
            if pin.live in OCCASIONS:  # of lamps' own wires only those that last are on while somebody measures
                lit = OCCASIONS[pin.live].comes != "for moments" and state == "lamp_on"
                return round(posts - KEY_SWITCH_DROP_V, 3) if lit else self._ghost()
            lives = running in LIVE_STATES[pin.live] and not (state == "cranking" and pin.live != "always")
            return round(posts - (KEY_SWITCH_DROP_V if pin.live != "always" else 0.0), 3) if lives else self._ghost()
        if pin.function == "lamp":
            return round(posts - KEY_SWITCH_DROP_V, 3) if state == "lamp_on" else self._ghost()
        if pin.function == "signal":
            return round(SIGNAL_V + self.noise.uniform(-0.05, 0.05), 3) if state != "key_off" else self._ghost()
        return self._ghost()

    def ohms(self, probe: str) -> float:
        """Ohms from a point to the frame, key off; what is live shows as open, as a meter protects itself."""
        if probe == "battery":
            return OPEN_OHM
        pin = self.pin(probe)
        if pin.function == "ground":
            return round(0.2 + self.noise.uniform(0, 0.1), 2)
        if pin.function == "lamp":
            return FILAMENT_OHM
        return COIL_OHM if pin.function == "feed" and pin.live == "key" else OPEN_OHM

    def amps(self, probe: str, state: MeterState) -> float:
        """Amps out of the battery, the meter in its lead; only there, and with the key off: more would blow the meter's
        own fuse."""
        if probe != "battery" or state != "key_off":
            raise ValueError("over range")
        return self.standing_a

    def pin(self, name: str) -> Tap:
        """The pin of that name."""
        for part in self.truth.of(Tap):
            if part.name == name:
                return part
        raise KeyError(name)

    def _ghost(self) -> float:
        return round(abs(self.noise.gauss(0, 0.015)), 3)


MOST_PLAN_BYTES = 8 * 1024 * 1024


@dataclass
class PlanMachine:
    """A plan as the machine, sound or with one fault: what shows between any two of its terminals in any of its rows.
    """

    plan: Plan
    fault: Fault = NONE
    noise: random.Random = field(default_factory=lambda: random.Random(8))

    @cached_property
    def analysis(self) -> Analysis:
        """Its solved states."""
        return analyse(self.plan)

    @cached_property
    def everything(self) -> frozenset[str]:
        """All that a fault may be in."""
        topology = self.analysis.topology
        return frozenset((*(k.element for k in (*topology.links, *topology.coils)), *self.plan.part_by_id))

    def break_it(self, key: str) -> None:
        """Hide a fault. KeyError for one that is none of this plan's."""
        found = {f.key: f for f in candidates(self.analysis, self.everything)}
        self.fault = found[key]

    @cached_property
    def _bench(self) -> Bench:
        return Bench(self.analysis, ghosts(self.analysis, self.everything))

    def _nodes(self, probes: str) -> tuple[int, int]:
        red, _, black = probes.partition(" ")
        known = {part.at(end) for part in self.plan.parts for end in part.ends}
        if red not in known or black not in known:
            raise KeyError(probes)
        return self._bench.node(red), self._bench.node(black)

    def volts(self, probes: str, row: str) -> float:
        """Volts from the red to the black probe. KeyError for a point or a row that the plan has not."""
        red, black = self._nodes(probes)
        if row == UNPOWERED:
            return self._shaken(0.0, "V")
        rows = {row_key(r, self.analysis.volts.rows): r for r in self.analysis.volts.rows if r.solution is not None}
        return self._shaken(float(volts(self._bench.solve(rows[row], (self.fault,)), red, black)[0]), "V")

    def ohms(self, probes: str, row: str) -> float:
        """Ohms between them; ValueError on a machine that is powered."""
        pair = self._nodes(probes)
        if row != UNPOWERED:
            raise ValueError("powered")
        shown = float(self._bench.ohms((self.fault,), (pair,))[0, 0])
        return OPEN_OHM if math.isinf(shown) else max(0.0, self._shaken(shown, "ohm"))

    def amps(self, probes: str, row: str) -> float:
        """Amps in the supply's negative lead, with everything off only."""
        if row != "parked" or "parked" not in self.analysis.states:
            raise ValueError("over range")
        return abs(self.analysis.states["parked"].battery_a)

    def _shaken(self, value: float, quantity: Quantity) -> float:
        return value + 0.3 * float(meter_sigma(value, quantity)) * max(-2.0, min(2.0, self.noise.gauss(0, 1)))


def demo_machine() -> Machine:
    """The demonstration's tourer as it really is."""
    plan = as_found()[0]
    for plug in plan.plugs:
        facts = hidden_pins().get(plug.name, {})
        plan = PutPlug(id=plug.id, values={},
                       pins=tuple({"way": way, **values} for way, values in facts.items())).run(plan)
    return Machine(plan)
