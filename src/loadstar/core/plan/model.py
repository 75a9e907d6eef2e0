"""The plan document: machine, places and runs, parts, wires, house rules.

Every element has a short id from a counter per kind that never reuses a number. Parts are one tagged union; wires run
from terminal to terminal ("F2.b"); joins are terminals that touch without a wire. What people decided is stored; what
Loadstar chooses (a wire size, a fuse rating left to it) is null here and found by the analysis. All quantities carry
their unit in the name.
"""

from typing import Annotated, Literal, TypeVar, get_args

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field

from ..materials import TABLES_EDITION
from ..materials.conductors import AREAS_MM2, INSULATIONS
from ..materials.fuses import RATINGS_A
from .texts import one_line, some_lines

FORMAT = "loadstar-plan"
VERSION = 4

States = Literal["parked", "key_on", "cranking", "idle", "town", "cruise", "on", "assist", "full", "charging"]
Live = Literal["always", "key", "engine"]
SystemKind = Literal["battery", "total_loss", "magneto", "ignition_only", "pack"]
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

USUAL_HOLD_SHARE = 0.4  # of its pull-in voltage a relay still holds at; usual (it must let go below a tenth of nominal)

Id = Annotated[str, Field(pattern=r"^[A-Z]{1,2}[0-9]{1,6}$")]
TerminalRef = Annotated[str, Field(pattern=r"^[A-Z]{1,2}[0-9]{1,6}\.[a-z0-9]{1,8}$")]
ONE_LINE, SOME_LINES = BeforeValidator(one_line), BeforeValidator(some_lines)
Name = Annotated[str, Field(min_length=1, max_length=80), ONE_LINE]
Note = Annotated[str, Field(max_length=400), SOME_LINES]
Colour = Literal["", "BK", "BN", "RD", "OG", "YE", "GN", "BU", "VT", "GY", "WH", "PK", "TQ"]
InsulationCode = Literal["A", "B", "105", "C", "D"]
assert set(get_args(InsulationCode)) == set(INSULATIONS)


def _listed(values: tuple[float, ...], what: str) -> AfterValidator:
    def check(value: float) -> float:
        if value not in values:
            raise ValueError(f"must be one of the {what} {', '.join(f'{v:g}' for v in values)}")
        return value
    return AfterValidator(check)


BladeRating = Annotated[float, _listed(RATINGS_A, "blade-fuse ratings")]
AreaMm2 = Annotated[float, _listed(AREAS_MM2, "sizes")]
LeastAreaMm2 = Annotated[float, _listed((0.35, 0.5, 0.75, 1.0), "sizes")]


Standing = Literal["found", "believed"]  # on this machine, or taken over from another and not yet confirmed here
NeverTapped = Literal["", "airbag", "ABS", "throttle", "CAN"]
PinFunction = Literal["feed", "ground", "lamp", "signal", "unknown", "unused", "other"]


