"""The simulated meter: its commands, what it shows of a pin in each state, and an instrument that takes readings from
it."""

import base64
import socketserver
import threading
import zlib

import pytest

from loadstar.core.analysis import analyse
from loadstar.core.plan import document
from loadstar.core.prove.diagnose import Diagnosis
from loadstar.core.prove.readings import Probe
from loadstar.demo import hidden_pins, winter
from loadstar.exchange.instrument import InstrumentError, take
from loadstar.standins.machines import OPEN_OHM, demo_machine
from loadstar.standins.meter import Meter, MeterServer

STATES = ("key_off", "key_on", "lamp_on", "idle", "raised")


@pytest.fixture(scope="module")
def machine():
    return demo_machine()


@pytest.fixture(scope="module")
def address(machine):
    with MeterServer(machine) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"127.0.0.1:{server.server_address[1]}"
        server.shutdown()


def test_it_says_who_it_is_and_keeps_its_last_fault(machine):
    meter = Meter(machine)
    assert meter.answer("*IDN?") == "Loadstar,simulated meter,0,1"
    assert meter.answer("SYSTem:ERRor?") == '0,"No error"'
    assert meter.answer("MEASure:WEIGht?") == ""
    assert meter.answer("syst:err?") == '-113,"Undefined header"'
    assert meter.answer("SYST:ERR?") == '0,"No error"'
    assert meter.answer('SIM:PROB "no such plug pin 9"') is None
    assert meter.answer("SYST:ERR?").startswith("-224")
    assert meter.answer("SIM:STAT flying") is None
    assert meter.answer("SYST:ERR?").startswith("-224")


def test_amps_with_the_engine_running_are_out_of_range(machine):
    meter = Meter(machine)
    assert float(meter.answer("MEAS:CURR:DC?")) == pytest.approx(0.012)
    meter.answer('SIM:PROB "accessory plug pin 1"')
    # not in series with a pin
    assert meter.answer("MEAS:CURR:DC?") == "" and meter.answer("SYST:ERR?").startswith("-222")
    meter.answer('SIM:PROB "battery"')
    meter.answer("SIMulate:STATe idle")
    assert meter.answer("MEASure:CURRent:DC?") == ""
    assert meter.answer("SYST:ERR?").startswith("-222")


def test_every_hidden_pin_shows_what_it_is(machine):
    for plug, pins in hidden_pins().items():
        for way, facts in pins.items():
            name = f"{plug} pin {way}"
            volts = {s: machine.volts(name, s) for s in STATES}
            live = {s for s, v in volts.items() if v > 11}
            wanted = {"ground": set(), "signal": set(), "lamp": {"lamp_on"}, "feed": {
                "always": set(STATES), "key": set(STATES) - {"key_off"},
                "engine": {"idle", "raised"}}.get(facts.get("live"), set())}
            assert live == wanted[facts["function"]], name
            if facts["function"] == "signal":
                assert 4 < volts["key_on"] < 6
            if facts["function"] == "feed" and volts["idle"] > 11:  # straight from the battery, or through the key
                below = machine.volts("battery", "idle") - volts["idle"]
                assert below == pytest.approx(0.0 if facts["live"] == "always" else 0.15, abs=0.021)
            assert (machine.ohms(name) < 1) == (facts["function"] == "ground")
    assert machine.volts("battery", "cranking") < machine.volts("battery", "key_off") - 1 < machine.volts("battery",
                                                                                                          "raised")


def test_an_instrument_takes_readings_over_the_socket(address):
    value, name = take(address, "V", "accessory plug pin 4", "key_off")
    assert 12 < value < 13.2 and name == "Loadstar, simulated meter"
    assert take(address, "beep", "accessory plug pin 3", "key_off")[0] == 1
    assert take(address, "ohm", "accessory plug pin 4", "key_off")[0] == 1e7 < OPEN_OHM
    assert take(address, "V", 'accessory "plug pin 4\n', "key_off")[0] > 12  # a name cannot break out of its line
    with pytest.raises(InstrumentError, match="cannot be put on nothing"):
        take(address, "V", "nothing", "key_off")
    with pytest.raises(InstrumentError, match="gave no reading"):
        take(address, "A", "battery", "idle")
    with pytest.raises(InstrumentError, match="does not answer"):
        take("127.0.0.1:9", "V", "battery", "key_off")


def test_a_meter_that_knows_no_simulation_is_read_as_the_person_set_it():
    """As bench instruments do: unknown headers queue a fault each, and the reading is of wherever the probes are."""
    class Bench(socketserver.StreamRequestHandler):
        def handle(self):
            faults = []
            for raw in self.rfile:
                line = raw.decode().strip()
                if line.startswith("SIM"):
                    faults.append('-113,"Undefined header"')
                elif line == "SYSTem:ERRor?":
                    self.wfile.write(f"{faults.pop(0) if faults else '+0,No error'}\n".encode())
                else:
                    self.wfile.write(b"Bench,meter,1,2\n" if line == "*IDN?" else b"+1.2345E+01\n")

    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Bench) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        assert take(f"127.0.0.1:{server.server_address[1]}", "V", "anything", "idle") == (12.345, "Bench, meter")
        server.shutdown()


