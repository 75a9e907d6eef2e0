"""Trying a circuit on the bench, from a small battery of its own, before it meets the machine."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..figures.figures import Figures
from ..materials.fuses import RATINGS_A
from ..parts.load import LoadPart
from .operations import BENCH, Operation

FUSE_OVER = 1.35  # a fuse that holds a circuit's own amps for as long as the trial takes
SMALL_V = ((8.0, 6.3), (16.0, 12.6))  # volts that a small battery has, by the most that an accessory is stated at
SMALL_OHM = 0.03  # of a small battery with its clips, assumed
# of what is expected: so little is nothing; so far off is another thing than the plan's; volts that a clip may lose
DEAD_FRAC, AMPS_OFF, LOST_OFF_V = 0.05, 0.25, 0.2
SOURCE = "amps of the accessory at that voltage; the circuit's own resistances, solved; a small battery of 30 mΩ"


@dataclass(frozen=True)
class Trial:
    """One circuit: amps it should draw, volts that should be left at the accessory, the fuse in the battery's lead (A;
    None: it draws more than any)."""

    load: LoadPart
    battery_v: float
    amps: float
    volts: float
    fuse_a: float | None

    @property
    def operation(self) -> Operation:
        """It as something that the log keeps."""
        spec = f"{self.amps:.2g} A, {self.volts:.3g} V expected from {self.battery_v:g} V"
        words = f"Bench trial of {self.load.name}"
        return Operation(f"trial/{self.load.id}", "test", self.load.id, words, BENCH, "meter", 0.0, spec, "")

    def told(self, amps: float, volts: float) -> str:
        """What a reading of it comes to, in words."""
        said = f"{amps:.3g} A, {volts:.3g} V left"
        if amps < DEAD_FRAC * self.amps:
            return f"{said}: it draws next to nothing; polarity and joints first"
        if abs(amps - self.amps) > AMPS_OFF * self.amps:
            return f"{said}: {self.amps:.2g} A were expected; is it what the plan says?"
        lost, expected = self.battery_v - volts, self.battery_v - self.volts
        if lost > expected + LOST_OFF_V + AMPS_OFF * expected:
            return f"{said}: {expected:.2g} V should be lost, not {lost:.2g} V; a joint"
        return f"{said}: pass"


def trials(figures: Figures) -> Iterator[Trial]:
    """Every circuit whose way is whole and that a battery of the machine's own voltage can feed."""
    for load in figures.plan.loads:
        state = next((s for s in figures.states if figures.volts.across_v(load.id, s)), None)
        row = figures.volts.row(load.id, state) if state else None
        if row is None or row.solution is None or not figures.path(load.id).complete:
            continue
        battery_v = next((rested for most, rested in SMALL_V if load.at_v <= most), load.at_v)
        own_ohm = SMALL_OHM
        for link in figures.path(load.id).links:
            amps = abs(row.current(link.element))
            if amps > 1e-6 and link.element in figures.wires:
                own_ohm += abs(row.solution.across_v(link.a, link.b)) / amps
        amps = load.draws_a(battery_v)
        for _ in range(20):  # what it draws and what is left to it, until they agree
            amps = 0.5 * amps + 0.5 * load.draws_a(max(battery_v - amps * own_ohm, 0.3 * battery_v))
        yield Trial(load, battery_v, amps, battery_v - amps * own_ohm,
                    next((r for r in RATINGS_A if r >= FUSE_OVER * amps), None))
