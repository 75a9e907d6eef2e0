"""A wire's end to one scale: in its terminal, cut along the middle and from above; the crimp across, before and after;
and the usual bad ones beside it.

Strip length, wire and stud are the table's; what the sheet measures and how wings curl is typical, and only drawn.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from loadstar.core.ends.choose import BOOT, End
from loadstar.core.materials.terminals import Terminal

from ..svg import WIRE_COLOURS, Look, document
from . import across, contacts, faults
from .above import end_from_above
from .lengthwise import WIRE_MM, end_in_cut
from .pen import Pen, Sizes, sizes

WIDTH, EDGE = 400.0, 14.0  # px: on a telephone its words are still to be read
MOST_PX_MM, LEAST_ACROSS_PX = 13.0, 42.0
LINE = 20.0  # of words, px
Seen = Callable[[Pen, Sizes, Terminal, str], Iterator[str]]


@dataclass(frozen=True)
class Subject:
    """One end: its terminal, sizes, half ("male", "female", "": not known, both are drawn), whether it is a joint."""

    end: End
    terminal: Terminal
    sizes: Sizes
    half: str

    @property
    def joint(self) -> bool:
        """Soldered wire to wire, without a terminal."""
        return self.end.soldered

    @property
    def sexed(self) -> bool:
        """Whether there is a male and a female one."""
        return self.terminal.shape in ("blade", "pin", "bullet")

    @property
    def halves(self) -> tuple[str, ...]:
        """The halves that are drawn."""
        return ("female", "male") if self.sexed and not self.half else (self.half or "female",)

    @property
    def high_mm(self) -> float:
        """Half of the height that it takes, from the wire's axis."""
        s = self.sizes
        seal = 1.4 if self.terminal.sealed else 0.9
        return max(s.od / 2 + seal, s.core / 2 + 2.5 * s.sheet + 0.6)

    @property
    def barrel_mm(self) -> float:
        """Where the barrel ends; a splice has one for the other wire, too."""
        return self.sizes.crimp[1] * (1 + self.spliced)

    @property
    def spliced(self) -> bool:
        """Whether another wire goes in from the far side."""
        return self.terminal.family == "splice" and not self.joint

    @property
    def long_mm(self) -> float:
        """From the insulation's drawn end to the contact's tip."""
        barrel = self.barrel_mm + 1.8
        past = 0 if self.joint else contacts.reach_mm(self.terminal) + self.beside_mm * (len(self.halves) - 1)
        return WIRE_MM + barrel + past

    @property
    def beside_mm(self) -> float:
        """How far to the right of one half the other one is drawn."""
        return contacts.reach_mm(self.terminal) + 2.5


def draw(end: End, colour: str, half: str = "", *, paper: bool = False) -> str:
    """The picture of one end, which has a terminal, on a wire of this colour; of this half, where that is known."""
    terminal = end.chosen
    assert terminal is not None
    subject = Subject(end, terminal, sizes(end, terminal), half)
    k = min(MOST_PX_MM, (WIDTH - 2 * EDGE) / subject.long_mm)
    pen = Pen(EDGE + WIRE_MM * k, 0, k, WIRE_COLOURS[colour], paper)
    body: list[str] = []
    y = 0.0
    for rows in (_in_cut, _from_above, _across, _bad):
        y, made = rows(subject, pen, y)
        body += made
    return document((WIDTH, y), f"{end.name} on {end.wire}", _told(subject), body, f"crimp-{end.wire}-{end.side}",
                    Look(paper=paper))


def _told(subject: Subject) -> str:
    bad = "; ".join(f.name for f in faults.usual(subject.terminal, joint=subject.joint))
    return f"Strip {subject.terminal.strip_mm:g} mm; {subject.end.how}. Wrong: {bad}."


def _in_cut(subject: Subject, pen: Pen, y: float) -> tuple[float, list[str]]:
    s, terminal = subject.sizes, subject.terminal
    axis = y + 2 * LINE + 8 + subject.high_mm * pen.k
    at = pen.at(pen.x, axis)
    body = [pen.words((EDGE, y + 16), "Cut along the middle", "d-band"), *_bar(pen, y + 12)]
    body += _shrink(subject, at)
    body += end_in_cut(at, s, terminal, joint=subject.joint)
    if not subject.joint:
        body += _contacts(subject, at, contacts.in_cut)
    low = axis + subject.high_mm * pen.k + 6
    return _measured(subject, at, low, body)


def _measured(subject: Subject, at: Pen, low: float, body: list[str]) -> tuple[float, list[str]]:
    """The strip's length under it, and over it what each place is."""
    terminal, s = subject.terminal, subject.sizes
    begin, end = at.x, at.x + s.strip * at.k
    for x in (begin, end):
        body.append(at.line(((x - at.x) / at.k, s.od / 2), ((x - at.x) / at.k, (low + 8 - at.y) / at.k), "d-leader"))
    body.append(at.line((0, (low + 4 - at.y) / at.k), (s.strip, (low + 4 - at.y) / at.k), "d-edge"))
    strip = f"strip {terminal.strip_mm:g} ± {terminal.strip_off_mm:g} mm"
    body.append(at.words((max(begin, EDGE + 172), low + 22), strip, "d-figure"))
    body.append(at.words((EDGE, low + 22), f"wire {subject.end.od_mm:.1f} mm thick", "d-figure"))
    return low + 30, body


