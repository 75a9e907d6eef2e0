"""Takes readings from a meter on a socket that speaks as bench instruments do (lines of text, IEEE 488.2 style)."""

import math
import socket

TIMEOUT_S = 2.0
OPEN_FROM_OHM, UNDEFINED_HEADER = 1e30, "-113"
ASK: dict[str, str] = {"V": "MEASure:VOLTage:DC?", "ohm": "MEASure:RESistance?", "beep": "MEASure:CONTinuity?", "A": "MEASure:CURRent:DC?"}


class InstrumentError(Exception):
    """The instrument does not answer, or refuses; the text is for people."""


def take(address: str, quantity: str, probe: str, state: str) -> tuple[float, str]:
    """One reading (quantity V, ohm, beep or A; states by the plan's names) and the instrument's name.

    An open circuit reads as 10 megohm, the end of a usual meter's range. InstrumentError, in words, when there is no reading.
    """
    host, _, port = address.rpartition(":")
    try:
        with socket.create_connection((host, int(port)), TIMEOUT_S) as line, line.makefile("rw", encoding="utf-8", newline="\n") as talk:
            def ask(command: str) -> str:
                talk.write(command + "\n")
                talk.flush()
                return talk.readline().strip() if command.endswith("?") else ""
            name = ask("*IDN?")
            point = "".join(c for c in probe if c.isprintable() and c != '"')  # a name is a word of the line, never a line of its own
            ask(f'SIMulate:PROBe "{point}"')
            ask(f"SIMulate:STATe {state}")
            while (fault := ask("SYSTem:ERRor?").partition(","))[0].strip() not in ("0", "+0"):
                # A real meter does not know these two: there a person has put the probes on and turned the key.
                if fault[0].strip() != UNDEFINED_HEADER:
                    raise InstrumentError(f"The meter cannot be put on {probe}: {fault[2].strip(chr(34)) or 'no answer'}.")
            said = ask(ASK[quantity])
            if not said:
                raise InstrumentError(f"The meter gave no reading: {ask('SYSTem:ERRor?').partition(',')[2].strip(chr(34))}.")
    except (OSError, ValueError) as error:
        raise InstrumentError("The meter does not answer: is it on, and its cable in?") from error
    value = float(said)
    if not math.isfinite(value):
        raise InstrumentError("The meter's answer is no number.")
    return (1e7 if quantity == "ohm" and value > OPEN_FROM_OHM else value), ", ".join(name.split(",")[:2])
