"""What hangs on a figure that nobody has measured: findings that come or go, and how far the headline moves."""

from dataclasses import dataclass

from ..analysis import Analysis
from ..doc.states import States
from ..findings import SEVERITIES, Finding
from ..headline import Head, headline
from ..plan.standing import Unknown
from ..survey.measures import MEASURES, Measure

GRAVE = SEVERITIES[:2]
MOVES_DIGITS = 3  # of a movement; less is nothing
MOST_MOVEMENT = 1e3


@dataclass(frozen=True)
class Flip:
    """A stop or caution that comes or goes when a figure lies otherwise."""

    finding: Finding
    appears: bool
    end: str  # "low" or "high": towards which end of the band


@dataclass(frozen=True)
class Hangs:
    """What hangs on one unknown figure: the findings that flip, and how far it moves the headline."""

    unknown: Unknown
    kind: str  # of what has the figure
    flips: tuple[Flip, ...]
    movements: tuple[float, ...]  # of each headline figure, by what is between it and its limit

    @property
    def measure(self) -> Measure:
        """How the figure is got."""
        return MEASURES[self.kind, self.unknown.field]

    @property
    def movement(self) -> float:
        """How far it moves the headline."""
        return sum(self.movements)

    @property
    def weight(self) -> tuple[int, int, float]:
        """By what it is ranked: stops that flip, cautions that flip, movement of the headline."""
        stops = {f.finding.key for f in self.flips if f.finding.severity == "stop"}
        cautions = {f.finding.key for f in self.flips if f.finding.severity == "caution"} - stops
        return len(stops), len(cautions), round(self.movement, MOVES_DIGITS)


@dataclass(frozen=True)
class Span:
    """Between what a headline figure lies, by all that is unknown; `low` and `high` in its own unit."""

    low: float
    high: float

    @property
    def is_open(self) -> bool:
        """Whether it is more than one value, as far as anybody would show it."""
        return abs(self.high - self.low) > 0.02 * max(abs(self.high), abs(self.low), 1e-9)


@dataclass(frozen=True)
class Outlook:
    """What is unknown of a plan, what hangs on it most first, and the bands of the headline by state."""

    ranked: tuple[Hangs, ...]
    bands: dict[States, tuple[Span | None, ...]]
    untried: tuple[Unknown, ...] = ()  # for want of time: what was tried is ranked all the same
    likely: tuple[Unknown, ...] | None = None  # of those untried, that cross a limit by a first look; None: not known
    in_vain: tuple[Unknown, ...] = ()  # tried, and too large to compute: what hangs on them is not known

    def moves_most(self, head: int) -> Hangs | None:
        """What moves a headline figure (by its place in it) most; None where nothing does."""
        found = max(self.ranked, key=lambda h: h.movements[head], default=None)
        return found if found is not None and found.movements[head] > 0 else None

    def hanging(self, key: tuple[str, str]) -> list[tuple[Hangs, Flip]]:
        """What a finding hangs on, by its key."""
        return [(hangs, flip) for hangs in self.ranked for flip in hangs.flips if flip.finding.key == key]


@dataclass(frozen=True)
class Seen:
    """What one try shows: grave findings by key, and the headline in every state."""

    grave: dict[tuple[str, str], Finding]
    heads: dict[States, tuple[Head, ...]]

    @classmethod
    def of(cls, analysis: Analysis) -> "Seen":
        states = analysis.source.states
        return cls({f.key: f for f in analysis.findings if f.severity in GRAVE},
                   {state: headline(analysis, state) for state in states})
