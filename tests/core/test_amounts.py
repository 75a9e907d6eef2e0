"""Shares as per cent, and beside their limits."""

import pytest

from loadstar.core.amounts import apart, percent


@pytest.mark.parametrize(("share", "decimals", "words"), [
    (0.75, 0, "75 %"), (0.0512, 1, "5.1 %"), (1.4949, 0, "149 %"), (0.0, 1, "0.0 %"), (0.004, 0, "0 %")])
def test_a_share_as_per_cent(share, decimals, words):
    assert percent(share, decimals) == words


@pytest.mark.parametrize(("share", "limit", "decimals", "words"), [
    (0.06, 0.05, 1, ("6.0 %", "5.0 %")), (0.0503, 0.05, 1, ("5.03 %", "5.00 %")),
    (0.7504, 0.75, 0, ("75.04 %", "75.00 %")),
    (0.05, 0.05, 1, ("5.0 %", "5.0 %")), (0.0500000001, 0.05, 1, ("5.000 %", "5.000 %"))])
def test_a_share_beside_its_limit_has_the_decimals_that_tell_them_apart(share, limit, decimals, words):
    """By hand; what three decimals do not tell apart is left at three."""
    assert apart(share, limit, decimals) == words
