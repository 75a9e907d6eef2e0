"""Small plans for judging, and how findings are asked for."""

from typing import Any

from loadstar.core.analysis import Analysis, analyse
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


def e_bike(*, pack: dict[str, Any] | None = None, drive: dict[str, Any] | None = None,
           converter: dict[str, Any] | None = None,
           second: dict[str, Any] | None = None, combiner: dict[str, Any] | None = None,
           port: dict[str, Any] | None = None,
           load: dict[str, Any] | None = None) -> Plan:
    """An e-bike on a 13-series pack; what is given is added, a load on the converter or port."""
    b = Builder("bike")
    b.machine(system="pack", system_v=48, chassis="floating", kind="cargo e-bike")
    place, nose = b.add("place", name="tube", ambient_c=35), b.add("place", name="nose", ambient_c=30)
    b.add("run", a=place, b=nose, length_m=1.0)
    b.add("pack", **{"name": "first pack", "place": place, "series": 13, "parallel": 5, **(pack or {})})
    if drive is not None:
        b.add("drive", **{"name": "drive", "place": place, "full_w": 400, **drive})
    if second is not None:
        b.add("pack", **{"name": "second pack", "place": nose, "series": 13, "parallel": 5, **second})
    if combiner is not None:
        b.add("combiner", **{"name": "joint", "place": place, **combiner})
    feed = None
    if converter is not None:
        feed = b.add("converter",
                     **{"name": "box", "place": place, "window_low_v": 36, "window_high_v": 60, "rated_a": 8,
                                     "idle_w": 0.1, **converter})
    if port is not None:
        feed = b.add("port", **{"name": "light port", "place": place, "enabled": True, **port})
    if feed and load is not None:
        b.add("load",
              **{"name": "lamp", "category": "other", "amount": 12, "at_v": 12, "window_low_v": 9, "place": nose,
                         "feed": feed, "live": "key", **load})
    return b.plan
