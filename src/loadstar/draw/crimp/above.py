"""A wire's end in its terminal from above: wings with the seam between them, window, strands past the barrel."""

from collections.abc import Iterator

from loadstar.core.materials.terminals import Terminal

from .lengthwise import SEAL_FROM_MM, WIRE_MM
from .pen import Pen, Sizes, is_sleeved


def end_from_above(pen: Pen, s: Sizes, terminal: Terminal, *, joint: bool = False) -> Iterator[str]:
    """Wire and barrel, without what it plugs or bolts on to."""
    yield pen.box((0, -s.core / 2), (s.strip, s.core / 2), "c-core")
    for share in (-0.6, -0.2, 0.2, 0.6):
        yield pen.line((0, share * s.core / 2), (s.strip, share * s.core / 2), "c-strand")
    yield pen.box((-WIRE_MM, -s.od / 2), (0, s.od / 2), "c-insulation", pen.colour)
    if joint:
        yield pen.box((0.6, -s.core / 2 - 0.2), (s.strip, s.core / 2 + 0.2), "c-solder", rx_mm=0.3)
    elif terminal.stages == 2:
        yield from _folded(pen, s, sealed=terminal.sealed)
    elif terminal.stages == 0:
        yield pen.box((s.crimp[0] + 0.8, -s.core / 2 - 0.7), (s.crimp[1] + 1.4, s.core / 2 + 0.7), "c-face", rx_mm=0.3)
    else:
        yield from _closed(pen, s, terminal)


def _folded(pen: Pen, s: Sizes, *, sealed: bool) -> Iterator[str]:
    """Two wings that meet: on the insulation or the seal, and on the strands, with opened mouths."""
    assert s.wings is not None
    (begin, end), (w0, w1) = s.crimp, s.wings
    if sealed:
        for n in range(3):
            x, lip = SEAL_FROM_MM + n, s.od / 2 + 1.3
            yield pen.box((x, -lip), (x + 0.9, lip), "c-seal", rx_mm=0.3)
        yield pen.box((SEAL_FROM_MM + 3, -s.od / 2 - 0.45), (-0.2, s.od / 2 + 0.45), "c-seal")
    over, held = s.od / 2 + s.sheet + (0.45 if sealed else 0), s.core / 2 + s.sheet
    yield pen.box((w0, -over), (w1, over), "c-face", rx_mm=0.4)
    yield pen.line((w0, 0), (w1, 0), "c-fold")
    yield pen.area(((begin, -held - 0.3), (begin + 0.5, -held), (end - 0.4, -held), (end, -held - 0.15),
                    (end, held + 0.15), (end - 0.4, held), (begin + 0.5, held), (begin, held + 0.3)), "c-face")
    yield pen.line((begin, 0), (end, 0), "c-fold")


def _closed(pen: Pen, s: Sizes, terminal: Terminal) -> Iterator[str]:
    """A tube with the marks of the nest, or its sleeve with them."""
    begin, end = s.crimp
    half = s.core / 2 + 0.1 + 1.5 * s.sheet
    reach = 2 * end + 0.8 if terminal.family == "splice" else end + 0.8
    yield pen.box((begin, -half), (reach, half), "c-face", rx_mm=0.2)
    if is_sleeved(terminal):
        far = begin if terminal.family == "ferrule" else reach
        half = max(half, s.od / 2) + 0.75
        yield pen.box((s.wings[0] if s.wings else -3.0, -half), (far, half), "c-sleeve", rx_mm=0.5)
    for a in ([begin, reach - end + begin] if terminal.family == "splice" else [begin]):
        long = end - begin
        yield pen.box((a + 0.22 * long, -half * 0.7), (a + 0.78 * long, half * 0.7), "c-nest", rx_mm=0.3)
    if terminal.shape == "ring" and not terminal.insulated:
        yield pen.disc((end - 0.1, 0), 0.5, "c-hole")
