"""The plan document: machine, places and runs, parts, wires, house rules.

Every element has a short id from a counter per kind that never reuses a number. Parts are one tagged union; wires run
from terminal to terminal ("F2.b"); joins are terminals that touch without a wire. What people decided is stored; what
Loadstar chooses (a wire size, a fuse rating left to it) is null here and found by the analysis. All quantities carry
their unit in the name.
"""

from typing import Annotated, Literal, TypeVar, get_args

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ..materials import TABLES_EDITION
from ..materials.conductors import AREAS_MM2, INSULATIONS
from ..materials.fuses import RATINGS_A

FORMAT = "loadstar-plan"
VERSION = 1

States = Literal["parked", "key_on", "cranking", "idle", "town", "cruise"]
Live = Literal["always", "key", "engine"]
STATES: tuple[States, ...] = ("parked", "key_on", "cranking", "idle", "town", "cruise")
STATE_NAMES = {"parked": "Parked", "key_on": "Key on", "cranking": "Cranking", "idle": "Idle", "town": "Town",
               "cruise": "Cruise"}
LIVE_STATES: dict[Live, tuple[States, ...]] = {
    "always": STATES, "key": ("key_on", "cranking", "idle", "town", "cruise"), "engine": ("idle", "town", "cruise"),
}
RUNNING: tuple[States, ...] = ("idle", "town", "cruise")

Id = Annotated[str, Field(pattern=r"^[A-Z]{1,2}[0-9]{1,6}$")]
TerminalRef = Annotated[str, Field(pattern=r"^[A-Z]{1,2}[0-9]{1,6}\.[a-z0-9]{1,8}$")]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Note = Annotated[str, Field(max_length=400)]
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


