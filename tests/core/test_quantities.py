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
