"""Measures against known habits, and the ear note that each habit should give."""

import itertools
import json
from dataclasses import replace
from unittest import TestCase

from ear.assess import Assessment, assess
from ear.findings.finding import Sentence
from ear.findings.standing import Standing
from ear.measuring.fairness import is_same_recording
from ear.notes import Part, Take, TakeNote
from ear.players.robot import Habits, Jump, play
from ear.report_json import assessment_to_json, standing_from_json
from tests.ear.parts import beat, crescendo, melody, melody_in_eighths, shuffle, two_hands


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
    (
        "swing_straight",
        shuffle(),
        Habits(late_places=tuple((320 + 480 * k, -90) for k in range(4)), spread_ms=5),
    ),
    (
        "swung",
        melody_in_eighths(),
        Habits(late_places=tuple((240 + 480 * k, 110) for k in range(4)), spread_ms=5),
    ),
    ("ramp_flat", crescendo(), Habits(accents=0, spread_ms=5)),
)


class EarNotesTest(TestCase):
    def test_a_lane_that_is_too_loud(self) -> None:
        take = play(beat(), Habits(spread_ms=5, velocity_spread=3), seed=1)
        loud = Take.of(
            replace(n, velocity=min(127, n.velocity + 40)) if n.pitch == 42 else n for n in take.notes
        )
        found = {f.kind: f for f in assess(beat(), loud).findings}
        self.assertEqual(found["lane_loud"].place, "hat")

    def test_the_end_is_held_and_kept(self) -> None:
        part = melody()
        take = play(part, Habits(spread_ms=5), seed=1)
        *others, last = take.notes
        stray = [
            TakeNote(onset_s=last.onset_s + 2.5 + k, length_s=0.2, pitch=60, velocity=70) for k in range(2)
        ]
        kinds = [
            f.kind for f in assess(part, Take.of([*others, replace(last, length_s=0.1), *stray])).findings
        ]
        self.assertIn("last_note_short", kinds)
        self.assertIn("beyond_end", kinds)
        self.assertNotIn("extras", kinds)

    def test_each_fault_suggests_a_rung_within_the_part(self) -> None:
        for kind, part, habits in EXPECTED:
            for finding in heard(part, habits).findings:
                if finding.practice is not None:
                    with self.subTest(kind=kind, finding=finding.kind):
                        rung = finding.practice
                        self.assertTrue(1 <= rung.first_bar <= rung.last_bar <= len(part.bars))
                        self.assertTrue(0.5 <= rung.tempo_share <= 1.0)

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


class FairnessTest(TestCase):
    def test_the_same_recording_is_known_under_any_shift(self) -> None:
        take = play(melody(), Habits(spread_ms=15), seed=1)
        later = Take.of(replace(n, onset_s=n.onset_s + 0.731) for n in take.notes[2:])
        self.assertTrue(is_same_recording(take, later))
        self.assertFalse(is_same_recording(take, play(melody(), Habits(spread_ms=15), seed=2)))
        self.assertFalse(is_same_recording(take, Take.of(take.notes[:5])))

    def test_the_same_recording_is_told_unless_a_machine_made_both(self) -> None:
        part = melody()
        take = play(part, Habits(spread_ms=15), seed=1)
        kinds = {f.kind: f for f in assess(part, take, others=[("Ina", take)]).findings}
        self.assertIn("Ina", kinds["same_recording"].for_teacher.said())
        self.assertNotIn("Ina", kinds["same_recording"].for_student.said())
        corrected = play(part, Habits(), seed=1)
        found = assess(part, corrected, others=[("Ina", corrected)]).findings
        self.assertNotIn("same_recording", [f.kind for f in found])


