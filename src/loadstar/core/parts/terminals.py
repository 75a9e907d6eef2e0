"""Terminals of parts: each with what a wire at it usually ends in; and whether a kind has said all that it must."""

from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from ..materials.terminals import Family

MUST = ("PREFIX", "TITLE", "TERMINALS", "ASKS", "inside")
NAMING = ("POLES", "OWN_ENDS", "RETURN_END")  # what of a kind names terminals of its own
OWN_LEAD: Literal["own lead"] = "own lead"  # on a lead of the part's own, joined to it as the house rule has it


class PartTerminal(NamedTuple):
    """A terminal of a part, by the name that it has in documents."""

    name: str
    ends_in: Family | Literal["own lead"]


def terminals(ends_in: Family | Literal["own lead"], *names: str) -> tuple[PartTerminal, ...]:
    """Several that wires end at alike."""
    return tuple(PartTerminal(name, ends_in) for name in names)


def half_said(kind: type) -> str:
    """What a kind leaves out, or names and has not, in words; "" where it has said all."""
    own: Mapping[str, Any] = kind.__dict__
    if missing := [name for name in MUST if name not in own]:
        return f"does not say {', '.join(missing)}"
    if bare := [one for one in own["TERMINALS"] if not isinstance(one, PartTerminal)]:
        return f"does not say what a wire at {bare[0]} ends in"
    names = {terminal.name for terminal in own["TERMINALS"]}
    for word in NAMING if names else ():  # a kind without any makes them out of its fields
        said = getattr(kind, word)
        if unknown := {said} - names - {""} if isinstance(said, str) else set(said) - names:
            return f"has no terminal {min(unknown)}, which its {word} names"
    return ""
