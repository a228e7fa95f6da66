"""Exercises without a target part, and without a click."""

from dataclasses import replace
from unittest import TestCase

from ear.assess import assess
from ear.errors import ValueOutOfRange
from ear.free.assess import FreeAssessment, assess_free
from ear.free.exercise import FreeExercise
from ear.judging.levels import LEVELS
from ear.measuring.figures import WhyNot
from ear.notes import Kind, MeterMap, Take, TakeNote, TempoMap
from ear.players.robot import Habits, play
from tests.ear.exact import scores as scores_of
from tests.ear.parts import melody

A_MINOR = frozenset({9, 11, 0, 2, 4, 5, 7})
LINE = (57, 60, 64, 62, 57, 59, 60, 64)
"""Two bars of quarters in A minor."""


def exercise(**changes) -> FreeExercise:
    wanted = {
        "kind": Kind.KEYBOARD,
        "meters": MeterMap.of(4, 4),
        "tempos": TempoMap.of(90),
        "bars": 4,
        "allowed": (A_MINOR,),
    }
    return FreeExercise(**{**wanted, **changes})


def notes(onsets_s: list[float], pitches=LINE) -> Take:
    return Take.of(
        TakeNote(onset_s=t, length_s=0.3, pitch=pitches[k % len(pitches)], velocity=80)
        for k, t in enumerate(onsets_s)
    )


def quarters(count: int = 16, *, bpm: float = 90, late_s: float = 0.0) -> list[float]:
    return [k * 60 / bpm + late_s for k in range(count)]


def scores(a: FreeAssessment) -> list[float | None]:
    return [c.score for c in a.mark.criteria]


class FreeTest(TestCase):
    def assess(self, of: FreeExercise, take: Take) -> FreeAssessment:
        return assess_free(of, take, level=LEVELS["building"])

    def test_anything_in_time_and_in_the_set_has_100(self) -> None:
        self.assertEqual(scores(self.assess(exercise(), notes(quarters()))), [100, 100, 100])

    def test_an_empty_take_has_0(self) -> None:
        self.assertEqual(scores(self.assess(exercise(), Take.of(()))), [0, 0, 0])

    def test_notes_outside_the_set_cost_notes_alone(self) -> None:
        pitches = (*LINE[:6], 61, 66)
        self.assertEqual(scores(self.assess(exercise(), notes(quarters(), pitches))), [75, 100, 100])

    def test_sets_change_with_the_bar(self) -> None:
        chords = exercise(allowed=(frozenset({9, 0, 4}), frozenset({2, 5, 9})))
        found = self.assess(chords, notes(quarters(), (57, 60, 64, 57, 62, 65, 69, 60)))
        self.assertEqual(found.in_set.count(False), 2)

    def test_timing_is_the_distance_to_the_nearest_line(self) -> None:
        """80 ms off on every fourth note: half credit for a quarter of them."""
        onsets = [t + (0.08 if k % 4 == 3 else 0) for k, t in enumerate(quarters())]
        self.assertAlmostEqual(scores(self.assess(exercise(), notes(onsets)))[1] or 0, 87.5, delta=0.1)

    def test_swing_moves_every_second_line(self) -> None:
        shuffled = [t + into for t in quarters() for into in (0.0, 60 / 90 * 2 / 3)]
        swung = exercise(grid_ticks=240, swing=2.0)
        straight = exercise(grid_ticks=240)
        self.assertEqual(scores(self.assess(swung, notes(shuffled)))[1], 100)
        self.assertLess(scores(self.assess(straight, notes(shuffled)))[1] or 0, 80)

    def test_flow_is_the_length_filled_at_the_density_asked_for(self) -> None:
        self.assertEqual(scores(self.assess(exercise(), notes(quarters(8))))[2], 50)
        self.assertEqual(scores(self.assess(exercise(most_a_bar=3), notes(quarters())))[2], 0)

    def test_bar_pairs_that_should_repeat(self) -> None:
        wanted = exercise(pairs_repeat=True)
        same = self.assess(wanted, notes(quarters(), LINE[:4]))
        self.assertEqual((same.repeated_share.value, scores(same)[2]), (1.0, 100))
        other = self.assess(wanted, notes(quarters(), (57, 60, 64, 62, 71, 69, 67, 65)))
        self.assertEqual((other.repeated_share.value, scores(other)[2]), (0.0, 50))

    def test_without_a_click_any_steady_tempo_is_in_time(self) -> None:
        own = exercise(has_click=False)
        for bpm in (70, 90, 118):
            found = self.assess(own, notes(quarters(bpm=bpm, late_s=3.3)))
            self.assertGreater(scores(found)[1] or 0, 99)
            self.assertEqual(found.bias_ms.why_not, WhyNot.NO_CLICK)

    def test_values_are_checked(self) -> None:
        for wrong in ({"bars": 0}, {"swing": 9.0}, {"least_a_bar": 5, "most_a_bar": 2}):
            with self.assertRaises(ValueOutOfRange):
                exercise(**wrong)


class WithoutClickTest(TestCase):
    def test_a_part_at_ones_own_speed_is_judged_by_its_evenness(self) -> None:
        part = melody()
        for ratio in (0.7, 1.0, 1.3):
            take = play(part, Habits(tempo_ratio=ratio, lead_ms=120, spread_ms=6), seed=4)
            found = assess(part, take, has_click=False)
            score = scores_of(found)
            self.assertEqual((score["timing"], score["flow"]), (100, 100))
            self.assertEqual(found.facts.figures.why_not["bias_ms"], WhyNot.NO_CLICK)
            kinds = {f.code for f in found.facts.findings}
            self.assertFalse(kinds & {"own_tempo", "lag", "lead", "rushing", "dragging"})

    def test_an_uneven_pulse_costs_timing(self) -> None:
        part = melody()
        take = play(part, Habits(spread_ms=4), seed=4)
        limping = Take.of(
            replace(n, onset_s=n.onset_s + (0.1 if k % 2 else 0)) for k, n in enumerate(take.notes)
        )
        score = scores_of(assess(part, limping, has_click=False))
        self.assertLess(score["timing"] or 0, 95)
