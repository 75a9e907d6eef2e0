"""What lies in each run of a plan: its wires, how thick they are together, covering, ties, grams; and the board."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from ..doc.places import Run
from ..materials.coverings import SHRINK_LOSS, Shrink, Sleeve, covered_mm, shrink_for, sleeve_for, tape_m
from ..plan.model import Plan
from ..wiring.conductor import conductor
from ..wiring.topology import Topology
from .board import Board, Stretch, lay_out
from .fittings import Fitting, fittings
from .lengths import Steering, Sweep, cut_m, lay_factor, sweep
from .loops import Cut, Through, cuts
from .mass import copper_grams_per_m, grams_per_m
from .packing import bounds_mm, laid_mm
from .ties import tie_points_mm

TIE_G = 0.6  # one of 2.5 mm by 100, usual
TAPE_G_M = 4.2  # loom tape of 19 mm, usual
GUARDS = ("edge trim", "heat sleeve", "spiral wrap", "clip with rubber")  # what is bought against hazards
BY_THE_PIECE = ("edge trim", "clip with rubber")


@dataclass(frozen=True)
class Bundle:
    """The wires of a run: their ids and diameters (mm), how many metres of them lie in it, and what they weigh, g.
    `laid`: something in it is laid in for this work; what is there already stays as it is held.
    `made` are those that get an end in it: only these go through a sleeve."""

    run: Run
    wires: tuple[str, ...]
    diameters_mm: tuple[float, ...]
    wires_m: float
    wires_g: float
    copper_g: float
    covering: str
    laid: bool
    made: tuple[str, ...]

    @property
    def length_mm(self) -> float:
        """Of the run."""
        return self.run.length_m * 1000

    @cached_property
    def laid_mm(self) -> float:
        """Across, as a hand lays them."""
        return laid_mm(self.diameters_mm)

    @property
    def covered_mm(self) -> float:
        """Across with the covering."""
        return covered_mm(self.laid_mm, self.covering)

    @property
    def sleeve(self) -> Sleeve | None:
        """The braided sleeve that fits, where it is to have one; None where none does, or none is wanted."""
        return sleeve_for(self.laid_mm) if self.covering == "braided sleeve" else None

    @property
    def shrink(self) -> Shrink | None:
        """The tube for the sleeve's cut ends."""
        return shrink_for(self.covered_mm) if self.covering == "braided sleeve" else None

    @property
    def tape_m(self) -> float:
        """Metres of tape; 0 where it has none."""
        return tape_m(self.run.length_m, self.laid_mm) if self.covering in ("loom tape", "PVC tape") else 0.0

    @property
    def covering_g(self) -> float:
        """What its covering weighs; a sleeve that does not fit weighs nothing, as there is none."""
        return (self.sleeve.grams_m * self.run.length_m if self.sleeve else 0.0) + TAPE_G_M * self.tape_m

    @property
    def sweep(self) -> Sweep | None:
        """What the steering asks of it; None where it is not said to pass the headstock."""
        above, below, high = self.run.above_mm, self.run.below_mm, self.run.high_mm
        if above is None or below is None or high is None:
            return None
        return sweep(Steering(above, below, high, self.run.start_deg, self.run.lock_deg))


@dataclass(frozen=True)
class Guard:
    """Something against a hazard of a run: so many metres of it, or so many pieces."""

    what: str
    run: str
    length_m: float
    pieces: int