class Doc(BaseModel):
    """Base of everything in the document: frozen, nothing unknown, no NaN or infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Machine(Doc):
    """The machine: what feeds it, what its frame is joined to, and the speeds or powers that its states stand for."""

    name: Name = "New machine"
    kind: Literal["touring motorcycle", "motorcycle", "small motorcycle", "scooter", "utility bike", "trail e-bike",
                  "cargo e-bike", "e-scooter"] = "motorcycle"
    system: SystemKind = "battery"
    system_v: Literal[6, 12, 24, 36, 48, 52, 60, 72] = 12
    chassis: Literal["negative", "floating", "winding"] = "negative"
    idle_rpm: Annotated[float, Field(ge=300, le=6000)] = 1300
    town_rpm: Annotated[float, Field(ge=500, le=12000)] = 3000
    cruise_rpm: Annotated[float, Field(ge=800, le=15000)] = 5000
    cranking_a: Annotated[float, Field(ge=0, le=600)] = 110
    wheelbase_mm: Annotated[float, Field(ge=600, le=2600)] | None = None
    range_km: Annotated[float, Field(ge=1, le=500)] = 60

    def rpm(self, state: States) -> float:
        """Engine speed in a state; 0 when the engine does not run by itself."""
        return {"idle": self.idle_rpm, "town": self.town_rpm, "cruise": self.cruise_rpm}.get(state, 0.0)


class Place(Doc):
    """Somewhere on the machine: millimetres on the side elevation (rear axle is 0, up and forward positive).

    The air around its wires is that of its zone by the house rules, or where no zone is given `ambient_c`. `reach` says
    what must come off to get there, `room` what fits in (mm), `depth_mm` what is free behind a panel.
    """

    id: Id
    name: Name
    x_mm: Annotated[float, Field(ge=-800, le=3000)] = 0
    y_mm: Annotated[float, Field(ge=-400, le=2000)] = 0
    zone: Literal["", "open", "under the tank", "near the engine"] = ""
    ambient_c: Annotated[float, Field(ge=-20, le=120)] = 40
    side: Literal["", "left", "right"] = ""
    reach: Annotated[str, Field(max_length=120), ONE_LINE] = ""
    water: Literal["dry", "splashed", "washed over"] = "splashed"
    moves: Literal["still", "with the steering", "with the suspension"] = "still"
    room: Annotated[str, Field(max_length=40), ONE_LINE] = ""
    standing: Standing = "found"


class Run(Doc):
    """A way for wires between two places, with its measured length."""

    id: Id
    a: Id
    b: Id
    length_m: Annotated[float, Field(ge=0.02, le=8)]
    ambient_c: Annotated[float, Field(ge=-20, le=120)] | None = None


class _Part(Doc):
    id: Id
    name: Name
    place: Id
    made_for: Id | None = None


class Battery(_Part):
    """A 12 V (or 6 V) battery. `charge_frac` is the charge that engine-off states are judged at."""

    kind: Literal["battery"] = "battery"
    chemistry: Literal["flooded", "agm", "lfp"] = "agm"
    nominal_v: Literal[6, 12] = 12
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)]
    rate_h: Annotated[float, Field(ge=1, le=100)] = 10
    internal_mohm: Annotated[float, Field(ge=0.5, le=500)]
    charge_frac: Annotated[float, Field(ge=0.1, le=1)] = 0.8
    charge_a: Annotated[float, Field(ge=0, le=50)] = 1.0
    peukert_k: Annotated[float, Field(ge=1, le=1.5)] | None = None


class Generator(_Part):
    """A generator with its rectifier and regulator, rated by two outputs at the battery.

    Permanent magnets with a shunt or series regulator, or a field winding ("field") that the regulator weakens.
    `tied` says whether an end of the winding is on the frame; `rectifier` how its current is turned to DC.
    """

    kind: Literal["generator"] = "generator"
    phases: Literal[1, 3] = 3
    rating1_w: Annotated[float, Field(ge=1, le=3000)]
    rating1_rpm: Annotated[float, Field(ge=200, le=15000)]
    rating2_w: Annotated[float, Field(ge=1, le=3000)]
    rating2_rpm: Annotated[float, Field(ge=200, le=15000)]
    rating_v: Annotated[float, Field(ge=6, le=16)] = 14.2
    phase_ohm: Annotated[float, Field(ge=0.005, le=10)]
    diode_v: Annotated[float, Field(ge=0, le=2)] = 0.95
    regulator: Literal["shunt", "series", "field"] = "series"
    set_v: Annotated[float, Field(ge=6.6, le=15.5)] = 14.2
    limit_a: Annotated[float, Field(ge=1, le=200)] | None = None
    field_a: Annotated[float, Field(ge=0, le=10)] = 0
    tied: Literal["floating", "frame"] = "floating"
    rectifier: Literal["full", "half"] = "full"


class Coil(_Part):
    """A magneto's lighting coil: EMF and reactance rise with speed (rms per rpm); lamps run on its AC directly.

    `clamp_v` is the AC regulator's limit where there is one.
    """

    kind: Literal["coil"] = "coil"
    emf_mv_per_rpm: Annotated[float, Field(ge=0.1, le=200)]
    reactance_mohm_per_rpm: Annotated[float, Field(ge=0.01, le=50)]
    winding_ohm: Annotated[float, Field(ge=0.01, le=20)]
    clamp_v: Annotated[float, Field(ge=5, le=20)] | None = None


class Pack(_Part):
    """A traction pack: cells in series and parallel behind a protection circuit (BMS) with its limits."""

    kind: Literal["pack"] = "pack"
    chemistry: Literal["nmc", "lfp"] = "nmc"
    series: Annotated[int, Field(ge=4, le=24)]
    parallel: Annotated[int, Field(ge=1, le=40)] = 4
    cell_ah: Annotated[float, Field(ge=0.5, le=120)] = 3.0
    cell_mohm: Annotated[float, Field(ge=0.2, le=200)] = 35
    extra_mohm: Annotated[float, Field(ge=0, le=500)] = 15
    charge_frac: Annotated[float, Field(ge=0, le=1)] = 0.8
    rested_v: Annotated[float, Field(ge=8, le=110)] | None = None
    empty_v_per_cell: Annotated[float, Field(ge=2.0, le=3.6)] | None = None
    bms_continuous_a: Annotated[float, Field(ge=1, le=400)] = 20
    bms_peak_a: Annotated[float, Field(ge=1, le=800)] = 40
    charge_limit_a: Annotated[float, Field(ge=0.1, le=200)] = 4
    bms: Literal["in place", "bypassed"] = "in place"
    bypass_by: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    data_line: bool = False


class Drive(_Part):
    """The drive of an e-bike: its controller's input limit and the power it takes in each state."""

    kind: Literal["drive"] = "drive"
    assist_w: Annotated[float, Field(ge=0, le=20000)] = 150
    full_w: Annotated[float, Field(ge=0, le=20000)] = 500
    idle_w: Annotated[float, Field(ge=0, le=50)] = 1.5
    limit_a: Annotated[float, Field(ge=1, le=400)] = 20
    cut_off_v: Annotated[float, Field(ge=0, le=100)] = 0
    needs_data: bool = False


