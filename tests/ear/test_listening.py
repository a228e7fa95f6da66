"""Measures against known habits, and the ear note that each habit should give."""

import itertools
import json
import re
from dataclasses import replace
from unittest import TestCase

import numpy as np

from ear.assess import Assessment, assess
from ear.conventions import Conventions, Values
from ear.criteria.flow.ear_notes import Hesitates
from ear.criteria.notes.missed_or_extra import Grazes
from ear.criteria.notes.wrong_notes import Confusion, WrongKey
from ear.criteria.table import FINDINGS
from ear.criteria.timing.ear_notes import PlaceLate
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import standing_of
from ear.findings.finding import Finding
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER, PlayedOn, Tone
from ear.findings.place_in_bar import PlaceInBar
from ear.findings.progress import more_notes
from ear.findings.rendering import render_finding
from ear.findings.standing import Standing
from ear.matching.match import match
from ear.measuring.fairness import Imprint, imprint, is_same_recording
from ear.measuring.figures import WhyNot
from ear.measuring.measure import measure
from ear.measuring.measures import Measures
from ear.notes import Part, Take, TakeNote
from ear.players.robot import Habits, Jump, TempoHabit, play
from ear.reader import ENGLISH, Reader
from tests.ear.parts import beat, crescendo, melody, melody_in_eighths, shuffle, two_hands


def heard(part: Part, habits: Habits, seed: int = 1) -> Assessment:
    return assess(part, play(part, habits, seed=seed))


def measured(part: Part, habits: Habits, seed: int = 1) -> Measures:
    take = play(part, habits, seed=seed)
    return measure(part, take, match(part, take))


def faults(a: Assessment) -> list[str]:
    return [told.finding.code for told in a.judgement.faults]


def everything(a: Assessment) -> list[Finding]:
    return [*(told.finding for told in a.judgement.faults), *a.judgement.praise]


