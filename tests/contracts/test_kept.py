"""What was computed once is computed still: figures of 66 plans against those kept, however the inside changes."""

from typing import Any

import pytest
from contracts.kept import NAMES, figures, kept, plan_of

from loadstar.core.analysis import analyse
from loadstar.core.wiring import states

VOLTS, WARMTH = 1e-9, 1e-6


@pytest.fixture(scope="module")
def agreed() -> dict[str, Any]:
    return kept()


@pytest.mark.parametrize("name", NAMES)
def test_figures_are_as_they_were(name, agreed, monkeypatch):
    monkeypatch.setattr(states, "TEMPERATURE_ROUNDS", 80)
    monkeypatch.setattr(states, "TEMPERATURE_SETTLED_K", 1e-9)
    now = figures(analyse(plan_of(name)))  # in which order findings are told is no figure
    assert sorted(now.pop("findings")) == sorted(agreed[name].pop("findings"))
    assert list(differences(agreed[name], now, "")) == []


def differences(then: Any, now: Any, where: str) -> Any:
    """Where two sets of figures part: volts and amps by a nanovolt, temperatures by a microkelvin, everything else at
    all."""
    if isinstance(then, dict) and isinstance(now, dict):
        if then.keys() != now.keys():
            yield f"{where}: {sorted(then.keys() ^ now.keys())}"
        for key in then.keys() & now.keys():
            yield from differences(then[key], now[key], f"{where}/{key}")
    elif isinstance(then, float) and isinstance(now, float):
        allowed = VOLTS if "load_v" in where or "wire_a" in where else WARMTH
        if abs(then - now) > allowed * max(1.0, abs(then)):
            yield f"{where}: {then} is {now}"
    elif then != now:
        yield f"{where}: {then} is {now}"
