"""Every computation ends: within its time, or told as too large; what was computed stays, and nothing is cleared that
was not judged."""

import sys
import time
from collections import Counter

import heavy
import numpy as np
import pytest
from builders import Bench

from loadstar.core import limits
from loadstar.core.analysis import analyse
from loadstar.core.budget import lighting
from loadstar.core.plan.document import from_json, to_bytes
from loadstar.core.rules import RULES
from loadstar.core.whatif.cures import Cures
from loadstar.demo import ferry_runner, fit_out
from loadstar.exchange.report import report

KINDS = len(RULES) - 1
TOLD = (f"Too large to compute whole: what flows in the wires and {KINDS} of {KINDS} kinds of finding took too long "
        "and were left out. Only what is computed is checked.")


def test_no_time_at_all_is_told_and_clears_nothing():
    plan = fit_out()[0]
    with limits.at_most(0):
        a = analyse(plan)
    (finding,) = a.findings
    assert (finding.rule, finding.severity, finding.sentence) == ("plan.too-large", "stop", TOLD)
    assert a.sized is None
    assert report(a)["findings"][0]["rule"] == "plan.too-large"
    assert from_json(to_bytes(plan)) == plan


def test_without_a_limit_and_within_one_nothing_is_told():
    plan = fit_out()[0]
    with limits.at_most(600):
        a = analyse(plan)
    assert not a.left_out and a.findings == analyse(plan).findings
    assert not any(f.rule == "plan.too-large" for f in a.findings)


def test_no_more_memory_is_told_like_no_more_time(monkeypatch):
    def greedy(*_):
        raise MemoryError
    monkeypatch.setattr("loadstar.core.figures.figures.lamp_volts", greedy)
    a = analyse(ferry_runner()[0])
    assert a.left_out == ("lamp volts with one lamp failed",)
    assert a.findings[0].sentence.startswith("Too large to compute whole: lamp volts with one lamp failed took too "
                                             "long and was left out.")
    assert a.sized is not None and len(a.findings) > 0


def test_what_is_judged_only_in_part_is_no_cure():
    bench = Bench()
    lamp = bench.lamp(55)
    bench.wire(bench.feed_wire(lamp), area_mm2=0.35)
    a = analyse(bench.plan)
    finding = next(f for f in a.findings if f.proposals)
    assert Cures(a).of(finding) is not None
    with limits.at_most(0):
        assert Cures(a).of(finding) is None


def test_the_shorter_of_two_limits_counts_and_ends_with_its_block():
    with limits.at_most(600), limits.at_most(0):
        time.sleep(0.001)
        with pytest.raises(limits.TooLarge):
            limits.check()
    limits.check()
    with limits.at_most(0), limits.at_most(600):
        time.sleep(0.001)
        with pytest.raises(limits.TooLarge):
            limits.check()


def test_half_of_the_time_is_left():
    with limits.at_most(600):
        with limits.at_most_half():
            assert 299 < limits._until.get() - time.monotonic() <= 300
        assert 599 < limits._until.get() - time.monotonic() <= 600
    with limits.at_most_half():
        limits.check()


@pytest.mark.parametrize(("size", "each", "rows"), [
    (1, 16, 4 * 1024**2), (16, 16, 16_384), (16, 8, 32_768), (100, 16, 419), (2048, 16, 1), (5000, 16, 1),
    (0, 16, 64 * 1024**2)])
def test_matrices_solved_together_take_64_mebibytes_at_most(size, each, rows):
    """By hand: of 100 x 100 at 16 bytes there go 64 x 1,048,576 / 160,000 = 419.4."""
    assert limits.rows_at_once(size, each) == rows
    if each == 16:
        assert limits.rows_at_once(size) == rows


def test_lamps_piece_by_piece_are_the_same_as_at_once(monkeypatch):
    """All speeds with each lamp failed were solved at once: 999 lamps took 22 GB."""
    plan = ferry_runner()[0]
    whole = analyse(plan).lamps
    monkeypatch.setattr(limits, "BLOCK_BYTES", 1)
    assert limits.rows_at_once(30) == 1
    piecewise = analyse(plan).lamps
    assert np.allclose(whole.volts, piecewise.volts, atol=1e-9)
    assert np.allclose(whole.failed, piecewise.failed, atol=1e-9)
    assert len(whole.rpm) == lighting.SPEEDS


def test_every_loop_that_grows_with_the_plan_looks_at_the_clock(monkeypatch):
    looked = Counter()
    monkeypatch.setattr(limits, "check", lambda: looked.update([sys._getframe(1).f_globals["__name__"]]))
    a = analyse(heavy.chain(30))
    modules = ("physics.newton", "sizing.choose", "sizing.faults", "figures.figures", "rules")
    assert all(looked[f"loadstar.core.{name}"] for name in modules), looked
    assert looked["loadstar.core.rules"] == len(RULES) - 1 and not a.left_out


@pytest.mark.parametrize("make", [lambda: heavy.magneto(8), lambda: heavy.chain(30), lambda: heavy.relays(6),
                                  lambda: heavy.mesh(60), lambda: heavy.bundle(60), lambda: heavy.readings(60)],
                         ids=["lamps", "fuses", "relays", "mesh", "bundle", "readings"])
def test_the_kinds_of_heavy_plan_are_legal_and_whole_when_small(make):
    """How long and how large the heavy ones are is measured by tools/heavy.py."""
    a = analyse(make())
    assert a.sized is not None and not a.left_out
