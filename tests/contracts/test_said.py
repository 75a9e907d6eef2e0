"""What is said and chosen of many plans is, word for word, what was read and agreed."""

import re
from itertools import pairwise

import pytest
from contracts.said import NET, PLANS

SENTENCE = re.compile(r"\w+ \S+ \[.*?\] (.+) \(\w+; [^)]*\)(?: / .*)?")


@pytest.fixture(scope="module")
def agreed():
    """By plan."""
    return NET.kept()


def test_every_plan_is_agreed(agreed):
    assert set(agreed) == set(PLANS)


@pytest.mark.parametrize("name", PLANS)
def test_what_is_said_and_chosen(agreed, name):
    assert NET.differs(name, agreed) == [], "meant so? then run: python -m contracts.said, and read what it prints"


def test_sentences_are_whole(agreed):
    """Each begins with one capital letter or a figure, ends with a stop, and has no doubled words."""
    for name, lines in agreed.items():
        for line in lines:
            if line.split(" ")[0] in ("stop", "caution", "advice", "note"):
                sentence = SENTENCE.fullmatch(line)[1]
                assert sentence[0] == sentence[0].upper() and not sentence[1:3].isupper(), (name, sentence)
                assert sentence.rstrip("”")[-1] in ".?", (name, sentence)
                words = sentence.split()
                assert not any(a == b and a.isalpha() for a, b in pairwise(words)), (name, sentence)
