"""What every wire ends in: terminal, seal, boot, shrink, how it is stripped and tried, what must be on the wire first.

From the part it goes to, its size and insulation, amps, air and water there, and the house's ways. Every terminal of
the family is a candidate, and says why it is not the one.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

from ..doc.wires import SIDES, Side, Wire
from ..materials.coverings import SHRINK_LOSS, Shrink, shrink_for
from ..materials.terminals import SEALED, TERMINALS, Dies, Family, Terminal, dies, pull_n
from ..parts.can import as_mated
from ..parts.coupling import Coupling
from ..plan.model import Plan
from ..refs import TerminalRef
from ..wiring.conductor import ConductorAt, conductor

NEAR_A = 0.005
SOLDERED, BOOT = "solder it", "slip-on boot"
# Pieces of shrink tube with lining, mm: over a splice, over a ring's or blade's barrel.
OVER_SPLICE_MM, OVER_BARREL_MM = 40.0, 25.0
SPLICE_OVER = 1.5  # times the fattest wire: a splice's barrel, or a soldered joint


@dataclass(frozen=True)
class Candidate:
    """A terminal of the family, and why it is not for this end ("": it would do). `weak`: the wire goes in, and brings
    more than it carries."""

    terminal: Terminal
    why_not: str
    weak: bool


@dataclass(frozen=True)
class End:
    """One end of a wire. `kept`: it stays as it is, and nothing is bought, stripped or crimped there. `beside` are the
    wires that share its barrel. `chosen` is None where no terminal of its family takes it; `fits` are all of the
    family, and `carries_a` what they have to carry; `family` is None where the part is only found, and nobody has said
    what fits it, and of what is kept."""

    wire: str
    side: Side
    at: TerminalRef
    place: str
    family: Family | None
    beside: tuple[str, ...]
    area_mm2: float
    od_mm: float
    peak_a: float
    air_c: float
    chosen: Terminal | None
    fits: tuple["Fit", ...]
    carries_a: float
    on_first: tuple[str, ...]
    shrink: Shrink | None
    shrink_mm: float
    pull_n: int | None
    how: str
    kept: bool
    usual: bool  # nobody has said what fits there: it is what is usual at such a part
    stated_a: float | None  # what the part's own contacts carry, where it says so

    @cached_property
    def candidates(self) -> tuple[Candidate, ...]:
        """Every terminal of the family, and why it is not for this end."""
        return tuple(fit.with_amps(self.carries_a, self.air_c) for fit in self.fits)

    @property
    def key(self) -> str:
        """Its name in figures' keys."""
        return f"{self.wire}.{self.side}"

    @property
    def soldered(self) -> bool:
        """Whether it is a joint of wires without a terminal, soldered by the house's school."""
        return self.family == "splice" and self.how == SOLDERED

    @property
    def name(self) -> str:
        """What it ends in, in words; "" where nothing takes it."""
        return "" if self.chosen is None else "soldered joint" if self.soldered else self.chosen.name

    @property
    def dies(self) -> Dies | None:
        """The nests it is crimped in; None where it is not crimped in two stages."""
        return dies(self.chosen, self.area_mm2, self.od_mm) if self.chosen and not self.soldered else None

    @property
    def rated_a(self) -> float | None:
        """What its terminal carries there: as the part's contacts are stated, or typical of the terminal."""
        if self.stated_a is not None:
            return self.stated_a
        return self.chosen.rated_a(self.area_mm2, self.air_c) if self.chosen else None