class Converter(_Part):
    """A step-down converter: input window, output volts and amps, efficiency, draw when idle, isolated or not."""

    kind: Literal["converter"] = "converter"
    window_low_v: Annotated[float, Field(ge=5, le=120)]
    window_high_v: Annotated[float, Field(ge=8, le=150)]
    out_v: Annotated[float, Field(ge=3, le=30)] = 12
    rated_a: Annotated[float, Field(gt=0, le=60)]
    efficiency_frac: Annotated[float, Field(ge=0.4, le=1)] = 0.88
    idle_w: Annotated[float, Field(ge=0, le=20)] = 0.3
    isolated: bool = False


class Port(_Part):
    """A drive unit's own light port: its volts and watt limit, and whether service software has enabled it."""

    kind: Literal["port"] = "port"
    out_v: Annotated[float, Field(ge=3, le=30)] = 12
    limit_w: Annotated[float, Field(gt=0, le=200)] = 17
    enabled: bool = False
    live: Live = "key"


class Combiner(_Part):
    """Where two packs meet: a changeover switch (`position` says at which), an ideal-diode combiner, or plain parallel."""

    kind: Literal["combiner"] = "combiner"
    way: Literal["changeover", "diode", "parallel"] = "diode"
    position: Literal["a", "b"] = "a"
    rated_a: Annotated[float, Field(gt=0, le=400)] = 40
    drop_mv: Annotated[float, Field(ge=0, le=1000)] = 30
    contact_mohm: Annotated[float, Field(ge=0.05, le=100)] = 2
    data_switched: bool = False


class OwnLoad(_Part):
    """What the machine itself uses (ignition, pump, lamps): constant power at the battery posts."""

    kind: Literal["own"] = "own"
    power_w: Annotated[float, Field(gt=0, le=2000)]
    live: Live = "engine"
    low_v: Annotated[float, Field(ge=0, le=16)] = 0


