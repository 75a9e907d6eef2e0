"""What has been found on the machine: connectors, readings, continuity tables, parts taken off."""

from typing import Annotated, Literal

from pydantic import Field

from .types import ONE_LINE, Doc, Id, Name, NeverTapped, Note, Standing

PinFunction = Literal["feed", "ground", "lamp", "signal", "unknown", "unused", "other"]
MeterState = Literal["key_off", "key_on", "cranking", "idle", "raised", "lamp_on", "assist", "charging"]
Quantity = Literal["V", "ohm", "A", "beep", "s", "figure"]


class Plug(Doc):
    """A connector as found on the machine: where, how it is reached, and what it looks like.

    Its pins are taps that name it. Their numbers are counted from the side in `seen`, with the latch where `latch`
    says.
    """

    id: Id
    name: Name
    place: Id
    use: Literal["accessory", "heated gear", "navigation", "alarm", "lamp", "brake lamp", "indicator", "horn",
                 "diagnostic",
                 "light port", "generator", "motor", "switch", "other"] = "other"
    reach: Annotated[str, Field(max_length=120), ONE_LINE] = ""
    housing: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    ways: Annotated[int, Field(ge=1, le=60)] = 2
    rows: Annotated[int, Field(ge=1, le=4)] = 1
    half: Literal["", "tabs", "receptacles"] = ""
    seen: Literal["mouth", "wires"] = "mouth"
    latch: Literal["up", "down", "left", "right", "none"] = "up"
    never: NeverTapped = ""
    note: Note = ""
    standing: Standing = "found"


class Reading(Doc):
    """What an instrument showed: volts or amps of `element` in a state, ohms or a beep from it to the frame with the
    key off, or the seconds that it stays live after what `state` names has ended; of quantity "figure" the element's
    figure `field` as measured, in that field's unit.

    `taken` is the time by ISO 8601. Of two like readings the later one counts.
    """

    id: Id
    element: Id | Literal["machine"]
    quantity: Quantity
    state: MeterState = "key_off"
    value: Annotated[float, Field(ge=-1000, le=1e9)]
    field: Annotated[str, Field(pattern=r"^[a-z0-9_]{0,40}$")] = ""
    instrument: Annotated[str, Field(max_length=60), ONE_LINE] = ""
    taken: Annotated[str, Field(max_length=32), ONE_LINE] = ""
    by: Annotated[str, Field(max_length=80), ONE_LINE] = ""


class Beep(Doc):
    """One test of a continuity table: in a position, whether two of its terminals are joined."""

    position: Annotated[int, Field(ge=0, le=11)]
    a: Annotated[int, Field(ge=0, le=15)]
    b: Annotated[int, Field(ge=0, le=15)]
    beeps: bool


class Continuity(Doc):
    """A switch, lead or plug that nobody knows: its terminals, its positions, and what beeped."""

    id: Id
    name: Name
    terminals: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=24), ONE_LINE], ...],
                         Field(min_length=2, max_length=16)]
    positions: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=24), ONE_LINE], ...],
                         Field(min_length=1, max_length=12)] = (
        "as it is",)
    beeps: tuple[Beep, ...] = ()


class Removed(Doc):
    """A part taken off the machine, what it weighed (g; null: not known) and whether that was only estimated, and where
    it is kept for the return to standard."""

    id: Id
    name: Name
    place: Id | None = None
    mass_g: Annotated[float, Field(gt=0, le=60_000)] | None = None
    estimated: bool = False
    stored: Annotated[str, Field(max_length=120), ONE_LINE] = ""
    note: Note = ""
