"""The usual bad ones, drawn like the good one."""

from dataclasses import dataclass

from loadstar.core.materials.terminals import Terminal

from .lengthwise import Made


@dataclass(frozen=True)
class Fault:
    """What is wrong, in two short lines, and how that is made."""

    name: str
    so: str
    made: Made


_STRAY = Made(stray=True)
_OPEN = (
    Fault("strands outside the wings", "less carries, and they can touch", _STRAY),
    Fault("insulation in the core crimp", "it holds the wings off the copper", Made(insulation_mm=2.2)),
    Fault("no bell mouth", "the edge cuts strands", Made(bell=False)),
    Fault("stripped too long", "bare behind, fouls what goes in", Made(insulation_mm=-3.8, tips_mm=2.2)),
)
_TUBE = (
    Fault("strands left outside", "less carries, and they can touch", _STRAY),
    Fault("not pushed home", "half of the crimp holds nothing", Made(insulation_mm=-2.6, tips_mm=-3.2)),
    Fault("nest too large", "the wire pulls out, and it heats", Made(loose=True)),
    Fault("insulation in the crimp", "it holds the tube off the copper", Made(insulation_mm=2.4)),
)
_SOLDER = (
    Fault("cold: a dull lump on top", "it breaks off, and heats", Made(loose=True)),
    Fault("solder ran up the wire", "stiff there, breaks where it ends", Made(wicked_mm=3.4)),
    Fault("insulation burnt back", "bare copper behind the joint", Made(insulation_mm=-3.2)),
    Fault("strands outside", "less carries, and they can touch", _STRAY),
)


def usual(terminal: Terminal, *, joint: bool) -> tuple[Fault, ...]:
    """Four faults that ends of this kind are made with."""
    return _SOLDER if joint or not terminal.stages else _OPEN if terminal.stages == 2 else _TUBE
