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
    Fault("strands outside the wings", "carries less, can short", _STRAY),
    Fault("insulation in the crimp", "wings miss the copper", Made(insulation_mm=2.2)),
    Fault("no bell mouth", "the edge cuts strands", Made(bell=False)),
    Fault("stripped too long", "bare copper behind it", Made(insulation_mm=-3.8, tips_mm=2.2)),
)
_TUBE = (
    Fault("strands left outside", "carries less, can short", _STRAY),
    Fault("not pushed home", "held by half the crimp", Made(insulation_mm=-2.6, tips_mm=-3.2)),
    Fault("die too large", "it pulls out, and heats", Made(loose=True)),
    Fault("insulation in the crimp", "the tube misses copper", Made(insulation_mm=2.4)),
)
_SOLDER = (
    Fault("cold: a dull lump", "it breaks off, and heats", Made(loose=True)),
    Fault("solder ran up the wire", "stiff: breaks at its end", Made(wicked_mm=3.4)),
    Fault("insulation burnt back", "bare copper at the joint", Made(insulation_mm=-3.2)),
    Fault("strands outside", "carries less, can short", _STRAY),
)


def usual(terminal: Terminal, *, joint: bool) -> tuple[Fault, ...]:
    """Four faults that ends of this kind are made with."""
    return _SOLDER if joint or not terminal.stages else _OPEN if terminal.stages == 2 else _TUBE
