"""Small sums of the bench: a drop that was read, a divider, a lamp's resistor, a flasher's watts, a capacitor, a
standing draw."""

import math
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..budget.ledger import parked
from ..doc.rules import HouseRules
from ..edits.builder import Builder
from ..errors import refuse
from ..figures.figures import compute
from ..figures.registry import working
from ..figures.working import HOUSE, Input, Working
from ..materials.fuses import KINDS
from ..materials.typical import TOURING
from ..parts.asks import Ask
from ..parts.flasher import Flasher
from ..parts.relay import Relay
from ..parts.switch import Switch
from ..physics.battery import rested_v
from ..plan.model import Plan
from ..rules.switching import LAMPS_LOST_FRAC, RESISTOR_V, THERMAL_FRAC
from .base import Answer, Question, two_figures

READ, ASKED = "read", "asked"
E24 = (1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5,
       8.2, 9.1)  # IEC 60063
SPARE_V = 1.6  # volts that a capacitor is bought for, of what it gets
RESISTOR_W = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0, 25.0, 50.0, 100.0)
COLD = 2.0  # a resistor is taken for twice the watts that it gets
BAD = 3.0  # times the usual: a joint that is made anew (assumed)


def preferred(ohm: float, *, up: bool) -> float:
    """The next resistor that is sold (E24, IEC 60063), not smaller or not larger."""
    decade = 10.0 ** math.floor(math.log10(ohm))
    steps = [*(decade * e for e in E24), 10 * decade]
    near = 1e-9 * ohm
    return min(s for s in steps if s >= ohm - near) if up else max(s for s in steps if s <= ohm + near)


def spaced(value: float) -> str:
    """A value as it is printed on what is sold."""
    return f"{value:,g}".replace(",", " ")


def sold_w(watts: float) -> str:
    """The resistor's watts to buy."""
    size = next((w for w in RESISTOR_W if w >= COLD * watts), None)
    return f"a {size:g} W one" if size else "no usual one: split it up"


class DropRead(Question):
    """Millivolts over something while amps flow: its resistance, its watts, and whether that is good for its kind."""

    KEY: ClassVar[str] = "drop"
    TITLE: ClassVar[str] = "Is this drop good or bad?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("drop_v", "Read over it", "12 mV or 0.012."), Ask("amps_a", "at a current of"),
        Ask("over", "It is", kind="choice", choices=(
            ("crimp", "one crimp or terminal"), ("pair", "a pair of terminals, plugged"),
            ("ground", "a ground on the frame"), ("fuse", "a blade fuse in its holder"), ("switch", "a switch"),
            ("relay", "a relay's contact"))),
        Ask("fuse_a", "The fuse's rating", "Of a fuse.", kind="choice", optional=True,
            choices=tuple((f"{a:g}", f"{a:g} A") for a in KINDS["blade"].ratings_a)))

    drop_v: Annotated[float, Field(ge=0, le=60)] = 0.05
    amps_a: Annotated[float, Field(gt=0, le=500)] = 5
    over: Literal["crimp", "pair", "ground", "fuse", "switch", "relay"] = "crimp"
    fuse_a: Annotated[float, Field(gt=0, le=40)] | None = None

    def answer(self, rules: HouseRules) -> Answer:
        """Ohm's law, beside what plans take for such a thing."""
        usual, source = self._usual_mohm(rules)
        mohm, watts = 1000 * self.drop_v / self.amps_a, self.drop_v * self.amps_a
        volts, amps = Input("U", self.drop_v, "V", "read over it", READ), Input("I", self.amps_a, "A", "flows", READ)
        figures = (
            Working("Its resistance", "R", mohm, "mΩ", "1000 * U / I", (volts, amps)),
            Working("Warms it with", "P", watts, "W", "U * I", (volts, amps)),
            Working("Usual for its kind", "R_u", usual, "mΩ", "R_u", (Input("R_u", usual, "mΩ", "as plans take it",
                                                                              source),)))
        bad = mohm > BAD * usual
        said = (f"Bad: {two_figures(mohm)} mΩ, usual is {two_figures(usual)}. {two_figures(watts)} W in it." if bad
                else f"Worn: {two_figures(mohm)} mΩ, usual is {two_figures(usual)}." if mohm > usual
                else f"Good: {two_figures(mohm)} mΩ, usual is up to {two_figures(usual)}.")
        return Answer(said, figures, ("Read it loaded: with nothing flowing every joint looks good.",), grave=bad)

    def _usual_mohm(self, rules: HouseRules) -> tuple[float, str]:
        """What a plan takes for it, and where that is from."""
        if self.over == "fuse":
            kind = KINDS["blade"]
            if self.fuse_a not in kind.ratings_a:
                raise refuse("", "fuse_a", "Choose the rating that is printed on the fuse.")
            return 1000 * kind.by_rating[self.fuse_a].hot_ohm, kind.source
        if self.over == "switch":
            return float(Switch.model_fields["contact_mohm"].default), "usual of a switch"
        if self.over == "relay":
            return float(Relay.model_fields["contact_mohm"].default), "usual of a relay's contact"
        return {"crimp": 1, "pair": 2, "ground": 2}[self.over] * rules.contact_mohm, HOUSE


