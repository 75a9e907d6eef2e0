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
import socketserver
import zlib
from collections.abc import Callable

from loadstar.core.errors import PlanError
from loadstar.core.plan import document
from loadstar.core.prove.readings import row_key

from .machines import BEEPS_BELOW_OHM, MOST_PLAN_BYTES, SOLVED_AS, UNPOWERED, Machine, PlanMachine, demo_machine

NO_ERROR = '0,"No error"'


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
