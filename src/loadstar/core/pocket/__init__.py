"""Questions that a workshop asks without a plan in hand, answered by what plans are judged with."""

from .base import Question
from .ends import EndQuestion
from .enough import Enough
from .fuse import FuseCarries, FuseOfWire
from .sums import Capacitor, Divider, DropRead, FlasherWatts, LampResistor, StandingDraw
from .tables import ColourQuestion, SizeQuestion
from .wire import WireQuestion

# What is asked most comes first.
QUESTIONS: dict[str, type[Question]] = {kind.KEY: kind for kind in (
    WireQuestion, FuseOfWire, FuseCarries, EndQuestion, SizeQuestion, ColourQuestion, DropRead, Enough, StandingDraw,
    FlasherWatts, LampResistor, Divider, Capacitor)}