class Divider(Question):
    """Two resistors that make a smaller voltage of a larger."""

    KEY: ClassVar[str] = "divider"
    TITLE: ClassVar[str] = "Divider for a sense wire"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("most_v", "It may come to"), Ask("wanted_v", "is to become, at the most"),
        Ask("lower_ohm", "Lower resistor"), Ask("input_ohm", "What reads it has", "Empty: much more.", optional=True))

    most_v: Annotated[float, Field(gt=0, le=150)] = 15
    wanted_v: Annotated[float, Field(gt=0, le=150)] = 3.3
    lower_ohm: Annotated[float, Field(ge=10, le=1e7)] = 10_000
    input_ohm: Annotated[float, Field(ge=10, le=1e9)] | None = None

    def answer(self, rules: HouseRules) -> Answer:
        """The upper one, sold, so that it never comes to more."""
        if self.wanted_v >= self.most_v:
            raise refuse("", "wanted_v", "A divider only makes less of it.")
        lower = Input("R_2", self.lower_ohm, "Ω", "lower resistor", ASKED)
        beside = [] if self.input_ohm is None else [Input("R_i", self.input_ohm, "Ω", "of what reads it", ASKED)]
        both = "R_2" if not beside else "(R_2 * R_i / (R_2 + R_i))"
        both_ohm = self.lower_ohm if self.input_ohm is None else 1 / (1 / self.lower_ohm + 1 / self.input_ohm)
        exact = both_ohm * (self.most_v / self.wanted_v - 1)
        upper = preferred(exact, up=True)
        given = self.most_v * both_ohm / (upper + both_ohm)
        most = Input("U", self.most_v, "V", "the most that comes", ASKED)
        sold = Input("R_1", upper, "Ω", "upper resistor, sold", "E24, IEC 60063")
        figures = (
            Working("Upper resistor", "R", exact, "Ω", f"{both} * (U / U_w - 1)", (
                lower, *beside, most, Input("U_w", self.wanted_v, "V", "wanted at the most", ASKED))),
            Working("Gives at the most", "U_2", given, "V", f"U * {both} / (R_1 + {both})", (
                most, lower, *beside, sold)),
            Working("Draws", "I", 1000 * self.most_v / (upper + both_ohm), "mA", f"1000 * U / (R_1 + {both})", (
                most, lower, *beside, sold)))
        said = f"{spaced(upper)} Ω above, {spaced(self.lower_ohm)} Ω below: {given:.3g} V at the most."
        return Answer(said, figures, (
            "If the lower one comes off, all of it is there: a protection at the input stays needed.",))


