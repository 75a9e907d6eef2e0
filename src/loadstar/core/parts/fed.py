"""What hangs on a feed itself and has something hang on it: a switch, a flasher, a shared lead."""

from typing import Any, ClassVar

from ..doc.states import Feeding
from ..doc.types import Id
from ..refs import TerminalRef
from .base import Part
from .work import LIVE_COLOUR, RETURN_COLOUR, Ends, Work


class Fed(Part):
    """A part between a feed and what hangs on it. `feed` is what feeds it (null: it is wired by hand), and `live` when
    that lives."""

    IN_COMMON: ClassVar[bool] = True
    PASSES: ClassVar[bool] = True  # what hangs on it is fed from what feeds it; False: it makes a supply of its own

    feed: Id | None = None
    live: Feeding = "key"

    @property
    def hangs_on(self) -> str | None:
        """Its feed."""
        return self.feed

    @property
    def above(self) -> str | None:
        """What it gets its current from."""
        return self.feed

    @property
    def hangs_by(self) -> tuple[Any, ...]:
        return self.feed, self.live

    @property
    def own_switch(self) -> bool:
        """Whether it is a switch itself, so that nothing before it has to be."""
        return False

    @property
    def fed_at(self) -> tuple[str, str | None]:
        """Its terminals that its feed and its return come to; None: no return goes through it."""
        raise NotImplementedError(f"{type(self).__name__} is fed and does not say where")

    def arrive(self, work: Work) -> None:
        """Its feed with its fuse, and its return."""
        if self.feed is None:
            return
        ends: Ends = work.part(self.feed).hang(work, self)
        begin, back = self.fed_at
        work.wire(ends.begin, self.at(begin), LIVE_COLOUR[self.live], self.id)
        to = self.return_of(work, ends.back)
        if back is not None and to is not None:
            work.wire(self.at(back), to, RETURN_COLOUR, self.id)

    def return_of(self, work: Work, back: TerminalRef | None) -> TerminalRef | None:
        """Where its return goes, given where its feed's goes."""
        return back

    def back(self, work: Work) -> TerminalRef | None:
        """Where what it gets its current from returns to."""
        return work.part(self.above).back(work) if self.above else work.rail.back
