"""A coil that is not wired up: said of it, and no longer once both its ends have a wire."""

import pytest
from builders import Bench

from loadstar.core.analysis import analyse
from loadstar.core.edits import AddWire, apply


@pytest.mark.parametrize("wired, open_ends", [
    ((), "plus and minus"), (("plus",), "minus"), (("minus",), "plus"), (("plus", "minus"), "")])
def test_a_coil_without_both_its_wires_is_told(wired, open_ends):
    b = Bench()
    solenoid = b.add("solenoid", name="isolator", place=b.box)
    ends = {"plus": f"{b.key}.pin", "minus": f"{b.battery}.neg"}
    for terminal in wired:
        b.plan = apply(b.plan, AddWire(a=ends[terminal], b=f"{solenoid}.{terminal}"))
    told = [f.sentence for f in analyse(b.plan).findings if f.rule == "coil.loose"]
    assert told == ([f"Nothing is wired to isolator's coil at {open_ends}: its contact never closes."]
                    if open_ends else [])
