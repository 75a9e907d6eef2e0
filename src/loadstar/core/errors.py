"""What can be wrong with a plan or an edit: each fault names its element and field, so that a page can place it."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Fault:
    """One sentence about one element. `element` may be empty (the whole plan), `field` too (the whole element)."""

    element: str
    field: str
    sentence: str


class PlanError(ValueError):
    """An impossible input. Carries one fault or several; nothing has been changed."""

    def __init__(self, *faults: Fault) -> None:
        super().__init__("; ".join(f.sentence for f in faults))
        self.faults = faults


def refuse(element: str, field: str, sentence: str) -> PlanError:
    """A PlanError of one fault."""
    return PlanError(Fault(element, field, sentence))


class NotFound(LookupError):
    """What was asked for is not there. Says what, in a sentence."""


class Conflict(RuntimeError):
    """Somebody else was faster: what was to be changed is no longer as it was. Says what, in a sentence."""