class Babbler(socketserver.StreamRequestHandler):
    """Something that answers, but not as a meter does."""

    said: tuple[bytes, bytes, bytes]  # to *IDN?, SYSTem:ERRor? and the reading asked for

    def handle(self):
        for line in self.rfile:
            if line.strip().endswith(b"?"):
                self.wfile.write(self.said[0 if b"IDN" in line else 1 if b"ERR" in line else 2])


@pytest.fixture
def babbler():
    """Serves what it is told to answer."""
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), type("Told", (Babbler,), {})) as server:
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()

        def said(*answers):
            server.RequestHandlerClass.said = answers
            return f"127.0.0.1:{server.server_address[1]}"
        yield said
        server.shutdown()


FINE = (b"Bench,meter,1,2\n", b'0,"No error"\n', b"12.61\n")


@pytest.mark.parametrize(("at", "answer", "words"), [
    (1, b'-113,"Undefined header"\n', "one fault after another"),
    (1, b'-224,"No such pin"\n', "cannot be put on battery: No such pin"),
    (2, b"volts\n", "no number"), (2, b"inf\n", "no number"), (2, b"\n", "gave no reading: it says nothing"),
    (0, b"x" * 5000, "not understood"), (0, b"\xff\xfe\n", "not understood"), (1, b"x" * 5000, "not understood")])
def test_what_does_not_answer_as_a_meter_does_is_told_in_words(babbler, at, answer, words):
    assert take(babbler(*FINE), "V", "battery", "key_off") == (12.61, "Bench, meter")
    with pytest.raises(InstrumentError, match=words):
        take(babbler(*FINE[:at], answer, *FINE[at + 1:]), "V", "battery", "key_off")


def test_a_name_longer_than_a_reading_keeps_is_cut(babbler):
    assert take(babbler(b"B" * 150 + b"\n", *FINE[1:]), "V", "battery", "key_off")[1] == "B" * 60


def test_any_plan_may_take_the_machine_s_place_sound_or_with_a_fault_hidden(machine):
    """Volts at a heater sound and with 0.8 Ω in its feed, as the diagnosis knows them; ohms only unpowered."""
    plan = winter()[0]
    d = Diagnosis(analyse(plan), "L1")
    meter = Meter(machine)
    packed = base64.b64encode(zlib.compress(document.to_bytes(plan))).decode()
    assert meter.answer(f"SIMulate:PLAN {packed}") is None
    meter.answer('SIM:PROB "L1.pos L1.neg"')
    meter.answer("SIM:STAT idle")
    sound = d.shown(Probe("V", "idle", "L1.pos", "L1.neg"))[0]
    assert float(meter.answer("MEAS:VOLT:DC?")) == pytest.approx(sound, abs=0.1)
    assert meter.answer("MEAS:RES?") == "" and meter.answer("SYST:ERR?").startswith("-222")
    meter.answer('SIM:FAULT "W8 +0.8"')
    n = [f.key for f in d.faults].index("W8 +0.8")
    faulty = d.shown(Probe("V", "idle", "L1.pos", "L1.neg"))[n]
    assert float(meter.answer("MEAS:VOLT:DC?")) == pytest.approx(faulty, abs=0.1) and faulty < sound - 1
    meter.answer("SIM:STAT unpowered")
    assert float(meter.answer("MEAS:RES?")) == pytest.approx(14.2**2 / 30, abs=1.0)
    assert abs(float(meter.answer("MEAS:VOLT:DC?"))) < 0.1
    meter.answer("SIM:STAT parked")
    assert float(meter.answer("MEAS:CURR:DC?")) == pytest.approx(0.0, abs=0.2)


@pytest.mark.parametrize("command", [
    "SIM:PLAN nonsense!", "SIM:PLAN aGVsbG8=", 'SIM:PROB "L9.pos BT1.neg"', "SIM:STAT warp", 'SIM:FAULT "W999 +1"'])
def test_what_is_no_plan_point_state_or_fault_is_told_in_numbers(machine, command):
    meter = Meter(machine)
    packed = base64.b64encode(zlib.compress(document.to_bytes(winter()[0]))).decode()
    meter.answer(f"SIM:PLAN {packed}")
    assert meter.answer("SYST:ERR?") == '0,"No error"'
    assert meter.answer(command) is None
    assert meter.answer("SYST:ERR?")[:4] in ("-222", "-224")


def test_a_fault_is_hidden_only_in_a_plan(machine):
    meter = Meter(machine)
    meter.answer('SIM:FAULT "W8 +0.8"')
    assert meter.answer("SYST:ERR?").startswith("-222")