class LampResistor(Question):
    """A resistor before a lamp or light-emitting diode that is made for less."""

    KEY: ClassVar[str] = "resistor"
    TITLE: ClassVar[str] = "Resistor for a lamp"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("supply_v", "Supply, at the most"), Ask("lamp_v", "The lamp is for"),
        Ask("amps_a", "and draws", "20 mA or 0.02."))

    supply_v: Annotated[float, Field(gt=0, le=150)] = 14.4
    lamp_v: Annotated[float, Field(gt=0, le=150)] = 2.1
    amps_a: Annotated[float, Field(gt=0, le=50)] = 0.02

    def answer(self, rules: HouseRules) -> Answer:
        """Its ohms, the next sold, and its watts."""
        if self.lamp_v >= self.supply_v:
            raise refuse("", "lamp_v", "It needs no resistor: it is made for as much as there is.")
        exact = (self.supply_v - self.lamp_v) / self.amps_a
        sold = preferred(exact, up=True)
        amps = (self.supply_v - self.lamp_v) / sold
        supply, lamp = Input("U", self.supply_v, "V", "supply", ASKED), Input("U_l", self.lamp_v, "V", "lamp", ASKED)
        figures = (
            Working("Resistor", "R", exact, "Ω", "(U - U_l) / I", (
                supply, lamp, Input("I", self.amps_a, "A", "lamp", ASKED))),
            Working("Gets warm with", "P", amps ** 2 * sold, "W", "(U - U_l) ** 2 / R_s", (
                supply, lamp, Input("R_s", sold, "Ω", "sold", "E24, IEC 60063"))))
        return Answer(f"{spaced(sold)} Ω, {sold_w(amps ** 2 * sold)}.", figures, (
            f"It is taken for {COLD:g} times its watts, so that it does not burn what it lies at.",))


class FlasherWatts(Question):
    """Whether a flasher likes the lamps of one side, and what load resistor makes them up."""

    KEY: ClassVar[str] = "flasher"
    TITLE: ClassVar[str] = "Will the flasher flash right?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("way", "The flasher works by", kind="choice", choices=next(
            a.choices for a in Flasher.ASKS if a.name == "way")),
        Ask("made_for_w", "Made for, each side"), Ask("lamp_w", "Each lamp"),
        Ask("lamps", "Lamps on a side", kind="whole", choices=tuple((str(n), str(n)) for n in range(1, 7))))

    way: Literal["thermal", "load sensing", "fixed rate"] = "load sensing"
    made_for_w: Annotated[float, Field(gt=0, le=200)] = 42
    lamp_w: Annotated[float, Field(gt=0, le=100)] = 2
    lamps: Annotated[int, Field(ge=1, le=6)] = 2

    def answer(self, rules: HouseRules) -> Answer:
        """By the shares that plans are judged by."""
        side_w = self.lamps * self.lamp_w
        least, most = THERMAL_FRAC if self.way == "thermal" else (LAMPS_LOST_FRAC, math.inf)
        made = Input("P_m", self.made_for_w, "W", "made for", "printed on it")
        side = Working("One side", "P", side_w, "W", "n * P_1", (
            Input("n", self.lamps, "", "lamps", ASKED), Input("P_1", self.lamp_w, "W", "each", ASKED)))
        if self.way == "fixed rate" or least * self.made_for_w <= side_w <= most * self.made_for_w:
            return Answer(f"Yes: {side_w:g} W on a side.", (side,))
        if side_w > self.made_for_w:
            said = f"No: {side_w:g} W on a side is more than it is made for; it flashes fast and burns."
            return Answer(said, (side,), grave=True)
        short_w = self.made_for_w - side_w
        ohm = RESISTOR_V ** 2 / short_w
        figures = (side, Working("Missing on each side", "P_r", short_w, "W", "P_m - P", (
            made, Input("P", side_w, "W", "one side", "above"))), Working(
            "Load resistor", "R", ohm, "Ω", "U ** 2 / P_r", (
                Input("U", RESISTOR_V, "V", "that such resistors are stated at", "usual"),
                Input("P_r", short_w, "W", "missing", "above"))))
        return Answer(f"No: {side_w:g} W where {self.made_for_w:g} W are wanted. A fixed-rate flasher, or "
                      f"{two_figures(ohm)} Ω across the lamps of each side.", figures, (
            f"Such a resistor gets {two_figures(short_w)} W and is too hot to touch: on metal, away from plastic.",),
            grave=True)