class MeasuresTest(TestCase):
    def test_bias_spread_and_drift_are_what_was_put_in(self) -> None:
        part = beat(bars=16)
        timing = measured(part, Habits(lead_ms=-35, spread_ms=12, drift_ms_per_bar=3)).timing
        self.assertAlmostEqual(timing.bias_ms.value or 0, -35, delta=4)
        self.assertAlmostEqual(timing.spread_ms.value or 0, 12, delta=4)
        self.assertAlmostEqual(timing.drift_ms_per_bar.value or 0, 3, delta=1.2)

    def test_tempo_ratio(self) -> None:
        for ratio in (0.65, 0.9, 1.2, 1.6):
            timing = measured(two_hands(bars=12), Habits(tempo_ratio=ratio, spread_ms=8)).timing
            self.assertAlmostEqual(timing.tempo_ratio / ratio, 1.0, delta=0.005)

    def test_profiles_find_the_hand_and_the_lane(self) -> None:
        by_hand = {
            p.place: p.median_ms
            for p in measured(two_hands(), Habits(left_hand_ms=40, spread_ms=5)).timing.by_hand
        }
        self.assertAlmostEqual(by_hand["left"] - by_hand["right"], 40, delta=6)
        by_lane = {
            p.place: p.median_ms
            for p in measured(beat(), Habits(late_lanes=((38, 30),), spread_ms=5)).timing.by_lane
        }
        self.assertAlmostEqual(by_lane["snare"] - by_lane["hat"], 30, delta=6)

    def test_what_cannot_be_had_says_why(self) -> None:
        actual = measured(beat(bars=1), Habits(spread_ms=3))
        self.assertEqual(actual.timing.drift_ms_per_bar.why_not, WhyNot.FEW_BARS)
        self.assertEqual(actual.length_ratio.why_not, WhyNot.STROKES_HAVE_NO_LENGTH)


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
        actual = {f.code: f for f in everything(assess(beat(), loud))}
        self.assertEqual(actual["lane_loud"].place, "hat")

    def test_the_end_is_held_and_kept(self) -> None:
        part = melody()
        take = play(part, Habits(spread_ms=5), seed=1)
        *others, last = take.notes
        stray = [
            TakeNote(onset_s=last.onset_s + 2.5 + k, length_s=0.2, pitch=60, velocity=70) for k in range(2)
        ]
        kinds = faults(assess(part, Take.of([*others, replace(last, length_s=0.1), *stray])))
        self.assertIn("last_note_short", kinds)
        self.assertIn("beyond_end", kinds)
        self.assertNotIn("extras", kinds)

    def test_each_fault_suggests_a_rung_within_the_part(self) -> None:
        for kind, part, habits in EXPECTED:
            for finding in everything(heard(part, habits)):
                rung = finding.practice(last_bar=len(part.bars), targets=len(part.notes))
                if rung is not None:
                    with self.subTest(kind=kind, finding=finding.code):
                        self.assertTrue(1 <= rung.first_bar <= rung.last_bar <= len(part.bars))
                        self.assertTrue(0.5 <= rung.tempo_share <= 1.0)

    def test_each_habit_is_heard(self) -> None:
        for kind, part, habits in EXPECTED:
            with self.subTest(kind):
                self.assertIn(kind, faults(heard(part, habits)))

    def test_a_missed_lane_is_told_as_a_lane(self) -> None:
        part = beat()
        take = play(part, Habits(spread_ms=5), seed=1)
        without = type(take).of(n for n in take.notes if n.pitch != 38)
        kinds = faults(assess(part, without))
        self.assertIn("missed_lane", kinds)
        self.assertNotIn("missed", kinds)

    def test_clean_takes_hear_nothing_but_praise(self) -> None:
        for part in (melody(), two_hands(), beat()):
            for seed in range(4):
                actual = heard(part, Habits(spread_ms=6, velocity_spread=3), seed)
                self.assertTrue(actual.judgement.praise)
                self.assertEqual(faults(actual), [])

    def test_a_slip_is_told_once_and_not_as_late_notes(self) -> None:
        actual = heard(two_hands(), Habits(jumps=(Jump(bar=5, quarters=1.4),), spread_ms=5))
        self.assertEqual(faults(actual), ["slip"])

    def test_the_most_costly_comes_first_and_sentences_have_their_figures(self) -> None:
        actual = heard(melody(), Habits(lead_ms=70, wrong_keys=0.15, spread_ms=14))
        costs = [told.cost for told in actual.judgement.faults]
        self.assertEqual(costs, sorted(costs, reverse=True))

    def test_sentences_have_their_figures_and_are_the_readers(self) -> None:
        """Every gap is filled for every habit; each word and name passes through the reader."""
        shouting = Reader(
            conventions=Conventions(values=Values.AMERICAN, middle_c_octave=3, solfege=True),
            gettext=lambda text: f"<{text}>",
            ngettext=lambda one, many, number: f"<{one if number == 1 else many}>",
        )
        for kind, part, habits in EXPECTED:
            for finding in everything(heard(part, habits)):
                for to in (FOR_TEACHER, FOR_STUDENT):
                    with self.subTest(kind=kind, code=finding.code, to=to):
                        self.assertNotRegex(render_finding(finding, to, ENGLISH), r"[{}]")
                        self.assertRegex(render_finding(finding, to, shouting), r"^<.*>$")

    def test_without_a_click_ones_own_time_is_told_and_no_click(self) -> None:
        for part in (melody(bars=8), beat(bars=8)):
            for habits in (
                Habits(spread_ms=6, tempo_ratio=0.8),
                Habits(spread_ms=6, tempo_changes=(TempoHabit(bar=8, ratio=1.3, glides=True),)),
            ):
                actual = assess(part, play(part, habits, seed=1), has_click=False)
                told = [render_finding(f, FOR_STUDENT, ENGLISH) for f in everything(actual)]
                self.assertFalse([words for words in told if "click" in words], told)
                self.assertTrue(
                    [words for words in told if words.startswith("You kept a steady tempo of your own")], told
                )
                self.assertEqual(actual.facts.slips, ())
        steady = assess(
            melody(bars=8),
            play(melody(bars=8), Habits(spread_ms=6, tempo_ratio=0.8), seed=1),
            has_click=False,
        )
        bpm = 0.8 * melody().tempos.first_bpm
        played = steady.facts.figures.played_bpm
        self.assertAlmostEqual(played, bpm, delta=0.5)
        self.assertIn(
            f"tempo of your own, {played:.1f}".removesuffix(".0"),
            render_finding(steady.judgement.praise[0], FOR_STUDENT, ENGLISH),
        )

    def test_a_place_is_told_with_how_often_and_not_of_chance(self) -> None:
        part = beat(bars=8)
        late = Habits(late_places=((0, 60),), spread_ms=4)
        actual = next(f for f in everything(heard(part, late)) if f.code == "place_late")
        self.assertEqual((actual.count, actual.of), (8, 8))
        self.assertIn("8 times out of 8", render_finding(actual, FOR_STUDENT, ENGLISH))
        chance = [heard(part, Habits(spread_ms=40), seed) for seed in range(30)]
        told = [f for take in chance for f in everything(take) if f.code.startswith("place_")]
        self.assertLessEqual(len(told), 3)

    def test_names_and_plurals_are_the_readers(self) -> None:
        wrong = WrongKey(
            bars=(2, 2), count=1, commonest=Confusion(row=0, bar=2, written=60, played=61, fifths=0)
        )
        self.assertEqual(
            render_finding(wrong, FOR_TEACHER, ENGLISH), "One wrong note in bar 2: C♯4 for C4, a semitone up."
        )
        french = Reader(conventions=Conventions(middle_c_octave=3, solfege=True))
        self.assertIn("do♯3 for do3", render_finding(wrong, FOR_TEACHER, french))
        second = PlaceInBar(beat=2, into_ticks=0, beat_ticks=480, is_compound=False)
        for beats, words in ((1.0, "1 beat later"), (1.5, "1.5 beats later"), (2.0, "2 beats later")):
            finding = Hesitates(
                bar=3, at=second, quarters=beats, beats=beats, quarter_in_part=9.0, is_guess=False
            )
            self.assertIn(words, render_finding(finding, FOR_TEACHER, ENGLISH))
        quaver = PlaceInBar(beat=1, into_ticks=240, beat_ticks=720, is_compound=True)
        late = PlaceLate(size_ms=43.4, count=21, of=21, at=quaver)
        self.assertEqual(
            render_finding(late, FOR_TEACHER, ENGLISH),
            "Late at one place in the bar, quaver 2 of beat 1: by 43 ms, 21 times out of 21.",
        )
        american = Reader(conventions=Conventions(values=Values.AMERICAN))
        self.assertIn("eighth note 2 of beat 1", render_finding(late, FOR_TEACHER, american))

        snare = replace(late, lane="snare")
        self.assertIn("The snare is late at one place", render_finding(snare, FOR_TEACHER, ENGLISH))

    def test_advice_speaks_of_what_was_played_on(self) -> None:
        elsewhere = re.compile(r"\b(stick|pad|pads)\b")
        for code, finding in FINDINGS.items():
            kind = finding.KIND
            for played_on in (PlayedOn.KEYS, PlayedOn.TYPING, PlayedOn.SCREEN):
                text = kind.student_on.get(played_on, kind.student)
                if not code.startswith("pad"):
                    self.assertNotRegex(f"{text.singular} {text.plural}", elsewhere, (code, played_on))
        grazes = Grazes(count=1)
        said = {render_finding(grazes, FOR_STUDENT, ENGLISH, played_on=played_on) for played_on in PlayedOn}
        self.assertEqual(len(said), len(PlayedOn))
        self.assertEqual(
            len({render_finding(grazes, FOR_TEACHER, ENGLISH, played_on=p) for p in PlayedOn}), 1
        )

    def test_the_table_has_a_criterion_and_two_sentences_for_each(self) -> None:
        for code, finding in FINDINGS.items():
            kind = finding.KIND
            with self.subTest(code):
                self.assertTrue(kind.teacher.singular and kind.student.singular)
                if kind.tone is Tone.FAULT:
                    self.assertTrue(kind.criterion or kind.takes_all)


