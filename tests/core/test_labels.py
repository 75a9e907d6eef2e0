"""Every edit says in the history what it did, in words that somebody else understands."""

import pytest
from builders import Bench

from loadstar.core import edits as e
from loadstar.core.edits.another import TakeSurvey
from loadstar.core.edits.base import EditBase
from loadstar.core.edits.joint import MakeJoint
from loadstar.core.edits.plugs import PutPins, PutPlug
from loadstar.core.edits.standing import Vouch
from loadstar.core.edits.survey import BodyPlaces, Confirm, MovePlace, SetScale, TakeReadings
from loadstar.core.edits.ways import DropPoint, PutPoint, TellWay
from loadstar.core.edits.whole import Rename
from loadstar.core.edits.wires import MakeBusBar

V = {"element": "BT1", "quantity": "V", "state": "key_off", "value": 12.5}
SAID = [
    (e.ChangeElement(id="L1", values={}), "lamp changed"), (e.CopyLoad(id="L1"), "lamp copied"),
    (e.RemoveElement(id="L1"), "lamp taken out"), (e.RemoveElement(id="P1"), "box taken out"),
    (e.AddElement(what="run", values={"a": "P1", "b": "P2"}), "run added"),
    (e.AddElement(what="load", values={"name": "horn"}), "horn added"),
    (e.SetMachine(values={}), "machine changed"), (e.SetRules(values={}), "house rules changed"),
    (Rename(name="Z"), "renamed to Z"), (e.SetJob(job="repair"), "the job is to repair"),
    (e.SetJob(job="write down"), "the job: write down"),
    (e.AddWire(a="F1.a", b="BT1.pos"), "wire from F1.a to BT1.pos"), (e.RemoveWire(id="W3"), "W3 taken out"),
    (e.MoveEnd(id="W3", end="a", to="BT1.pos"), "W3 moved to BT1.pos"),
    (e.SetWire(id="W3", values={"area_mm2": 0.35}), "W3 fixed at 0.35 mm²"),
    (e.SetWire(id="W3", values={"area_mm2": None}), "W3 left to Loadstar"),
    (e.SetWire(id="W3", values={"colour": "RD"}), "W3 changed"),
    (e.CutWire(id="W3", place="P1"), "connector put into W3"), (e.CutWire(id="W3", into="CN1"), "W3 led through CN1"),
    (e.CutWire(id="W3", place="P1", form="splice"), "splice put into W3"),
    (MakeBusBar(post="BT1.pos", keep="W1"), "bus bar made at BT1.pos"),
    (PutPoint(id="R1", at=1, x_mm=1, y_mm=1, new=True), "way point 2 of R1 put in"),
    (PutPoint(id="R1", at=2, x_mm=1, y_mm=1), "way point 3 of R1 moved"),
    (DropPoint(id="R1", at=0), "way point 1 of R1 taken out"),
    (TellWay(ids=("W3",), way=("R1", "R2")), "W3 by way of R1, R2"), (TellWay(ids=("W3",)), "W3 by the shortest way"),
    (TellWay(ids=("W3", "W4")), "2 wires by the shortest way"),
    (Vouch(id="L1", fields=("amount",)), "lamp: as on the label"),
    (BodyPlaces(), "places of a motorcycle put on the map"), (SetScale(wheelbase_mm=1400), "map set to scale"),
    (MovePlace(id="P2", dx_mm=1), "nose moved"),
    (TakeReadings(readings=(V,)), "reading at battery"), (TakeReadings(readings=(V, V)), "2 readings, battery first"),
    (Confirm(ids=("T1",)), "key wire confirmed"), (Confirm(ids=("T1", "T2")), "2 facts confirmed"),
    (PutPlug(values={"name": "tail plug"}), "tail plug written down"),
    (PutPlug(id="AP1", values={"name": "tail plug"}), "tail plug changed"),
    (PutPins(pins={"AP1": ({"way": 1}, {"way": 2}), "AP2": ({"way": 1},)}), "pins of connectors written down: 3"),
    (TakeSurvey(survey={"name": "sister machine"}), "survey of sister machine taken over"),
    (TakeSurvey(survey={}), "survey of another machine taken over"),
    (MakeJoint(of="P2", place="P1", ways=2, rated_a=5, name="joint", through=(("W3",), ("W4", "W5"))),
     "3 leads of nose through joint"),
    (e.Several(edits=(e.RemoveWire(id="W3"), e.SetRules(values={}))), "W3 taken out; house rules changed"),
    (e.Several(edits=(e.RemoveWire(id="W3"),), words="tidied"), "tidied"),
]


@pytest.mark.parametrize(("edit", "said"), SAID, ids=[said for _, said in SAID])
def test_what_it_says(edit, said):
    b = Bench()
    b.lamp()
    assert edit.label(b.plan) == said


def test_every_edit_is_here():
    def below(kind: type) -> set[type]:
        return {kind, *(found for one in kind.__subclasses__() for found in below(one))}
    told = {type(edit) for edit, _ in SAID}
    untold = {one.__name__ for one in below(EditBase) - told if "label" in vars(one) and one is not EditBase}
    assert untold == set()
