"""What wire, and what fuse: a plan of one circuit is made, sized and computed."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..amounts import percent
from ..analysis import judged
from ..doc.rules import HouseRules
from ..doc.states import States
from ..doc.types import AreaMm2
from ..edits.builder import Builder
from ..errors import refuse
from ..figures.figures import Figures, compute
from ..figures.registry import working
from ..figures.sizes import heat_reason
from ..figures.wires import WireResult
from ..figures.working import Working
from ..materials.conductors import STOCKS, gauge_label, resistance_ohm_per_m
from ..materials.fuses import USUAL_V, fuse_for, rerated_a, words
from ..materials.typical import CELLS, MIDDLE
from ..parts.asks import Ask, whole
from ..parts.fuse import FusePart
from ..parts.load import LoadPart
from ..plan.model import Plan
from ..sizing.drops import drop_limit_frac
from ..sizing.ratings import rating_faults
from .base import SIZES, Answer, Question, Table

AT_FUSE_M = 0.15  # from the battery's post to the fuse
LOAD_V = {6: 6.7, 12: 13.5}  # at which an accessory's amps or watts are stated
SUPPLIES: tuple[Literal[6, 12, 36, 48, 52, 60], ...] = (6, 12, 36, 48, 52, 60)
LEAST_OF_NOMINAL, MOST_OF_NOMINAL = 0.6, 1.5  # volts that the load takes here: how low it may be is the load's own
PACK_FIRST_V = 36
TWO = 2  # wires of a circuit
GRAVE = ("stop", "caution")
NOT_ASKED = ("at_v", "behaviour")  # of what it draws
ABOUT_THE_MACHINE = ("budget.", "load.always")  # that nobody has asked about
FIRST_C = 50.0  # where the search for a size begins


@dataclass(frozen=True)
class OneCircuit:
    """A circuit from the battery or pack, through a fuse, to something and back: its wires, the one that goes out, and
    what is at its ends."""

    plan: Plan
    ways: tuple[str, ...]
    out: str
    load: str
    fuse: str

    def fixed(self, area_mm2: float) -> "OneCircuit":
        """The same in wires of a size, those of its loom too: they are all alike."""
        wires = tuple(w.model_copy(update={"area_mm2": area_mm2}) for w in self.plan.wires)
        return replace(self, plan=self.plan.model_copy(update={"wires": wires}))


class WireQuestion(Question):
    """So many amps or watts over so many metres: which wire and which fuse, or whether one that is there does."""

    KEY: ClassVar[str] = "wire"
    TITLE: ClassVar[str] = "What wire, what fuse?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        whole("system_v", "Supply", SUPPLIES, "{} V"),
        Ask("amount", "It draws", unit=""),
        Ask("unit", "Given in", kind="choice", choices=(("A", "amps"), ("W", "watts"))),
        Ask("length_m", "How far, one way"),
        Ask("returns", "Returns by", kind="choice", choices=(("own wire", "a wire"), ("frame", "the frame"))),
        whole("in_loom", "Wires in the loom, all loaded alike", (2, 4, 6, 8, 12)),
        Ask("ambient_c", "Air around it"),
        Ask("area_mm2", "Is this one enough?", kind="choice", choices=(("", "find the smallest"), *SIZES),
            optional=True))

    system_v: Literal[6, 12, 36, 48, 52, 60] = 12
    amount: Annotated[float, Field(gt=0, le=500)] = 6
    unit: Literal["A", "W"] = "A"
    length_m: Annotated[float, Field(ge=0.05, le=8)] = 1.5
    returns: Literal["own wire", "frame"] = "own wire"
    in_loom: Literal[2, 4, 6, 8, 12] = 2
    ambient_c: Annotated[float, Field(ge=-20, le=90)] = 40
    area_mm2: AreaMm2 | None = None

    def circuit(self, rules: HouseRules) -> OneCircuit:
        """The plan of it: the battery or pack of a machine of middle size, a fuse at its post, as many circuits alike
        as lie in one loom."""
        b = Builder(f"{self.amount:g} {self.unit} over {self.length_m:g} m", Plan(rules=rules))
        traction = self.system_v >= PACK_FIRST_V
        b.machine(name="One circuit", kind="cargo e-bike" if traction else "motorcycle", system_v=self.system_v,
                  system="pack" if traction else "battery", chassis="floating" if traction else "negative")
        here, there = (b.add("place", name=name, x_mm=x, ambient_c=self.ambient_c)
                       for name, x in (("at the supply", 0), ("at the load", min(3000, round(1000 * self.length_m)))))
        b.add("run", a=here, b=there, length_m=self.length_m)
        supply = self._supply(b, here)
        for number in reversed(range(self.in_loom // TWO)):
            load = b.add("load", name="the load" if not number else f"another, {number}", place=there, feed=supply,
                         live="always", reason_always="asked without a machine", returns=self.returns,
                         window_low_v=LEAST_OF_NOMINAL * self.system_v, window_high_v=MOST_OF_NOMINAL * self.system_v,
                         typical=(*NOT_ASKED, "window_low_v", "window_high_v"), **self.draws())
            out, back = b.wire_to(f"{load}.pos"), b.wire_to(f"{load}.neg")
            fuse = next(w.a.part for w in b.plan.wires if w.id == out)
            to_fuse = b.wire_to(f"{fuse}.a")
            chosen = b.plan.is_one(fuse, FusePart)
            b.change(fuse, **self._kind_of_fuse(rules, chosen.volts_v if chosen else USUAL_V))
            b.fix(to_fuse, length_m=AT_FUSE_M)
            for way in (out, back) if self.returns == "own wire" else (out,):
                b.fix(way, length_m=self.length_m)
        return OneCircuit(b.plan, (to_fuse, out, back), out, load, fuse)

    def draws(self) -> dict[str, Any]:
        """What it draws, as an accessory of a plan says it."""
        return {"category": "other", "amount": self.amount, "unit": self.unit,
                "behaviour": "current" if self.unit == "A" else "power",
                "at_v": LOAD_V.get(self.system_v, self.system_v)}

    def _kind_of_fuse(self, rules: HouseRules, volts_v: int) -> dict[str, Any]:
        """The first kind that comes for so many amps and breaks these volts; nothing to say where blades do."""
        amps = self.amount if self.unit == "A" else self.amount / (LEAST_OF_NOMINAL * self.system_v)
        pattern, volts_v = fuse_for(volts_v, amps / rerated_a(rules.fuse_share_frac, self.ambient_c))
        return {} if pattern == "blade" else {"pattern": pattern, "volts_v": volts_v}

    def _supply(self, b: Builder, here: str) -> str:
        if self.system_v >= PACK_FIRST_V:
            if self.returns == "frame":
                raise refuse("", "returns", "A pack's negative is not on the frame: it returns by a wire.")
            return b.add("pack", name="pack", place=here, series=CELLS[self.system_v], typical=(
                "chemistry", "series", "parallel", "cell_ah", "cell_mohm", "extra_mohm", "charge_frac",
                "bms_continuous_a", "bms_peak_a", "charge_limit_a"))
        return b.add("battery", name="battery", place=here, nominal_v=self.system_v,
                     capacity_ah=MIDDLE.battery_ah.usual, internal_mohm=MIDDLE.internal_mohm.usual,
                     typical=("chemistry", "capacity_ah", "internal_mohm", "charge_frac", "charge_a"))

    def answer(self, rules: HouseRules) -> Answer:
        """The smallest size for both ways, or what the size that is asked about does."""
        circuit = self.circuit(rules)
        if self.area_mm2 is None:
            return _answer(self, self._least(circuit), None)
        tried = self._tried(circuit, self.area_mm2)
        return _answer(self, tried, self._least(circuit, self.area_mm2) if tried.why else None)

    def beside(self, rules: HouseRules) -> tuple[Table, ...]:
        """The same circuit in each of the sizes about it."""
        circuit = self.circuit(rules)
        asked_mm2 = self.area_mm2 or self._least(circuit).area_mm2
        sizes = sorted({*STOCKS[rules.sizes], asked_mm2})
        at = sizes.index(asked_mm2)
        about = [self._tried(circuit, area) for area in sizes[max(0, at - 2):at + 3]]
        rows = tuple((_named(t.area_mm2), "-" if math.isnan(t.lost) else f"{100 * t.lost:.1f} %",
                      f"{t.result.hottest_c:.0f} °C", t.fuse or "none", t.why or "fits") for t in about)
        return (Table("The sizes about it", ("Size", "Lost", "Wire", "Fuse", "Verdict"), rows, min(at, 2)),)

    def _least(self, circuit: OneCircuit, over_mm2: float = 0.0) -> "Tried":
        """The circuit in the smallest size over one that does not, or in the largest there is. The search begins where
        its copper alone would lose what the house allows; what is told has been tried, and the next smaller one, too.
        """
        stock = sorted(STOCKS[circuit.plan.rules.sizes])
        sizes = [a for a in stock if a > over_mm2] or stock[-1:]
        volts = LOAD_V.get(self.system_v, self.system_v)
        amps = self.amount if self.unit == "A" else self.amount / volts
        ways = 2 if self.returns == "own wire" else 1
        ohm_per_m = circuit.plan.rules.drop_other_frac * volts / (amps * ways * self.length_m)
        at = next((n for n, a in enumerate(sizes) if resistance_ohm_per_m(a, FIRST_C) <= ohm_per_m), len(sizes) - 1)
        found = self._tried(circuit, sizes[at])
        if found.why:
            for area in sizes[at + 1:]:
                if not (found := self._tried(circuit, area)).why:
                    break
            return found
        while at and not (smaller := self._tried(circuit, sizes[at - 1])).why:
            at, found = at - 1, smaller
        return found

    def _tried(self, circuit: OneCircuit, area_mm2: float) -> "Tried":
        fixed = circuit.fixed(area_mm2)
        return Tried(area_mm2, fixed, compute(fixed.plan), "on" if self.system_v >= PACK_FIRST_V else "key_on")


@dataclass(frozen=True)
class Tried:
    """The circuit in wires of one size, computed; `state` is that in which it hangs on the supply alone."""

    area_mm2: float
    circuit: OneCircuit
    figures: Figures
    state: States

    @property
    def result(self) -> WireResult:
        """The wire out."""
        return self.figures.wires[self.circuit.out]

    @property
    def _load(self) -> LoadPart:
        return next(p for p in self.figures.plan.loads if p.id == self.circuit.load)

    @property
    def lost(self) -> float:
        """Share of the supply's volts that is lost on the way there and back; NaN where it is not fed."""
        frac = self.figures.volts.drop_frac(self._load, self.state)
        return math.nan if frac is None else frac

    @property
    def fuse(self) -> str:
        """The fuse that was chosen, as it is bought; "" where none carries the load and guards the wire."""
        part, sized = self.figures.plan.is_one(self.circuit.fuse, FusePart), self.figures.sized
        rating = sized.choices.rating_a.get(self.circuit.fuse) if sized else None
        if part is None or rating is None or not self.result.coordination.protected:
            return ""
        if any(rating_faults(self.figures.topology, part.id, rating, self.figures.ratings.peak_a(part.id))):
            return ""
        return words(part.pattern, rating, part.volts_v, colour=True)

    @property
    def why(self) -> str:
        """Why this size does not do; "" where it does."""
        rules, limit = self.figures.plan.rules, drop_limit_frac(self.figures.plan, self._load)
        if math.isnan(self.lost):
            return "the load gets no current through it"
        for wire in self.circuit.ways:
            if reason := heat_reason(rules, self.figures.wires[wire].coordination, "the fuse"):
                return reason
        if not self.fuse:
            return "no fuse carries the load and protects it"
        if self.lost > limit + 1e-9:
            return f"loses more than {percent(limit)}"
        least = rules.least_area_mm2
        return f"thinner than the house rule, {least:g} mm²" if self.area_mm2 < least else ""

    @property
    def findings(self) -> tuple[str, ...]:
        """What a plan with this circuit would be told besides, of the circuit and its supply."""
        mine = {*self.circuit.ways, self.circuit.load, self.circuit.fuse, *(s.id for s in self.figures.source.stores)}
        found = judged(self.figures).findings
        return tuple(f.sentence for f in found if f.severity in GRAVE and mine & set(f.elements)
                     and not f.rule.startswith(ABOUT_THE_MACHINE))


