"""Practice: what ships can be solved, par is the advice, a random prober scores worse, hindsight."""

import random

import pytest

from loadstar import demo, practice
from loadstar.core.analysis import analyse
from loadstar.core.prove.diagnose import SURE, Diagnosis
from loadstar.core.prove.readings import Probe
from loadstar.core.prove.trainer import (
    METER_FUSE_S,
    WRONG_PART_S,
    Exercise,
    at_load,
    exercises,
    par,
    read,
    review,
    score,
    seconds,
    symptom,
)


def opened(one: practice.Practice, seed: int = 3) -> tuple[Diagnosis, Exercise]:
    a = analyse(one.plan()[0])
    load = next(p.id for p in a.plan.loads if p.name == one.load)
    d = Diagnosis(a, load)
    n = [f.key for f in d.faults].index(one.fault)
    return d, Exercise(load, n, d.usual, symptom(d, n, d.usual), one.level, seed)


@pytest.mark.parametrize("one", practice.SET, ids=lambda p: p.key)
def test_every_exercise_that_ships_can_be_solved_by_the_meter(one):
    d, exercise = opened(one)
    taken = par(d, exercise)
    assert d.beliefs(taken)[0].about == d.faults[exercise.fault].about
    assert exercise.symptom and 1 <= len(taken) <= 12


def test_par_is_what_following_the_advice_takes():
    d, exercise = opened(practice.BY_KEY["relay"])
    taken = [read(d, exercise, at_load(d, exercise.row))]
    while advice := d.next(taken, (exercise.row,)):
        taken.append(read(d, exercise, advice.probe))
    result = score(d, exercise, taken)
    assert (result.probes, result.seconds) == (result.par_probes, result.par_seconds)
    assert result.points == 100
    assert taken == par(d, exercise)


def test_a_random_prober_scores_worse_and_mistakes_cost_what_they_say():
    points, took = [], 0.0
    for n, one in enumerate((*practice.SET, *practice.SET)):
        d, exercise = opened(one)
        dice = random.Random(n)
        probes = d.probes(exercise.row)
        dice.shuffle(probes)
        taken = []
        for probe in probes[:25]:
            taken.append(read(d, exercise, probe))
            if d.beliefs(taken)[0].share >= SURE:
                break
        result = score(d, exercise, taken)
        points.append(result.points)
        took += result.seconds / result.par_seconds
    assert took / len(points) > 1.5 and sum(points) / len(points) < 75
    d, exercise = opened(practice.BY_KEY["joint"])
    taken = par(d, exercise)
    plain, costly = score(d, exercise, taken), score(d, exercise, taken, wrong_parts=2, meter_fuses=1)
    assert costly.seconds == plain.seconds + 2 * WRONG_PART_S + METER_FUSE_S and costly.points < 30


def test_the_same_probe_shows_the_same_again_and_another_go_scatters_otherwise():
    d, exercise = opened(practice.BY_KEY["shared"])
    probe = at_load(d, exercise.row)
    assert read(d, exercise, probe) == read(d, exercise, probe)
    other = Exercise(**{**vars(exercise), "seed": 4})
    assert read(d, other, probe) != read(d, exercise, probe)
    shown = float(d.shown(probe)[exercise.fault])
    assert abs(read(d, exercise, probe).value - shown) < 0.1


def test_hindsight_names_a_better_probe_where_there_was_one():
    d, exercise = opened(practice.BY_KEY["relay"])
    best = par(d, exercise)
    assert all(w.better is None for w in review(d, exercise, best))
    ends = d.figures.source.ends
    poor = [best[0], read(d, exercise, Probe("V", exercise.row, ends[0], ends[1]))]
    worth = review(d, exercise, poor)
    assert worth[1].better is not None and worth[1].best_bits > worth[1].bits
    assert seconds(d, poor) > 0


def test_exercises_on_a_plan_are_the_same_for_a_seed_and_can_be_told_apart():
    a = analyse(demo.mud_hopper()[0])
    found = exercises(a, 5, 4)
    assert found == exercises(a, 5, 4) and found
    levels = [e.level for e in found]
    assert levels == sorted(levels, key=("simple", "middling", "nasty").index)
    for one in found:
        d = Diagnosis(a, one.load)
        assert d.beliefs(par(d, one))[0].about == d.faults[one.fault].about


def test_a_plan_without_a_circuit_has_nothing_to_practise_on():
    assert exercises(analyse(demo.as_found()[0]), 1) == ()


@pytest.mark.parametrize(("fault", "words"), [
    ("turned L3", "does nothing, though it is live"), ("open W15", "does nothing at all"),
    ("dead L3", "does nothing at all"), ("W15 +3.2", "works, but weakly")])
def test_a_symptom_is_what_a_customer_would_say(fault, words):
    d = Diagnosis(analyse(demo.mud_hopper()[0]), "L3")
    assert symptom(d, [f.key for f in d.faults].index(fault), d.usual) == words
