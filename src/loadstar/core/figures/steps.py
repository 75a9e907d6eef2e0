"""A circuit step by step: volts at the load, lost on the way, over each element; currents and lengths."""

from ..doc.states import STATE_NAMES, States
from ..materials.conductors import ALPHA20_PER_K
from ..materials.conductors import SOURCE as CONDUCTOR_SOURCE
from ..parts.load import LoadPart
from ..physics import surface
from ..physics.elements import FILAMENT_COLD_FRAC, FILAMENT_EXPONENT
from ..wiring.circuit import Link
from ..wiring.results import StateResult
from .figures import Figures
from .names import begins_words, element_name
from .registry import CARRIES, ELEMENT, LOAD, STATE, WIRE, NoFigure, figure
from .wires import WireResult
from .working import HOUSE, SOLVED, Input, Working, source_of, summed


@figure("load_v", LOAD, STATE)
def load_v(figures: Figures, load: LoadPart, state: States) -> Working:
    """Volts across a load: the posts' voltage less every step on the way."""
    volts, path = figures.volts.across_v(load.id, state), figures.path(load.id)
    if volts is None or not path.complete or figures.volts.is_reversed(load.id, state):
        raise NoFigure(f"{load.name} has no voltage of its own way then.")
    row = figures.volts.row(load.id, state)  # the steps as the switches then stand, so that they add up
    steps = [(step_drop_v(k, row), element_name(figures, k.element)) for k in path.links]
    formula, inputs = summed("u", steps, "V", SOLVED)
    posts = Input("U_posts", figures.volts.begins_v(load.id, state), "V", begins_words(figures, load.id), SOLVED)
    return Working(f"{load.name}, {STATE_NAMES[state].lower()}", "U_load", volts, "V", f"U_posts - ({formula})",
                   (posts, *inputs))


@figure("drop", LOAD, STATE)
def drop(figures: Figures, load: LoadPart, state: States) -> Working:
    """Share of the posts' voltage lost on the way."""
    lost, volts = figures.volts.drop_frac(load, state), figures.volts.across_v(load.id, state)
    if lost is None or volts is None:
        raise NoFigure(f"{load.name} is not fed then.")
    return Working(f"{load.name}: lost on the way, {STATE_NAMES[state].lower()}", "p", lost * 100, "%",
                   "100 * (U_posts - U_load) / U_posts", (
                       Input("U_posts", figures.volts.begins_v(load.id, state), "V", begins_words(figures, load.id),
                             SOLVED),
                       Input("U_load", volts, "V", "across the load", SOLVED)))


def step_drop_v(link: Link, row: StateResult | None) -> float:
    """Volts over a link, from its first to its second end."""
    if row is None or row.solution is None:
        raise NoFigure("This state has no solution.")
    return row.solution.across_v(link.a, link.b)


@figure("step", ELEMENT, STATE)
def step(figures: Figures, link: Link, state: States) -> Working:
    """Volts over one wire, fuse or contact: current times resistance."""
    element = link.element
    result = figures.volts.row_through(element, state)
    if result.solution is None or element not in result.solution.current_a:
        raise NoFigure(f"{element} is open then.")
    amps = abs(result.current(element))
    current = Input("I", amps, "A", "current", SOLVED)
    title = f"Drop over {element_name(figures, element)}, {STATE_NAMES[state].lower()}"
    if element in figures.wires:
        wire = figures.wires[element]
        metal = wire.coordination.duty.wire
        inputs = (current, Input("r_20", metal.r20_ohm_per_m * 1000, "mΩ/m",
                                 f"{wire.area_mm2:g} mm²{', tinned,' if metal.tinned else ''} at 20 °C",
                                 CONDUCTOR_SOURCE),
                  Input("alpha", ALPHA20_PER_K, "1/K", "copper", "IEC 60028"),
                  Input("T", min(result.wire_mean_c[element], surface.RUNAWAY_C), "°C", "mean temperature of the wire",
                        "heat model"),
                  Input("L", wire.length_m, "m", "length", "along its runs, with allowances"),
                  Input("R_c", 1000 * metal.end_ohm, "mΩ", "each of its two ends", HOUSE))
        return Working(title, "u", abs(step_drop_v(link, result)) * 1000, "mV",
                       "I * (r_20 * (1 + alpha * (T - 20)) * L + 2 * R_c)", inputs,
                       "The network was solved with the wire at this temperature, brought to agree with its current.")
    ohm, what, source = _contact(figures, element)
    return Working(title, "u", abs(step_drop_v(link, result)) * 1000, "mV", "I * R",
                   (current, Input("R", ohm * 1000, "mΩ", what, source)))