class Capacitor(Question):
    """A capacitor that carries something over a gap in its supply."""

    KEY: ClassVar[str] = "capacitor"
    TITLE: ClassVar[str] = "Capacitor for a dropout"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("load_w", "It draws"), Ask("gap_s", "The gap lasts", "150 ms or 0.15."), Ask("from_v", "Volts before it"),
        Ask("to_v", "It works down to"), Ask("diode_v", "A diode before it takes", "0.3 to 0.7 V."))

    load_w: Annotated[float, Field(gt=0, le=200)] = 3
    gap_s: Annotated[float, Field(gt=0, le=60)] = 0.15
    from_v: Annotated[float, Field(gt=0, le=100)] = 12.5
    to_v: Annotated[float, Field(gt=0, le=100)] = 9
    diode_v: Annotated[float, Field(ge=0, le=2)] = 0.5

    def answer(self, rules: HouseRules) -> Answer:
        """By the energy between the two voltages, at constant power."""
        full = self.from_v - self.diode_v
        if self.to_v >= full:
            raise refuse("", "to_v", f"Behind its diode there are {full:.3g} V: nothing is left to give.")
        farad = 2 * self.load_w * self.gap_s / (full ** 2 - self.to_v ** 2)
        figure = Working("Capacity", "C", 1e6 * farad, "µF", "1000000 * 2 * P * t / ((U - U_d) ** 2 - U_1 ** 2)", (
            Input("P", self.load_w, "W", "it draws, whatever the volts", ASKED),
            Input("t", self.gap_s, "s", "gap", ASKED),
            Input("U", self.from_v, "V", "before", ASKED), Input("U_d", self.diode_v, "V", "diode", ASKED),
            Input("U_1", self.to_v, "V", "works down to", ASKED)),
            "New and warm. One may have a fifth less than is printed on it, and loses more in the cold and with age.")
        said = (f"{two_figures(1e6 * farad)} µF at the least; take twice that, "
                f"for {SPARE_V * self.from_v:.0f} V or more.")
        return Answer(said, (figure,), ("Without a diode before it, it feeds everything else on that wire, too.",))


class StandingDraw(Question):
    """Days that a battery keeps a start in it."""

    KEY: ClassVar[str] = "standing"
    TITLE: ClassVar[str] = "How long may it stand?"
    ASKS: ClassVar[tuple[Ask, ...]] = (
        Ask("draw_ma", "Draws with the key off"), Ask("capacity_ah", "Battery"),
        Ask("chemistry", "Kind", kind="choice", choices=(("agm", "AGM"), ("flooded", "flooded"), ("lfp", "LiFePO4"))),
        Ask("cranking_a", "The starter draws"))

    draw_ma: Annotated[float, Field(ge=0, le=20_000)] = 15
    capacity_ah: Annotated[float, Field(ge=0.5, le=200)] = 10
    chemistry: Literal["agm", "flooded", "lfp"] = "agm"
    cranking_a: Annotated[float, Field(ge=0, le=600)] = 110

    def answer(self, rules: HouseRules) -> Answer:
        """From full until it no longer cranks."""
        b = Builder("How long may it stand?", Plan(rules=rules))
        b.machine(name="A machine", kind="motorcycle", cranking_a=self.cranking_a)
        at = b.add("place", name="at the battery")
        b.add("battery", name="battery", place=at, capacity_ah=self.capacity_ah, chemistry=self.chemistry,
              internal_mohm=TOURING.internal_mohm.usual * TOURING.battery_ah.usual / self.capacity_ah)
        if self.draw_ma:
            full_v = rested_v(1.0, self.chemistry)
            b.add("own", name="with the key off", place=at, power_w=self.draw_ma / 1000 * full_v, live="always")
        found = parked(b.plan)
        assert found is not None
        if found.least_charge >= 1:
            return Answer("Not at all: full, it does not crank such a starter.", grave=True)
        figure = working(compute(b.plan), "parked")
        days = f"{found.days:.0f} days" if found.days >= 2 else f"{24 * found.days:.1f} hours"
        return Answer(f"{days}; the house rule is {rules.parked_days:g} days.", (figure,), (
            "Its own self-discharge is counted, the cold is not.",), (), None, found.days < rules.parked_days)
