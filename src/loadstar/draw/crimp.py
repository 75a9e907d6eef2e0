"""A crimp lengthwise, to scale: insulation, strip, core crimp with the strands past it, insulation crimp or seal."""

from loadstar.core.ends.choose import End
from loadstar.core.materials.terminals import Terminal

from .svg import WIRE_COLOURS, Look, document, el, text

PX_MM, WIDTH, HEIGHT, AXIS_Y = 13.0, 470.0, 214.0, 96.0
SHOWS_MM = 0.75  # of the strands past the core crimp, and between core and insulation crimp
WINGS_MM, SEAL_MM, INSULATION_MM = 3.0, 4.5, 9.0  # how long insulation wings and a seal are; insulation that is drawn


def draw(end: End, colour: str, *, paper: bool = False) -> str:
    """The picture of one end, which has a terminal, on a wire of this colour."""
    terminal = end.chosen
    assert terminal is not None
    core_mm = (end.area_mm2 * 4 / 3.1416 / 0.75) ** 0.5
    made = [*_wire(end, terminal, core_mm, colour, paper), *_terminal(end, terminal, core_mm, paper),
            *_measures(end, terminal, paper)]
    return document((WIDTH, HEIGHT), f"{terminal.name} on {end.wire}", f"Strip {terminal.strip_mm:g} mm; {end.how}.",
                    made, f"crimp-{end.wire}-{end.side}", Look(paper=paper))


def bare_begins() -> float:
    """Where the strip begins on the picture."""
    return 40 + INSULATION_MM * PX_MM


def _wire(end: End, terminal: Terminal, core_mm: float, colour: str, paper: bool) -> list[str]:
    bare, od = bare_begins(), end.od_mm * PX_MM
    return [el("rect", {"x": 0.0, "y": AXIS_Y - od / 2, "width": bare, "height": od, "class": "c-insulation",
                        "fill": WIRE_COLOURS[colour], **({"stroke": "#1d2a30"} if paper else {})}),
            el("rect", {"x": bare, "y": AXIS_Y - core_mm * PX_MM / 2, "width": terminal.strip_mm * PX_MM,
                        "height": core_mm * PX_MM, "class": "c-core", **({"fill": "#c98a4b"} if paper else {})})]


def _terminal(end: End, terminal: Terminal, core_mm: float, paper: bool) -> list[str]:
    """The barrel over the strands, wings or seal over the insulation, and what it plugs or bolts on to."""
    bare, strip = bare_begins(), terminal.strip_mm * PX_MM
    metal = {"class": "c-metal", **({"fill": "none", "stroke": "#1d2a30", "stroke-width": "1.6"} if paper else {})}
    core_h, od_h = core_mm * PX_MM + 8, end.od_mm * PX_MM + 8
    begin, long = bare + SHOWS_MM * PX_MM, strip - 2 * SHOWS_MM * PX_MM
    if terminal.shape == "barrel":
        begin, long = bare + 1, strip * 2
    made = [el("rect", {"x": begin, "y": AXIS_Y - core_h / 2, "width": long, "height": core_h, "rx": 3, **metal})]
    after = begin + long
    if terminal.stages == 2:
        wings = (SEAL_MM if terminal.sealed else WINGS_MM) * PX_MM
        made.append(el("rect", {"x": bare - wings - 4, "y": AXIS_Y - od_h / 2, "width": wings, "height": od_h,
                                "rx": 8 if terminal.sealed else 3, **metal}))
        made.append(el("line", {"x1": bare - 4, "y1": AXIS_Y + core_h / 2, "x2": begin, "y2": AXIS_Y + core_h / 2,
                                **metal}))
    if terminal.shape == "ring":
        stud = float(end.family.removeprefix("ring M")) if end.family and end.family.startswith("ring") else 6.0
        r = stud * PX_MM * 0.62
        made += [el("circle", {"cx": after + r + 4, "cy": AXIS_Y, "r": r + 4, **metal}),
                 el("circle", {"cx": after + r + 4, "cy": AXIS_Y, "r": stud * PX_MM / 2, **metal})]
    elif terminal.shape in ("blade", "bullet", "pin", "holder"):
        made.append(el("rect", {"x": after + 2, "y": AXIS_Y - 14, "width": 84.0, "height": 28.0,
                                "rx": 14 if terminal.shape == "bullet" else 4, **metal}))
    return made


def _measures(end: End, terminal: Terminal, paper: bool) -> list[str]:
    bare, strip = bare_begins(), terminal.strip_mm * PX_MM
    y = 172.0
    made = [el("line", {"x1": x, "x2": x, "y1": AXIS_Y + 24, "y2": y + 6, "class": "d-leader"}, paper=paper)
            for x in (bare, bare + strip)]
    made.append(el("line", {"x1": bare, "x2": bare + strip, "y1": y, "y2": y, "class": "d-edge"}, paper=paper))
    made.append(el("text", {"x": bare + strip / 2, "y": y + 22, "text-anchor": "middle", "class": "d-figure"},
                   text(f"strip {terminal.strip_mm:g} ± {terminal.strip_off_mm:g} mm"), paper=paper))
    words = [(8.0, 26.0, f"insulation {end.od_mm:.1f} mm"),
             (bare + strip / 2, 26.0, "core crimp first, hard" if terminal.stages == 2 else end.how)]
    if terminal.stages == 2:
        words.append((8.0, 46.0, "then the seal's wings" if terminal.sealed else "then the insulation, lightly"))
        words.append((bare + strip / 2, 46.0, "strands show past it"))
    made += [el("text", {"x": x, "y": at, "class": "d-soft"}, text(one), paper=paper) for x, at, one in words]
    return made
