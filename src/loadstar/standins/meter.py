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

Readings come from the machine's own solved plan, with a little of a meter's noise; the noise is seeded.
"""

import argparse
import random
import socketserver
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.doc.states import LIVE_STATES, OCCASIONS, States
from loadstar.core.doc.survey import MeterState
from loadstar.core.edits.survey import PutPlug
from loadstar.core.parts.tap import Tap
from loadstar.core.plan.model import Plan
from loadstar.demo import as_found, hidden_pins

OPEN_OHM, BEEPS_BELOW_OHM = 9.9e37, 2.0
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
        self.machine, self.probe, self.error = machine, "battery", NO_ERROR
        self.state: MeterState = "key_off"

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
        if point != "battery":
            self.machine.pin(point)
        self.probe = point

    def _state(self, state: str) -> None:
        if state not in SOLVED_AS:
            raise KeyError(state)
        self.state = state  # type: ignore[assignment]

    def _fault(self) -> str:
        said, self.error = self.error, NO_ERROR
        return said


_COMMANDS: dict[str, Callable[[Meter, str], str | None]] = {
    "*IDN?": lambda m, _: "Loadstar,simulated meter,0,1",
    "MEASure:VOLTage:DC?": lambda m, _: f"{m.machine.volts(m.probe, m.state):+.4E}",
    "MEASure:RESistance?": lambda m, _: f"{m.machine.ohms(m.probe):+.4E}",
    "MEASure:CONTinuity?": lambda m, _: "1" if m.machine.ohms(m.probe) < BEEPS_BELOW_OHM else "0",
    "MEASure:CURRent:DC?": lambda m, _: f"{m.machine.amps(m.probe, m.state):+.4E}",
    "SYSTem:ERRor?": lambda m, _: m._fault(),
    "SIMulate:PROBe": lambda m, point: m._probe(point),
    "SIMulate:STATe": lambda m, state: m._state(state),
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