class FairnessTest(TestCase):
    def test_the_same_recording_is_known_under_any_shift(self) -> None:
        take = play(melody(), Habits(spread_ms=15), seed=1)
        later = Take.of(replace(n, onset_s=n.onset_s + 0.731) for n in take.notes[2:])
        self.assertTrue(is_same_recording(imprint(take), imprint(later)))
        self.assertFalse(
            is_same_recording(imprint(take), imprint(play(melody(), Habits(spread_ms=15), seed=2)))
        )
        self.assertFalse(is_same_recording(imprint(take), imprint(Take.of(take.notes[:5]))))
        kept = Imprint.from_bytes(imprint(take).to_bytes())
        self.assertTrue(is_same_recording(kept, imprint(later)))

    def test_the_same_recording_is_told_unless_a_machine_made_both(self) -> None:
        part = melody()
        take = play(part, Habits(spread_ms=15), seed=1)
        actual = {f.code: f for f in everything(assess(part, take, others=[("Ina", imprint(take))]))}[
            "same_recording"
        ]
        self.assertIn("Ina", render_finding(actual, FOR_TEACHER, ENGLISH))
        self.assertNotIn("Ina", render_finding(actual, FOR_STUDENT, ENGLISH))
        corrected = play(part, Habits(), seed=1)
        self.assertNotIn(
            "same_recording", faults(assess(part, corrected, others=[("Ina", imprint(corrected))]))
        )


