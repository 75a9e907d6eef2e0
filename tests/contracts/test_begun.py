"""Machines as they are begun, and what is made on them, are what was read and agreed."""

import pytest
from contracts import begun
from contracts.begun import alone, kept

CASES = {str(case): case for case in alone()}


@pytest.fixture(scope="module")
def agreed() -> dict:
    return kept()


def test_all_of_it_is_kept(agreed):
    assert agreed.keys() == CASES.keys() and len(CASES) > 300


@pytest.mark.parametrize("kind", sorted({case.kind for case in CASES.values()}))
def test_what_is_made_is_what_was_agreed(kind, agreed):
    changed = {}
    for name, case in CASES.items():
        if case.kind == kind:
            now = begun.of(case)
            parted = sorted(key for key in now.keys() | agreed[name].keys() if now.get(key) != agreed[name].get(key))
            changed |= {name: parted} if parted else {}
    assert changed == {}