@dataclass(frozen=True)
class Loom:
    """The whole harness: a bundle for each run that carries wires, in the plan's order, and what holds them."""

    plan: Plan
    bundles: tuple[Bundle, ...]
    cut_m: dict[str, float]  # every wire as it is cut
    wires_m: float  # every wire but what was there already, those within one place too
    wires_g: float
    through: tuple[Through, ...]

    @cached_property
    def by_run(self) -> dict[str, Bundle]:
        """The bundles by their run."""
        return {b.run.id: b for b in self.bundles}

    def ties_mm(self, run: str) -> tuple[float, ...]:
        """Where a run is tied, mm from its first place."""
        here = self.by_run[run]
        if not here.laid:
            return ()
        return tie_points_mm(here.length_mm, here.run.tied_mm or self.plan.rules.tie_spacing_mm)

    @property
    def ties(self) -> int:
        """How many ties all runs take."""
        return sum(len(self.ties_mm(b.run.id)) for b in self.bundles)

    @property
    def covering_g(self) -> float:
        """What all coverings weigh."""
        return sum(b.covering_g for b in self.bundles)

    @property
    def total_g(self) -> float:
        """Wires, coverings and ties."""
        return self.wires_g + self.covering_g + TIE_G * self.ties

    @property
    def guards(self) -> tuple[Guard, ...]:
        """What is taken against hazards, along the whole run where nobody says how far; clips at its ties."""
        return tuple(Guard(what, b.run.id, 0.0 if what in BY_THE_PIECE else b.run.length_m,
                           len(self.ties_mm(b.run.id)) if what == "clip with rubber" else 1)
                     for b in self.bundles for what in (b.run.edge, b.run.hot, b.run.moving, b.run.vibrates)
                     if what in GUARDS)

    @property
    def sleeve_m(self) -> dict[int, float]:
        """Metres of each braided sleeve, with what its length loses."""
        found: dict[int, float] = {}
        for b in self.bundles:
            if b.sleeve:
                found[b.sleeve.nominal_mm] = found.get(b.sleeve.nominal_mm, 0.0) + b.run.length_m * (1 + SHRINK_LOSS)
        return found

    @property
    def tape_m(self) -> float:
        """Metres of tape."""
        return sum(b.tape_m for b in self.bundles)

    @cached_property
    def fittings(self) -> tuple[Fitting, ...]:
        """Where connectors and splices sit along the runs."""
        return fittings(self.plan, [(b.run, b.wires) for b in self.bundles])

    @property
    def stretches(self) -> tuple[Stretch, ...]:
        """The runs as they go on the board."""
        return tuple(Stretch(b.run.id, b.run.a, b.run.b, b.length_mm, b.copper_g) for b in self.bundles)

    @cached_property
    def boards(self) -> tuple[Board, ...]:
        """Each connected harness laid flat. Raises board.Loop where the runs form one."""
        return lay_out(self.stretches)

    @cached_property
    def cuts(self) -> tuple[Cut, ...]:
        """Runs to leave out so that it can lie flat, cheapest first; empty where it can."""
        return cuts(self.stretches, self.through)


def loom(topology: Topology, area_mm2: Mapping[str, float]) -> Loom:
    """The harness of a plan whose wires have these sizes."""
    plan, geometry = topology.plan, topology.geometry
    made = {w.id: conductor(plan, w, area_mm2[w.id]) for w in plan.wires}
    at = {p.id: p.place for p in plan.parts}
    inside: dict[str, list[str]] = {}
    cut: dict[str, float] = {}
    for wire in plan.wires:
        way = geometry[wire.id]
        for segment in way.segments:
            if segment.run is not None:
                inside.setdefault(segment.run, []).append(wire.id)
        cut[wire.id] = way.length_m
    bundles = []
    found = {w.id for w in plan.wires if topology.origin(w) == "found"}
    whole = {w.id for w in plan.wires if topology.untouched(w)}
    for run in plan.runs:
        if not (here := inside.get(run.id)):
            continue
        diameters = tuple(made[w].od_mm for w in here)
        factor = lay_factor(_mean_radius_mm(diameters), plan.rules.lay_mm) if plan.rules.lay_mm else 1.0
        for w in here:
            cut[w] += (factor - 1) * run.length_m
        metres = {w: factor * sum(s.length_m for s in geometry[w].segments if s.run == run.id) for w in here}
        bundles.append(Bundle(run, tuple(here), diameters, sum(metres.values()),
                              sum(grams_per_m(made[w]) * m for w, m in metres.items()),
                              sum(copper_grams_per_m(made[w]) * m for w, m in metres.items()),
                              "" if whole.issuperset(here) else plan.rules.covered_with(run.covering),
                              not found.issuperset(here), tuple(w for w in here if w not in whole)))
    through = tuple(Through(a, b, copper_grams_per_m(made[w.id]), w.way if geometry[w.id].told else ())
                    for w in plan.wires
                    if (a := at[w.a.part]) != (b := at[w.b.part]) and all(s.run for s in geometry[w.id].segments))
    return Loom(plan, tuple(bundles), {w: cut_m(metres) for w, metres in cut.items()},
                sum(metres for w, metres in cut.items() if w not in found),
                sum(grams_per_m(made[w]) * metres for w, metres in cut.items() if w not in found), through)


def _mean_radius_mm(diameters_mm: tuple[float, ...]) -> float:
    """How far a wire lies from the bundle's axis on the mean: two thirds of the radius; alone it lies in it."""
    return 0.0 if len(diameters_mm) < 2 else bounds_mm(diameters_mm)[0] / 3
