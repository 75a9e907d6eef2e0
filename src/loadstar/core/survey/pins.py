"""What is this pin, how sure is that, and which reading would settle it?

Every kind of pin says what a meter would show of it in each state; a reading speaks for a kind by how likely that kind
makes it (Bayes' rule; readings taken as independent). What is shown as "how sure" is the kind's share of all. The
reading that would settle it is the one that is expected to lessen the doubt most (the expected fall of entropy). The
shares below are our own estimates of how pins and meters behave, loose probes and ghost voltages included; they rank,
they do not measure.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from ..doc.states import Live
from ..doc.survey import MeterState, Reading
from ..parts.tap import Tap
from ..plan.model import Plan
from .shows import (
    EFFORT,
    KINDS,
    PORT_SHARE,
    PORT_V,
    PRIOR,
    RUNS_ON,
    SENSOR_V,
    SHOWS,
    TO_FRAME,
    Ask,
    Kind,
    asks,
    kind_words,
    with_state,
)

Level = Literal["zero", "between", "full"]
Way = Literal["joined", "low", "open"]
SHOWS["raised"] = SHOWS["assist"] = SHOWS["idle"]
SHOWS["charging"] = {**SHOWS["key_off"], "key": (0.75, 0.10, 0.15)}  # some machines wake while they charge
JOINED_OHM, LOW_OHM = 5.0, 300.0
# of the supply's volts in that state: below the one nothing, above the other all of it
ZERO_SHARE, FULL_SHARE = 0.10, 0.82
SURE, CONFLICT_SHARE, DOUBTED = 0.90, 0.05, 0.50
RUN_ON_S, DEAD_V = 1.5, 1.0
# of readings between nothing and all, those that lie there: of signals, and of other pins
SENSOR_SHARE, BY_CHANCE = 0.8, 0.1
TRIGGER_A, FEED_A = 0.15, 1.0  # least spare that suits a relay's coil, and an accessory
WORTH_BITS = 0.02


@dataclass(frozen=True)
class PinVerdict:
    """What a pin is found to be. `sure_frac` is 0..1; `shares` every kind's; `conflicts` the readings that do not fit
    it, in words; `settle` the reading that would lessen the doubt most (None when none is needed)."""

    pin: str
    kind: Kind | None
    sure_frac: float
    shares: tuple[tuple[Kind, float], ...]
    conflicts: tuple[str, ...]
    settle: Ask | None
    off_delay_s: float
    trigger: str
    feed: str

    @property
    def is_sure(self) -> bool:
        """Whether it is settled: sure enough, and nothing speaks against it."""
        return self.kind is not None and self.sure_frac >= SURE and not self.conflicts

    @property
    def live(self) -> Live | None:
        """When a pin that could feed is live; None for the others."""
        lives: dict[Kind, Live] = {"constant": "always", "key": "key", "engine": "engine"}
        return lives.get(self.kind) if self.kind else None


def supply_volts(plan: Plan) -> dict[MeterState, float]:
    """What the supply gives in each state: as read at its posts, or as is usual."""
    scale = plan.machine.system_v / 12
    usual: dict[MeterState, float] = {"key_off": 12.6, "key_on": 12.2, "cranking": 10.0, "idle": 13.6, "raised": 14.2,
                                      "lamp_on": 12.0, "assist": 12.0, "charging": 13.7}
    found = {state: round(volts * scale, 2) for state, volts in usual.items()}
    posts = plan.supply.id if plan.supply else ""
    found |= {r.state: r.value for r in plan.readings if r.element == posts and r.quantity == "V"
              and r.value > 0.4 * plan.machine.system_v}
    return found


def suspect(plan: Plan, pin: Tap) -> str:
    """Why a pin is not to be offered as a feed or trigger by what has been read of it; "" when nothing speaks against
    it."""
    if not any(r.element == pin.id for r in plan.readings):
        return ""
    verdict = classify(plan, pin)
    if read := _sensor_reading(plan, pin):
        return f"read {read.value:g} V: suspect, perhaps a sensor's supply"
    if verdict.conflicts:
        return "its readings contradict each other: measure again"
    if verdict.is_sure and verdict.kind and verdict.live is None:
        return f"reads as {kind_words(plan)[verdict.kind]}"
    return ""


def readings_of(plan: Plan, element: str) -> dict[Ask, Reading]:
    """The latest reading of each quantity and state at an element."""
    return {(r.quantity, r.state): r for r in plan.readings if r.element == element}


def _sensor_reading(plan: Plan, pin: Tap) -> Reading | None:
    """A reading that is just what a sensor is fed with, on a machine of more volts than that."""
    if plan.machine.system_v <= SENSOR_V[1] / FULL_SHARE:
        return None
    return next((r for (quantity, _),
        r in readings_of(plan, pin.id).items() if quantity == "V" and SENSOR_V[0] <= r.value <= SENSOR_V[1]), None)


def classify(plan: Plan, pin: Tap) -> PinVerdict:
    """What a pin is by its readings; without any, nothing is said."""
    supply = supply_volts(plan)
    taken = readings_of(plan, pin.id)
    spoken = {ask: column for ask, reading in taken.items() if (column := _column(plan, reading, supply)) is not None}
    shares = _shares(spoken.values())
    if not spoken:
        return PinVerdict(pin.id, None, 0.0, _ranked(shares), (), _settling(plan, shares, taken), 0.0, "not probed yet",
                          "not probed yet")
    kind, sure = _ranked(shares)[0]
    conflicts = tuple(_words(plan, taken[ask], kind) for ask, column in spoken.items() if column[kind] < CONFLICT_SHARE)
    if conflicts:
        sure = min(sure, DOUBTED)
    delay = max((r.value for (quantity, _), r in taken.items() if quantity == "s" and r.value > RUN_ON_S), default=0.0)
    settle = _settling(plan, shares, taken) if sure < 0.97 and not conflicts else None
    trigger, feed = _suits(plan, pin, kind, sure, bool(conflicts), delay)
    return PinVerdict(pin.id, kind, sure, _ranked(shares), conflicts, settle, delay, trigger, feed)


def evidence(plan: Plan, pin: Tap) -> tuple[Kind, float, tuple[tuple[Reading, float], ...], float]:
    """What "how sure" is made of: the likeliest kind, how common it is, each reading with how likely that kind makes
    it, and the weight of all other kinds together. KeyError when nothing has been read."""
    supply = supply_volts(plan)
    spoken = [(r, column) for r in readings_of(plan, pin.id).values()
              if (column := _column(plan, r, supply)) is not None]
    if not spoken:
        raise KeyError(pin.id)
    kind = _ranked(_shares(column for _, column in spoken))[0][0]
    weights = {k: PRIOR[k] * math.prod(column[k] for _, column in spoken) for k in KINDS}
    return kind, PRIOR[kind], tuple((r, column[kind]) for r, column in spoken), sum(weights.values()) - weights[kind]


def next_probe(plan: Plan) -> tuple[Tap, Ask] | None:
    """The pin and reading to take next: in the state the machine is in as long as a pin asks for it (turning the key
    costs time), then in the state that the most pins ask for; pins in the order of their connectors."""
    open_pins = [(pin, verdict.settle) for plug in plan.plugs for pin in plan.pins(plug.id)
                 if pin.standing == "found" and pin.function == "unknown" and not plug.never
                 and (verdict := classify(plan, pin)).settle]
    if not open_pins:
        return None
    wanted = [ask for _, ask in open_pins if ask]
    order = asks(plan)
    now = (plan.readings[-1].quantity, plan.readings[-1].state) if plan.readings else None
    most = now if now in wanted else max(order, key=lambda ask: (wanted.count(ask), -order.index(ask)))
    return next((pin, ask) for pin, ask in open_pins if ask == most)


def run_on_ask(plan: Plan, pin: Tap) -> Ask | None:
    """Of a pin that is settled as live with key or engine: how long it stays live after, while nobody has counted."""
    verdict = classify(plan, pin)
    pulling: MeterState = "assist" if plan.machine.system == "pack" else "idle"
    state: dict[Live | None, MeterState] = {"key": "key_on", "engine": pulling}
    ask: Ask | None = ("s", state[verdict.live]) if verdict.is_sure and verdict.live in state else None
    return ask if ask and ask not in readings_of(plan, pin.id) else None


def _column(plan: Plan, reading: Reading, supply: dict[MeterState, float]) -> dict[Kind, float] | None:
    """How likely each kind makes a reading; None for one that says nothing here."""
    if reading.quantity == "V":
        share = abs(reading.value) / supply[reading.state]
        at = 0 if share < ZERO_SHARE else 2 if share >= FULL_SHARE else 1
        column = {kind: SHOWS[reading.state][kind][at] for kind in KINDS}
        if at == 1 and supply[reading.state] > SENSOR_V[1] / FULL_SHARE and SENSOR_V[0] <= reading.value <= SENSOR_V[1]:
            # Just what sensors and instruments are fed with: hardly by chance on anything else.
            column = {kind: p * (SENSOR_SHARE if kind == "signal" else BY_CHANCE) for kind, p in column.items()}
        if at == 1 and plan.machine.system == "pack" and reading.state == "lamp_on" and any(
                low <= reading.value <= high for low, high in PORT_V):
            # Just what drive units feed lamps with.
            column = {kind: PORT_SHARE if kind == "lamp" else p * BY_CHANCE for kind, p in column.items()}
        return column
    if reading.quantity in ("ohm", "beep") and reading.state == "key_off":
        ohm = reading.value if reading.quantity == "ohm" else (0.0 if reading.value else math.inf)
        if reading.quantity == "beep" and not reading.value:  # silent: low or open, nobody knows which
            return {kind: TO_FRAME[kind][1] + TO_FRAME[kind][2] for kind in KINDS}
        at = 0 if ohm < JOINED_OHM else 1 if ohm < LOW_OHM else 2
        return {kind: TO_FRAME[kind][at] for kind in KINDS}
    if reading.quantity == "s" and reading.value > RUN_ON_S:
        return dict(RUNS_ON)
    return None


def _shares(columns: Iterable[dict[Kind, float]]) -> dict[Kind, float]:
    weight = dict(PRIOR)
    for column in columns:
        weight = {kind: weight[kind] * column[kind] for kind in KINDS}
    total = sum(weight.values())
    return {kind: weight[kind] / total for kind in KINDS}


def _ranked(shares: dict[Kind, float]) -> tuple[tuple[Kind, float], ...]:
    return tuple(sorted(shares.items(), key=lambda one: (-one[1], KINDS.index(one[0]))))


def _entropy_bits(shares: dict[Kind, float]) -> float:
    return -sum(p * math.log2(p) for p in shares.values() if p > 0)


def _settling(plan: Plan, shares: dict[Kind, float], taken: dict[Ask, Reading]) -> Ask | None:
    """Of the readings not taken the one with the largest expected fall of entropy for its effort; None when none is
    worth taking."""
    now = _entropy_bits(shares)
    best: tuple[float, Ask | None] = (0.0, None)
    for ask in asks(plan):
        if ask in taken or (ask[0] == "beep" and not _may_beep(taken)):
            continue
        columns = TO_FRAME if ask[0] == "beep" else SHOWS[ask[1]]
        outcomes = ((0,), (1, 2)) if ask[0] == "beep" else ((0,), (1,), (2,))
        gain = now
        for levels in outcomes:
            joint = {kind: shares[kind] * sum(columns[kind][at] for at in levels) for kind in KINDS}
            chance = sum(joint.values())
            gain -= chance * _entropy_bits({kind: p / chance for kind, p in joint.items()})
        worth = gain / EFFORT[ask[1]] if gain > WORTH_BITS else 0.0
        if worth > best[0] + 1e-9:
            best = (worth, ask)
    off: Ask = ("V", "key_off")
    return off if best[1] == ("beep", "key_off") and off not in taken else best[1]  # first see that it is dead


def _may_beep(taken: dict[Ask, Reading]) -> bool:
    """Continuity is asked for only where no ohms were read and the pin is dead with the key off: on a live pin it may
    cost the meter's fuse."""
    off = taken.get(("V", "key_off"))
    return ("ohm", "key_off") not in taken and (off is None or abs(off.value) < DEAD_V)