def _answer(question: WireQuestion, tried: Tried, better: Tried | None) -> Answer:
    """In words; its figures are those of the plan. `better` is the circuit in another size, where this one does not
    do."""
    named, why, circuit = _named(tried.area_mm2), tried.why, tried.circuit
    if question.area_mm2:
        instead = f" {_named(better.area_mm2)} is." if better and not better.why else ""
        said = f"No, {named} is not enough: {why}.{instead}" if why else f"Yes, {named} is enough, with a {tried.fuse}."
    else:
        said = f"No listed size is enough. Of {named}: {why}." if why else f"{named}, with a {tried.fuse}."
    if math.isnan(tried.lost):
        return Answer(said, grave=True)
    keys = {f"drop/{circuit.load}/{tried.state}": "Lost on the way",
            f"load_v/{circuit.load}/{tried.state}": "Volts at the load", f"use_c/{circuit.out}": "Wire in use"}
    if tried.result.guard:
        keys |= {f"steady_c/{circuit.out}": "Wire at the most that the fuse carries for hours",
                 f"share/{circuit.fuse}": "Load, of the fuse's rating",
                 f"chafe/{circuit.out}": "If it touches bare metal, the fuse opens within"}
    minded = [*tried.findings, f"A short at the far end drives about {tried.result.fault_a:.0f} A through it."]
    if question.unit == "W":
        minded.append("At constant power it draws more amps as the volts fall.")
    if question.in_loom > TWO:
        minded.append(f"All {question.in_loom} wires of the loom are taken to be loaded alike, at the same time.")
    minded.append(f"The supply is a {'pack' if question.system_v >= PACK_FIRST_V else 'battery'} of usual size, "
                  "at the charge that plans are judged at.")
    return Answer(said, tuple(_workings(tried.figures, keys)), tuple(minded), (), circuit.plan, bool(why))


def _workings(figures: Figures, keys: dict[str, str]) -> Iterator[Working]:
    for key, told in keys.items():
        if not (key.startswith("chafe") and key.split("/")[1] not in figures.chafes):
            yield replace(working(figures, key), title=told)


def _named(area_mm2: float) -> str:
    return f"{area_mm2:g} mm² ({gauge_label(area_mm2)})"