class Tap(_Part):
    """A factory wire or plug that can be used without cutting: what it may give, and when it is live.

    `source_mohm` is the machine's own wiring from the battery and back; `fused_a` the factory fuse before it;
    (null: not known; `unfused`: found to have none);
    `others_a` what the machine already draws through it, and `others` who. Delays are from key or engine to live, and to
    dead again. A pin of a connector names it (`plug`) and its `way`; only where its `function` is to feed can it be one.
    In a pin map `goes_to` is the other end of its wire, `new_colour` the new part's wire that takes its place, and
    `phase` marks it as one of those that may be joined in any order.
    """

    kind: Literal["tap"] = "tap"
    plug: Id | None = None
    way: Annotated[int, Field(ge=1, le=60)] | None = None
    function: PinFunction = "feed"
    live: Live = "key"
    rated_a: Annotated[float, Field(gt=0, le=60)] = 5
    source_mohm: Annotated[float, Field(ge=1, le=5000)] = 60
    fused_a: Annotated[float, Field(ge=1, le=60)] | None = 10
    unfused: bool = False
    others_a: Annotated[float, Field(ge=0, le=60)] = 0
    on_delay_s: Annotated[float, Field(ge=0, le=600)] = 0
    off_delay_s: Annotated[float, Field(ge=0, le=3600)] = 0
    never: NeverTapped = ""
    wire_colour: Annotated[str, Field(max_length=20), ONE_LINE] = ""
    others: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    goes_to: Annotated[str, Field(max_length=80), ONE_LINE] = ""
    new_colour: Annotated[str, Field(max_length=20), ONE_LINE] = ""
    phase: bool = False
    rating: Literal["stated", "believed safe"] = "believed safe"
    standing: Standing = "found"


class Block(_Part):
    """A fuse block with a return bar: constant ways, and ways behind relays for key and engine."""

    kind: Literal["block"] = "block"
    ways: Annotated[int, Field(ge=1, le=24)] = 6


class Module(_Part):
    """A solid-state distribution module with a return bar: its ways limit and switch by themselves, without relays.

    `total_a` is what all its ways together may carry; its key and engine inputs only sense.
    """

    kind: Literal["module"] = "module"
    ways: Annotated[int, Field(ge=1, le=24)] = 6
    total_a: Annotated[float, Field(gt=0, le=200)] = 40
    way_most_a: Annotated[float, Field(gt=0, le=60)] = 15
    way_mohm: Annotated[float, Field(ge=0.5, le=100)] = 8


class FusePart(_Part):
    """A blade fuse in its holder; `rating_a` null leaves the rating to Loadstar. `volts_v` is what it may break."""

    kind: Literal["fuse"] = "fuse"
    rating_a: BladeRating | None = None
    volts_v: Literal[32, 58, 80, 125] = 32


class Way(_Part):
    """One way of a distribution module: switches by its module's inputs, limits at `limit_a` (null: Loadstar's)."""

    kind: Literal["way"] = "way"
    live: Live = "key"
    limit_a: Annotated[float, Field(ge=1, le=60)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=100)] = 8


class Relay(_Part):
    """A changeover relay of the ISO 7588 kind, used normally open.

    `contact_a` is the contact's resistive rating (null: Loadstar's choice); `pull_in_v` is at 20 C; `hold_v` is the least that
    keeps it closed once it is (null: two fifths of that, usual).
    """

    kind: Literal["relay"] = "relay"
    contact_a: Annotated[float, Field(gt=0, le=200)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=100)] = 3
    coil_ohm: Annotated[float, Field(ge=10, le=1000)] = 90
    pull_in_v: Annotated[float, Field(ge=1, le=12)] = 8.0
    hold_v: Annotated[float, Field(ge=0.1, le=12)] | None = None
    suppression: Literal["none", "diode", "resistor"] = "resistor"

    @property
    def holds_v(self) -> float:
        """Below this a closed relay lets go."""
        return self.hold_v if self.hold_v is not None else USUAL_HOLD_SHARE * self.pull_in_v


class Switch(_Part):
    """A switch in one conductor, closed in the states named. `contact_a` null leaves the contact's rating to Loadstar."""

    kind: Literal["switch"] = "switch"
    closed_in: tuple[States, ...] = STATES
    contact_a: Annotated[float, Field(gt=0, le=200)] | None = None
    contact_mohm: Annotated[float, Field(ge=0.1, le=1000)] = 10


class Junction(_Part):
    """A stud, bus bar or splice: every wire on it meets at one point."""

    kind: Literal["junction"] = "junction"
    form: Literal["splice", "bus bar", "stud", "star point"] = "splice"
    terminals: Annotated[int, Field(ge=1, le=24)] = 8


class FramePoint(_Part):
    """A terminal screwed to the frame: its joint's resistance now; the plan is judged at that times its ageing."""

    kind: Literal["frame"] = "frame"
    joint_mohm: Annotated[float, Field(ge=0.05, le=500)] = 2
    ageing: Annotated[float, Field(ge=1, le=100)] = 5


