"""Fuses: the share of their rating that is used, inrush, and every candidate with what speaks against it."""

from dataclasses import dataclass

from ..amounts import percent
from ..materials import fuses
from ..parts.base import Part
from ..sizing.inrush import inrush_through
from ..sizing.ratings import rating_faults, selective_above_a
from .figures import Figures
from .names import element_name
from .registry import FUSE, NoFigure, figure
from .working import SOLVED, STATED, Input, Working, source_of


@figure("share", FUSE)
def share(figures: Figures, part: Part) -> Working:
    """Continuous share of a fuse."""
    fuse, rating = part.id, figures.ratings.rating_a(part.id)
    ambient = figures.plan.ambient_at(part.place)
    value = figures.ratings.fuse_share_frac(fuse)
    return Working(f"{part.name}: share of its rating", "p", value * 100, "%",
                   "100 * I / (I_n * (1 - f * (T - 25)))", (
                       Input("I", figures.ratings.peak_a(fuse), "A", "most of all states, everything on", SOLVED),
                       Input("I_n", rating, "A", "rating", _kind(part).source),
                       Input("f", fuses.RERATE_PER_K, "1/K", "rerating above 25 °C", "typical; see the maker's curve"),
                       Input("T", ambient, "°C", "where it sits", STATED)))


@figure("inrush", FUSE)
def inrush(figures: Figures, fuse: Part) -> Working:
    """Inrush of what comes on together through a fuse."""
    element = fuse.id
    found = inrush_through(figures.topology, element, figures.ratings.rating_a(element))
    if found is None:
        raise NoFigure(f"Nothing behind {fuse.name} has an inrush.")
    if len(found.loads) == 1 and found.loads[0].inrush_shape == "rectangle":
        load = found.loads[0]
        return Working(f"Inrush through {element_name(figures, element)}", "q", found.a2s, "A²s", "I ** 2 * t / 1000", (
            Input("I", load.inrush_a, "A", f"peak of {load.name}", source_of(load, "inrush_a")),
            Input("t", load.inrush_ms, "ms", "lasts", source_of(load, "inrush_ms"))))
    inputs = [Input(f"I_{n}", p.inrush_a, "A", f"peak of {p.name}, {p.inrush_ms:g} ms, {p.inrush_shape}",
                    source_of(p, "inrush_a"))
              for n, p in enumerate(found.loads, 1)]
    total = " + ".join(i.symbol for i in inputs)
    return Working(f"Inrush through {element_name(figures, element)}", "q", found.a2s, "A²s", f"({total}) ** 2 * t", (
        *inputs, Input("t", found.duration_s, "s", "a rectangle of the same peak and integral lasts",
                       "integral of the squared sum")))


def _kind(part: Part) -> fuses.FuseKind:
    """Which kind of fuse it is."""
    assert part.protection is not None, part.id
    return fuses.KINDS[part.protection.pattern]


@dataclass(frozen=True)
class FuseCandidate:
    """One rating of one fuse: the share of it that is used, and what speaks against it."""

    rating_a: float
    colour: str
    share_frac: float
    verdict: str
    fits: bool
    chosen: bool


def fuse_candidates(figures: Figures, fuse: str) -> list[FuseCandidate]:
    """The ratings around the chosen one, smallest first."""
    plan, topology = figures.plan, figures.topology
    now = figures.ratings.rating_a(fuse)
    kind = _kind(topology.parts[fuse])
    at = kind.ratings_a.index(now)
    carried, ambient = figures.ratings.peak_a(fuse), plan.ambient_at(topology.parts[fuse].place)
    guarded = [w for w in figures.wires.values() if w.judged_by and w.judged_by.fuse == fuse and w.fixed]
    above = selective_above_a(topology, fuse, figures.ratings.rated)
    found = []
    for rating in kind.ratings_a[max(0, at - 3): at + 4]:
        faults = rating_faults(topology, fuse, rating, carried, figures.ratings.short_a(fuse))
        reason = ""
        if faults and faults[0].why == "share":
            reason = f"carries {percent(faults[0].has)} of what it stands; house rule {percent(faults[0].limit)}"
        elif faults and faults[0].why == "inrush":
            reason = f"may open on switching on: {faults[0].has:.3g} A²s, bears {faults[0].limit:.3g}"
        elif faults:
            reason = f"may open while cranking: {faults[0].has:.3g} A then, carries {faults[0].limit:.3g} A"
        elif rating <= above:
            reason = f"no larger than the {above:g} A behind it: others go dark"
        for wire in guarded:
            guard = wire.judged_by
            assert guard
            lets = kind.band.steady * rating * guard.share + guard.others_a
            if not reason and wire.coordination.limit_a < lets:
                reason = f"does not protect {wire.id}, fixed at {wire.area_mm2:g} mm²"
        found.append(FuseCandidate(rating, kind.by_rating[rating].colour, carried / fuses.rerated_a(rating, ambient),
                                   reason or "fits", not reason, rating == now))
    return found
