"""Measures against known habits, and the ear note that each habit should give."""

import itertools
from unittest import TestCase

from ear.assess import Assessment, assess
from ear.findings.finding import Sentence
from ear.notes import Part
from ear.players.robot import Habits, Jump, play
from tests.ear.parts import beat, melody, two_hands


def heard(part: Part, habits: Habits, seed: int = 1) -> Assessment:
    return assess(part, play(part, habits, seed=seed))


class MeasuresTest(TestCase):
    def test_bias_spread_and_drift_are_what_was_put_in(self) -> None:
        part = beat(bars=16)
        timing = heard(part, Habits(lead_ms=-35, spread_ms=12, drift_ms_per_bar=3)).measures.timing
        self.assertAlmostEqual(timing.bias_ms.value or 0, -35, delta=4)
        self.assertAlmostEqual(timing.spread_ms.value or 0, 12, delta=4)
        self.assertAlmostEqual(timing.drift_ms_per_bar.value or 0, 3, delta=1.2)

    def test_tempo_ratio(self) -> None:
        for ratio in (0.65, 0.9, 1.2, 1.6):
            timing = heard(two_hands(bars=12), Habits(tempo_ratio=ratio, spread_ms=8)).measures.timing
            self.assertAlmostEqual(timing.tempo_ratio / ratio, 1.0, delta=0.005)

    def test_profiles_find_the_hand_and_the_lane(self) -> None:
        by_hand = {
            p.place: p.median_ms
            for p in heard(two_hands(), Habits(left_hand_ms=40, spread_ms=5)).measures.timing.by_hand
        }
        self.assertAlmostEqual(by_hand["left"] - by_hand["right"], 40, delta=6)
        by_lane = {
            p.place: p.median_ms
            for p in heard(beat(), Habits(late_lanes=((38, 30),), spread_ms=5)).measures.timing.by_lane
        }
        self.assertAlmostEqual(by_lane["snare"] - by_lane["hat"], 30, delta=6)

    def test_what_cannot_be_had_says_why(self) -> None:
        found = heard(beat(bars=1), Habits(spread_ms=3))
        self.assertIn("bars", found.measures.timing.drift_ms_per_bar.why_not or "")
        self.assertIn("drum", found.measures.length_ratio.why_not or "")


EXPECTED = (
    ("lead", melody(), Habits(lead_ms=-60, spread_ms=5)),
    ("lag", beat(), Habits(lead_ms=60, spread_ms=5)),
    ("rushing", melody(bars=12), Habits(drift_ms_per_bar=-15, spread_ms=5)),
    ("dragging", melody(bars=12), Habits(drift_ms_per_bar=15, spread_ms=5)),
    ("own_tempo", melody(), Habits(tempo_ratio=0.8, spread_ms=5)),
    ("slip", two_hands(), Habits(jumps=(Jump(bar=5, quarters=1.4),), spread_ms=5)),
    ("restart", melody(), Habits(jumps=(Jump(bar=6, back_bars=2, quarters=0.5),), spread_ms=5)),
    ("skip_bar", melody(), Habits(jumps=(Jump(bar=4, skip_bars=1),), spread_ms=5)),
    ("late_start", melody(), Habits(jumps=(Jump(bar=1, quarters=2),), spread_ms=5)),
    ("place_late", beat(), Habits(late_places=((720, 70),), spread_ms=5)),
    ("lane_late", beat(), Habits(late_lanes=((38, 40),), spread_ms=5)),
    ("hand_late", two_hands(), Habits(left_hand_ms=55, spread_ms=5)),
    ("wrong_key", melody(), Habits(wrong_keys=0.2, spread_ms=5)),
    ("transposed", melody(), Habits(transpose=12, spread_ms=5)),
    ("missed", melody(), Habits(misses=0.2, spread_ms=5)),
    ("unfinished", melody(), Habits(stop_after_bar=5, spread_ms=5)),
    ("doubles", beat(), Habits(doubles=0.2, spread_ms=5)),
    ("grazes", melody(), Habits(grazes=0.4, spread_ms=5)),
    ("cut_short", melody(), Habits(length=0.3, spread_ms=5)),
    ("accents_flat", melody(), Habits(accents=0, spread_ms=5)),
    ("accents_inverted", melody(), Habits(accents=-1, spread_ms=5)),
    ("uneven", melody(), Habits(velocity_spread=25, spread_ms=5)),
    ("looks_quantised", melody(), Habits()),
)


class EarNotesTest(TestCase):
    def test_each_habit_is_heard(self) -> None:
        for kind, part, habits in EXPECTED:
            with self.subTest(kind):
                self.assertIn(kind, [f.kind for f in heard(part, habits).findings])

    def test_a_missed_lane_is_told_as_a_lane(self) -> None:
        part = beat()
        take = play(part, Habits(spread_ms=5), seed=1)
        without = type(take).of(n for n in take.notes if n.pitch != 38)
        kinds = [f.kind for f in assess(part, without).findings]
        self.assertIn("missed_lane", kinds)
        self.assertNotIn("missed", kinds)

    def test_clean_takes_hear_nothing_but_praise(self) -> None:
        for part in (melody(), two_hands(), beat()):
            for seed in range(4):
                found = heard(part, Habits(spread_ms=6, velocity_spread=3), seed).findings
                self.assertTrue(found)
                self.assertEqual([f.kind for f in found if not f.is_praise], [])

    def test_a_slip_is_told_once_and_not_as_late_notes(self) -> None:
        found = heard(two_hands(), Habits(jumps=(Jump(bar=5, quarters=1.4),), spread_ms=5)).findings
        self.assertEqual([f.kind for f in found if not f.is_praise], ["slip"])

    def test_the_most_costly_comes_first_and_sentences_have_their_figures(self) -> None:
        found = heard(melody(), Habits(lead_ms=70, wrong_keys=0.15, spread_ms=14)).findings
        costs = [f.cost for f in found if not f.is_praise]
        self.assertEqual(costs, sorted(costs, reverse=True))
        for finding in found:
            for sentence in (finding.for_teacher, finding.for_student):
                self.assertNotIn("{", sentence.said())

    def test_sentences_can_be_translated(self) -> None:
        sentence = Sentence(text="Late by {size} ms.", figures={"size": 40})
        self.assertEqual(
            sentence.said({"Late by {size} ms.": "{size} ms zu spät."}.__getitem__), "40 ms zu spät."
        )


class RobotTest(TestCase):
    def test_the_same_seed_plays_the_same(self) -> None:
        habits = Habits(spread_ms=20, wrong_keys=0.1, doubles=0.1)
        self.assertEqual(play(melody(), habits, seed=3), play(melody(), habits, seed=3))
        self.assertNotEqual(play(melody(), habits, seed=3), play(melody(), habits, seed=4))

    def test_onsets_are_correlated_as_hands_are(self) -> None:
        """The timekeeper's asynchronies carry over from beat to beat; white noise would not."""
        part = melody(bars=200)
        d = heard(part, Habits(spread_ms=20), seed=9).measures.timing.steady_ms
        lag_one = sum(a * b for a, b in itertools.pairwise(d)) / sum(a * a for a in d)
        self.assertGreater(lag_one, 0.2)