class Ends:
    """Every end of a plan's wires at their sizes and currents."""

    def __init__(self, plan: Plan, area_mm2: Mapping[str, float], peak_a: Mapping[str, float],
                 covered: Mapping[str, str], kept: Collection[tuple[str, Side]] = ()) -> None:
        self.plan, self.area_mm2, self.peak_a, self.covered, self.kept = plan, area_mm2, peak_a, covered, kept
        self.made: dict[str, ConductorAt] = {w.id: conductor(plan, w, area_mm2[w.id]) for w in plan.wires}
        self.in_block = {j.b.part for j in plan.joins} | {j.a.part for j in plan.joins}

    @cached_property
    def every(self) -> tuple[End, ...]:
        """All ends, in the order of the wires, from `a` to `b`."""
        return tuple(self._end(wire, side, wire.end(side)) for wire in self.plan.wires for side in SIDES)

    @cached_property
    def by_key(self) -> dict[str, End]:
        """The same by their keys."""
        return {e.key: e for e in self.every}

    @cached_property
    def _at(self) -> dict[str, list[End]]:
        found: dict[str, list[End]] = {}
        for end in self.every:
            found.setdefault(end.at.part, []).append(end)
        return found

    def at(self, part: str) -> list[End]:
        """The ends of wires at a part."""
        return self._at.get(part, [])

    @cached_property
    def _on(self) -> dict[str, list[Wire]]:
        """The wires at each part."""
        found: dict[str, list[Wire]] = {}
        for wire in self.plan.wires:
            for part in dict.fromkeys((wire.a.part, wire.b.part)):
                found.setdefault(part, []).append(wire)
        return found

    def on(self, part: str) -> list[Wire]:
        """The wires that come to a part."""
        return self._on.get(part, [])

    def candidates(self, family: Family, wire: str, air_c: float) -> tuple[Candidate, ...]:
        """The terminals of any family with one wire alone, in air of so many degrees."""
        return tuple(fit.with_amps(self.peak_a.get(wire, 0.0), air_c) for fit in self._fits(family, wire, air_c))

    def _fits(self, family: Family, wire: str, air_c: float) -> tuple["Fit", ...]:
        return with_each(family, self.area_mm2[wire], self.made[wire].od_mm, air_c, insulated=self.insulated)

    @property
    def insulated(self) -> bool:
        """Whether the house takes pre-insulated terminals, where there are any."""
        return self.plan.rules.terminals == "pre-insulated"

    def family(self, at: TerminalRef) -> Family | None:
        """What wires at a terminal end in: as the part says, as its kind usually has, or on a lead of the part's own as
        the house rule says."""
        part = self.plan.part(at.part)
        if mated := as_mated(part):
            return part.termination or self._of_coupling(mated)
        if part.ENDS_PLUGGED and not part.termination and part.id in self.in_block:
            return part.ENDS_PLUGGED
        return part.family(at.name, self.plan.rules.leads)

    def _of_coupling(self, part: Coupling) -> Family:
        """The smallest sealed family of which every wire finds a terminal that carries it; where none does, that of
        which most do, the largest of alike ones."""
        most, best = -1, SEALED[-1]
        for family in SEALED:
            if family == "sealed small" and part.ways > 3:
                continue
            air, wires = self.plan.ambient_at(part.place), self.on(part.id)
            hold = sum(any(fit.holds(self.peak_a.get(w.id, 0.0)) for fit in self._fits(family, w.id, air))
                       for w in wires)
            if hold == len(wires):
                return family
            if hold >= most:
                most, best = hold, family
        return best

    def _shares(self, at: TerminalRef) -> tuple[str, ...]:
        """The wires in one barrel at a splice, at what is made as one, or at a contact that several come to."""
        part = self.plan.part(at.part)
        if not (part.MATED or part.one_barrel):
            return ()
        made = [w for w in self.on(part.id) if any((w.id, s) not in self.kept for s in SIDES
                                                   if w.end(s).part == part.id)]
        if part.MATED:
            here = tuple(w.id for w in made if at in (w.a, w.b))
            return here if len(here) > 1 else ()
        return tuple(w.id for w in made)

    def _end(self, wire: Wire, side: Side, at: TerminalRef) -> End:
        kept = (wire.id, side) in self.kept
        part, family = self.plan.part(at.part), None if kept else self.family(at)
        beside = () if kept else self._shares(at)
        every = beside or (wire.id,)
        area = sum(self.area_mm2[w] for w in every)
        od = max(self.made[w].od_mm for w in every)
        peak = self.peak_a.get(wire.id, 0.0)
        air = self.plan.ambient_at(part.place)
        stated = part.each_contact_a
        # contacts whose amps are stated are judged as such elsewhere
        carries_a = peak if stated is None else 0.0
        fits = with_each(family, area, od, air, len(every), insulated=self.insulated) if family else ()
        chosen = next((fit.terminal for fit in fits if fit.holds(carries_a)), None)
        wet = self.plan.place(part.place).water != "dry"
        soldered = family == "splice" and self.plan.rules.joints == "solder splice"
        shrink, shrink_mm = shrink_over(chosen, od)
        others = tuple(w for w in beside if w != wire.id)
        return End(wire.id, side, at, part.place, family, others, area, od, peak, air,
                   chosen, fits, carries_a, self._on_first(wire, chosen, wet, shrink, shrink_mm), shrink, shrink_mm,
                   None if soldered or chosen is None or not chosen.stages else pull_n(self.area_mm2[wire.id]),
                   self._how(chosen, soldered), kept, not part.termination and not (part.MATED or part.JOINS),
                   stated)

    def _how(self, chosen: Terminal | None, soldered: bool) -> str:
        """How it is closed, by the house's school."""
        if chosen is None:
            return ""
        if soldered or not chosen.stages:
            return SOLDERED
        crimped = "crimp the core, then the insulation lightly" if chosen.stages == 2 else "crimp it"
        if self.plan.rules.joints == "crimp then solder" and chosen.shape != "pin":
            return f"{crimped}, then solder it"
        return crimped

    def _on_first(self, wire: Wire, chosen: Terminal | None, wet: bool, shrink: Shrink | None,
                  shrink_mm: float) -> tuple[str, ...]:
        """What has to be on the wire before this end is closed, the innermost last."""
        if chosen is None:
            return ()
        found = [f"sleeve of {run}" for run in self.covered.get(wire.id, "").split()]
        if chosen.shape in ("blade", "bullet") and not (chosen.sealed or chosen.insulated) and wet:
            found.append(BOOT)
        if chosen.sealed:
            found.append(f"seal for {self.made[wire.id].od_mm:.1f} mm")
        if shrink is not None:
            found.append(f"{shrink_mm:.0f} mm of shrink tube {shrink.supplied_mm:g}/{shrink.recovered_mm:g}")
        return tuple(found)


