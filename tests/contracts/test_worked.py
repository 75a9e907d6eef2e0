"""What is worked out for bench and machine, and written into files, is what was read and agreed."""

import pytest
from contracts import worked


@pytest.fixture(scope="module")
def agreed() -> dict[str, list[str]]:
    return worked.kept()


@pytest.mark.parametrize(("section", "name"), worked.EVERY)
def test_it_is_what_was_agreed(section, name, agreed):
    now, then = worked.of(section, name), agreed[f"{section} {name}"]
    assert [pair for pair in zip(now, then, strict=False) if pair[0] != pair[1]][:3] == []
    assert len(now) == len(then)


def test_every_section_says_much(agreed):
    for section, (_, names) in worked.SECTIONS.items():
        assert sum(len(line) for name in names for line in agreed[f"{section} {name}"]) > 4_000, section
