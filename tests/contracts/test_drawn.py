"""Pictures of the demonstrations are those that were looked at."""

import pytest
from contracts.drawn import MAKES, kept, pictures


@pytest.fixture(scope="module")
def looked_at() -> dict[str, dict[str, str]]:
    return kept()


@pytest.mark.parametrize("name", MAKES)
def test_a_picture_is_as_it_was_looked_at(name, looked_at):
    now = dict(pictures(name))
    assert now.keys() == looked_at[name].keys() and len(now) > 10
    assert [which for which, text in now.items() if text != looked_at[name][which]] == []
