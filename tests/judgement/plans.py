"""Small plans for judging, and how findings are asked for."""

from typing import Any

from builders import cure

from loadstar.core.analysis import Analysis, analyse
from loadstar.core.edits import apply
from loadstar.core.edits.builder import Builder
from loadstar.core.findings import Finding
from loadstar.core.plan.model import Plan


def analysed(plan: Plan | Analysis) -> Analysis:
    """A plan's analysis, or the analysis itself."""
    return plan if isinstance(plan, Analysis) else analyse(plan)


def seen(plan: Plan | Analysis, rule: str) -> list[Finding]:
    """The findings of one rule."""
    return [f for f in analysed(plan).findings if f.rule == rule]


def rules_of(plan: Plan | Analysis) -> set[str]:
    """The rules that have something to say."""
    return {f.rule for f in analysed(plan).findings}


def grave(plan: Plan | Analysis) -> list[str]:
    """Stops and cautions, as "severity rule: sentence"."""
    return [f"{f.severity} {f.rule}: {f.sentence}" for f in analysed(plan).findings
            if f.severity in ("stop", "caution")]


def e_bike(**given: dict[str, Any]) -> Plan:
    """An e-bike on a 13-series pack; of drive, second (pack), combiner, converter, port and load what is given is
    added, a load on the converter or port; `pack` changes the first pack."""
    b = Builder("bike")
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    place, nose = b.add("place", name="tube", ambient_c=35), b.add("place", name="nose", ambient_c=30)
    b.add("run", a=place, b=nose, length_m=1.0)
    usual: dict[str, dict[str, Any]] = {
        "drive": {"name": "drive", "place": place, "full_w": 400},
        "second": {"name": "second pack", "place": nose, "series": 13, "parallel": 5},
        "combiner": {"name": "joint", "place": place},
        "converter": {"name": "box", "place": place, "window_low_v": 36, "window_high_v": 60, "rated_a": 8,
                      "idle_w": 0.1},
        "port": {"name": "light port", "place": place, "enabled": True},
        "load": {"name": "lamp", "category": "other", "amount": 12, "at_v": 12, "window_low_v": 9, "place": nose,
                 "live": "key"},
    }
    assert given.keys() <= {"pack", *usual}, given
    b.add("pack", **{"name": "first pack", "place": place, "series": 13, "parallel": 5, **given.get("pack", {})})
    feed = None
    for what, values in usual.items():
        if (what == "load" and feed is None) or given.get(what) is None:
            continue
        more = {"feed": feed} if what == "load" else {}
        added = b.add("pack" if what == "second" else what, **{**values, **more, **given[what]})
        feed = added if what in ("converter", "port") else feed
    return b.plan


def usual_e_bike(**given):
    """`e_bike` with a drive and a load of usual values unless told otherwise."""
    return e_bike(**{"drive": {}, "load": {}, **given})


def both_sides(make, rule, inside, beyond) -> None:
    """The rule is silent at `inside` and speaks at `beyond`; its cure, where it has one, silences it."""
    assert rule not in rules_of(make(inside))
    plan = make(beyond)
    finding = next(f for f in analyse(plan).findings if f.rule == rule)
    assert finding.sentence[0].isupper()
    assert finding.sentence.endswith(".")
    if edit := cure(finding, plan):
        assert rule not in rules_of(apply(plan, edit))
