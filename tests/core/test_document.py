"""Reading and writing plan files: round trip, and a sentence for everything that is wrong."""

import json

import pytest

from loadstar.core.errors import PlanError
from loadstar.core.plan import document
from loadstar.core.plan.model import VERSION, Plan
from loadstar.demo import fit_out


def test_round_trip_is_identical():
    plan, _ = fit_out()
    text = document.to_json(plan)
    again = document.from_json(text)
    assert again == plan
    assert document.to_json(again) == text
    assert document.content_hash(again) == document.content_hash(plan)


def _broken(change) -> list[str]:
    data = json.loads(document.to_json(fit_out()[0]))
    change(data)
    with pytest.raises(PlanError) as error:
        document.from_json(json.dumps(data))
    return [f"{f.element} {f.field} {f.sentence}" for f in error.value.faults]


def test_truncated_file_says_where():
    text = document.to_json(fit_out()[0])
    with pytest.raises(PlanError, match="breaks off or goes wrong at line"):
        document.from_json(text[: len(text) // 2])


def test_future_version():
    told = _broken(lambda d: d.update(version=VERSION + 1))[0]
    assert f"of version {VERSION + 1}; this Loadstar reads up to version {VERSION}" in told


@pytest.mark.parametrize("version", [0, -1, 1.5, "1", True, None])
def test_a_version_that_is_none(version):
    assert "version" in _broken(lambda d: d.update(version=version))[0]


def test_another_format():
    assert "no Loadstar plan" in _broken(lambda d: d.update(format="shopping-list"))[0]
    with pytest.raises(PlanError, match="no Loadstar plan"):
        document.from_json("[1, 2]")


def test_wire_to_a_part_that_does_not_exist():
    said = _broken(lambda d: d["wires"][3].update(a="F99.b"))
    assert said[0].startswith("W4 a Wire W4 ends at F99.b")


def test_wire_to_a_terminal_that_does_not_exist():
    assert "a terminal that does not exist" in _broken(lambda d: d["wires"][3].update(a="F1.zz"))[0]


def test_fifty_thousand_parts_are_counted_not_read():
    said = _broken(lambda d: d.update(parts=[{"id": "L1"}] * 50_000))
    assert said == [" parts The plan has 50,000 parts; Loadstar takes up to 3,000."]


def test_too_large_a_file():
    with pytest.raises(PlanError, match="60 MB"):
        document.from_json(b" " * 60_000_000)


@pytest.mark.parametrize("text", ["[" * 100_000, '{"a":' * 50 + "1" + "}" * 50])
def test_too_deep(text):
    with pytest.raises(PlanError):
        document.from_json(text)


def test_nan_is_refused():
    text = document.to_json(fit_out()[0]).replace('"capacity_ah": 12.0', '"capacity_ah": NaN')
    with pytest.raises(PlanError, match="NaN"):
        document.from_json(text)


def test_not_text():
    with pytest.raises(PlanError, match="UTF-8"):
        document.from_json(b"\xff\xfe\x00plan")


@pytest.mark.parametrize(("change", "said"), [
    (lambda d: d["parts"][0].update(capacity_ah=-3), "at least 0.5 Ah"),
    (lambda d: d["parts"][0].update(colour="blue"), "not a field"),
    (lambda d: d["parts"][0].update(kind="flux capacitor"), "not one that Loadstar knows"),
    (lambda d: d["parts"][0].pop("capacity_ah"), "missing"),
    (lambda d: d["places"][0].update(ambient_c="warm"), "must be a number of °C"),
    (lambda d: d["runs"][0].update(b="P77"), "no place"),
    (lambda d: d["runs"][0].update(b=d["runs"][0]["a"]), "joins two places"),
    (lambda d: d["wires"][0].update(area_mm2=1.7), "must be one of the sizes"),
    (lambda d: d["wires"][0].update(id="W2"), "used twice"),
    (lambda d: d["counters"].update(W=1), "beyond its counter"),
    (lambda d: d["machine"].update(idle_rpm=5500), "rising engine speeds"),
    (lambda d: d["joins"].append({"a": "F1.a", "b": "F99.a"}), "does not exist"),
])
def test_each_fault_has_its_sentence(change, said):
    assert any(said in line for line in _broken(change))


def test_faults_are_told_all_at_once_but_not_without_end():
    def change(d):
        for wire in d["wires"]:
            wire["length_m"] = -1
    said = _broken(change)
    assert 10 < len(said) <= 20


def test_empty_plan_is_a_plan():
    assert document.from_json(document.to_json(Plan())) == Plan()




def test_a_plan_of_version_1_is_read_and_its_drop_limit_holds_for_each_kind():
    data = json.loads(document.to_json(fit_out()[0]))
    data["version"] = 1
    del data["workshop_rules"]
    rules = data["rules"]
    for kind in ("heating", "electronics", "motor"):
        del rules[f"drop_{kind}_frac"]
    rules["drop_other_frac"] = 0.06
    plan = document.from_data(data)
    assert plan.version == VERSION
    assert plan.rules.drop_heating_frac == plan.rules.drop_motor_frac == plan.rules.drop_electronics_frac == 0.06
    assert plan.rules.drop_lamp_frac == 0.05


@pytest.mark.parametrize(("was", "now"), [("L2", ("L2",)), (None, ())])
def test_what_version_12_says_is_never_on_together_is_read(was, now):
    data = json.loads(document.to_json(fit_out()[0]))
    data["version"] = 12
    for part in data["parts"]:
        if part["kind"] == "load":
            part["never_with"] = was if part["id"] == "L1" else None
    plan = document.from_data(data)
    assert plan.version == VERSION
    assert {load.id: load.never_with for load in plan.loads} == {
        load.id: now if load.id == "L1" else () for load in plan.loads}