class ProgressTest(TestCase):
    def told(self, before: Habits, now: Habits, part: Part | None = None) -> set[str]:
        part = part or two_hands(bars=12)
        first = heard(part, before, seed=1)
        found = assess(
            part, play(part, now, seed=2), before=Standing.of(first.match, first.measures)
        ).findings
        return {f.kind for f in found if f.kind.startswith("improved")}

    def test_each_sort_of_progress_is_told(self) -> None:
        for kind, before in (
            ("improved_notes", Habits(wrong_keys=0.2, misses=0.1, spread_ms=8)),
            ("improved_steadiness", Habits(spread_ms=25)),
            ("improved_lead", Habits(lead_ms=-60, spread_ms=8)),
            ("improved_flow", Habits(jumps=(Jump(bar=5, quarters=1.5),), spread_ms=8)),
        ):
            with self.subTest(kind):
                self.assertEqual(self.told(before, Habits(spread_ms=8)), {kind})

    def test_chance_is_no_progress(self) -> None:
        for part in (melody(), two_hands(bars=12), beat()):
            for spread in (6, 14, 22):
                habits = Habits(spread_ms=spread, lead_ms=-10, wrong_keys=0.04)
                with self.subTest(part=part.kind, spread=spread):
                    self.assertEqual(self.told(habits, habits, part), set())

    def test_a_stored_result_says_how_its_take_stood(self) -> None:
        for habits in (Habits(spread_ms=12, wrong_keys=0.1, jumps=(Jump(bar=4, quarters=1.5),)), Habits()):
            found = heard(two_hands(), habits)
            told = standing_from_json(json.loads(json.dumps(assessment_to_json(found))))
            assert told is not None
            stood = Standing.of(found.match, found.measures)
            self.assertEqual(
                (told.matched, told.linked, told.slips), (stood.matched, stood.linked, stood.slips)
            )
            self.assertAlmostEqual(told.spread_ms or 0, stood.spread_ms or 0, delta=0.001)
        empty = assess(melody(), Take.of(()))
        self.assertIsNone(standing_from_json(assessment_to_json(empty)))

    def test_getting_worse_and_another_part_are_not_progress(self) -> None:
        self.assertEqual(self.told(Habits(spread_ms=8), Habits(spread_ms=25, wrong_keys=0.2)), set())
        first = heard(melody(), Habits(wrong_keys=0.3))
        found = assess(
            two_hands(), play(two_hands(), Habits(), seed=1), before=Standing.of(first.match, first.measures)
        ).findings
        self.assertFalse([f for f in found if f.kind.startswith("improved")])


class FeelTest(TestCase):
    def test_swing_is_the_ratio_of_the_beats_parts(self) -> None:
        feel = heard(shuffle(), Habits(spread_ms=2)).measures.feel
        self.assertAlmostEqual(feel.target_swing_ratio.value or 0, 2.0)
        self.assertAlmostEqual(feel.swing_ratio.value or 0, 2.0, delta=0.1)
        self.assertIn("off-beats", heard(melody(), Habits()).measures.feel.swing_ratio.why_not or "")

    def test_snap_errors_are_notes_nearer_to_another_line(self) -> None:
        """Eighths at 100 are 300 ms apart: 170 ms late is nearer to the next."""
        found = heard(beat(), Habits(late_places=((240, 170),), spread_ms=1))
        late = [i for i, n in enumerate(beat().notes) if n.onset_tick % 1920 == 240 and n.pitch == 42]
        self.assertLessEqual(
            set(found.measures.feel.snap_errors),
            {i for i, n in enumerate(beat().notes) if n.onset_tick % 1920 == 240},
        )
        self.assertTrue(late)

    def test_overlap_and_ramps(self) -> None:
        self.assertGreater(
            heard(melody(), Habits(length=1.2, spread_ms=2)).measures.feel.overlap_ms.value or 0, 30
        )
        self.assertLess(
            heard(melody(), Habits(length=0.5, spread_ms=2)).measures.feel.overlap_ms.value or 0, -100
        )
        (ramp,) = heard(crescendo(), Habits(spread_ms=2)).measures.feel.ramps
        self.assertAlmostEqual(ramp.take_slope, ramp.target_slope, delta=0.4)


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