def standings(*takes: Assessment) -> list[Standing]:
    """How takes stood, the last one first."""
    return [actual for take in takes if (actual := standing_of(take.facts)) is not None]


class ProgressTest(TestCase):
    def told(self, before: Habits, now: Habits, part: Part | None = None) -> set[str]:
        part = part or two_hands(bars=12)
        first = heard(part, before, seed=1)
        actual = assess(part, play(part, now, seed=2), before=standings(first))
        return {f.code for f in everything(actual) if f.code.startswith("improved")}

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

    def wrong(self, part: Part, wrong: int, *before: Assessment) -> Assessment:
        """So many notes a semitone off."""
        notes = [replace(n, pitch=n.pitch + (k < wrong)) for k, n in enumerate(part.notes)]
        return assess(part, play(part.with_notes(notes), Habits(), seed=1), before=standings(*before))

    def test_three_takes_that_grow_are_told_where_no_step_is(self) -> None:
        part = melody_in_eighths(bars=5).with_notes(melody_in_eighths(bars=5).notes[:35])
        for course, told in (((5, 3, 1), True), ((5, 5, 3), False), ((5, 2, 3), False), ((4, 3, 1), False)):
            first = self.wrong(part, course[0])
            second = self.wrong(part, course[1], first)
            third = self.wrong(part, course[2], second, first)
            self.assertFalse([f for f in everything(second) if f.code.startswith("improved")])
            actual = [
                render_finding(f, FOR_TEACHER, ENGLISH)
                for f in everything(third)
                if f.code.startswith("improved")
            ]
            self.assertEqual(
                actual, ["More notes right in each of three takes: 30, 32, now 34 of 35."] * told
            )

    def test_takes_alike_are_called_better_by_chance_once_in_forty_at_most(self) -> None:
        """Of counts alone, which is all that the rule is told."""
        random = np.random.default_rng(1)
        plain = Standing(target=35, matched=35, linked=35, slips=0, bias_ms=0.0, spread_ms=10.0)
        for share in (0.03, 0.06, 0.1, 0.2, 0.3):
            right = random.binomial(plain.target, 1.0 - share, (20_000, 3)).tolist()
            stood = [[replace(plain, matched=m) for m in one] for one in right]
            told = [more_notes(now, earlier) for now, *earlier in stood]
            self.assertLess(sum(map(bool, told)) / len(told), 0.026, share)

    def test_stored_facts_say_how_their_take_stood(self) -> None:
        for habits in (Habits(spread_ms=12, wrong_keys=0.1, jumps=(Jump(bar=4, quarters=1.5),)), Habits()):
            facts = heard(two_hands(), habits).facts
            stored = facts_from_json(json.loads(json.dumps(facts_to_json(facts))))
            self.assertEqual(standing_of(stored), standing_of(facts))
        self.assertIsNone(standing_of(assess(melody(), Take.of(())).facts))

    def test_getting_worse_and_another_part_are_not_progress(self) -> None:
        self.assertEqual(self.told(Habits(spread_ms=8), Habits(spread_ms=25, wrong_keys=0.2)), set())
        first = heard(melody(), Habits(wrong_keys=0.3))
        actual = assess(
            two_hands(), play(two_hands(), Habits(), seed=1), before=standings(first)
        )  # fmt: skip
        self.assertFalse([f for f in everything(actual) if f.code.startswith("improved")])


