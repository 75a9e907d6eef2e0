"""Rules about wires: heat, protection, mechanical strength, way and unprotected length."""

from collections.abc import Iterator

from ..analysis import Analysis, WireResult
from ..findings import Finding
from ..materials import fuses
from ..plan.edits import SetWire
from ..plan.model import STATE_NAMES
from ..sizing.choose import starter_leads
from .registry import rule

CIRCUITS = "circuits"


def _freed(wire: WireResult) -> tuple[SetWire | None, str]:
    if not wire.fixed:
        return None, ""
    return SetWire(id=wire.id, values={"area_mm2": None}), f"Let Loadstar choose {wire.id}"


@rule("wire.too-hot", meaning="A wire runs above its insulation's class, or nearer to it than the house margin, with "
      "the real currents in its bundle.", cure="A thicker wire, another way, fewer wires together, a higher class.",
      source="ISO 6722-1 temperature classes; heat model of docs/physics.md")
def too_hot(analysis: Analysis) -> Iterator[Finding]:
    """Hottest state of every wire against its class."""
    margin = analysis.plan.rules.thermal_margin_k
    for wire in analysis.wires.values():
        spare = wire.class_c - wire.hottest_c
        if spare >= margin - 1e-6:
            continue
        cure, label = _freed(wire)
        state = STATE_NAMES[wire.hottest_state].lower()
        if spare < 0:
            text = (f"{wire.id} ({wire.area_mm2:g} mm²) reaches {wire.hottest_c:.0f} °C at {wire.peak_a:.3g} A "
                    f"({state}), over the {wire.class_c:.0f} °C its insulation stands.")
        else:
            text = (f"{wire.id} ({wire.area_mm2:g} mm²) reaches {wire.hottest_c:.0f} °C ({state}); that leaves "
                    f"{spare:.0f} K to its class, the house rule wants {margin:g} K.")
        yield Finding("wire.too-hot", "stop" if spare < 0 else "caution", (wire.id,), text, CIRCUITS,
                      f"wire_c/{wire.id}/{wire.hottest_state}", cure, label)


@rule("wire.not-protected", meaning="The fuse would let a current through that damages the wire before it opens.",
      cure="A thicker wire or a smaller fuse.", source="Coordination of docs/physics.md; ISO 8820-3, ISO 6722-1")
def not_protected(analysis: Analysis) -> Iterator[Finding]:
    """The three coordination tests; a pass with less than 10 K is said to be close."""
    for wire in analysis.wires.values():
        tested, guard = wire.coordination, wire.guard
        if tested is None or guard is None:
            continue
        key = f"steady_c/{wire.id}"
        cure, label = _freed(wire)
        fuse = f"{guard.fuse} ({guard.rating_a:g} A)"
        if tested.steady_c > tested.class_c:
            yield Finding("wire.not-protected", "stop", (wire.id, guard.fuse), (
                f"{fuse} does not protect {wire.id} ({wire.area_mm2:g} mm²): at {fuses.STEADY_MULTIPLE:g} times its "
                f"rating, which it carries for hours, the wire reaches {tested.steady_c:.0f} °C; its class is "
                f"{tested.class_c:.0f} °C."), CIRCUITS, key, cure, label)
        elif tested.overload_c > tested.class_c + 25:
            yield Finding("wire.not-protected", "stop", (wire.id, guard.fuse), (
                f"{fuse} may carry 1.35 times its rating for 10 minutes; {wire.id} ({wire.area_mm2:g} mm²) then "
                f"reaches {tested.overload_c:.0f} °C, over {tested.class_c + 25:.0f} °C."), CIRCUITS,
                f"overload_c/{wire.id}", cure, label)
        elif tested.fails_from_a is not None:
            yield Finding("wire.not-protected", "stop", (wire.id, guard.fuse), (
                f"From {tested.fails_from_a:.0f} A on {fuse} may open too late for {wire.id} "
                f"({wire.area_mm2:g} mm²)."), CIRCUITS, key, cure, label)
        elif wire.fixed and tested.steady_c > tested.class_c - 10:
            yield Finding("wire.not-protected", "caution", (wire.id, guard.fuse), (
                f"{fuse} only just protects {wire.id} ({wire.area_mm2:g} mm²): {tested.steady_c:.0f} °C at "
                f"{fuses.STEADY_MULTIPLE:g} times its rating against {tested.class_c:.0f} °C; the heat model is good "
                "to about 15 %, so this is close."), CIRCUITS, key, cure, label)


@rule("wire.no-fuse", meaning="A stretch between the battery and the first fuse is protected by nothing.",
      cure="Move the fuse to the battery; keep what is before it short, sleeved and clear of metal.",
      source="House rule: longest unprotected wire")
def no_fuse(analysis: Analysis) -> Iterator[Finding]:
    """Wires that no fuse guards, beyond the house rule's length."""
    limit = analysis.plan.rules.unfused_limit_m
    if analysis.sized is None or not analysis.sized.faults.solved:
        return
    leads = starter_leads(analysis.topology)
    for wire in analysis.wires.values():
        if wire.id in leads:
            continue  # a starter's leads are left without a fuse by custom: rule starter.leads
        if wire.guard is None and wire.fault_a > 0 and wire.length_m > limit + 1e-9:
            yield Finding("wire.no-fuse", "stop", (wire.id,), (
                f"{wire.id} runs {wire.length_m:.2f} m with no fuse before it; a chafed spot would draw up to "
                f"{wire.fault_a:.0f} A from the battery. The house rule allows {limit:.2f} m."), CIRCUITS,
                f"length/{wire.id}")


@rule("wire.below-minimum", meaning="A wire is thinner than the least the workshop fits on a machine that vibrates.",
      cure="At least the house rule's size.", source="House rule: least cross-section")
def below_minimum(analysis: Analysis) -> Iterator[Finding]:
    """Hand-fixed sizes under the mechanical minimum."""
    least = analysis.plan.rules.least_area_mm2
    for wire in analysis.wires.values():
        if wire.area_mm2 < least:
            cure, label = _freed(wire)
            yield Finding("wire.below-minimum", "caution", (wire.id,), (
                f"{wire.id} has {wire.area_mm2:g} mm²; below {least:g} mm² a strand breaks early where it vibrates."),
                CIRCUITS, "", cure, label)


@rule("wire.no-way", meaning="No runs join the two ends of a wire, so that its length is a guess.",
      cure="Add the missing run under Survey, or give the wire a measured length.", source="The plan's runs")
def no_way(analysis: Analysis) -> Iterator[Finding]:
    """Wires whose way is not known."""
    for geometry in analysis.topology.geometry.values():
        if not geometry.way_known:
            yield Finding("wire.no-way", "caution", (geometry.wire,), (
                f"No run leads from one end of {geometry.wire} to the other; it is reckoned with the straight "
                f"distance, {geometry.length_m:.2f} m, which is too short. Add the run, or measure the wire."), "survey",
                f"length/{geometry.wire}")
