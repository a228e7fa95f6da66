"""A scale set by ear: a simulated teacher whose scale is known is recovered, and contradictions are named."""

from dataclasses import replace
from random import Random
from unittest import TestCase

from ear.criteria.dynamics import DYNAMICS
from ear.criteria.flow import FLOW
from ear.criteria.length import LENGTH
from ear.criteria.levels import DEFAULT_LEVEL, LEVELS
from ear.criteria.notes import NOTES
from ear.criteria.timing import TIMING
from ear.extraction.extraction import extract_facts
from ear.judging.examples import HABITS, examples
from ear.judging.judge import Rules, judge
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.judging.scale import TAKES, ContradictoryMarks, fit, graded_takes
from ear.notes import Kind
from ear.players.pieces import drum_part, keyboard_part
from ear.players.robot import Habits, play

OWN = DEFAULT_RUBRICS[Kind.KEYBOARD]
TEACHERS = (
    OWN,
    replace(OWN, level=LEVELS["first-steps"], floor_percent=20.0, has_ceilings=False),
    replace(
        OWN, level=LEVELS["secure"], floor_percent=65.0,
        weights=((NOTES, 50), (TIMING, 20), (FLOW, 10), (DYNAMICS, 10), (LENGTH, 10)),
    ),
    replace(
        OWN, level=LEVELS["building"], floor_percent=35.0, has_ceilings=False,
        weights=((NOTES, 22), (TIMING, 57), (FLOW, 7), (DYNAMICS, 7), (LENGTH, 7)),
    ),
)  # fmt: skip


def given_by(rubric: Rubric, facts) -> float:
    return judge(facts, Rules(rubric=rubric, level=DEFAULT_LEVEL)).total


class ScaleTest(TestCase):
    def test_a_teachers_scale_is_recovered_within_three_points_on_unheard_takes(self) -> None:
        part = keyboard_part(4, bars=12)
        heard = [one.facts for one in graded_takes(part, seed=2)]
        random = Random(8)
        unheard = [
            extract_facts(part, play(part, Habits(spread_ms=spread, wrong_keys=wrong, misses=missed, velocity_spread=5), seed=seed))
            for seed, (spread, wrong, missed) in enumerate(
                (random.uniform(8, 90), random.choice((0, 0.05, 0.15)), random.choice((0, 0.1))) for _ in range(16)
            )
        ]  # fmt: skip
        for number, teacher in enumerate(TEACHERS):
            with self.subTest(teacher=number):
                marks = [float(round(given_by(teacher, facts))) for facts in heard]
                actual = fit(Kind.KEYBOARD, heard, marks)
                self.assertLessEqual(actual.greatest, 2.0)
                off = [abs(given_by(actual.rubric, facts) - given_by(teacher, facts)) for facts in unheard]
                self.assertLess(max(off), 3.0)

    def test_takes_are_shuffled_and_the_same_for_the_same_seed(self) -> None:
        part = drum_part(1, bars=8)
        first, again, other = (graded_takes(part, seed=seed) for seed in (1, 1, 2))
        self.assertEqual(len(first), TAKES)
        self.assertEqual([g.take for g in first], [g.take for g in again])
        order = [[g.facts.figures.spread_ms for g in some] for some in (first, other)]
        self.assertNotEqual(*([sorted(row).index(value) for value in row] for row in order))

    def test_contradicting_marks_are_refused_with_the_two_takes(self) -> None:
        heard = [one.facts for one in graded_takes(keyboard_part(4, bars=12), seed=2)]
        marks = [given_by(OWN, facts) for facts in heard]
        best, worst = marks.index(max(marks)), marks.index(min(marks))
        marks[best], marks[worst] = 40.0, 100.0
        with self.assertRaises(ContradictoryMarks) as raised:
            fit(Kind.KEYBOARD, heard, marks)
        self.assertEqual((raised.exception.worse, raised.exception.better), (best, worst))


class ExamplesTest(TestCase):
    def test_examples_follow_the_rubric(self) -> None:
        for kind in Kind:
            rules = Rules(rubric=DEFAULT_RUBRICS[kind], level=DEFAULT_LEVEL)
            totals = {e.code: e.judgement.total for e in examples(kind, rules)}
            self.assertEqual(list(totals), list(HABITS))
            self.assertGreater(totals["clean"], 97)
            self.assertGreater(totals["sd_25"], totals["sd_80"])
            self.assertGreater(totals["wrong_5"], totals["wrong_25"])
            exacting = replace(rules, rubric=replace(rules.rubric, level=LEVELS["exacting"]))
            strict = {e.code: e.judgement.total for e in examples(kind, exacting)}
            self.assertLess(strict["sd_45"], totals["sd_45"] - 10)