class FeelTest(TestCase):
    def test_swing_is_the_ratio_of_the_beats_parts(self) -> None:
        feel = measured(shuffle(), Habits(spread_ms=2)).feel
        self.assertAlmostEqual(feel.target_swing_ratio.value or 0, 2.0)
        self.assertAlmostEqual(feel.swing_ratio.value or 0, 2.0, delta=0.1)
        self.assertEqual(measured(melody(), Habits()).feel.swing_ratio.why_not, WhyNot.FEW_OFF_BEATS)

    def test_snap_errors_are_notes_nearer_to_another_line(self) -> None:
        """Eighths at 100 are 300 ms apart: 170 ms late is nearer to the next."""
        actual = measured(beat(), Habits(late_places=((240, 170),), spread_ms=1))
        late = [i for i, n in enumerate(beat().notes) if n.onset_tick % 1920 == 240 and n.pitch == 42]
        self.assertLessEqual(
            set(actual.feel.snap_errors),
            {i for i, n in enumerate(beat().notes) if n.onset_tick % 1920 == 240},
        )
        self.assertTrue(late)

    def test_overlap_and_ramps(self) -> None:
        self.assertGreater(measured(melody(), Habits(length=1.2, spread_ms=2)).feel.overlap_ms.value or 0, 30)
        self.assertLess(measured(melody(), Habits(length=0.5, spread_ms=2)).feel.overlap_ms.value or 0, -100)
        (ramp,) = measured(crescendo(), Habits(spread_ms=2)).feel.ramps
        self.assertAlmostEqual(ramp.take_slope, ramp.target_slope, delta=0.4)


class RobotTest(TestCase):
    def test_the_same_seed_plays_the_same(self) -> None:
        habits = Habits(spread_ms=20, wrong_keys=0.1, doubles=0.1)
        self.assertEqual(play(melody(), habits, seed=3), play(melody(), habits, seed=3))
        self.assertNotEqual(play(melody(), habits, seed=3), play(melody(), habits, seed=4))

    def test_onsets_are_correlated_as_hands_are(self) -> None:
        """The timekeeper's asynchronies carry over from beat to beat; white noise would not."""
        part = melody(bars=200)
        d = measured(part, Habits(spread_ms=20), seed=9).timing.steady_ms
        lag_one = sum(a * b for a, b in itertools.pairwise(d)) / sum(a * a for a in d)
        self.assertGreater(lag_one, 0.2)
