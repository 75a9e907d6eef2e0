"""Addresses within a plan: written as text, parsed here and nowhere else.

Each is a string with its pieces at hand, so that it can be a key, stand in a document and be printed as it is.
"""

from typing import Any, Self

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema


class _Address(str):
    """A text of pieces with a sign between them."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema(pattern=cls.pattern()))

    @classmethod
    def pattern(cls) -> str:
        """What such a text looks like, as a regular expression."""
        raise NotImplementedError


class TerminalRef(_Address):
    """A terminal of a part: "F2.b"."""

    @classmethod
    def pattern(cls) -> str:
        """What such a text looks like, as a regular expression."""
        return r"^[A-Z]{1,2}[0-9]{1,6}\.[a-z0-9]{1,8}$"

    @classmethod
    def of(cls, part: str, name: str) -> Self:
        """The terminal of this name of a part."""
        return cls(f"{part}.{name}")

    @property
    def part(self) -> str:
        """The part that it belongs to."""
        return self.partition(".")[0]

    @property
    def name(self) -> str:
        """Its name on that part."""
        return self.partition(".")[2]

    def on(self, part: str) -> "TerminalRef":
        """The terminal of the same name of another part."""
        return TerminalRef.of(part, self.name)


class ElementRef(_Address):
    """What conducts: a wire or part ("W5", "F2"), or one of several things that a part puts between its terminals
    ("K1.coil")."""

    @classmethod
    def pattern(cls) -> str:
        """What such a text looks like, as a regular expression."""
        return r"^[A-Z]{1,2}[0-9]{1,6}(\.[a-z0-9]{1,8})?$|^[a-z]{1,12}$"

    @classmethod
    def of(cls, part: str, role: str = "") -> Self:
        """What a part puts between its terminals; `role` tells apart where it is more than one thing."""
        return cls(f"{part}.{role}" if role else part)

    @property
    def part(self) -> str:
        """The part or wire."""
        return self.partition(".")[0]

    @property
    def role(self) -> str:
        """Which of the things that a part puts between its terminals; "" where it is one."""
        return self.partition(".")[2]


class FigureKey(_Address):
    """A figure that can be explained: its family and what it is asked of ("wire_c/W5/idle")."""

    @classmethod
    def pattern(cls) -> str:
        """What such a text looks like, as a regular expression."""
        return r"^[a-z_]{1,24}(/[A-Za-z0-9._]{1,24}){0,3}$"

    @classmethod
    def of(cls, family: str, *arguments: str) -> Self:
        """The key of a family with its arguments."""
        return cls("/".join((family, *arguments)))

    @property
    def family(self) -> str:
        """The family."""
        return self.partition("/")[0]

    @property
    def arguments(self) -> tuple[str, ...]:
        """What it is asked of."""
        return tuple(self.split("/")[1:])


def part_of(element: str) -> str:
    """The part or wire that an element's or terminal's address names first."""
    return ElementRef(element).part
