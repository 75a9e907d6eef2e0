"""What an e-bike's accessories cost: range, the pack's limits under load, and what two packs do to each other.

Range is scaled from the range that the rider knows, by watts: the drive's in assist against drive and accessories.
Sag is the pack's rested voltage less its resistance times the current that the asked watts need. Two packs joined
are two EMFs behind their resistances (physics notes, parallel packs). State of charge from voltage is approximate.
"""

import math
from dataclasses import dataclass

from scipy.optimize import brentq

from ..parts.drive import Drive
from ..parts.pack import Pack
from ..physics import battery as cell
from ..plan.model import Plan
from .ledger import Ledger, ledger


@dataclass(frozen=True)
class PackFigures:
    """One pack: volts full, rested and empty, resistance, energy."""

    id: str
    full_v: float
    rested_v: float
    empty_v: float
    ohm: float
    capacity_ah: float
    energy_wh: float


@dataclass(frozen=True)
class Joining:
    """Two packs that are to be joined: the current that flows at once, who gives what under load, and the limit.

    `equalising_a` flows from the higher into the lower as soon as they touch; `share_a` is (first, second) at
    `load_a`, negative when charged; `may_join_v` the voltage difference at which the charge limit is kept.
    """

    equalising_a: float
    into: str
    load_a: float
    share_a: tuple[float, float]
    limit_a: float
    may_join_v: float
    loop_ohm: float


@dataclass(frozen=True)
class PackBudget:
    """The pack's account. `full_power_a` and `full_power_v` are what full power takes with everything on,
    `drive_full_w` what the drive gets of it: its controller lets no more than its current limit through.

    `range_known_wh` is the energy of the pack that the range is known with, `range_bare_km` what the first pack
    gives by it with nothing else on. `cuts_out_frac` is the charge below which full power pulls the pack under its
    cut-off; None when it never does.
    """

    packs: tuple[PackFigures, ...]
    assist_w: float
    accessories_w: float
    range_known_wh: float
    range_km: float
    range_bare_km: float
    range_first_km: float
    full_power_a: float
    full_power_v: float
    drive_full_w: float
    cut_off_v: float
    cuts_out_frac: float | None
    joining: Joining | None


def pack_figures(pack: Pack) -> PackFigures:
    """The figures of one pack."""
    return PackFigures(pack.id, pack.full_v, pack.resting_v, pack.empty_v, pack.ohm, pack.parallel * pack.cell_ah,
                       pack.energy_wh)


def under_power(emf_v: float, ohm: float, watts: float) -> tuple[float, float]:
    """Volts and amps of a source that gives constant watts; (nan, nan) when it cannot: V = E/2 + sqrt(E^2/4 - R P)."""
    root = emf_v**2 / 4 - ohm * watts
    if root < 0:
        return math.nan, math.nan
    volts = emf_v / 2 + math.sqrt(root)
    return volts, watts / volts


def with_limit(emf_v: float, ohm: float, drive_w: float, limit_a: float, others_w: float) -> tuple[float, float, float]:
    """Volts and amps of a pack, and the drive's watts: a drive that asks for watts but takes no more than a current,
    and other constant watts beside it. (nan, nan, nan) when the pack cannot give it."""
    volts, amps = under_power(emf_v, ohm, drive_w + others_w)
    if volts == volts and drive_w <= limit_a * volts:
        return volts, amps, drive_w
    # At its limit the drive is a constant current: it lowers the EMF that the others see.
    left_v = emf_v - ohm * limit_a
    volts = under_power(left_v, ohm, others_w)[0] if left_v >= emf_v / 2 else math.nan
    if not volts >= emf_v / 2:
        return math.nan, math.nan, math.nan  # past the most that the pack can give: its voltage collapses
    return volts, limit_a + others_w / volts, limit_a * volts


def share_a(first: PackFigures, second: PackFigures, load_a: float, way: str) -> tuple[float, float]:
    """What each of two packs gives to a load: joined in parallel, or through ideal diodes."""
    one = (first.rested_v - second.rested_v + load_a * second.ohm) / (first.ohm + second.ohm)
    if way == "diode":
        one = min(max(one, 0.0), load_a)
    return one, load_a - one


