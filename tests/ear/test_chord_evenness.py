"""Evenness of chords: the whole of a criterion, from its column to its sentences."""

from dataclasses import replace
from unittest import TestCase

from ear.criteria.chord_evenness import CHORD, CHORD_EVENNESS, COVERED, STICKS_OUT
from ear.criteria.levels import DEFAULT_LEVEL
from ear.criteria.score import MISSED
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.judging.judge import Rules, judge
from ear.judging.judgement import Judgement
from ear.judging.rubric import DEFAULT_BANDS, DEFAULT_RUBRICS, Rubric
from ear.judging.working import describe_line
from ear.notes import Kind, Take
from ear.players.robot import Habits, play
from ear.reader import ENGLISH
from tests.ear.parts import beat, chords, melody, two_hands

ALONE = Rubric(weights=((CHORD_EVENNESS, 1.0),), bands=DEFAULT_BANDS)


def mark(facts: Facts) -> Judgement:
    return judge(facts, Rules(rubric=ALONE, level=DEFAULT_LEVEL))


def played(louder: int = 0, *, every: int = 3, without: int | None = None) -> Facts:
    """Triads with the highest note of each so much louder, or of every other one; one note may be missing."""
    part = chords()
    notes = [
        replace(note, velocity=note.velocity + louder * (n % every == every - 1))
        for n, note in enumerate(play(part, Habits(), seed=1).notes)
        if n != without
    ]
    return extract_facts(part, Take.of(notes))


class ChordEvennessTest(TestCase):
    def test_notes_of_a_hand_written_together_are_a_chord(self) -> None:
        column = extract_facts(two_hands(bars=2), play(two_hands(bars=2), Habits(), seed=1)).rows.own[CHORD]
        alone = [n for n, note in enumerate(two_hands(bars=2).notes) if note.hand.value == "right"]
        self.assertEqual([n for n, chord in enumerate(column) if chord is None], alone)
        self.assertEqual(len({chord for chord in column if chord is not None}), 2)

    def test_the_score_can_be_added_up_by_hand(self) -> None:
        # 24 louder is 16 above the mean of its triad, and the others are 8 below: (30 − 16) ÷ (30 − 8) = 0.64.
        actual = mark(played(24))
        criterion = actual.criteria[0]
        self.assertEqual(criterion.score, 88.0)
        self.assertEqual(set(criterion.losses.why), {STICKS_OUT})
        self.assertAlmostEqual(sum(criterion.losses.points), 12.0)
        self.assertEqual(actual.verdicts[2], STICKS_OUT)
        lines = [
            f"{line.label}: {line.figure}" for line in (describe_line(w, ENGLISH) for w in criterion.lines)
        ]
        self.assertIn("credit, out of all notes written in chords: 42.24 ÷ 48 → 88", lines)
        self.assertEqual(mark(played()).total, 100.0)

    def test_a_note_that_is_not_played_earns_nothing(self) -> None:
        criterion = mark(played(without=4)).criteria[0]
        self.assertEqual((criterion.score, criterion.losses.why), (97.9, (MISSED,)))

    def test_a_covered_note_is_told_as_that(self) -> None:
        self.assertIn(COVERED, mark(played(-40)).criteria[0].losses.why)

    def test_the_voice_that_stands_out_is_named(self) -> None:
        fault = mark(played(30)).faults[0].finding
        self.assertEqual(
            render_finding(fault, FOR_TEACHER, ENGLISH),
            "In chords the highest note stands out, by 20 steps of velocity.",
        )
        self.assertEqual(set(fault.rows), set(range(2, 48, 3)))
        # Every fourth note: now one voice, now another.
        fault = mark(played(40, every=4)).faults[0].finding
        self.assertIn("Chords are uneven", render_finding(fault, FOR_TEACHER, ENGLISH))
        self.assertIn("listen for every note", render_finding(fault, FOR_STUDENT, ENGLISH))

    def test_it_is_asked_only_where_it_can_be_heard(self) -> None:
        for part in (melody(), beat()):
            self.assertNotIn(CHORD, extract_facts(part, play(part, Habits(), seed=1)).rows.own)
        plain = melody()
        both = replace(ALONE, weights=((CHORD_EVENNESS, 1.0), *DEFAULT_RUBRICS[Kind.KEYBOARD].weights))
        facts = extract_facts(plain, play(plain, Habits(), seed=1))
        names = [c.name for c in judge(facts, Rules(rubric=both, level=DEFAULT_LEVEL)).criteria]
        self.assertNotIn(CHORD_EVENNESS, names)
        silent = replace(play(chords(), Habits(), seed=1), has_touch=False)
        self.assertIsNone(mark(extract_facts(chords(), silent)).criteria[0].score)

    def test_a_rubric_without_it_is_as_it_was(self) -> None:
        uneven, even = played(24), played()
        for rubric in DEFAULT_RUBRICS.values():
            self.assertNotIn(CHORD_EVENNESS, dict(rubric.weights))
        own = Rules(rubric=DEFAULT_RUBRICS[Kind.KEYBOARD], level=DEFAULT_LEVEL)
        codes = {one.finding.code for one in judge(uneven, own).faults}
        self.assertFalse(codes & {"chords_uneven", "chord_voice_loud"})
        self.assertTrue(judge(even, own).total > 90)
