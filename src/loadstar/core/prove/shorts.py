"""No short from feed to return: ohms from behind each fuse to the return, with every fuse out.

What is asked is that they are no fewer than those of what hangs on the fuse, cold: a lamp or a heater shows its own,
electronics rise or show nothing. A motor at rest, and whatever else has next to none, looks like a short: its plug is
opened first.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ..figures.figures import Figures
from ..parts.fuse import FusePart
from ..parts.load import LoadPart
from ..refs import TerminalRef
from .bench import Bench
from .fault import Fault
from .predict import LEADS_OHM, OHM_OFF, Prediction

SHORT = "short."  # how the keys of such readings begin: by it a kept one is known as a bound
LIKE_A_SHORT_OHM = 2.0  # cold ohms of a load that a meter's leads and joints do not part from none


@dataclass(frozen=True)
class Short:
    """One such reading: its key, where red goes, what it should show at the least, the circuits that it speaks of, what
    it is, and what to beware of."""

    key: str
    red: TerminalRef
    expects: Prediction
    proves: tuple[str, ...]
    what: str
    beware: str


def shorts(figures: Figures, black: TerminalRef) -> Iterator[Short]:
    """Behind every fuse that no other lies behind."""
    behind, loads_of = figures.topology.protected_behind, figures.topology.loads_behind
    fuses = [f for f in figures.plan.of(FusePart) if loads_of.get(f.id) and not behind.get(f.id)]
    if not fuses:
        return
    bench = Bench(figures)
    unplugged = [tuple(p for p in loads_of[f.id] if _like_a_short(bench, p)) for f in fuses]
    at = bench.node(black)
    pulled = frozenset(f.id for f in figures.plan.of(FusePart))
    ohms = bench.ohms([Fault(f.id, f.id, f.id, 0.0, opens=pulled, dead=frozenset(p.id for p in out))
                       for f, out in zip(fuses, unplugged, strict=True)], [(bench.node(f.at("b")), at) for f in fuses])
    for n, (fuse, out) in enumerate(zip(fuses, unplugged, strict=True)):
        value = float(ohms[n, n])
        spread = value if value == float("inf") else LEADS_OHM + OHM_OFF * value
        first = f" Unplug {' and '.join(p.name for p in out)} first: at rest it looks like a short." if out else ""
        yield Short(f"{SHORT}{fuse.id}", fuse.at("b"), Prediction("ohm", value, spread, at_least=True),
                    tuple(p.id for p in loads_of[fuse.id]), f"No short behind {fuse.name}",
                    f"Supply disconnected, or the meter's fuse goes. Every fuse out.{first}")


def _like_a_short(bench: Bench, load: LoadPart) -> bool:
    return load.category == "motor" or bench.cold_ohm(load.id) < LIKE_A_SHORT_OHM
