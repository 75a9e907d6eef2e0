"""A generator with its rectifier and regulator."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..doc.machine import Machine, SystemKind
from ..doc.states import States
from ..doc.types import AreaMm2, Id
from ..physics import elements as net
from ..physics import generator as alternator
from .asks import Ask, name, place, whole
from .base import Glance, Part
from .inside import ABSENT, RAIL_NEGATIVE, RAIL_POSITIVE, Drives, Inside, Limit
from .terminals import OWN_LEAD, PartTerminal, terminals

LEAST_SHORT_A = 1e-3


class Generator(Part):
    """A generator with its rectifier and regulator, rated by two outputs at the battery.

    Permanent magnets with a shunt or series regulator, or a field winding ("field") that the regulator weakens.
    `winding_at` is the place of the winding, where its leads to the regulator begin, `winding_mm2` their size as found
    or decided (null: Loadstar chooses). `tied` says whether an end of the winding is on the frame; `rectifier` how its
    current is turned to DC.
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
    winding_at: Id | None = None
    winding_mm2: AreaMm2 | None = None

    PREFIX: ClassVar[str] = "G"
    TITLE: ClassVar[str] = "Generator"
    GROUP: ClassVar[str] = "Generator"
    ADD_WORDS: ClassVar[str] = "Enter the generator"
    FITS: ClassVar[tuple[SystemKind, ...]] = ("battery", "ignition_only")
    TERMINALS: ClassVar[tuple[PartTerminal, ...]] = terminals(OWN_LEAD, "pos", "neg")
    ASKS: ClassVar[tuple[Ask, ...]] = (
        name(), place("Where its regulator sits"), whole("phases", "Phases", (3, 1)),
        Ask("rating1_w", "Output at low speed"), Ask("rating1_rpm", "at"),
        Ask("rating2_w", "Output at high speed"), Ask("rating2_rpm", "at"),
        Ask("rating_v", "both as battery current times"),
        Ask("phase_ohm", "Resistance of a phase, hot",
            "Half of what is read between two leads, times 1.3 for the heat."),
        Ask("diode_v", "Drop of one rectifier diode"),
        Ask("regulator", "Regulator", kind="choice",
            choices=(("series", "series"), ("shunt", "shunt"), ("field", "field winding"))),
        Ask("set_v", "Regulator set-point"), Ask("limit_a", "Regulator limit, if known", optional=True),
        Ask("field_a", "Field current, if it has one"),
        Ask("tied", "The winding's end is", kind="choice",
            choices=(("floating", "on nothing: it floats"), ("frame", "on the frame"))),
        Ask("winding_at", "Its winding sits at", "Empty: its leads are not looked at.", kind="choice", optional=True),
        Ask("winding_mm2", "Winding leads", "Empty: Loadstar chooses.", kind="choice", optional=True),
        Ask("rectifier", "Rectifier", kind="choice", choices=(("full", "full-wave"), ("half", "half-wave"))))
    MOST: ClassVar[int] = 1
    POLES: ClassVar[tuple[str, ...]] = ("pos", "neg")
    MAIN_WORDS: ClassVar[str] = "Charging"
    GIVES: ClassVar[bool] = True
    WRONG_WAY: ClassVar[str] = "The battery shorts itself through the rectifier's diodes, and they burn."

    @property
    def is_half_wave(self) -> bool:
        """Whether its rectifier uses one half of the wave only."""
        return self.rectifier == "half"

    @property
    def winding(self) -> alternator.Winding:
        """The winding that the plate's two ratings stand for. Raises GeneratorError when none fits."""
        return alternator.identify(
            ((self.rating1_rpm, self.rating1_w / self.rating_v + self.field_a),
             (self.rating2_rpm, self.rating2_w / self.rating_v + self.field_a)),
            self.phase_ohm, self.rating_v, self.diode_v, self.phases, self.is_half_wave)

    def available_a(self, rpm: float, posts_v: float) -> float:
        """What it can give into the posts at a speed, up to the regulator's limit."""
        if rpm <= 0:
            return 0.0
        given = alternator.rectified_a(self.winding, rpm, posts_v, self.diode_v, self.is_half_wave)
        return self._limited(max(0.0, given - self.field_a))

    def short_a(self, machine: Machine) -> float:
        """What it gives into a short at cruising speed: its rectified winding at no voltage, or the regulator's
        limit."""
        given = alternator.rectified_a(self.winding, machine.cruise_rpm, 0.0, self.diode_v, self.is_half_wave)
        return max(self._limited(given), LEAST_SHORT_A)

    def _limited(self, amps: float) -> float:
        return amps if self.limit_a is None else min(amps, self.limit_a)

    def glance(self, machine: Machine, where: str) -> Glance:
        return (f"at {self.rating2_rpm:g} rpm", self.rating2_w, "W")

    def inside(self, machine: Machine) -> Inside:
        """A source that does not turn, until a state drives it; on the rail, where its leads are not drawn."""
        return Inside(branches=(), elements=(net.Source(self.id, self.at("pos"), self.at("neg"), 1.0),), shorted=(),
                      on_rail=((self.at("pos"), RAIL_POSITIVE), (self.at("neg"), RAIL_NEGATIVE)))

    def drives(self, state: States, machine: Machine, *, empty: bool) -> Drives:
        """Nothing by itself: its regulator follows what it makes (wiring/sources.py)."""
        return ABSENT

    def drives_fault(self, machine: Machine, *, strong: bool, alone: bool) -> Drives:
        """On leads of its own its short-circuit current; on the rail it gives nothing that the battery does not."""
        return Drives(1.0, -self.set_v / self.short_a(machine), self.set_v) if alone else ABSENT

    def limit(self, machine: Machine) -> Limit:
        """It gives no more than its short-circuit current."""
        return Limit(self.short_a(machine), "alone")

    def contradictions(self) -> Iterator[tuple[str, str]]:
        """Its second rating is the higher."""
        if self.rating2_rpm <= self.rating1_rpm or self.rating2_w <= self.rating1_w:
            yield "rating2_rpm", ("The generator's second rating must be at a higher speed and give more watts than "
                                  "the first.")
