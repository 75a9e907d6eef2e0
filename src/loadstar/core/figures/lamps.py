"""Lamps on a magneto: how long they live at their volts."""

from ..budget.lighting import LIFE_EXPONENT
from ..doc.states import States
from ..parts.load import LoadPart
from .figures import Figures
from .registry import LAMP, RUNNING_STATE, NoFigure, figure
from .working import Input, Working, source_of


def hardest_lamp(figures: Figures) -> tuple[LoadPart, float]:
    """The lamp on the magneto that is furthest over its voltage at the highest speed, and its volts."""
    assert figures.lamps is not None
    machine, found = figures.plan.machine, figures.lamps
    rpm = machine.rpm(machine.fastest)
    lamp = max((p for p in figures.plan.loads if p.id in found.lamps), key=lambda p: found.at(p.id, rpm) / p.at_v)
    return lamp, found.at(lamp.id, rpm)


def worst_when_one_fails(figures: Figures) -> tuple[LoadPart, LoadPart, float] | None:
    """The failure of one lamp that is hardest on another at town speed: which, on which, and its volts."""
    assert figures.lamps is not None
    rpm, found = figures.plan.machine.town_rpm, figures.lamps
    lamps = [p for p in figures.plan.loads if p.id in found.lamps]
    pairs = [(found.at_failed(a.id, b.id, rpm), a, b) for a in lamps for b in lamps if a is not b]
    if not pairs:
        return None
    volts, gone, other = max(pairs, key=lambda pair: pair[0] / pair[2].at_v)
    return gone, other, volts


def on_ac(figures: Figures, load: LoadPart) -> bool:
    """Whether a load hangs on a lighting coil."""
    return figures.source.key == "magneto" or figures.plan.by_coil(load)


def _lit(volts: float, nominal_v: float) -> None:
    """Life is reckoned for a lamp that is lit: below a third of its voltage there is nothing to say."""
    if volts < nominal_v / 3:
        raise NoFigure("It is hardly lit then.")


@figure("lamp_v", LAMP, RUNNING_STATE)
def lamp_v(figures: Figures, part: LoadPart, state: States) -> Working:
    """Volts of a lamp on the magneto at a state's speed: the lamp's life there."""
    assert figures.lamps is not None
    rpm = figures.plan.machine.rpm(state)
    volts = figures.lamps.at(part.id, rpm)
    _lit(volts, part.at_v)
    return Working(f"Life of {part.name} at {rpm:g} rpm, as a share of its hours", "t",
                   (volts / part.at_v) ** LIFE_EXPONENT,
                   "", "(U / U_n) ** n", (
                       Input("U", volts, "V", "at the lamp", "coil, wires and lamps solved by phasors"),
                       Input("U_n", part.at_v, "V", "the lamp's voltage", source_of(part, "at_v")),
                       Input("n", LIFE_EXPONENT, "", "exponent of lamp life", "usual: life falls with the 13th power")))


@figure("lamp_failed", LAMP, LAMP)
def lamp_failed(figures: Figures, gone: LoadPart, part: LoadPart) -> Working:
    """Life of a lamp at town speed when another has failed."""
    assert figures.lamps is not None
    if gone is part:
        raise NoFigure(f"{part.name} is the one that has failed.")
    volts = figures.lamps.at_failed(gone.id, part.id, figures.plan.machine.town_rpm)
    _lit(volts, part.at_v)
    return Working(f"Life of {part.name} with {gone.name} failed, share of its hours", "t",
                   (volts / part.at_v) ** LIFE_EXPONENT, "", "(U / U_n) ** n", (
                       Input("U", volts, "V", f"at {figures.plan.machine.town_rpm:g} rpm", "solved by phasors"),
                       Input("U_n", part.at_v, "V", "the lamp's voltage", source_of(part, "at_v")),
                       Input("n", LIFE_EXPONENT, "", "exponent of lamp life", "usual")))
