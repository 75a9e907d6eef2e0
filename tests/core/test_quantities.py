"""What was typed, in the unit that is asked for. Values by the definitions of the units: the foot is 0.3048 m (1959),
degrees Fahrenheit are 9/5 C + 32."""

import pytest

from loadstar.core.quantities import OF_UNIT, QUANTITIES, SCALES, NoQuantity, converted, read


@pytest.mark.parametrize(("typed", "unit", "usual", "value"), [
    ("1.2 m", "m", "ft", 1.2), ("1.2", "m", "ft", 0.36576), ("4 ft", "m", "", 1.2192), ("4'", "m", "", 1.2192),
    ("4′", "m", "", 1.2192), ('10"', "mm", "", 254.0), ("5 mm", "m", "m", 0.005), ("60 °C", "°C", "°F", 60.0),
    ("60", "°C", "°F", 15.5555555555), ("77 F", "°C", "°C", 25.0), ("300 K", "°C", "", 26.85), ("12,5", "V", "", 12.5),
    ("1 000,5 mm", "m", "", 1.0005), ("1\u202f000", "rpm", "", 1000.0), ("−3 A", "A", "", -3.0),
    ("12 mohm", "Ω", "", 0.012),
    ("3 MΩ", "Ω", "", 3e6), ("3 mΩ", "Ω", "", 0.003), ("2 k\u2126", "Ω", "", 2e3),
    ("2 kOhm", "ohm", "", 2e3), ("5 mv", "V", "", 0.005), ("50 %", "%", "", 50.0), (".5", "V", "", 0.5),
    ("5.", "V", "", 5.0), ("1e-3 A", "A", "", 0.001), ("2 h", "min", "", 120.0), ("1,5 kg", "g", "", 1500.0)])
def test_a_number_with_or_without_its_unit(typed, unit, usual, value):
    assert read(typed, unit, usual) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(("typed", "unit", "says"), [
    ("", "V", "Nothing is no number of V"), ("-", "V", "no number"), ("nan", "V", "no number"),
    ("inf", "V", "no number"), ("1e400", "V", "no number that can be"), ("1.234,5", "V", "no number"),
    ("1,234.5", "V", "no number"), ("1 2", "V", "no number"), ("5 V", "A", "V is no unit of a current; give it in A"),
    ("5 MA", "A", "MA is no unit of a current"), ("5 MV", "V", "MV is no unit"), ("5 kg", "m", "no unit of a length"),
    ("5 x", "", "without x"), ("four", "V", "four is no number"), ("5 °C", "K", "no unit of a temperature step")])
def test_what_is_no_number_or_of_something_else_is_told(typed, unit, says):
    with pytest.raises(NoQuantity, match=says):
        read(typed, unit)


def test_a_bare_number_in_its_own_unit_is_that_number_to_the_last_digit():
    for unit in (*OF_UNIT, *SCALES, ""):
        assert read("0.1", unit, unit) == 0.1
        assert converted(0.35, unit, unit) == 0.35


def test_units_of_a_quantity_go_there_and_back():
    for units in (*QUANTITIES.values(), SCALES):
        for one in units:
            for other in units:
                assert converted(converted(7.25, one, other), other, one) == pytest.approx(7.25, rel=1e-12)


# What one of each counts in the SI unit of its quantity (or in that which the trade has), written down again.
ONE_IS = {
    "m": 1, "cm": 0.01, "mm": 0.001, "km": 1000, "ft": 0.3048, "feet": 0.3048, "'": 0.3048, "in": 0.0254,
    "inch": 0.0254, '"': 0.0254, "A": 1, "mA": 0.001, "V": 1, "mV": 0.001, "kV": 1000, "volt": 1, "volts": 1, "Ω": 1,
    "mΩ": 0.001, "kΩ": 1000, "MΩ": 1e6, "ohm": 1, "ohms": 1, "mohm": 0.001, "kohm": 1000, "Mohm": 1e6, "W": 1,
    "mW": 0.001, "kW": 1000, "watt": 1, "watts": 1, "Ah": 1, "mAh": 0.001, "Wh": 1, "kWh": 1000, "s": 1, "sec": 1,
    "ms": 0.001, "min": 60, "minutes": 60, "h": 3600, "days": 86400, "day": 86400, "years": 365.25 * 86400,
    "year": 365.25 * 86400, "g": 1, "kg": 1000, "N": 1, "kN": 1000, "mm²": 1, "mm2": 1,
    "cm²": 100, "cm2": 100, "rpm": 1, "1/min": 1, "°": 1, "deg": 1, "%": 1, "mV/rpm": 1, "mV per rpm": 1, "V/rpm": 1000,
    "mΩ/rpm": 1, "mΩ per rpm": 1, "Ω/rpm": 1000, "K": 1, "×": 1, "x": 1}


def test_every_unit_counts_what_it_is():
    assert ONE_IS.keys() == OF_UNIT.keys()
    for unit, value in ONE_IS.items():
        first = next(iter(QUANTITIES[OF_UNIT[unit]]))
        assert read(f"2,5 {unit}", first) == pytest.approx(2.5 * value, rel=1e-12), unit


def test_melting_ice_and_boiling_water_on_every_scale():
    for unit, ice, steam in (("°C", 0, 100), ("C", 0, 100), ("°F", 32, 212), ("F", 32, 212), ("K", 273.15, 373.15)):
        assert read(f"{ice} {unit}", "°C") == pytest.approx(0, abs=1e-9)
        assert read(f"{steam} {unit}", "°C") == pytest.approx(100)
        assert read(f"{steam} {unit}", "°F") == pytest.approx(212)


@pytest.mark.parametrize(("typed", "unit", "usual", "says"), [
    ("7 bar", "°C", "°F", "7 bar: bar is no unit of a temperature; give it in °F."),
    ("1" * 30 + "x", "V", "", "1" * 20 + ": x is no unit of a voltage; give it in V."),
    ("5 furlongs-and-more", "m", "ft", "5 furlongs-and-more: furlongs-and is no unit of a length; give it in ft."),
    ("", "", "", "Nothing is no number."), ("two", "m", "ft", "two is no number of ft.")])
def test_the_sentence_says_what_to_do(typed, unit, usual, says):
    with pytest.raises(NoQuantity) as told:
        read(typed, unit, usual)
    assert str(told.value) == says
