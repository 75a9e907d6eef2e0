"""Small plans for tests, made by the same edits that people use."""

from typing import Any

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import AddElement, ChangeElement, Edit, SetMachine, SetRules, SetWire, apply
from loadstar.core.findings import Finding
from loadstar.core.materials.fuses import Curve
from loadstar.core.parts.load import LoadPart
from loadstar.core.plan.model import Plan
from loadstar.core.sizing.argument import Duty
from loadstar.core.sizing.openers import Guard, Opener
from loadstar.core.whatif.cures import Cures
from loadstar.core.wiring.conductor import ConductorAt

BEAM = {"category": "lamp", "behaviour": "filament", "at_v": 12, "window_low_v": 0}


class Bench:
    """A plan under construction. `Bench()` has a battery box, a nose place 1.2 m away, battery, key wire and block."""

    def __init__(self, *, generator: bool = True, battery: bool = True) -> None:
        self.plan = Plan()
        self.box = self.add("place", name="box", ambient_c=40)
        self.nose = self.add("place", name="nose", ambient_c=40, x_mm=1200)
        self.run = self.add("run", a=self.box, b=self.nose, length_m=1.2)
        if battery:
            self.battery = self.add("battery", name="battery", place=self.box, capacity_ah=12, internal_mohm=12,
                                    chemistry="agm", charge_frac=0.8)
            self.key = self.add("tap", name="key wire", place=self.box, live="key", rated_a=3, fused_a=5)
            self.engine = self.add("tap", name="run line", place=self.box, live="engine", rated_a=3, fused_a=5)
            self.block = self.add("block", name="block", place=self.box, ways=6)
        if generator:
            self.add("generator", name="generator", place=self.box, rating1_w=120, rating1_rpm=1300, rating2_w=340,
                     rating2_rpm=5000, phase_ohm=0.28)
            self.add("own", name="ignition", place=self.box, power_w=100, live="engine")

    def add(self, what: str, **values: Any) -> str:
        """Add an element; its id."""
        before = {e.id for e in (*self.plan.places, *self.plan.runs, *self.plan.parts)}
        self.plan = apply(self.plan, AddElement.model_validate({"what": what, "values": values}))
        new = [e for e in (*self.plan.places, *self.plan.runs, *self.plan.parts) if e.id not in before]
        return next(e.id for e in new if getattr(e, "kind", what) == what)

    def lamp(self, amount: float = 18, **values: Any) -> str:
        """Add a lamp at the nose, with the key, from the block."""
        return self.load(**{"name": "lamp", "category": "lamp", "amount": amount, "place": self.nose, **values})

    def load(self, **values: Any) -> str:
        """Add an accessory."""
        return self.add("load", **{"name": "thing", "amount": 10, "place": self.nose, "feed": self.block, "live": "key",
                                   **values})

    def change(self, element: str, **values: Any) -> None:
        """Change an element."""
        self.plan = apply(self.plan, ChangeElement(id=element, values=values))

    def machine(self, **values: Any) -> None:
        """Change the machine."""
        self.plan = apply(self.plan, SetMachine(values=values))

    def rules(self, **values: Any) -> None:
        """Change house rules."""
        self.plan = apply(self.plan, SetRules(values=values))

    def wire(self, wire: str, **values: Any) -> None:
        """Fix something of a wire."""
        self.plan = apply(self.plan, SetWire(id=wire, values=values))

    def feed_wire(self, load: str) -> str:
        """The wire that ends at a load's positive terminal."""
        return next(w.id for w in self.plan.wires if w.b == f"{load}.pos")

    def fuse_of(self, load: str) -> str:
        """The load's own fuse."""
        return next(p.id for p in self.plan.parts if p.kind == "fuse" and p.made_for == load)

    def part(self, load: str) -> LoadPart:
        """A load's part."""
        part = self.plan.part(load)
        assert isinstance(part, LoadPart)
        return part


def behind_fuse(area_mm2: float, rating_a: float, air_c: float, insulation: str = "B", fault_a: float = 200.0,
                curve: Curve = "fuse", **guard: Any) -> Duty:
    """A thin-wall wire alone behind a fuse, carrying nothing in use."""
    wire = ConductorAt(area_mm2, "thin", insulation, False, 1.0)
    return Duty(wire, air_c, 0.0, Guard("W1", Opener("F1", curve, rating_a, 1.0), fault_a, **guard))


def wide_plan(loads: int = 66, least_wires: int = 200) -> Plan:
    """A plan with two to three wires for each load, spread over eight places; larger ones share the same watts out."""
    b = Bench()
    places = [b.add("place", name=f"spot {n}", ambient_c=35 + n) for n in range(6)]
    for n, place in enumerate(places):
        b.add("run", a=b.nose if n % 2 else b.box, b=place, length_m=0.3 + 0.1 * n)
    blocks = [b.block, *(b.add("block", name=f"block {n}", place=places[n], ways=24) for n in range(3))]
    b.change(b.block, ways=24)
    for n in range(loads):
        b.load(name=f"load {n}", amount=(2 + n % 7) * min(1.0, 66 / loads),
               behaviour=("power", "resistor", "current")[n % 3],
               unit="A" if n % 3 == 2 and n % 7 < 1 else "W", place=places[(n * 5) % 6], feed=blocks[n % 4],
               live=("key", "engine", "always")[n % 3] if n % 5 else "key")
    while len(b.plan.wires) < least_wires:
        b.load(name=f"more {len(b.plan.wires)}", amount=3, place=places[2], feed=blocks[1])
    return b.plan


def cure(finding: Finding, of: Plan | Analysis) -> Edit | None:
    """The edit that mends a finding of a plan, or of its analysis; None where none does."""
    found = Cures(of if isinstance(of, Analysis) else analyse(of)).of(finding)
    return found.edit if found else None


def sentences(plan: Plan) -> dict[str, str]:
    """The sentences of a plan's findings, by rule."""
    return {f.rule: f.sentence for f in analyse(plan).findings}


def head_lamp(positions: str = "off; dip: in+dip; main: in+main", **values: Any) -> tuple[Bench, str, str, str]:
    """A bench with a head lamp of two beams on a switch."""
    b = Bench()
    switch = b.add("selector", name="lamp switch", place=b.nose, feed=b.block, positions=positions, **values)
    dip = b.load(name="dip", amount=55, feed=switch, live="dip", **BEAM)
    main = b.load(name="main", amount=60, feed=switch, live="main", **BEAM)
    return b, switch, dip, main


def brakes() -> tuple[Bench, str, str, str]:
    b = Bench()
    lever = b.add("selector", name="lever", use="brake switch", place=b.nose, feed=b.block,
                  positions="off; brake: in+out")
    pedal = b.add("selector", name="pedal", use="brake switch", place=b.box, beside=lever,
                  positions="off; brake: in+out")
    return b, lever, pedal, b.load(name="brake lamp", amount=21, feed=lever, live="brake", place=b.box, **BEAM)
