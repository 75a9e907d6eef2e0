"""Found wires and plugs, and the coils that hang on them."""

from ..feeds.taps import JUDGED_V, on_tap_a, running_v, triggered_by
from ..materials.conductors import ALPHA20_PER_K
from ..parts.base import Part
from ..parts.tap import Tap
from ..plan.stands import together
from ..wiring.contacts import hot_pull_in_v
from .figures import Figures
from .registry import ACTUATOR, TAP, NoFigure, figure
from .working import STATED, Input, Working, summed


@figure("tap", TAP)
def tap_a(figures: Figures, part: Tap) -> Working:
    """Everything on a plug that may be on together, at 12.0 V."""
    terms = [(p.draws_a(JUDGED_V), p.name) for p in together(figures.plan, part.id, JUDGED_V)]
    if part.others_a:
        terms.insert(0, (part.others_a, "the machine's own users"))
    formula, inputs = summed("I", terms, "A", f"at {JUDGED_V:.1f} V")
    return Working(f"On {part.name} together", "I", on_tap_a(figures.plan, part), "A", formula, tuple(inputs),
                   f"Its rating is {part.rated_a:g} A. Judged at {JUDGED_V:.1f} V, where converters draw most.")


@figure("trigger", TAP)
def trigger_a(figures: Figures, part: Tap) -> Working:
    """Coil current on a found wire."""
    volts, relays = running_v(figures.plan), triggered_by(figures.topology, part)
    if not relays:
        raise NoFigure(f"No coil is fed from {part.name}.")
    coils = [figures.topology.actuators[k.id].coil_ohm for k in relays]
    inputs = [Input(f"R_{n}", ohm, "Ω", f"coil of {k.name}", STATED)
              for n, (k, ohm) in enumerate(zip(relays, coils, strict=True), 1)]
    return Working(f"Coils on {part.name}", "I", sum(volts / ohm for ohm in coils), "A",
                   " + ".join(f"U / {i.symbol}" for i in inputs),
                   (Input("U", volts, "V", "running", "set-point"), *inputs),
                   f"Taken as good for {part.rated_a:g} A.")


@figure("pull_in", ACTUATOR)
def pull_in(figures: Figures, part: Part) -> Working:
    """Voltage at which a relay pulls in, its coil as warm as its place."""
    pull, warm = figures.topology.actuators[part.id], figures.plan.ambient_at(part.place)
    return Working(f"{part.name} pulls in at", "U", hot_pull_in_v(pull.pull_in_v, warm), "V",
                   "U_20 * (1 + a * (T - 20))", (
                       Input("U_20", pull.pull_in_v, "V", "at 20 °C", STATED),
                       Input("a", ALPHA20_PER_K, "1/K", "copper", "IEC 60028"),
                       Input("T", warm, "°C", "where it sits", STATED)))