def joining(plan: Plan, load_a: float) -> Joining | None:
    """What happens when the plan's two packs are joined; None with fewer than two."""
    if len(plan.packs) != 2:
        return None
    combiner = plan.combiner
    way = combiner.way if combiner else "parallel"
    figures = [pack_figures(p) for p in plan.packs]
    high, low = (0, 1) if figures[0].rested_v >= figures[1].rested_v else (1, 0)
    loop = figures[0].ohm + figures[1].ohm
    flows = (figures[high].rested_v - figures[low].rested_v) / loop
    limit = plan.packs[low].charge_limit_a
    return Joining(flows, plan.packs[low].id, load_a, share_a(figures[0], figures[1], load_a, way), limit, limit * loop,
                   loop)


def pack_budget(plan: Plan) -> PackBudget | None:
    """The account of a machine on packs; None when it has none."""
    if not plan.packs:
        return None
    drive = plan.one(Drive)
    figures = tuple(pack_figures(p) for p in plan.packs)
    first = figures[0]
    account = ledger(plan, "assist")
    assist = drive.assist_w if drive else 0.0
    accessories = sum(i.average_w for i in account.items if i.counts and not i.own)
    whole = ledger(plan, "full")
    others_w = _beside_the_drive_w(whole)
    full_w, limit_a = (drive.full_w, drive.limit_a) if drive else (0.0, math.inf)
    volts, amps, drive_full_w = with_limit(first.rested_v, first.ohm, full_w, limit_a, others_w)
    cut_off = max(drive.cut_off_v if drive else 0.0, first.empty_v)
    combiner = plan.combiner
    usable = sum(f.energy_wh for f in figures) if combiner else first.energy_wh
    known_wh = plan.machine.range_wh or first.energy_wh
    bare = plan.machine.range_km * first.energy_wh / known_wh
    kept = assist / (assist + accessories) if assist + accessories > 0 else 1.0
    return PackBudget(figures, assist, accessories, known_wh, bare * kept * usable / first.energy_wh, bare,
                      bare * kept, amps, volts, drive_full_w, cut_off,
                      _cuts_out(plan.packs[0], full_w, limit_a, others_w, cut_off),
                      joining(plan, amps if amps == amps else 0.0))


def _beside_the_drive_w(account: Ledger) -> float:
    """Watts of everything that is on but the drive, at one moment."""
    return sum(i.on_a for i in account.items if i.counts and i.kind != "drive") * account.at_v


def _cuts_out(pack: Pack, drive_w: float, limit_a: float, others_w: float, cut_off_v: float) -> float | None:
    def spare(charge: float) -> float:
        volts, _, _ = with_limit(cell.pack_v(charge, pack.chemistry, pack.series), pack.ohm, drive_w, limit_a, others_w)
        return (volts if volts == volts else 0.0) - cut_off_v

    if spare(1.0) < 0:
        return 1.0
    return None if spare(0.0) >= 0 else float(brentq(spare, 0.0, 1.0))


def sag_curves(plan: Plan, points: int = 60) -> dict[str, list[tuple[float, float]]]:
    """Volts of the first pack over its charge: at rest, in assist and at full power with what is on; where it can."""
    pack = plan.packs[0]
    found: dict[str, list[tuple[float, float]]] = {"rested": [], "assist": [], "full": []}
    drive = plan.one(Drive)
    asked = {"rested": (0.0, 0.0)}
    for state in ("assist", "full"):
        account = ledger(plan, state)
        asked[state] = (drive.watts_in(state) if drive else 0.0, _beside_the_drive_w(account))
    for n in range(points + 1):
        charge = n / points
        emf = cell.pack_v(charge, pack.chemistry, pack.series)
        for kind, (own_w, others_w) in asked.items():
            volts, _, _ = with_limit(emf, pack.ohm, own_w, drive.limit_a if drive else math.inf, others_w)
            if volts == volts:
                found[kind].append((charge, volts))
    return found
