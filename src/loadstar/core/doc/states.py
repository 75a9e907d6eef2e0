"""In which states a machine is judged, and in which of them something lives."""

from typing import Literal

States = Literal["parked", "key_on", "cranking", "idle", "town", "cruise", "on", "assist", "full", "charging"]
Live = Literal["always", "key", "engine"]
ENGINE_STATES: tuple[States, ...] = ("parked", "key_on", "cranking", "idle", "town", "cruise")
NO_BATTERY_STATES: tuple[States, ...] = ("parked", "idle", "town", "cruise")
PACK_STATES: tuple[States, ...] = ("parked", "on", "assist", "full", "charging")
STATES: tuple[States, ...] = (*ENGINE_STATES, "on", "assist", "full", "charging")
STATE_NAMES = {"parked": "Parked", "key_on": "Key on", "cranking": "Cranking", "idle": "Idle", "town": "Town",
               "cruise": "Cruise", "on": "On", "assist": "Assist", "full": "Full power", "charging": "Charging"}
LIVE_STATES: dict[Live, tuple[States, ...]] = {
    "always": STATES, "key": ("key_on", "cranking", "idle", "town", "cruise", "on", "assist", "full"),
    "engine": ("idle", "town", "cruise", "assist", "full"),
}
RUNNING: tuple[States, ...] = ("idle", "town", "cruise")
JUDGED_STATES: tuple[States, ...] = ("key_on", "idle", "town", "cruise", "on", "assist", "full")
