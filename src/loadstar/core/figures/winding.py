"""The leads between a generator's winding and its rectifier: what flows in each, and the wire that stands it.

They carry AC. For a DC output I, a three-phase bridge takes 0.74 of it, rms, from each lead, a single-phase one 1.11 of
it (docs/physics.md F). A shunt regulator shorts the winding, and then its whole short-circuit current flows. The leads
lie together and warm one another: each carries n^-1/3 of what it would alone (docs/physics.md B).
"""

import math
from dataclasses import dataclass

from ..doc.states import RUNNING
from ..materials.conductors import STOCKS
from ..parts.generator import Generator
from ..wiring.conductor import Conductors, conductor_of
from .figures import Figures
from .registry import NoFigure, figure
from .working import FOUND, HOUSE, Input, Working

LEAD_SHARE = {3: 0.74, 1: 1.11}  # rms in each lead, of the DC output
LEADS = {3: 3, 1: 2}
TOGETHER_POWER = -1 / 3


def stator_short_a(figures: Figures) -> float:
    """Current (rms) in each winding lead of a shorted permanent-magnet generator at cruise: E / Z."""
    generator = figures.plan.generator
    assert generator is not None
    winding, rpm = generator.winding, figures.plan.machine.cruise_rpm
    return winding.k_v_per_rpm * rpm / math.hypot(winding.r_ohm, winding.x_ohm_per_rpm * rpm) / math.sqrt(2)


@dataclass(frozen=True)
class WindingLeads:
    """The leads of one winding: how many; amps, rms, in each, and the DC that they come from; size, and its temperature
    with that against the most that it may have; whether the regulator shorts the winding, and whether the size is
    fixed."""

    count: int
    rms_a: float
    dc_a: float
    area_mm2: float
    warm_c: float
    class_c: float
    air_c: float
    is_shorted: bool
    fixed: bool


def winding_leads(figures: Figures) -> WindingLeads | None:
    """The leads of the machine's winding; None where it is not said where that sits, or nothing can be computed."""
    plan, generator = figures.plan, figures.plan.generator
    if generator is None or generator.winding_at is None:
        return None
    dc_a = _most_dc_a(figures, generator)
    from_load_a, shorted_a = LEAD_SHARE[generator.phases] * dc_a, stator_short_a(figures)
    is_shorted = generator.regulator == "shunt" and shorted_a > from_load_a
    rms_a = shorted_a if is_shorted else from_load_a
    air_c = max(plan.ambient_at(generator.place), plan.ambient_at(generator.winding_at))
    count = LEADS[generator.phases]
    alone_a = rms_a / count**TOGETHER_POWER  # that would warm one alone as much
    sizes = (generator.winding_mm2,) if generator.winding_mm2 else tuple(
        a for a in STOCKS[plan.rules.sizes] if a >= plan.rules.least_area_mm2)
    metals = Conductors(conductor_of(plan.rules, a) for a in sizes)
    warm = metals.temperature_c(alone_a, air_c)
    fits = [i for i, c in enumerate(warm) if c <= metals.class_c[i] - plan.rules.thermal_margin_k]
    at = fits[0] if fits else len(sizes) - 1
    return WindingLeads(count, rms_a, dc_a, sizes[at], float(warm[at]), float(metals.class_c[at]), air_c, is_shorted,
                        generator.winding_mm2 is not None)


def _most_dc_a(figures: Figures, generator: Generator) -> float:
    machine = figures.plan.machine
    return max(generator.available_a(machine.rpm(state), generator.set_v) for state in RUNNING)


@figure("winding_lead")
def winding_lead(figures: Figures) -> Working:
    """Current in each lead of the generator's winding."""
    found, generator = winding_leads(figures), figures.plan.generator
    if found is None or generator is None:
        raise NoFigure("It is not said where the generator's winding sits.")
    words = f"{found.count} leads of {found.area_mm2:g} mm², {found.warm_c:.0f} °C in air of {found.air_c:.0f} °C."
    if found.is_shorted:
        return Working("In each winding lead, shorted by the regulator", "I", found.rms_a, "A", "I_k",
                       (Input("I_k", found.rms_a, "A", "short-circuit current at cruise", FOUND),), words)
    return Working("In each winding lead, rms", "I", found.rms_a, "A", "c * I_dc", (
        Input("c", LEAD_SHARE[generator.phases], "", f"rms in a lead, of the DC of {generator.phases} phases", HOUSE),
        Input("I_dc", found.dc_a, "A", "most that it gives", FOUND)), words)
