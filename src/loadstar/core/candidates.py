"""Why this size and this rating: every candidate with its figures, and for each that falls out the first reason.

A wire's candidates are judged with everything else as chosen, a fuse's with the current it carries.
"""

from dataclasses import dataclass

import numpy as np

from .analysis import Analysis
from .materials import fuses
from .materials.conductors import BY_AREA, STOCK_AREAS_MM2, copper_mass_g
from .physics.heat import resistance_at
from .plan.model import STATE_NAMES, LoadPart, States
from .sizing.choose import (
    DROP_SPARE_FRAC,
    PROTECTION_SPARE_K,
    case_of,
    drop_limit_frac,
    insulation_of,
    rating_faults,
    steady_c,
    worst_drop,
)
from .sizing.protection import coordinate


@dataclass(frozen=True)
class WireCandidate:
    """One size of one wire: temperatures at the real current and behind its fuse, the worst circuit's drop."""

    area_mm2: float
    in_use_c: float
    behind_fuse_c: float | None
    drop_frac: float | None
    mass_g: float
    verdict: str
    fits: bool
    chosen: bool


def wire_candidates(analysis: Analysis, wire: str) -> list[WireCandidate]:
    """The stock sizes around the chosen one (and the hand-fixed one), thinnest first."""
    result, plan, topology = analysis.wires[wire], analysis.plan, analysis.topology
    least = plan.rules.least_area_mm2
    sizes = sorted({a for a in STOCK_AREAS_MM2 if a >= min(least, result.area_mm2)} | {result.area_mm2})
    at = sizes.index(result.area_mm2)
    sizes = sizes[max(0, at - 4): at + 3]
    surround = {wire: result.surround_c}
    in_use = steady_c(plan, topology, [wire] * len(sizes), sizes, np.full(len(sizes), result.peak_a), surround).tolist()
    guard = result.guard
    tested = coordinate([case_of(plan, topology, wire, a, result.surround_c, guard) for a in sizes]) if guard else []
    drops = {a: _worst_circuit(analysis, wire, a) for a in sizes}
    found = []
    for i, area in enumerate(sizes):
        behind = tested[i].steady_c if tested else None
        reason = ""
        limit = insulation_of(plan, topology, wire).continuous_c
        load, state, drop, allowed = drops[area]
        if in_use[i] > limit - plan.rules.thermal_margin_k:
            reason = f"too hot in use, wanted {limit - plan.rules.thermal_margin_k:.0f} °C"
        elif tested and not tested[i].protected and guard:
            reason = f"{guard.fuse} ({guard.rating_a:g} A) does not protect it"
        elif tested and guard and tested[i].steady_c > limit - PROTECTION_SPARE_K:
            reason = f"only just protected by {guard.fuse}"
        elif area < least:
            reason = f"thinner than {least:g} mm²"
        elif drop is not None and load and state and drop > allowed - (0 if area == result.area_mm2 else DROP_SPARE_FRAC):
            reason = f"{load.name} may lose {allowed:.1%} ({STATE_NAMES[state].lower()})"
        chosen = area == result.area_mm2
        extra = copper_mass_g(area, result.length_m) - copper_mass_g(result.area_mm2, result.length_m)
        verdict = reason or ("fits" if extra <= 0 else f"fits, {extra:.1f} g more")
        found.append(WireCandidate(area, in_use[i], behind, drop, copper_mass_g(area, result.length_m), verdict,
                                   not reason, chosen))
    return found


def _worst_circuit(analysis: Analysis, wire: str,
                   area_mm2: float) -> tuple[LoadPart | None, States | None, float | None, float]:
    """The circuit through a wire that comes nearest to its drop limit, were the wire of another size."""
    result = analysis.wires[wire]
    worst: tuple[LoadPart | None, States | None, float | None, float] = (None, None, None, 1.0)
    for load in analysis.topology.loads_behind.get(wire, ()):
        state, lost = worst_drop(analysis.topology, analysis.states, load)
        if state is None:
            continue
        solved = analysis.states[state]
        warm = solved.wire_mean_c[wire]
        change = (float(resistance_at(BY_AREA[area_mm2].r20_ohm_per_m, warm))
                  - float(resistance_at(BY_AREA[result.area_mm2].r20_ohm_per_m, warm))) * result.length_m
        drop = lost + abs(solved.current(wire)) * change / solved.posts_v
        allowed = drop_limit_frac(analysis.plan, load)
        if worst[2] is None or drop - allowed > worst[2] - worst[3]:
            worst = (load, state, drop, allowed)
    return worst


@dataclass(frozen=True)
class FuseCandidate:
    """One rating of one fuse: the share of it that is used, and what speaks against it."""

    rating_a: float
    colour: str
    share_frac: float
    verdict: str
    fits: bool
    chosen: bool


def fuse_candidates(analysis: Analysis, fuse: str) -> list[FuseCandidate]:
    """The ratings around the chosen one, smallest first."""
    plan, topology = analysis.plan, analysis.topology
    now = analysis.rating_a(fuse)
    at = fuses.RATINGS_A.index(now)
    carried = analysis.peak_a(fuse)
    ambient = plan.place(topology.parts[fuse].place).ambient_c
    guarded = [w for w in analysis.wires.values() if w.guard and w.guard.fuse == fuse and w.fixed]
    found = []
    for rating in fuses.RATINGS_A[max(0, at - 3): at + 4]:
        faults = rating_faults(topology, fuse, rating, carried)
        reason = ""
        if faults and faults[0].why == "share":
            reason = f"carries {faults[0].has:.0%} of what it stands; house rule {faults[0].limit:.0%}"
        elif faults:
            reason = f"may open on switching on: {faults[0].has:.3g} A²s, bears {faults[0].limit:.3g}"
        for wire in guarded:
            assert wire.guard
            if not reason and wire.peak_a >= 0:
                scaled = wire.guard.rating_a * wire.guard.share
                stands = wire.strength or 0.0
                if stands * scaled / (rating * wire.guard.share) < 1:
                    reason = f"does not protect {wire.id}, fixed at {wire.area_mm2:g} mm²"
        found.append(FuseCandidate(rating, fuses.BY_RATING[rating].colour, carried / fuses.rerated_a(rating, ambient),
                                   reason or "fits", not reason, rating == now))
    return found