def _wire_ohm(figures: Figures, wire: str, mean_c: float) -> float:
    result = figures.wires[wire]
    return result.coordination.duty.wire.ohm(result.length_m, mean_c)


def _contact(figures: Figures, element: str) -> tuple[float, str, str]:
    """What is no wire: its ohms, in words, and where the figure is from."""
    branch = figures.topology.branches[element]
    words = f"{figures.ratings.rating_a(branch.ref.part):g} A {branch.what}" if branch.ohm is None else branch.what
    return figures.topology.contact_ohm(element, figures.ratings.rated), words, branch.source


@figure("current", CARRIES, STATE)
def current(figures: Figures, element: str, state: States) -> Working:
    """Current through an element: Ohm's law over its solved drop, or a load's behaviour at its solved voltage."""
    part = figures.plan.is_one(element, LoadPart)
    result = figures.volts.row(element, state) if part else figures.volts.row_through(element, state)
    if result is None or result.solution is None or element not in result.solution.current_a:
        raise NoFigure(f"{element} is open then.")
    title = f"Current, {element_name(figures, element)}, {STATE_NAMES[state].lower()}"
    amps = abs(result.current(element))
    if part is not None:
        across = figures.volts.across_v(element, state)
        if across is None or element in result.solution.on_floor:
            raise NoFigure(f"{part.name} is not fed then.")
        volts = Input("U", across, "V", "across it", SOLVED)
        if part.behaviour == "resistor":
            return Working(title, "I", amps, "A", "U * P / U_n ** 2", (
                volts, Input("P", part.power_w, "W", "stated power", source_of(part, "amount")),
                Input("U_n", part.at_v, "V", "stated at", source_of(part, "at_v"))))
        if part.behaviour == "power":
            return Working(title, "I", amps, "A", "P / U", (volts, Input("P", part.power_w, "W", "power",
                                                                         source_of(part, "amount"))))
        if part.behaviour == "filament":
            if across < FILAMENT_COLD_FRAC * part.at_v:  # hardly lit: taken as a cold resistance
                raise NoFigure(f"{part.name} is hardly lit then.")
            return Working(title, "I", amps, "A", "P / U_n * (U / U_n) ** b", (
                volts, Input("P", part.power_w, "W", "stated power", source_of(part, "amount")),
                Input("U_n", part.at_v, "V", "stated at", source_of(part, "at_v")),
                Input("b", FILAMENT_EXPONENT, "", "exponent of a filament lamp",
                      "usual: I rises with V to the power 0.55")))
        return Working(title, "I", amps, "A", "I_n", (Input("I_n", part.current_a, "A", "constant current",
                                                            source_of(part, "amount", "at_v")),))
    link = figures.link(element)
    ohm = _wire_ohm(figures, element,
                    min(result.wire_mean_c[element], surface.RUNAWAY_C)) if element in figures.wires else _contact(
        figures, element)[0]
    return Working(title, "I", amps, "A", "u / R", (
        Input("u", abs(step_drop_v(link, result)) * 1000, "mV", "drop over it", SOLVED),
        Input("R", ohm * 1000, "mΩ", "its resistance", "see its drop")))


@figure("peak", CARRIES)
def peak(figures: Figures, element: str) -> Working:
    """The largest current over the states."""
    found = [(abs(r.current(element)), r.words) for s, r in figures.states.items() if s != "cranking"]
    found += [(abs(r.current(element)), r.words) for r in (figures.sized.alternates if figures.sized else ())]
    _, inputs = summed("I", found, "A", SOLVED)
    arguments = ", ".join(i.symbol for i in inputs)
    formula, note = f"max({arguments})", ""
    more = figures.ratings.peak_a(element) - max(amps for amps, _ in found)
    if more > 1e-9:  # it leads to a converter, which takes more from an almost empty pack
        inputs.append(Input("I_low", more, "A", "more that a converter takes with the pack nearly empty",
                            "same watts at less volts"))
        formula, note = f"{formula} + I_low", "Sized for the pack's empty end."
    return Working(f"Most that {element_name(figures, element)} carries", "I", figures.ratings.peak_a(element), "A",
                   formula, tuple(inputs), note)


@figure("length", WIRE)
def length(figures: Figures, found: WireResult) -> Working:
    """Length of a wire from its stretches."""
    wire, geometry = found.id, figures.topology.geometry[found.id]
    measured = figures.topology.wires[wire].length_m is not None
    terms = [(s.length_m, f"{s.run or 'within the place'}, its share of the ends' allowance included")
             for s in geometry.segments]
    formula, inputs = summed("l", terms, "m", "measured" if measured else "runs of this plan")
    return Working(f"Length of {wire}", "L", geometry.length_m, "m", formula, tuple(inputs),
                   "" if geometry.way_known else "No run joins its ends: the straight distance stands in.")
