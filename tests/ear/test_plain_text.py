"""The part as text: read and written."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import example, given, settings

from ear.errors import LineError
from ear.formats.plain_text import plain_lines, read_lines
from ear.labels import Conventions
from ear.notation.moments import moments
from ear.notes import Hand, Note, Part
from tests.ear.parts import beat, melody, two_hands
from tests.ear.test_musicxml import parts

EMPTY = melody(bars=1).with_notes(())


def spans(part: Part) -> list[tuple[int, int, int]]:
    return [(n.onset_tick, n.length_tick, n.pitch) for n in part.notes]


class PlainTextTest(TestCase):
    def read(self, text: str, part: Part = EMPTY) -> list[tuple[int, int, int]]:
        return spans(read_lines(part, text).part)

    def test_octave_value_and_place_go_on_from_word_to_word_and_line_to_line(self) -> None:
        for text, expected in (
            ("C4 B", [(0, 480, 60), (480, 480, 59)]),
            ("E4/8 G", [(0, 240, 64), (240, 240, 67)]),
            ("F#3/8. -/16 Bb/4", [(0, 360, 54), (480, 480, 58)]),
            ("C4+E+G _ _/8", [(0, 1200, 60), (0, 1200, 64), (0, 1200, 67)]),
            ("Cb4 B#3", [(0, 480, 59), (480, 480, 60)]),
            ("C4/8t D E", [(0, 160, 60), (160, 160, 62), (320, 160, 64)]),
            ("C4/2+8", [(0, 1200, 60)]),
            ("C5 D\nE", [(0, 480, 72), (480, 480, 74), (960, 480, 76)]),
            ("C5 | D", [(0, 480, 72), (1920, 480, 74)]),
            ("2: C5/1\nD\nE", [(1920, 1920, 72), (3840, 1920, 74), (5760, 1920, 76)]),
            ("1 R: 3=C5/2\n2 R: _/2 D", [(960, 1920, 72), (2880, 960, 74)]),
            (
                "R: C5/1\nL: C3/2 D\nR: D5/1\nL: E3",
                [(0, 960, 48), (0, 1920, 72), (960, 960, 50), (1920, 960, 52), (1920, 1920, 74)],
            ),
        ):
            with self.subTest(text):
                self.assertEqual(self.read(text), expected)

    def test_lanes_go_from_beat_to_beat_or_by_the_value_that_is_said(self) -> None:
        drums = beat().with_notes(())
        self.assertEqual(
            [(a, p) for a, _, p in self.read("kick+hat 1.5=hat snare+open.hat\nhat/8 hat", drums)],
            [(0, 36), (0, 42), (240, 42), (480, 38), (480, 46), (960, 42), (1200, 42)],
        )
        written = read_lines(drums, "1: kick/8 _ _").part
        self.assertEqual({n.length_tick for n in written.notes}, {60})

    @given(parts())
    @example(
        EMPTY.with_notes(
            Note(onset_tick=tick, length_tick=60, pitch=21, velocity=80, hand=Hand.LEFT) for tick in (0, 1)
        )
    )
    @example(
        EMPTY.with_notes(
            Note(onset_tick=tick, length_tick=60, pitch=21, velocity=80, hand=hand)
            for tick, hand in enumerate((Hand.RIGHT, Hand.LEFT))
        )
    )
    @settings(max_examples=150)
    def test_what_is_written_is_read_and_changes_nothing(self, part: Part) -> None:
        text = plain_lines(part)
        self.assertEqual(read_lines(part, text).part, part)
        # Read onto an empty page it gives the same music, as precisely as it is written: a key has one stroke at one
        # written place, whichever hand strikes it.
        again = read_lines(part.with_notes(()), text)
        written = {
            (moment.tick, part.notes[n].pitch)
            for moment in moments(part)
            if moment.hand
            for n in moment.notes
        }
        self.assertEqual(sorted(n.pitch for n in again.part.notes if n.hand), sorted(p for _, p in written))
        self.assertEqual(len(again.selected), len(again.part.notes))

    def test_a_changed_word_changes_its_note_alone_and_leaves_what_it_does_not_say(self) -> None:
        part = two_hands()
        part = part.with_notes(
            replace(n, velocity=40 + i, onset_tick=n.onset_tick + 7, finger=2)
            for i, n in enumerate(part.notes)
        )
        text = plain_lines(part)
        first = text.split("R: ")[1].split("/")[0]
        made = read_lines(part, text.replace(f"R: {first}/", "R: C6/", 1))
        (at,) = made.selected
        note = made.part.notes[at]
        self.assertEqual(note.pitch, 84)
        was = set(part.notes) - set(made.part.notes)
        self.assertEqual(
            {(n.onset_tick, n.velocity, n.finger, n.length_tick) for n in was},
            {(note.onset_tick, note.velocity, 2, note.length_tick)},
        )
        lines = text.splitlines()
        self.assertEqual(read_lines(part, "\n".join(lines[1:])).part, part, "a bar that is not named stays")
        emptied = read_lines(part, lines[0].split(" R:")[0] + " R: -").part
        self.assertEqual(min(emptied.bar_of_note.tolist()), 2)

    def test_a_line_without_a_number_says_nothing_of_the_other_hand(self) -> None:
        part = two_hands()
        made = read_lines(part, "L: C2/1").part
        self.assertEqual(
            [n for n in made.notes if n.hand is Hand.RIGHT], [n for n in part.notes if n.hand is Hand.RIGHT]
        )
        left = [(n.onset_tick, n.pitch) for n in made.notes if n.hand is Hand.LEFT]
        self.assertEqual([one for one in left if one[0] < 1920], [(0, 36)])

    def test_names_are_the_schools(self) -> None:
        solfege = Conventions(solfege=True, middle_c_octave=3)
        part = read_lines(EMPTY, "do3 re mib", conventions=solfege).part
        self.assertEqual([n.pitch for n in part.notes], [60, 62, 63])
        self.assertEqual(read_lines(part, plain_lines(part, solfege), conventions=solfege).part, part)

    def test_what_is_not_read_is_refused_with_its_line(self) -> None:
        for text in (
            "H4",
            "C4 zap",
            "C44",
            "C4+",
            "+",
            "C4/3",
            "C4/",
            "C4/4x",
            "_",
            "1: C/1 D",
            "1: C\n1: D",
            "401: C",
            "1: 5=C",
            "0: C",
        ):
            with self.subTest(text):
                with self.assertRaises(LineError) as refused:
                    self.read(f"\n{text}")
                self.assertEqual(refused.exception.line, 1 + len(text.splitlines()))
        self.assertRaises(LineError, self.read, "gong", beat())
