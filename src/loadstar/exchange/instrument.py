"""Takes readings from a meter on a socket that speaks as bench instruments do (lines of text, IEEE 488.2 style)."""

import base64
import math
import socket
import zlib
from collections.abc import Callable, Iterator
from typing import TextIO

TIMEOUT_S = 2.0
LONGEST_ANSWER, MOST_FAULTS, MOST_NAME = 200, 20, 60
OPEN_FROM_OHM, UNDEFINED_HEADER = 1e30, "-113"
SIMULATED, UNPOWERED = "simulated", "unpowered"
ASK: dict[str, str] = {"V": "MEASure:VOLTage:DC?", "ohm": "MEASure:RESistance?", "beep": "MEASure:CONTinuity?",
                       "A": "MEASure:CURRent:DC?"}


class InstrumentError(Exception):
    """The instrument does not answer, or refuses; the text is for people."""


class Line:
    """A line to an instrument: what is asked, what it answers, what it could not do."""

    def __init__(self, talk: TextIO) -> None:
        self._talk = talk

    def tell(self, command: str) -> None:
        """Send a command that has no answer."""
        self._talk.write(command + "\n")
        self._talk.flush()

    def ask(self, question: str) -> str:
        """Send a question and wait for its one line."""
        self.tell(question)
        said = self._talk.readline(LONGEST_ANSWER)
        if len(said) == LONGEST_ANSWER:
            raise InstrumentError("The meter's answer is not understood: is it the meter that is at this address?")
        return said.strip()

    def faults(self) -> Iterator[tuple[str, str]]:
        """What it could not do since it was last asked: number and words."""
        for _ in range(MOST_FAULTS):
            number, _, words = self.ask("SYSTem:ERRor?").partition(",")
            if number.strip() in ("0", "+0"):
                return
            yield number.strip(), words.strip().strip('"')
        raise InstrumentError("The meter tells one fault after another: switch it off and on again.")


def take(address: str, quantity: str, probe: str, state: str) -> tuple[float, str]:
    """One reading (quantity V, ohm, beep or A; states by the plan's names) and the instrument's name.

    An open circuit reads as 10 megohm, the end of a usual meter's range. InstrumentError, in words, when there is no
    reading.
    """
    return _taken(address, quantity, lambda line: _measured(line, quantity, probe, state))


def read(address: str, quantity: str, red: str, black: str, row: str, plan: bytes) -> tuple[float, str]:
    """The same between two terminals of a plan in one of its solved rows ("": nothing powered). A simulated meter is
    told the plan first (its document); for a real one a person has put the probes on."""
    return _taken(address, quantity, lambda line: _between(line, quantity, f"{red} {black}", row, plan))


def _taken(address: str, quantity: str, measure: Callable[[Line], tuple[str, str]]) -> tuple[float, str]:
    host, _, port = address.rpartition(":")
    try:
        with socket.create_connection((host, int(port)), TIMEOUT_S) as wire, wire.makefile("rw", encoding="utf-8",
                                                                                           newline="\n") as talk:
            name, said = measure(Line(talk))
    except UnicodeDecodeError as error:
        raise InstrumentError(
            "The meter's answer is not understood: is it the meter that is at this address?") from error
    except (OSError, ValueError) as error:
        raise InstrumentError("The meter does not answer: is it on, and its cable in?") from error
    try:
        value = float(said)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise InstrumentError("The meter's answer is no number.")
    return (1e7 if quantity == "ohm" and value > OPEN_FROM_OHM else value), ", ".join(name.split(",")[:2])[:MOST_NAME]


def _between(line: Line, quantity: str, probes: str, row: str, plan: bytes) -> tuple[str, str]:
    name = line.ask("*IDN?")
    if SIMULATED in name:
        line.tell(f"SIMulate:PLAN {base64.b64encode(zlib.compress(plan)).decode()}")
        line.tell(f'SIMulate:PROBe "{probes}"')
        line.tell(f"SIMulate:STATe {row or UNPOWERED}")
    for _, words in line.faults():
        raise InstrumentError(f"The meter cannot be put there: {words or 'no answer'}.")
    return name, _asked(line, quantity)


def _measured(line: Line, quantity: str, probe: str, state: str) -> tuple[str, str]:
    name = line.ask("*IDN?")
    # a name is a word of the line, never a line of its own
    point = "".join(c for c in probe if c.isprintable() and c != '"')
    line.tell(f'SIMulate:PROBe "{point}"')
    line.tell(f"SIMulate:STATe {state}")
    for number, words in line.faults():
        # A real meter does not know these two: there a person has put the probes on and turned the key.
        if number != UNDEFINED_HEADER:
            raise InstrumentError(f"The meter cannot be put on {probe}: {words or 'no answer'}.")
    return name, _asked(line, quantity)


def _asked(line: Line, quantity: str) -> str:
    said = line.ask(ASK[quantity])
    if not said:
        why = next((words for _, words in line.faults()), "it says nothing")
        raise InstrumentError(f"The meter gave no reading: {why}.")
    return said
