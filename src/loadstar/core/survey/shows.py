"""What each kind of pin shows in each state, how usual it is, and what is asked of it; in words too."""

from typing import Literal

from ..doc.survey import MeterState, Quantity
from ..plan.model import Plan

# shares of zero, between, full
_ZERO, _FULL, _SIGNAL = (0.962, 0.034, 0.004), (0.004, 0.024, 0.972), (0.29, 0.67, 0.04)
Kind = Literal["ground", "constant", "key", "engine", "lamp", "signal", "dead"]
KINDS: tuple[Kind, ...] = ("ground", "constant", "key", "engine", "lamp", "signal", "dead")
KIND_WORDS: dict[Kind, str] = {
    "ground": "ground", "constant": "constant, live always", "key": "switched with the key",
    "engine": "live with the engine",
    "lamp": "live with its lamp", "signal": "a signal: do not use", "dead": "dead: nothing on it"}
STATE_WORDS: dict[MeterState, str] = {
    "key_off": "key off", "key_on": "key on, lamps off, engine stopped", "cranking": "the starter turning",
    "idle": "engine idling, lamps off",
    "raised": "engine at raised speed", "lamp_on": "key on with its lamp switched on"}
# The same on a machine with packs, which has neither key nor engine.
PACK_STATE_WORDS: dict[MeterState, str] = {
    "key_off": "everything off", "key_on": "the drive on, lamps off", "lamp_on": "its lamp switched on",
    "assist": "the motor pulling, lamps off", "charging": "the charger on"}
PACK_KIND_WORDS: dict[Kind, str] = {
    **KIND_WORDS, "key": "switched with the drive", "engine": "live while the motor pulls"}
# How common each kind is among the pins of factory plugs, before anything is measured.
PRIOR: dict[Kind, float] = {"ground": 0.22, "constant": 0.12, "key": 0.25, "engine": 0.10, "lamp": 0.09, "signal": 0.13,
                            "dead": 0.09}
# In a state, what each kind shows. Cranking pulls key circuits down or cuts them, so that it says little.
SHOWS: dict[MeterState, dict[Kind, tuple[float, float, float]]] = {
    "key_off": {"ground": _ZERO, "constant": _FULL, "key": _ZERO, "engine": _ZERO, "lamp": _ZERO,
                "signal": (0.90, 0.08, 0.02),
                "dead": _ZERO},
    "key_on": {"ground": _ZERO, "constant": _FULL, "key": _FULL, "engine": _ZERO, "lamp": (0.90, 0.05, 0.05),
               "signal": _SIGNAL,
               "dead": _ZERO},
    "idle": {"ground": _ZERO, "constant": _FULL, "key": _FULL, "engine": _FULL, "lamp": (0.87, 0.06, 0.07),
             "signal": _SIGNAL,
             "dead": _ZERO},  # a lamp that lights by itself when the engine runs is live with the engine
    "lamp_on": {"ground": _ZERO, "constant": _FULL, "key": _FULL, "engine": _ZERO, "lamp": _FULL, "signal": _SIGNAL,
                "dead": _ZERO},
    "cranking": {"ground": _ZERO, "constant": (0.02, 0.25, 0.73), "key": (0.40, 0.20, 0.40),
                 "engine": (0.80, 0.10, 0.10),
                 "lamp": (0.70, 0.10, 0.20), "signal": (0.40, 0.45, 0.15), "dead": _ZERO},
}
# To the frame with the key off: joined (a beep, under 5 ohm), low (a lamp or coil behind it), or open.
TO_FRAME: dict[Kind, tuple[float, float, float]] = {
    "ground": (0.96, 0.03, 0.01), "constant": (0.01, 0.09, 0.90), "key": (0.10, 0.50, 0.40),
    "engine": (0.08, 0.42, 0.50),
    "lamp": (0.28, 0.55, 0.17), "signal": (0.04, 0.26, 0.70), "dead": (0.01, 0.02, 0.97)}
# That it stays live for seconds after key or engine, and then goes dead.
RUNS_ON: dict[Kind, float] = {"ground": 0.005, "constant": 0.01, "key": 0.5, "engine": 0.6, "lamp": 0.2, "signal": 0.05,
                              "dead": 0.005}
SENSOR_V = (4.5, 5.5)  # a sensor's or instrument's own supply
# What a drive unit gives its lamps, well below its pack's volts; and the share of lamps on packs that have just that.
PORT_V = ((5.4, 7.2), (11.0, 14.0))
PORT_SHARE = 0.8
Ask = tuple[Quantity, MeterState]
ASKS: tuple[Ask, ...] = (("V", "key_off"), ("V", "key_on"), ("V", "idle"), ("V", "lamp_on"), ("beep", "key_off"))
PACK_ASKS: tuple[Ask, ...] = (("V", "key_off"), ("V", "key_on"), ("V", "lamp_on"), ("V", "assist"), ("beep", "key_off"))
# What a state costs the person with the meter: starting the engine, and finding the lamp's switch, more than turning
# the key.
EFFORT: dict[MeterState, float] = {"key_off": 1.0, "key_on": 1.0, "lamp_on": 2.0, "idle": 2.5, "assist": 2.5}


def asks(plan: Plan) -> tuple[Ask, ...]:
    """The readings that tell pins apart on a machine."""
    return PACK_ASKS if plan.machine.system == "pack" else ASKS


def state_words(plan: Plan) -> dict[MeterState, str]:
    """The states in which a machine can be measured, in words."""
    return PACK_STATE_WORDS if plan.machine.system == "pack" else STATE_WORDS


def kind_words(plan: Plan) -> dict[Kind, str]:
    """What a pin of a machine may be, in words."""
    return PACK_KIND_WORDS if plan.machine.system == "pack" else KIND_WORDS


def with_state(plan: Plan, state: MeterState) -> str:
    """A reading's state in words; one of another kind of machine, where the plan's was changed since, in that's."""
    return {**STATE_WORDS, **PACK_STATE_WORDS, **state_words(plan)}[state]