class Doc(BaseModel):
    """Base of everything in the document: frozen, nothing unknown, no NaN or infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Machine(Doc):
    """The machine and the engine speeds that its states stand for."""

    name: Name = "New machine"
    kind: Literal["touring motorcycle", "motorcycle", "scooter", "utility bike"] = "motorcycle"
    system_v: Literal[12] = 12
    idle_rpm: Annotated[float, Field(ge=300, le=6000)] = 1300
    town_rpm: Annotated[float, Field(ge=500, le=12000)] = 3000
    cruise_rpm: Annotated[float, Field(ge=800, le=15000)] = 5000
    cranking_a: Annotated[float, Field(ge=0, le=600)] = 110

    def rpm(self, state: States) -> float:
        """Engine speed in a state; 0 when the engine does not run by itself."""
        return {"idle": self.idle_rpm, "town": self.town_rpm, "cruise": self.cruise_rpm}.get(state, 0.0)


class Place(Doc):
    """Somewhere on the machine: millimetres on the side elevation (rear axle is 0, up and forward positive)."""

    id: Id
    name: Name
    x_mm: Annotated[float, Field(ge=-800, le=3000)] = 0
    y_mm: Annotated[float, Field(ge=-400, le=2000)] = 0
    ambient_c: Annotated[float, Field(ge=-20, le=120)] = 40


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
    """A 12 V lead-acid battery. `charge_frac` is the charge that engine-off states are judged at."""

    kind: Literal["battery"] = "battery"
    chemistry: Literal["flooded", "agm"] = "agm"
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)]
    rate_h: Annotated[float, Field(ge=1, le=100)] = 10
    internal_mohm: Annotated[float, Field(ge=0.5, le=500)]
    charge_frac: Annotated[float, Field(ge=0.1, le=1)] = 0.8
    charge_a: Annotated[float, Field(ge=0, le=50)] = 1.0


class Generator(_Part):
    """A permanent-magnet generator with its rectifier and regulator, rated by two outputs at the battery."""

    kind: Literal["generator"] = "generator"
    phases: Literal[1, 3] = 3
    rating1_w: Annotated[float, Field(ge=1, le=3000)]
    rating1_rpm: Annotated[float, Field(ge=200, le=15000)]
    rating2_w: Annotated[float, Field(ge=1, le=3000)]
    rating2_rpm: Annotated[float, Field(ge=200, le=15000)]
    rating_v: Annotated[float, Field(ge=6, le=16)] = 14.2
    phase_ohm: Annotated[float, Field(ge=0.005, le=10)]
    diode_v: Annotated[float, Field(ge=0, le=2)] = 0.95
    regulator: Literal["shunt", "series"] = "series"
    set_v: Annotated[float, Field(ge=12.8, le=15.5)] = 14.2
    limit_a: Annotated[float, Field(ge=1, le=200)] | None = None


class OwnLoad(_Part):
    """What the machine itself uses (ignition, pump, lamps): constant power at the battery posts."""

    kind: Literal["own"] = "own"
    power_w: Annotated[float, Field(gt=0, le=2000)]
    live: Live = "engine"


class Tap(_Part):
    """A factory wire or plug that can be used without cutting: what it may give, and when it is live.

    `source_mohm` is the machine's own wiring from the battery and back; `fused_a` the factory fuse before it.
    """

    kind: Literal["tap"] = "tap"
    live: Live = "key"
    rated_a: Annotated[float, Field(gt=0, le=60)] = 5
    source_mohm: Annotated[float, Field(ge=1, le=5000)] = 60
    fused_a: Annotated[float, Field(ge=1, le=60)] | None = 10
    wire_colour: Annotated[str, Field(max_length=20)] = ""


class Block(_Part):
    """A fuse block with a return bar: constant ways, and ways behind relays for key and engine."""

    kind: Literal["block"] = "block"
    ways: Annotated[int, Field(ge=1, le=24)] = 6


class FusePart(_Part):
    """A blade fuse in its holder; `rating_a` null leaves the rating to Loadstar."""

    kind: Literal["fuse"] = "fuse"
    rating_a: BladeRating | None = None


class Relay(_Part):
    """A changeover relay of the ISO 7588 kind, used normally open."""

    kind: Literal["relay"] = "relay"
    contact_a: Annotated[float, Field(gt=0, le=200)] = 40
    contact_mohm: Annotated[float, Field(ge=0.1, le=100)] = 3
    coil_ohm: Annotated[float, Field(ge=10, le=1000)] = 90
    pull_in_v: Annotated[float, Field(ge=1, le=12)] = 8.0


class Switch(_Part):
    """A switch in one conductor, closed in the states named."""

    kind: Literal["switch"] = "switch"
    closed_in: tuple[States, ...] = STATES
    contact_a: Annotated[float, Field(gt=0, le=200)] = 10
    contact_mohm: Annotated[float, Field(ge=0.1, le=1000)] = 10


class Junction(_Part):
    """A stud, bus bar or splice: every wire on it meets at one point."""

    kind: Literal["junction"] = "junction"


class LoadPart(_Part):
    """An accessory: the intent it was added with, kept whole."""

    kind: Literal["load"] = "load"
    category: Literal["lamp", "heating", "electronics", "tracker", "motor", "other"] = "other"
    behaviour: Literal["resistor", "power", "current"] = "power"
    amount: Annotated[float, Field(gt=0, le=2000)]
    unit: Literal["W", "A"] = "W"
    at_v: Annotated[float, Field(ge=5, le=16)] = 13.5
    window_low_v: Annotated[float, Field(ge=0, le=16)] = 10.5
    window_high_v: Annotated[float, Field(ge=5, le=100)] = 16
    inrush_a: Annotated[float, Field(ge=0, le=1000)] = 0
    inrush_ms: Annotated[float, Field(ge=0, le=5000)] = 0
    standby_ma: Annotated[float, Field(ge=0, le=5000)] = 0
    minutes_per_hour: Annotated[float, Field(ge=0, le=60)] = 60
    live: Live = "key"
    feed: Id
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


Part = Annotated[
    Battery | Generator | OwnLoad | Tap | Block | FusePart | Relay | Switch | Junction | LoadPart,
    Field(discriminator="kind"),
]

TERMINALS: dict[str, tuple[str, ...]] = {
    "battery": ("pos", "neg"), "generator": ("pos", "neg"), "own": ("pos", "neg"), "tap": ("pin", "gnd"),
    "block": ("in", "always", "key", "engine", "ret"), "fuse": ("a", "b"), "relay": ("30", "87", "85", "86"),
    "switch": ("a", "b"), "junction": ("t",), "load": ("pos", "neg"),
}
PREFIX = {"battery": "BT", "generator": "G", "own": "M", "tap": "T", "block": "B", "fuse": "F", "relay": "K",
          "switch": "S", "junction": "J", "load": "L", "wire": "W", "place": "P", "run": "R"}


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


class HouseRules(Doc):
    """The workshop's ways as taken for this plan."""

    fuse_share_frac: Annotated[float, Field(ge=0.4, le=0.95)] = 0.75
    thermal_margin_k: Annotated[float, Field(ge=0, le=50)] = 15
    drop_lamp_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.05
    drop_other_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    least_area_mm2: LeastAreaMm2 = 0.5
    insulation: InsulationCode = "B"
    end_allowance_m: Annotated[float, Field(ge=0, le=1)] = 0.08
    local_length_m: Annotated[float, Field(ge=0.02, le=2)] = 0.10
    contact_mohm: Annotated[float, Field(ge=0.01, le=50)] = 1.0
    crank_limit_v: Annotated[float, Field(ge=6, le=12)] = 9.6
    parked_days: Annotated[float, Field(ge=1, le=365)] = 28
    unfused_limit_m: Annotated[float, Field(ge=0.02, le=1)] = 0.3
    stud_terminals: Annotated[int, Field(ge=1, le=8)] = 4


class Plan(Doc):
    """One whole plan."""

    format: Literal["loadstar-plan"] = "loadstar-plan"
    version: Literal[1] = 1
    tables_edition: Annotated[str, Field(max_length=20)] = TABLES_EDITION
    name: Name = "New plan"
    machine: Machine = Machine()
    places: tuple[Place, ...] = ()
    runs: tuple[Run, ...] = ()
    parts: tuple[Part, ...] = ()
    wires: tuple[Wire, ...] = ()
    joins: tuple[Join, ...] = ()
    rules: HouseRules = HouseRules()
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
    def battery(self) -> Battery | None:
        """The machine's battery, if it has been entered."""
        return next((p for p in self.parts if isinstance(p, Battery)), None)

    @property
    def generator(self) -> Generator | None:
        """The machine's generator, if it has been entered."""
        return next((p for p in self.parts if isinstance(p, Generator)), None)

    def place(self, place_id: str) -> Place:
        """The place with this id; KeyError when there is none."""
        return find(self.places, place_id)

    def wire(self, wire_id: str) -> Wire:
        """The wire with this id; KeyError when there is none."""
        return find(self.wires, wire_id)


AnyPart = Battery | Generator | OwnLoad | Tap | Block | FusePart | Relay | Switch | Junction | LoadPart
Element = TypeVar("Element", Place, Run, Wire, AnyPart)


def find(elements: tuple[Element, ...], wanted: str) -> Element:
    """The element with this id; KeyError when there is none."""
    for element in elements:
        if element.id == wanted:
            return element
    raise KeyError(wanted)
