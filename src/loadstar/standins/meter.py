"""A simulated bench meter: volts, ohms, continuity and amps on a machine of its own, with what only the machine knows.

It speaks lines of text over a local socket in the manner of bench instruments (common commands of IEEE 488.2, the rest
by subsystem and keyword), one answer a line:

    *IDN?                           who it is
    MEASure:VOLTage:DC?             volts between the probes
    MEASure:RESistance?             ohms;  9.9E37 is an open circuit
    MEASure:CONTinuity?             1 beeps, 0 is silent
    MEASure:CURRent:DC?             amps, the meter in series with the battery's lead
    SYSTem:ERRor?                   the last fault, 0,"No error" when there is none

A person puts the probes on and turns the key; for the stand-in two more commands do that:

    SIMulate:PROBe "tail plug pin 1"    the red probe (the black one is on battery negative, or for ohms on the frame)
    SIMulate:STATe key_on               key_off, key_on, lamp_on, cranking, idle, raised

A plan that is being proved, or that somebody practises on, can be put in the machine's place:

    SIMulate:PLAN <base64 of its document, compressed>
    SIMulate:FAULT "W5 +0.8"        one of the faults that the diagnosis knows, by its key; "none" for a sound machine
    SIMulate:PROBe "L1.pos BT1.neg" the red and the black probe on two of its terminals
    SIMulate:STATe idle/1           a state of the plan, or one of its stands; unpowered

Readings come from the machine's own solved plan, with a little of a meter's noise; the noise is seeded.
"""

import argparse
import base64
import math
import random
import socketserver
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.doc.states import LIVE_STATES, OCCASIONS, States
from loadstar.core.doc.survey import MeterState
from loadstar.core.edits.plugs import PutPlug
from loadstar.core.errors import PlanError
from loadstar.core.parts.tap import Tap
from loadstar.core.plan import document
from loadstar.core.plan.model import Plan
from loadstar.core.prove.bench import Bench, volts
from loadstar.core.prove.diagnose import meter_sigma, row_key
from loadstar.core.prove.faults import NONE, Fault, candidates, ghosts
from loadstar.core.prove.predict import Quantity
from loadstar.demo import as_found, hidden_pins

OPEN_OHM, BEEPS_BELOW_OHM, UNPOWERED = 9.9e37, 2.0, "unpowered"
NO_ERROR = '0,"No error"'
SOLVED_AS: dict[MeterState, States] = {"key_off": "parked", "key_on": "key_on", "lamp_on": "key_on",
                                       "cranking": "cranking", "idle": "idle",
                                       "raised": "cruise"}
FILAMENT_OHM, COIL_OHM, SIGNAL_V, KEY_SWITCH_DROP_V = 1.6, 60.0, 4.9, 0.15


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


class Meter:
    """One conversation with the meter: where the probe is, the state the machine is in, the last fault."""

    def __init__(self, machine: Machine) -> None:
        self.machine: Machine | PlanMachine = machine
        self.probe, self.error = "battery", NO_ERROR
        self.state: str = "key_off"

    def answer(self, line: str) -> str | None:
        """The answer to a line; None where there is none. A query that cannot be answered answers with an empty
        line."""
        words, _, rest = line.strip().partition(" ")
        act = next((act for spelled, act in _COMMANDS.items() if _heard(words, spelled)), None)
        try:
            if act is None:
                self.error = '-113,"Undefined header"'
            else:
                return act(self, rest.strip().strip('"'))
        except KeyError:
            self.error = '-224,"Illegal parameter value"'
        except ValueError:
            self.error = '-222,"Data out of range"'
        return "" if words.endswith("?") else None

    def _probe(self, point: str) -> None:
        if isinstance(self.machine, PlanMachine):
            self.machine.ohms(point, UNPOWERED)  # is there such a point
        elif point != "battery":
            self.machine.pin(point)
        self.probe = point

    def _state(self, state: str) -> None:
        if isinstance(self.machine, PlanMachine):
            rows = self.machine.analysis.volts.rows
            if state != UNPOWERED and state not in {row_key(r, rows) for r in rows if r.solution is not None}:
                raise KeyError(state)
        elif state not in SOLVED_AS:
            raise KeyError(state)
        self.state = state

    def _plan(self, packed: str) -> None:
        try:
            raw = zlib.decompressobj().decompress(base64.b64decode(packed, validate=True), MOST_PLAN_BYTES)
            self.machine = PlanMachine(document.from_json(raw))
        except (zlib.error, PlanError) as error:
            raise ValueError("no plan") from error
        self.probe, self.state = "", UNPOWERED

    def _break(self, key: str) -> None:
        if not isinstance(self.machine, PlanMachine):
            raise ValueError("no plan")
        self.machine.break_it(key)

    def volts(self) -> float:
        """Between the probes."""
        return self.machine.volts(self.probe, self.state)  # type: ignore[arg-type]

    def ohms(self) -> float:
        """The same unpowered."""
        if isinstance(self.machine, PlanMachine):
            return self.machine.ohms(self.probe, self.state)
        return self.machine.ohms(self.probe)

    def amps(self) -> float:
        """In the supply's lead."""
        return self.machine.amps(self.probe, self.state)  # type: ignore[arg-type]

    def _fault(self) -> str:
        said, self.error = self.error, NO_ERROR
        return said


_COMMANDS: dict[str, Callable[[Meter, str], str | None]] = {
    "*IDN?": lambda m, _: "Loadstar,simulated meter,0,1",
    "MEASure:VOLTage:DC?": lambda m, _: f"{m.volts():+.4E}",
    "MEASure:RESistance?": lambda m, _: f"{m.ohms():+.4E}",
    "MEASure:CONTinuity?": lambda m, _: "1" if m.ohms() < BEEPS_BELOW_OHM else "0",
    "MEASure:CURRent:DC?": lambda m, _: f"{m.amps():+.4E}",
    "SYSTem:ERRor?": lambda m, _: m._fault(),
    "SIMulate:PROBe": lambda m, point: m._probe(point),
    "SIMulate:STATe": lambda m, state: m._state(state),
    "SIMulate:PLAN": lambda m, packed: m._plan(packed),
    "SIMulate:FAULT": lambda m, key: m._break(key),
}


def _heard(given: str, spelled: str) -> bool:
    """Whether a header was meant: each keyword in its short form (the capitals) or its long one, in any case."""
    parts, wanted = given.rstrip("?").split(":"), spelled.rstrip("?").split(":")
    return given.endswith("?") == spelled.endswith("?") and len(parts) == len(wanted) and all(
        part.upper() in (word.upper(), "".join(c for c in word if not c.islower()))
        for part, word in zip(parts, wanted, strict=True))


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        meter = Meter(self.server.machine)  # type: ignore[attr-defined]
        for raw in self.rfile:
            said = meter.answer(raw.decode("utf-8", "replace"))
            if said is not None:
                self.wfile.write(f"{said}\n".encode())


class MeterServer(socketserver.ThreadingTCPServer):
    """The meter on a loopback port (0: any that is free)."""

    allow_reuse_address, daemon_threads = True, True

    def __init__(self, machine: Machine, port: int = 0) -> None:
        self.machine = machine
        super().__init__(("127.0.0.1", port), _Handler)


def main() -> None:
    """Serve the demonstration's machine until ended."""
    given = argparse.ArgumentParser(description="A simulated meter on the demonstration's machine.")
    given.add_argument("--port", type=int, required=True)
    with MeterServer(demo_machine(), given.parse_args().port) as server:
        server.serve_forever()


if __name__ == "__main__":
    main()
