"""What a plan's supplies give: generator output at a speed, battery and pack volts and resistance, the drive's watts."""

from ..physics import battery as cell
from ..physics import generator as alternator
from ..plan.model import Battery, Drive, Generator, Pack, Plan, States


def winding_of(generator: Generator) -> alternator.Winding:
    """The winding that the plate's two ratings stand for. Raises GeneratorError when none fits."""
    return alternator.identify(
        ((generator.rating1_rpm, generator.rating1_w / generator.rating_v + generator.field_a),
         (generator.rating2_rpm, generator.rating2_w / generator.rating_v + generator.field_a)),
        generator.phase_ohm, generator.rating_v, generator.diode_v, generator.phases, generator.rectifier == "half")


def available_a(generator: Generator | None, rpm: float, posts_v: float) -> float:
    """What the generator can give into the posts at a speed, up to the regulator's limit."""
    if generator is None or rpm <= 0:
        return 0.0
    given = alternator.rectified_a(winding_of(generator), rpm, posts_v, generator.diode_v, generator.rectifier == "half")
    given = max(0.0, given - generator.field_a)
    return given if generator.limit_a is None else min(given, generator.limit_a)


def battery_v(battery: Battery) -> float:
    """Rested voltage at the charge that a battery is judged at."""
    return cell.rested_v(battery.charge_frac, battery.chemistry, battery.nominal_v)


def crank_limit_v(plan: Plan, battery: Battery) -> float:
    """The house rule's lowest voltage while cranking, which is given for 12 V, for this battery."""
    return plan.rules.crank_limit_v * battery.nominal_v / 12


def pack_ohm(pack: Pack) -> float:
    """Resistance of a pack: its cells, and protection circuit and wiring."""
    return (pack.series / pack.parallel * pack.cell_mohm + pack.extra_mohm) / 1000


def pack_rested_v(pack: Pack) -> float:
    """Rested voltage of a pack: as measured, or at the charge it is judged at."""
    return pack.rested_v or cell.pack_v(pack.charge_frac, pack.chemistry, pack.series)


def pack_full_v(pack: Pack) -> float:
    """Voltage of a full pack, on the charger."""
    return cell.pack_v(1.0, pack.chemistry, pack.series)


def pack_empty_v(pack: Pack) -> float:
    """Voltage at which the protection circuit ends it."""
    return pack.series * pack.empty_v_per_cell if pack.empty_v_per_cell else cell.pack_v(0.0, pack.chemistry, pack.series)


def drive_w(drive: Drive, state: States) -> float:
    """Watts that the rider asks of the drive in a state; its controller lets no more through than its current limit."""
    return {"on": drive.idle_w, "assist": drive.assist_w, "full": drive.full_w}.get(state, 0.0)


def short_circuit_a(generator: Generator, rpm: float) -> float:
    """What a generator gives into a short at a speed: its rectified winding at no voltage, or the regulator's limit."""
    winding = winding_of(generator)
    given = alternator.rectified_a(winding, rpm, 0.0, generator.diode_v, generator.rectifier == "half")
    return given if generator.limit_a is None else min(given, generator.limit_a)