class Starter(_Part):
    """The starter motor at the end of its leads: it draws the machine's cranking current."""

    kind: Literal["starter"] = "starter"


class KillWire(_Part):
    """An engine's kill wire: it stops the engine by being grounded and is never to be fed."""

    kind: Literal["kill"] = "kill"


class LoadPart(_Part):
    """An accessory: the intent it was added with, kept whole.

    `inrush_ms` is how long an inrush of shape "rectangle" lasts, or the time constant of a "decay" from its peak.
    `body` says whether its negative reaches the frame through its own mounting; `maker_fuse_a` the fuse its maker
    asks for.
    """

    kind: Literal["load"] = "load"
    category: Literal["lamp", "heating", "electronics", "tracker", "motor", "other"] = "other"
    behaviour: Literal["resistor", "power", "current", "filament"] = "power"
    amount: Annotated[float, Field(gt=0, le=2000)]
    unit: Literal["W", "A"] = "W"
    at_v: Annotated[float, Field(ge=5, le=100)] = 13.5
    window_low_v: Annotated[float, Field(ge=0, le=100)] = 10.5
    window_high_v: Annotated[float, Field(ge=5, le=150)] = 16
    inrush_a: Annotated[float, Field(ge=0, le=1000)] = 0
    inrush_ms: Annotated[float, Field(ge=0, le=5000)] = 0
    inrush_shape: Literal["rectangle", "decay"] = "rectangle"
    standby_ma: Annotated[float, Field(ge=0, le=5000)] = 0
    minutes_per_hour: Annotated[float, Field(ge=0, le=60)] = 60
    live: Live = "key"
    feed: Id
    returns: Literal["own wire", "frame"] = "own wire"
    body: Literal["isolated", "on the frame"] = "isolated"
    maker_fuse_a: BladeRating | None = None
    supplied_lead: Note = ""
    reason_always: Note = ""

    @property
    def power_w(self) -> float:
        """Watts at the stated voltage."""
        return self.amount if self.unit == "W" else self.amount * self.at_v

    @property
    def current_a(self) -> float:
        """Amps at the stated voltage."""
        return self.amount if self.unit == "A" else self.amount / self.at_v


AnyPart = (Battery | Generator | Coil | Pack | Drive | Converter | Port | Combiner | OwnLoad | Tap | Block | Module
           | FusePart | Way | Relay | Switch | Junction | FramePoint | Starter | KillWire | LoadPart)
Part = Annotated[AnyPart, Field(discriminator="kind")]

TERMINALS: dict[str, tuple[str, ...]] = {
    "battery": ("pos", "neg"), "generator": ("pos", "neg"), "coil": ("hot", "earth"), "pack": ("pos", "neg"),
    "drive": ("pos", "neg"), "converter": ("inp", "inn", "pos", "neg"), "port": ("pos", "neg"),
    "combiner": ("a", "b", "out"), "own": ("pos", "neg"), "tap": ("pin", "gnd"),
    "block": ("in", "always", "key", "engine", "ret"), "module": ("in", "key", "engine", "ret"), "fuse": ("a", "b"),
    "way": ("a", "b"), "relay": ("30", "87", "85", "86"), "switch": ("a", "b"), "junction": ("t",), "frame": ("t",),
    "starter": ("pos", "neg"), "kill": ("t",), "load": ("pos", "neg"),
}
PREFIX = {"battery": "BT", "generator": "G", "coil": "C", "pack": "PK", "drive": "D", "converter": "CV", "port": "LP",
          "combiner": "CB", "own": "M", "tap": "T", "block": "B", "module": "DM", "fuse": "F", "way": "Y",
          "relay": "K", "switch": "S", "junction": "J", "frame": "FR", "starter": "ST", "kill": "KW", "load": "L",
          "wire": "W", "place": "P", "run": "R", "plug": "AP", "reading": "RD", "table": "CT", "removed": "X"}
FEEDS: tuple[str, ...] = ("battery", "block", "module", "tap", "junction", "converter", "port", "pack", "coil")


