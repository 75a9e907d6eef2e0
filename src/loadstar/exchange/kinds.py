"""The page of kinds: every part that a plan may have, its terminals, and what is asked of it."""

from collections.abc import Iterator

from loadstar.core.parts.asks import Ask
from loadstar.core.parts.base import Part
from loadstar.core.parts.registry import KINDS
from loadstar.core.plan.speech import unit_of

BEGINS = """# Kinds of parts

Made from `src/loadstar/core/parts` by `./loadstar build`: what stands in `parts` of a plan file, in the words of the
forms. Bounds and types of every field are in [plan.schema.json](plan.schema.json).
"""


def _ask(kind: type[Part], ask: Ask) -> str:
    unit = unit_of(ask.name) if ask.unit is None and ask.kind == "quantity" else ask.unit or ""
    field = kind.model_fields.get(ask.name)
    usual = "" if field is None or field.is_required() or field.default in (None, "") else f"{field.default}"
    choices = "; ".join(value if value == words else f"{value or 'empty'}: {words}" for value, words in ask.choices)
    cells = (ask.name, ask.label, unit, usual, "may be empty" if ask.optional else "", ask.help, choices)
    return f"| {' | '.join(cell.replace('|', '/') for cell in cells)} |"


def _kind(name: str, kind: type[Part]) -> Iterator[str]:
    yield from (f"## {kind.TITLE}", "", f"`\"kind\": \"{name}\"`, ids {kind.PREFIX}1, {kind.PREFIX}2, ...; "
                f"on machines that run on {', '.join(kind.SYSTEMS)}.", "")
    if kind.TERMINALS:
        yield "Terminals: " + ", ".join(f"`{t.name}` ({t.ends_in})" for t in kind.TERMINALS) + "."
        yield ""
    if kind.ASKS:
        yield "| field | asked as | unit | usually | | hint | choices |"
        yield "|---|---|---|---|---|---|---|"
        yield from (_ask(kind, ask) for ask in kind.ASKS)
        yield ""


def kinds_page() -> str:
    """Every kind, in the order of the registry."""
    return "\n".join([BEGINS, *(line for name, kind in KINDS.items() for line in _kind(name, kind))])