def _from_above(subject: Subject, pen: Pen, y: float) -> tuple[float, list[str]]:
    s, terminal = subject.sizes, subject.terminal
    half_mm = max(subject.high_mm, 0 if subject.joint else contacts.half_mm(terminal))
    axis = y + LINE + 4 + half_mm * pen.k
    at = pen.at(pen.x, axis)
    body = [pen.words((EDGE, y + 16), "From above", "d-band"), *end_from_above(at, s, terminal, joint=subject.joint)]
    if not subject.joint:
        body += _contacts(subject, at, contacts.from_above)
    y = axis + half_mm * pen.k + 4
    if subject.sexed:
        body += [at.words((at.x + (s.crimp[1] + 1 + n * subject.beside_mm) * at.k, y + 12), half)
                 for n, half in enumerate(subject.halves)]
    body.append(pen.words((EDGE, y + 12 + LINE * subject.sexed), good(subject)))
    return y + LINE * (1 + subject.sexed) + 4, body


def _contacts(subject: Subject, at: Pen, seen: Seen) -> Iterator[str]:
    """The contact, and the other half's beside it where either may be meant."""
    for n, half in enumerate(subject.halves):
        yield from seen(at.at(at.x + n * subject.beside_mm * at.k, at.y), subject.sizes, subject.terminal, half)


def good(subject: Subject) -> str:
    """What is to be seen on a good one."""
    if subject.joint or not subject.terminal.stages:
        return _GOOD_JOINT
    if subject.terminal.stages == 1:
        return _GOOD_SPLICE if subject.spliced else _GOOD_TUBE
    return _GOOD_SEALED if subject.terminal.sealed else _GOOD_OPEN


_GOOD_OPEN = "Good: copper and insulation show between the wings."
_GOOD_SEALED = "Good: wings grip the seal; strands show past them."
_GOOD_TUBE = "Good: strands reach the end; pressed in the middle."
_GOOD_SPLICE = "Good: strands reach the stop; pressed on each side."
_GOOD_JOINT = "Good: smooth; no solder up the wire."


def _shrink(subject: Subject, at: Pen) -> Iterator[str]:
    """Shrink tube or a boot over it, as an outline."""
    s, end = subject.sizes, subject.end
    over = max(s.od / 2, s.core / 2 + 1.8 * s.sheet) + 0.5
    reach = subject.barrel_mm + 0.6
    if end.shrink is not None:
        yield at.box((-WIRE_MM + 2, -over), (reach, over), "c-over", rx_mm=0.6)
    elif BOOT in end.on_first:
        yield at.box((-5, -over - 0.5), (reach + 8.6, over + 0.5), "c-over", rx_mm=1.2)


def _across(subject: Subject, pen: Pen, y: float) -> tuple[float, list[str]]:
    """The core crimp before and after, at twice the scale or more."""
    if subject.joint:
        return y, []
    s, terminal = subject.sizes, subject.terminal
    k = max(2 * pen.k, LEAST_ACROSS_PX / s.core) if s.core * 2 * pen.k < 90 else 90 / s.core
    r = (s.core / 2 + 2.2 * s.sheet) * k
    high = max(r, s.core * 1.1 * k if terminal.stages == 2 else 0)
    axis = y + LINE + 10 + high
    body = [pen.words((EDGE, y + 16), "Across, larger: before", "d-band"),
            pen.words((WIDTH * 0.53, y + 16), "after", "d-band")]
    for x, shape in ((WIDTH * 0.22, across.before), (WIDTH * 0.62, across.after)):
        body += shape(Pen(x, axis, k, pen.colour, pen.paper), s, terminal)
    return axis + r + 10, body


def _bad(subject: Subject, pen: Pen, y: float) -> tuple[float, list[str]]:
    """Four usual faults, two beside one another."""
    s, terminal = subject.sizes, subject.terminal
    wide = (WIDTH - 3 * EDGE) / 2
    k = min(pen.k, wide / (WIRE_MM + subject.barrel_mm + 3.4))
    high = 2 * subject.high_mm * k + 2 * LINE + 18
    body = [pen.words((EDGE, y + 16), "Wrong", "d-bad")]
    for n, fault in enumerate(faults.usual(terminal, joint=subject.joint)):
        left, top = EDGE + n % 2 * (wide + EDGE), y + LINE + n // 2 * high
        at = Pen(left + WIRE_MM * k, top + 8 + subject.high_mm * k, k, pen.colour, pen.paper)
        body += end_in_cut(at, s, terminal, fault.made, joint=subject.joint)
        under = top + 8 + 2 * subject.high_mm * k + 16
        body.append(pen.words((left, under), fault.name, "d-label"))
        body.append(pen.words((left, under + LINE - 2), fault.so))
    return y + LINE + 2 * high, body


def _bar(pen: Pen, y: float) -> Iterator[str]:
    """Ten millimetres, as they are drawn here."""
    x = (WIDTH - EDGE - pen.x) / pen.k - 10
    at = pen.at(pen.x, y)
    yield at.line((x, 0), (x + 10, 0), "d-level")
    for n in (0, 10):
        yield at.line((x + n, -4 / pen.k), (x + n, 4 / pen.k), "d-level")
    yield pen.words((pen.x + x * pen.k - 8, y + 5), "10 mm", "d-figure", "end")
