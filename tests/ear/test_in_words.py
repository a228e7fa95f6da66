"""A part in words: what is written, moment by moment."""

import re
from unittest import TestCase

from hypothesis import given, settings

from ear.assess import assess
from ear.conventions import Conventions, Values
from ear.criteria.score import Verdict
from ear.drawing.boxes import overlay_of
from ear.drawing.in_words import describe_moment, describe_moment_place, result_of, text_of
from ear.drawing.verdicts import EVERYTHING, selected_rows
from ear.formats.plain_writing import plain_lines
from ear.notation.moments import moments
from ear.notes import STANDARD_KIT, Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.numerals import signed
from ear.players.robot import Habits, play
from ear.reader import ENGLISH, Reader
from ear.words.places import describe_beat, describe_interval, describe_length, describe_tick
from tests.ear.parts import beat, melody, two_hands
from tests.ear.test_musicxml import parts

AMERICAN = Reader(conventions=Conventions(values=Values.AMERICAN))


def line(*spans: tuple[int, int, int], **more) -> Part:
    notes = [Note(onset_tick=a, length_tick=b, pitch=p, velocity=80, **more) for a, b, p in spans]
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90))


class InWordsTest(TestCase):
    def said(self, part: Part, reader: Reader = ENGLISH) -> list[str]:
        return [
            f"{describe_moment_place(part, m, reader)}: {describe_moment(part, m, reader)}"
            for m in moments(part)
        ]

    def test_values_hands_fingers_and_rests_are_said_as_they_are_written(self) -> None:
        part = line((0, 720, 60), (960, 480, 64), (960, 480, 67), hand=Hand.RIGHT, finger=1)
        self.assertEqual(
            self.said(part),
            [
                "bar 1, beat 1: C4, dotted crotchet, right hand, finger 1",
                "bar 1, beat 2 and a half: quaver rest, right hand",
                "bar 1, beat 3: E4 and G4, crotchet, right hand, finger 1 1",
                "bar 1, beat 4: crotchet rest, right hand",
            ],
        )
        self.assertIn("C4, dotted quarter note", self.said(part, AMERICAN)[0])

    def test_intervals_have_their_article(self) -> None:
        table = {
            -2: "a tone", 7: "a fifth", 12: "an octave", 24: "2 octaves", 14: "an octave and a tone",
            -31: "2 octaves and a fifth",
        }  # fmt: skip
        for semitones, name in table.items():
            self.assertEqual(describe_interval(semitones, ENGLISH), name)

    def test_lengths_are_values_where_there_is_one(self) -> None:
        table = {
            480: "crotchet",
            720: "dotted crotchet",
            160: "quaver of a triplet",
            200: "0.42 of a crotchet",
            1: "0.002 of a crotchet",
        }
        for ticks, name in table.items():
            self.assertEqual(describe_length(ticks, ENGLISH), name)
        self.assertEqual(describe_length(200, AMERICAN), "0.42 of a quarter note")

    def test_places_are_said_by_the_simplest_fraction_of_the_beat(self) -> None:
        table = {
            0: "beat 2",
            240: "beat 2 and a half",
            160: "beat 2 and a third",
            72: "beat 2.15",
            479: "beat 2.99",
        }
        for into_ticks, words in table.items():
            self.assertEqual(describe_beat(2, into_ticks, beat_ticks=480, reader=ENGLISH), words)

    def test_places_before_the_first_bar_are_counted_back_from_it(self) -> None:
        part = line((0, 960, 60))
        table = {
            0: "bar 1, beat 1",
            -9: "the bar before bar 1, beat 4.98",
            -1920 - 480: "2 bars before bar 1, beat 4",
        }
        for tick, words in table.items():
            self.assertEqual(describe_tick(part, tick, ENGLISH), words)

    def test_a_note_that_is_tied_on_is_said_once_with_all_it_lasts(self) -> None:
        part = line((1440, 960, 60), (2400, 1440, 62))
        self.assertIn("bar 1, beat 4: C4, crotchet tied to crotchet", self.said(part))
        self.assertEqual(sum("C4" in words for words in self.said(part)), 1)

    def test_strokes_that_fall_together_are_one_moment(self) -> None:
        self.assertEqual(self.said(beat(bars=1))[0], "bar 1, beat 1: kick and hat")
        self.assertEqual(
            plain_lines(beat(bars=1)),
            "1: kick@96+hat/8 hat snare@100+hat hat hat hat snare@100+hat hat\n",
        )

    @given(parts())
    @settings(max_examples=60)
    def test_every_note_is_said_once_in_order_and_in_plain_letters(self, part: Part) -> None:
        actual = moments(part)
        self.assertEqual(sorted(n for m in actual for n in m.notes), list(range(len(part.notes))))
        self.assertEqual([m.tick for m in actual], sorted(m.tick for m in actual))
        self.assertTrue(
            re.sub(r'"[^"]*"', "", plain_lines(part)).isascii(), "but for the teacher's own words"
        )
        self.assertEqual(text_of(part, ENGLISH).count("Bar "), len({m.bar for m in actual}))

    def test_a_figure_that_rounds_to_nothing_has_no_sign(self) -> None:
        self.assertEqual([signed(value) for value in (-0.3, 0.4, -1.6, 2.0)], ["0", "0", "−2", "+2"])
        self.assertEqual([signed(value, 2) for value in (-0.004, 0.25)], ["0", "+0.25"])

    def test_how_a_take_went_is_told_note_by_note(self) -> None:
        part = melody(bars=2)
        take = play(part, Habits(late_places=((480, 120),), wrong_keys=0.3, spread_ms=2), seed=3)
        actual = assess(part, take)
        overlay = overlay_of(take, actual.facts, actual.judgement)
        rows = selected_rows(part, overlay, EVERYTHING, kit=STANDARD_KIT)
        lines = result_of(part, overlay, rows, {}, ENGLISH)
        self.assertEqual(len(lines), len(rows))
        self.assertEqual(
            [at.row.verdict for at in sorted(rows, key=lambda at: at.order)],
            [Verdict(words.split(": ")[2].split(",")[0]) for words in lines],
        )
        self.assertTrue(lines[0].startswith("bar 1, beat 1: C4: "))
        self.assertEqual(len(result_of(two_hands(), overlay, (), {}, ENGLISH)), 0)
