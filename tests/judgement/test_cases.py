"""The judge's plans: of the good half no stop and no caution, of the bad half all that must be found, with its
figure."""

import pytest
from judgement import cases, limits, paths
from judgement.plans import grave, rules_of, seen

from loadstar.core.analysis import analyse

CASES = {**cases.CASES, **paths.PATHS, **limits.LIMITS}
GOOD = [name for name, case in CASES.items() if not case.must]
BAD = [name for name, case in CASES.items() if case.must]


def test_there_are_enough_of_both():
    assert len(CASES) == len(cases.CASES) + len(paths.PATHS) + len(limits.LIMITS) >= 130
    assert min(len(GOOD), len(BAD)) >= 60


@pytest.mark.parametrize("name", GOOD)
def test_of_a_good_plan_nothing_grave_is_said(name):
    assert grave(CASES[name].make()) == []


@pytest.mark.parametrize("name", BAD)
def test_in_a_bad_plan_what_is_wrong_is_found(name):
    case = CASES[name]
    analysis = analyse(case.make())
    for rule, severity, words in case.must:
        found = seen(analysis, rule)
        assert severity in [f.severity for f in found], grave(analysis)
        assert any(words in f.sentence for f in found), [f.sentence for f in found]
    assert not set(case.never) & rules_of(analysis)
