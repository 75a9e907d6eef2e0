"""The harness's picture: well formed, and escaped."""

import xml.etree.ElementTree as ET

from builders import Bench

from loadstar.draw import route


def test_the_sheet_carries_the_machine_s_name():
    b = Bench()
    b.machine(name="<Skiff & Co>")
    drawn = ET.fromstring(route.draw(b.plan))
    assert drawn[0].text == "The harness of <Skiff & Co>"
    assert drawn[1].text == "1 runs"
