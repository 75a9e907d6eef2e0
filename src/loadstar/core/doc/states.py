"""In which states a machine is judged, and in which of them something lives.

Besides always, key and engine something may live by an occasion: while the brake is pressed, the horn sounded, a lamp
circuit lit. In a state it may then be on; that it is not is looked at too (plan/stands.py).
"""

from dataclasses import dataclass
from typing import Literal

States = Literal["parked", "key_on", "cranking", "idle", "town", "cruise", "rev", "on", "assist", "full", "charging"]
Feeding = Literal["always", "key", "engine"]  # when a machine's own supply lives
Live = Literal["always", "key", "engine", "brake", "horn", "left", "right", "dip", "main", "park", "hot", "start",
               "switch"]
ENGINE_STATES: tuple[States, ...] = ("parked", "key_on", "cranking", "idle", "town", "cruise")
NO_BATTERY_STATES: tuple[States, ...] = ("parked", "idle", "town", "cruise")
PACK_STATES: tuple[States, ...] = ("parked", "on", "assist", "full", "charging")
STATES: tuple[States, ...] = (*ENGINE_STATES, "rev", "on", "assist", "full", "charging")
STATE_NAMES = {"parked": "Parked", "key_on": "Key on", "cranking": "Cranking", "idle": "Idle", "town": "Town",
               "cruise": "Cruise", "rev": "Over-rev", "on": "On", "assist": "Assist", "full": "Full power",
               "charging": "Charging"}
WITH_KEY: tuple[States, ...] = ("key_on", "cranking", "idle", "town", "cruise", "rev", "on", "assist",
                                "full")
RUNNING: tuple[States, ...] = ("idle", "town", "cruise", "rev")
JUDGED_STATES: tuple[States, ...] = ("key_on", "idle", "town", "cruise", "rev", "on", "assist", "full")


@dataclass(frozen=True)
class Occasion:
    """What something may live with besides key and engine. Of one `group` one is on at a time; `minutes` of the hour
    are usual. It `comes` for moments, or lasts, or ("") is simply on in its states."""

    words: str  # "with the brake"
    group: str = ""
    minutes: float = 60
    comes: Literal["for moments", "lasting", ""] = "for moments"
    states: tuple[States, ...] = WITH_KEY
    duty: float = 1.0  # share of these minutes that it is really on


OCCASIONS: dict[Live, Occasion] = {
    "brake": Occasion("with the brake", "brake", 6),
    "horn": Occasion("with the horn", "horn", 0.5),
    "left": Occasion("with the left indicators", "turn", 2, duty=0.5),
    "right": Occasion("with the right indicators", "turn", 2, duty=0.5),
    "dip": Occasion("with the dipped beam", "lamp", comes="lasting"),
    "main": Occasion("with the main beam", "lamp", comes="lasting"),
    "park": Occasion("with the parking lamp", comes=""),
    "hot": Occasion("when it is hot", "hot", 15),
    "start": Occasion("with the starter button", minutes=0.5, comes="", states=("cranking",)),
    "switch": Occasion("by its own switch", comes=""),
}


def moved_by(live: Live) -> str:
    """What decides whether something that lives so is on: an occasion's group, which stands at one of its members or at
    none; "" where the state alone does."""
    occasion = OCCASIONS.get(live)
    return occasion.group if occasion and occasion.comes else ""


LIVE_STATES: dict[Live, tuple[States, ...]] = {
    "always": STATES, "key": WITH_KEY, "engine": ("idle", "town", "cruise", "rev", "assist", "full"),
    **{live: occasion.states for live, occasion in OCCASIONS.items()},
}
LIVES_WITH: dict[Live, str] = {"always": "always", "key": "with the key on", "engine": "with the engine running",
                               **{live: occasion.words for live, occasion in OCCASIONS.items()}}