class Wire(Doc):
    """A wire between two terminals. Null size or length: Loadstar chooses, or measures along the runs."""

    id: Id
    a: TerminalRef
    b: TerminalRef
    area_mm2: AreaMm2 | None = None
    length_m: Annotated[float, Field(ge=0.02, le=9.9)] | None = None
    insulation: InsulationCode | None = None
    wall: Literal["thin", "thick"] = "thin"
    colour: Colour = "BK"
    stripe: Colour = ""
    made_for: Id | None = None


class Join(Doc):
    """Two terminals that touch: a fuse plugged into its block."""

    a: TerminalRef
    b: TerminalRef


class Plug(Doc):
    """A connector as found on the machine: where, how it is reached, and what it looks like.

    Its pins are taps that name it. Their numbers are counted from the side in `seen`, with the latch where `latch` says.
    """

    id: Id
    name: Name
    place: Id
    use: Literal["accessory", "heated gear", "navigation", "alarm", "lamp", "brake lamp", "indicator", "horn", "diagnostic",
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


MeterState = Literal["key_off", "key_on", "cranking", "idle", "raised", "lamp_on"]
Quantity = Literal["V", "ohm", "A", "beep", "s"]


class Reading(Doc):
    """What an instrument showed: volts or amps of `element` in a state, ohms or a beep from it to the frame with the key
    off, or the seconds that it stays live after what `state` names has ended.

    `taken` is the time by ISO 8601. Of two like readings the later one counts.
    """

    id: Id
    element: Id
    quantity: Quantity
    state: MeterState = "key_off"
    value: Annotated[float, Field(ge=-1000, le=1e9)]
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
    terminals: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=24), ONE_LINE], ...], Field(min_length=2, max_length=16)]
    positions: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=24), ONE_LINE], ...], Field(min_length=1, max_length=12)] = (
        "as it is",)
    beeps: tuple[Beep, ...] = ()


class Removed(Doc):
    """A part taken off the machine, and where it is kept for the return to standard."""

    id: Id
    name: Name
    place: Id | None = None
    stored: Annotated[str, Field(max_length=120), ONE_LINE] = ""
    note: Note = ""


class HouseRules(Doc):
    """The workshop's ways as taken for this plan; `reasons` says why this plan departs from them, by field."""

    fuse_share_frac: Annotated[float, Field(ge=0.4, le=0.95)] = 0.75
    thermal_margin_k: Annotated[float, Field(ge=0, le=50)] = 15
    drop_lamp_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.05
    drop_heating_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    drop_electronics_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    drop_motor_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    drop_other_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    least_area_mm2: LeastAreaMm2 = 0.5
    insulation: InsulationCode = "B"
    tinned: bool = False
    ambient_open_c: Annotated[float, Field(ge=-20, le=120)] = 40
    ambient_tank_c: Annotated[float, Field(ge=-20, le=120)] = 60
    ambient_engine_c: Annotated[float, Field(ge=-20, le=120)] = 80
    end_allowance_m: Annotated[float, Field(ge=0, le=1)] = 0.08
    local_length_m: Annotated[float, Field(ge=0.02, le=2)] = 0.10
    contact_mohm: Annotated[float, Field(ge=0.01, le=50)] = 1.0
    crank_limit_v: Annotated[float, Field(ge=3, le=12)] = 9.6
    starter_drop_v: Annotated[float, Field(ge=0.1, le=3)] = 0.5
    parked_days: Annotated[float, Field(ge=1, le=365)] = 28
    unfused_limit_m: Annotated[float, Field(ge=0.02, le=1)] = 0.3
    stud_terminals: Annotated[int, Field(ge=1, le=8)] = 4
    chafe_arc_v: Annotated[float, Field(ge=0, le=20)] = 0
    returns: Literal["own wire", "frame"] = "own wire"
    joints: Literal["crimp only", "crimp then solder", "solder splice"] = "crimp only"
    covering: Literal["braided sleeve", "loom tape", "PVC tape"] = "braided sleeve"
    feeds: Literal["block", "relay", "module", "plug"] = "block"
    always_loads: Literal["allowed", "with a reason"] = "with a reason"
    reasons: dict[Annotated[str, Field(max_length=40), ONE_LINE], Note] = {}