def _words(plan: Plan, reading: Reading, kind: Kind) -> str:
    shown = {"V": f"{reading.value:g} V", "ohm": f"{reading.value:g} Ω to frame",
             "beep": "a beep to frame" if reading.value else "no beep to frame",
             "A": f"{reading.value:g} A", "s": f"live {reading.value:g} s longer"}[reading.quantity]
    return f"{shown} with {with_state(plan, reading.state)} does not fit a pin that is {kind_words(plan)[kind]}"


def _suits(plan: Plan, pin: Tap, kind: Kind, sure: float, doubted: bool, delay_s: float) -> tuple[str, str]:
    """Whether the pin suits as a relay's trigger and as a feed: "" when it does, else why not."""
    if never := plan.never(pin):
        return (f"belongs to the {never} system: never tapped",) * 2
    if sure < SURE and (read := _sensor_reading(plan, pin)):
        return (f"read {read.value:g} V: suspect, perhaps a sensor's supply",) * 2
    if doubted:
        return ("its readings contradict each other: measure again",) * 2
    if sure < SURE:
        return ("not sure enough yet",) * 2
    no = {"ground": "it is ground: a return point", "signal": "a signal: anything joined to it disturbs it",
          "dead": "nothing is on it",
          "lamp": "it follows its lamp's switch"}.get(kind)
    if no:
        return no, no
    spare = pin.rated_a - pin.others_a
    trigger = "it is always live: the relay would never let go" if kind == "constant" else (
        f"only {spare:g} A to spare, a coil takes {TRIGGER_A:g} A" if spare < TRIGGER_A else "")
    feed = f"only {spare:g} A to spare" if spare < FEED_A else ""
    return trigger, feed
