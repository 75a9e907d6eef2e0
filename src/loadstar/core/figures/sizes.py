"""Why this size: every candidate for a wire with its figures, and for each that falls out the first reason.

Candidates are judged by the argument that sized the wire, everything else as chosen.
"""

from dataclasses import dataclass

from ..amounts import percent
from ..doc.rules import HouseRules
from ..doc.states import STATE_NAMES, States
from ..materials.conductors import STOCKS, copper_mass_g
from ..parts.load import LoadPart
from ..sizing.argument import PROTECTION_SPARE_K, SHORT_TERM_K, Stands, stands
from ..sizing.drops import DROP_SPARE_FRAC, drop_limit_frac, starter_drop_v, starter_leads
from ..sizing.openers import STEADY_MULTIPLE
from ..sizing.short import cranks_hot
from ..wiring.conductor import ConductorAt, conductor
from .figures import Figures


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


def wire_candidates(figures: Figures, wire: str) -> list[WireCandidate]:
    """The stock sizes around the chosen one (and the hand-fixed one), thinnest first."""
    result, plan = figures.wires[wire], figures.plan
    least = plan.rules.least_area_mm2
    sizes = sorted({a for a in STOCKS[plan.rules.sizes] if a >= min(least, result.area_mm2)} | {result.area_mm2})
    at = sizes.index(result.area_mm2)
    metals = [conductor(plan, figures.topology.wires[wire], a) for a in sizes[max(0, at - 4): at + 3]]
    found = []
    for stand in stands([result.coordination.duty.at(metal) for metal in metals]):
        metal = stand.duty.wire
        area = metal.area_mm2
        load, state, drop, allowed = _worst_circuit(figures, wire, metal)
        guard = stand.duty.guard
        reason = heat_reason(plan.rules, stand, guard.fuse if guard else "") or (
            f"thinner than {least:g} mm²" if area < least else "")
        if not reason and drop is not None and load and state and drop > allowed - (0 if area == result.area_mm2
                                                                                    else DROP_SPARE_FRAC):
            reason = f"{load.name} may lose {percent(allowed, 1)} ({STATE_NAMES[state].lower()})"
        cranked = _cranking(figures, wire, metal)
        reason, drop = reason or cranked[0], cranked[1] if drop is None else drop
        extra = copper_mass_g(area, result.length_m) - copper_mass_g(result.area_mm2, result.length_m)
        verdict = reason or ("fits" if extra <= 0 else f"fits, {extra:.1f} g more")
        found.append(WireCandidate(area, stand.use_c, stand.steady_c if stand.duty.guard else None, drop,
                                   copper_mass_g(area, result.length_m), verdict, not reason, area == result.area_mm2))
    return found


def heat_reason(rules: HouseRules, stand: Stands, by: str) -> str:
    """Why a size falls out by heat or protection; "" when it does not. `by` is what guards it."""
    wanted = stand.class_c - rules.thermal_margin_k
    if not stand.keeps_cool(rules):
        return f"too hot in use, wanted {wanted:.0f} °C"
    guard = stand.duty.guard
    if guard is None:
        return ""
    if stand.steady_c > stand.class_c or stand.overload_c > stand.class_c + SHORT_TERM_K:
        return f"{by} ({guard.rating_a:.3g} A) does not protect it"
    if stand.fails_from_a is not None:
        return f"{by} ({guard.rating_a:.3g} A) can open too late from {stand.fails_from_a:.0f} A on"
    if stand.several_c > stand.class_c:
        return f"too hot with all fuses behind it at {STEADY_MULTIPLE:g} times their ratings"
    return f"only just protected by {by}" if stand.steady_c > stand.class_c - PROTECTION_SPARE_K else ""


def _cranking(figures: Figures, wire: str, metal: ConductorAt) -> tuple[str, float | None]:
    """Why a size falls out while the starter turns ("" where it does not), and of the battery's volts what both of its
    leads lose then; None of other wires."""
    short_a, leads = figures.ratings.short_a(wire), starter_leads(figures.topology)
    hot = "too hot while the starter turns" if short_a > figures.ratings.peak_a(wire) and cranks_hot(
        metal, short_a, figures.wires[wire].surround_c) else ""
    row = figures.states.get("cranking")
    if wire not in leads or row is None or figures.sized is None:
        return hot, None
    lost = starter_drop_v(figures.topology, {**figures.sized.choices.area_mm2, wire: metal.area_mm2}, leads)
    limit = figures.plan.rules.starter_drop_v
    dropped = f"the starter's leads may lose {limit:g} V and lose {lost:.2f} V" if lost > limit + 1e-9 else ""
    return hot or dropped, lost / row.posts_v if row.posts_v else None


def _worst_circuit(figures: Figures, wire: str, metal: ConductorAt) -> tuple[LoadPart | None, States | None,
                                                                             float | None, float]:
    """The circuit through a wire that comes nearest to its drop limit, were the wire of another size."""
    result = figures.wires[wire]
    worst: tuple[LoadPart | None, States | None, float | None, float] = (None, None, None, 1.0)
    for load in figures.plan.loads:
        if wire not in {k.element for k in figures.path(load.id).links}:
            continue
        state, lost = figures.volts.worst_drop(load)
        if state is None:
            continue
        solved = figures.volts.row(load.id, state)
        assert solved is not None
        warm = solved.wire_mean_c[wire]
        change = metal.ohm(result.length_m, warm) - result.coordination.duty.wire.ohm(result.length_m, warm)
        drop = lost + abs(solved.current(wire)) * change / figures.volts.begins_v(load.id, state)
        allowed = drop_limit_frac(figures.plan, load)
        if worst[2] is None or drop - allowed > worst[2] - worst[3]:
            worst = (load, state, drop, allowed)
    return worst