class Plan(Doc):
    """One whole plan. `workshop_rules` are the workshop's house rules as they were when the plan was begun."""

    format: Literal["loadstar-plan"] = "loadstar-plan"
    version: Literal[4] = 4
    tables_edition: Annotated[str, Field(max_length=20), ONE_LINE] = TABLES_EDITION
    name: Name = "New plan"
    machine: Machine = Machine()
    places: tuple[Place, ...] = ()
    runs: tuple[Run, ...] = ()
    parts: tuple[Part, ...] = ()
    wires: tuple[Wire, ...] = ()
    joins: tuple[Join, ...] = ()
    plugs: tuple[Plug, ...] = ()
    readings: tuple[Reading, ...] = ()
    tables: tuple[Continuity, ...] = ()
    removed: tuple[Removed, ...] = ()
    rules: HouseRules = HouseRules()
    workshop_rules: HouseRules = HouseRules()
    counters: dict[Annotated[str, Field(pattern=r"^[A-Z]{1,2}$")], Annotated[int, Field(ge=0, le=999_999)]] = {}

    def part(self, part_id: str) -> "AnyPart":
        """The part with this id; KeyError when there is none."""
        return find(self.parts, part_id)

    def of_kind(self, kind: str) -> "tuple[AnyPart, ...]":
        """Parts of a kind, in document order."""
        return tuple(p for p in self.parts if p.kind == kind)

    @property
    def loads(self) -> tuple[LoadPart, ...]:
        """The accessories."""
        return tuple(p for p in self.parts if isinstance(p, LoadPart))

    @property
    def taps(self) -> tuple[Tap, ...]:
        """Found wires and pins that something could be fed or triggered from."""
        return tuple(p for p in self.parts if isinstance(p, Tap) and p.function == "feed")

    def pins(self, plug: str) -> tuple[Tap, ...]:
        """The pins of a connector that have been written down, by their numbers."""
        found = [p for p in self.parts if isinstance(p, Tap) and p.plug == plug]
        return tuple(sorted(found, key=lambda p: p.way or 0))

    def never(self, tap: Tap) -> NeverTapped:
        """The system a pin belongs to that is never tapped: its own mark, or its connector's."""
        return tap.never or next((p.never for p in self.plugs if p.id == tap.plug), "")

    @property
    def battery(self) -> Battery | None:
        """The machine's battery, if it has been entered."""
        return next((p for p in self.parts if isinstance(p, Battery)), None)

    @property
    def generator(self) -> Generator | None:
        """The machine's generator, if it has been entered."""
        return next((p for p in self.parts if isinstance(p, Generator)), None)

    @property
    def packs(self) -> tuple[Pack, ...]:
        """The traction packs."""
        return tuple(p for p in self.parts if isinstance(p, Pack))

    @property
    def supply(self) -> "Battery | Pack | Coil | None":
        """What the plan's circuits hang on: the battery, else the first pack, else the lighting coil."""
        found = self.battery or next(iter(self.packs), None)
        return found or next((p for p in self.parts if isinstance(p, Coil)), None)

    @property
    def states(self) -> tuple[States, ...]:
        """The states that this machine has."""
        if self.machine.system == "pack":
            return PACK_STATES
        return ENGINE_STATES if self.battery or self.machine.system in ("battery", "total_loss") else NO_BATTERY_STATES

    def place(self, place_id: str) -> Place:
        """The place with this id; KeyError when there is none."""
        return find(self.places, place_id)

    def ambient_at(self, place_id: str) -> float:
        """The air around the wires at a place: its zone's by the house rules, or its own."""
        place = self.place(place_id)
        zones = {"open": self.rules.ambient_open_c, "under the tank": self.rules.ambient_tank_c,
                 "near the engine": self.rules.ambient_engine_c}
        return zones.get(place.zone, place.ambient_c)

    def wire(self, wire_id: str) -> Wire:
        """The wire with this id; KeyError when there is none."""
        return find(self.wires, wire_id)


Element = TypeVar("Element", Place, Run, Wire, Plug, Reading, Continuity, Removed, AnyPart)


def find(elements: tuple[Element, ...], wanted: str) -> Element:
    """The element with this id; KeyError when there is none."""
    for element in elements:
        if element.id == wanted:
            return element
    raise KeyError(wanted)