@dataclass(frozen=True)
class Fit:
    """A terminal with a wire: why it does not go in (""; it does), and what it carries then, A."""

    terminal: Terminal
    why_not: str
    rated_a: float

    def holds(self, peak_a: float) -> bool:
        """Whether it goes in, and carries so much."""
        return not self.why_not and peak_a <= self.rated_a + NEAR_A

    def with_amps(self, peak_a: float, air_c: float) -> Candidate:
        """As a candidate that has to carry so much."""
        if self.why_not or self.holds(peak_a):
            return Candidate(self.terminal, self.why_not, weak=False)
        return Candidate(self.terminal, f"carries {self.rated_a:.1f} A at {air_c:.0f} °C", weak=True)


@lru_cache(maxsize=4096)
def with_each(family: Family, area_mm2: float, od_mm: float, air_c: float, wires: int = 1, *,
          insulated: bool = False) -> tuple[Fit, ...]:
    """Every terminal of a family with a wire of this size and diameter, or several of so much together, in air of so
    many degrees."""
    return tuple(Fit(t, _goes_not_in(t, area_mm2, od_mm, wires), t.rated_a(area_mm2, air_c))
                 for t in of_family(family, insulated=insulated))


def _goes_not_in(terminal: Terminal, area_mm2: float, od_mm: float, wires: int) -> str:
    """Why a wire, or several together, does not go into a terminal; "" where it does."""
    (least, most), (thin, fat) = terminal.area_mm2, terminal.od_mm
    if terminal.sealed and wires > 1:
        return "its seal takes one wire"
    if area_mm2 > most + 1e-9:
        return f"takes up to {most:g} mm²"
    if area_mm2 < least - 1e-9:
        return f"takes from {least:g} mm² on"
    if thin <= od_mm <= fat:
        return ""
    holds = "seal" if terminal.sealed else "wings"
    return f"its {holds} take{'s' * terminal.sealed} {thin:g} to {fat:g} mm, the wire is {od_mm:.1f} mm"


@lru_cache(maxsize=64)
def of_family(family: Family, *, insulated: bool = False) -> tuple[Terminal, ...]:
    """The terminals of a family, smallest first; the pre-insulated ones only where they are asked for, and then before
    the others."""
    mine = (t for t in TERMINALS if t.family == family and (insulated or not t.insulated))
    return tuple(sorted(mine, key=lambda t: (not t.insulated, t.area_mm2)))


def shrink_over(chosen: Terminal | None, od_mm: float) -> tuple[Shrink | None, float]:
    """The piece of shrink tube over an end, as it is cut, mm; none over what is sealed or pushed into something."""
    covered = chosen is None or chosen.insulated or chosen.family == "ferrule"
    if chosen is None or covered or chosen.shape not in ("ring", "barrel", "cup"):
        return None, 0.0
    over = OVER_SPLICE_MM if chosen.family == "splice" else OVER_BARREL_MM
    return shrink_for(SPLICE_OVER * od_mm), over / (1 - SHRINK_LOSS)
