"""How findings speak: names of the person's own parts, amounts in units that suit them, lists that leave nobody out."""

from collections.abc import Iterable

from ..amounts import decimals_for, suited
from ..doc.states import STATE_NAMES, States
from ..figures.figures import Figures
from ..figures.touches import BURNS_C
from ..figures.wires import WireResult
from ..refs import part_of
from ..sizing.openers import Guard
from ..wiring.results import StateResult

NAMED = 4  # of a longer list so many are named, and the rest counted


def named(figures: Figures, element: str) -> str:
    """A part by its name; a wire by its number, which is on its label."""
    part = figures.topology.parts.get(part_of(element))
    return part.name if part is not None else element


def listed(names: Iterable[str]) -> str:
    """"A, B and C"; of a long list the first few and how many more."""
    every = list(names)
    if len(every) > NAMED + 1:
        every = [*every[:NAMED], f"{len(every) - NAMED} more"]
    return every[0] if len(every) == 1 else f"{', '.join(every[:-1])} and {every[-1]}" if every else ""


def verb(count: int, one: str, many: str) -> str:
    """The form of a verb for so many."""
    return one if count == 1 else many


def an(amount: str) -> str:
    """"an 80 V", "a 15 A": the article that an amount is spoken with."""
    digits = amount.partition(" ")[0].partition(".")[0]
    eighteen = digits in ("11", "18")
    return f"{'an' if digits.startswith('8') or eighteen else 'a'} {amount}"


def amps(current_a: float) -> str:
    """A current with the unit that suits it, without idle zeros."""
    value, unit = suited(current_a, "A")
    return f"{float(f'{value:.{decimals_for(value, unit)}f}'):g} {unit}"


def span(hours: float) -> str:
    """A time in minutes, hours or days."""
    if hours >= 48:
        return f"{hours / 24:.0f} days"
    return f"{hours * 60:.0f} minutes" if hours < 2 else f"{hours:.1f} hours"


def state(name: States) -> str:
    """A state within a sentence."""
    return STATE_NAMES[name].lower()


def when(row: StateResult) -> str:
    """A state within a sentence, with how its switches stand where that is not as they are taken to stand."""
    return state(row.state) + row.words.removeprefix(STATE_NAMES[row.state])


def sized(wire: WireResult) -> str:
    """"W7 (0.75 mm²)"."""
    return f"{wire.id} ({wire.area_mm2:g} mm²)"


def opener(figures: Figures, guard: Guard) -> str:
    """What guards a wire, with its rating."""
    return f"{named(figures, guard.fuse)} ({guard.rating_a:.3g} A)"


def fuse(figures: Figures, element: str, rating_a: float | None = None) -> str:
    """A fuse by its name and number, with its rating: "seat block main fuse (F1, 30 A)"; the machine's own by what it
    is before."""
    rating = figures.ratings.rating_a(element) if rating_a is None else rating_a
    protects = figures.topology.parts[element].protection
    if protects is not None and not protects.chosen:
        return f"the {rating:g} A factory fuse before {named(figures, element)}"
    return f"{named(figures, element)} ({element}, {rating:g} A)"


def short_time(seconds: float) -> str:
    """A time to two figures: "0.02 s", "8 s", "12 min"."""
    if seconds < 120:
        return f"{seconds:.2g} s" if seconds < 10 else f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min"


def warm_over(temperature_c: float, limit_c: float) -> str:
    """A temperature past a limit, with a decimal where whole degrees would not tell the two apart."""
    if temperature_c >= BURNS_C:
        return "no balance: it burns through"
    return f"{temperature_c:.{int(round(temperature_c) <= round(limit_c))}f} °C"
