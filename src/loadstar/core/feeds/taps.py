"""Can a found wire or plug carry it, with what is already on it? Judged at 12.0 V, where converters draw most."""

from dataclasses import dataclass

from ..amounts import percent
from ..parts.base import Part
from ..parts.load import LoadPart
from ..parts.port import Port
from ..parts.tap import Tap
from ..parts.work import LIVE_WORDS
from ..plan.model import Plan
from ..plan.stands import together
from ..survey.pins import suspect
from ..wiring.topology import Topology

JUDGED_V = 12.0
CHARGED_SHARE = 12.6 / 12  # of its nominal voltage a charged battery has


@dataclass(frozen=True)
class TapAnswer:
    """What a found wire or plug has to spare for a load, and what it is short of (empty: it can carry it)."""

    tap: str
    name: str
    rated_a: float
    others_a: float
    asked_a: float
    short_of: tuple[str, ...]

    @property
    def spare_a(self) -> float:
        """What would be left of its rating; negative when it is over."""
        return self.rated_a - self.others_a - self.asked_a


def on_tap_a(plan: Plan, tap: Tap, volts_v: float = JUDGED_V) -> float:
    """Current on a found wire or plug with everything on it that may be on together, at a voltage."""
    return tap.others_a + sum(p.draws_a(volts_v) for p in together(plan, tap.id, volts_v))


def running_v(plan: Plan) -> float:
    """The voltage that a trigger is judged at: the regulator's, or the battery's."""
    return plan.generator.set_v if plan.generator else plan.machine.system_v * CHARGED_SHARE


def triggered_by(topology: Topology, tap: Tap) -> list[Part]:
    """What has a coil that hangs on a found wire, straight or through switches and fuses."""
    pin = tap.at("pin")
    ends = {w.b if w.a == pin else w.a for w in topology.plan.wires if pin in (w.a, w.b)}
    return [topology.parts[part] for part, coil in topology.actuators.items()
            if coil.plus in ends or topology.node(coil.plus) == topology.node(pin)
            or any(k.element == tap.id for k in topology.way_to(part, coil.plus, coil.minus).feed)]


def triggered_a(topology: Topology, tap: Tap) -> float:
    """What the coils that hang on a found wire draw at the voltage that they are judged at."""
    volts = running_v(topology.plan)
    return sum(volts / topology.actuators[part.id].coil_ohm for part in triggered_by(topology, tap))


def which_tap(plan: Plan, load: LoadPart) -> tuple[TapAnswer, ...]:
    """Every found wire and plug for a load, those that can carry it first, the largest spare first."""
    found = []
    for part in plan.taps:
        asked = load.draws_a(JUDGED_V)
        others = on_tap_a(plan, part) - (asked if plan.hangs_on(load) == part.id else 0.0)
        short: list[str] = []
        if never := plan.never(part):
            short.append(f"belongs to the {never} system: never tapped")
        if part.live != load.live:
            short.append(f"is {LIVE_WORDS[part.live]}; this is to be {LIVE_WORDS[load.live]}")
        over = others + asked - part.rated_a
        if over > 0:
            short.append(f"{over:.1f} A short at {JUDGED_V:.1f} V")
        if part.fused_a is None and not part.unfused:
            short.append("its factory fuse is not known: find it")
        elif part.fused_a and not part.unfused and others + asked > plan.rules.fuse_share_frac * part.fused_a:
            short.append(f"its {part.fused_a:g} A fuse would carry {percent((others + asked) / part.fused_a)}")
        if why := suspect(plan, part):
            short.append(why)
        if part.standing == "believed":
            short.append("is not confirmed: probe it here")
        if part.off_delay_s > 0 and load.live != "always":
            short.append(f"stays live {part.off_delay_s:g} s after")
        found.append(TapAnswer(part.id, part.name, part.rated_a, others, asked, tuple(short)))
    return tuple(sorted(found, key=lambda t: (len(t.short_of), -t.spare_a, t.tap)))


def port_asked_w(plan: Plan, port: Port) -> float:
    """Watts asked of a light port, with everything on it that may be on together."""
    return sum(p.draws_a(port.out_v) * port.out_v for p in together(plan, port.id, port.out_v))
