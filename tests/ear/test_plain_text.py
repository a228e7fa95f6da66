"""The part as text: read and written."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import example, given, settings

from ear.conventions import Conventions
from ear.editing import bars
from ear.errors import LineError
from ear.formats.plain_text import read_lines
from ear.formats.plain_writing import plain_lines
from ear.notation.moments import moments
from ear.notes import Articulation, BarSigns, Hand, MeterMap, Note, Part, SignKind, WrittenForm
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

    def test_marks_behind_a_name_and_signs_over_a_place_are_read_and_come_back(self) -> None:
        text = (
            '1 R: [Am7] C4(1){/8 D4(2)/8 E4>}/8 F4!/8 "with weight" G4\'/4 A4@100_/4 L: [C+7] A2~mordent/1\n'
        )
        part = replace(read_lines(EMPTY, text, velocity=80).part, least_bars=1)
        first, *_, last = [n for n in part.notes if n.hand is Hand.RIGHT]
        self.assertEqual((first.finger, last.velocity, last.articulations), (1, 100, (Articulation.TENUTO,)))
        (short,) = (n for n in part.notes if Articulation.STACCATO in n.articulations)
        self.assertEqual((short.pitch, short.length_tick), (67, 240))
        self.assertEqual([(c.tick, c.name) for c in part.chords], [(0, "Caug7")])
        self.assertEqual(
            [(s.kind, s.tick, s.end_tick, s.text) for s in part.signs],
            [
                (SignKind.SLUR, 0, 480, ""),
                (SignKind.FERMATA, 720, 720, ""),
                (SignKind.TEXT, 960, 960, "with weight"),
            ],
        )
        again = plain_lines(part)
        self.assertEqual(read_lines(part, again).part, part)
        self.assertEqual(read_lines(EMPTY, again, velocity=80).part.signs, part.signs)
        # What a bar that is said whole leaves out is gone; a finger stays.
        plain = read_lines(part, "1 R: C4/8 D E F G/4 A L: A2/1").part
        self.assertEqual((plain.signs, plain.chords, plain.notes[1].finger), ((), (), 1))
        self.assertEqual({n.articulations for n in plain.notes}, {()})
        self.assertEqual([n.length_tick for n in plain.notes if n.pitch == 67], [480])
        for wrong in ("C4(9)", "C4@200", "C4~whistle", "[Q7] C4", "2.. C4"):
            with self.subTest(wrong):
                self.assertRaises(LineError, read_lines, EMPTY, wrong)

    def test_words_under_notes_and_the_pitch_of_a_grace_note_are_read_and_come_back(self) -> None:
        text = '1 R: C4"Row,"/4 D4(3)"a+b"/4 E4"1/2 way"/8 F4/8 G4~grace:Bb4/4\n'
        part = read_lines(EMPTY, text).part
        self.assertEqual([n.label for n in part.notes], ["Row,", "a+b", "1/2 way", None, None])
        self.assertEqual(part.notes[-1].grace_semitones, 3)
        self.assertEqual(plain_lines(part).replace("A#4", "Bb4"), text)
        again = read_lines(part, '1 R: C4/4 D4""/4 E4"one"/8 F4/8 G4~grace/4').part
        self.assertEqual(
            [n.label for n in again.notes], ["Row,", None, "one", None, None], "what is left out stays"
        )
        self.assertEqual(again.notes[-1].grace_semitones, 3)
        self.assertEqual(read_lines(beat(), '1: kick"R" hat').part.notes[0].label, "R")
        for wrong in ("C4~trill:D4", "C4~grace:Q", "C4~grace:C1", 'C4"' + "x" * 99 + '"'):
            self.assertRaises(LineError, read_lines, EMPTY, wrong)

    def test_bars_that_are_played_again_are_said_by_their_number(self) -> None:
        for plain in (two_hands(bars=6), beat(), melody(bars=6)):
            part = bars.repeat_bars(
                bars.repeat_bars(plain, first=5, last=5).part, first=1, last=4, ending_bars=1
            ).part
            text = plain_lines(part)
            self.assertIn("\n5 = 1\n6 = 2\n7 = 3\n8", text)
            self.assertIn("\n10 = 9\n", text)
            self.assertEqual(read_lines(part, text).part, part)
            # What one bar says is what both play, and the form is that of the lines.
            typed = read_lines(plain.with_notes(()), text).part
            self.assertEqual(
                [(at, pitch) for at, _, pitch in spans(typed)], [(at, pitch) for at, _, pitch in spans(part)]
            )
            self.assertEqual(typed.form, part.form)
            other = read_lines(part, text.replace("6 = 2", "6 = 3")).part
            self.assertIsNone(other.form, "no repeats make that order")
        # An order that repeats cannot say stays, as long as the lines say the same.
        form = WrittenForm(bars=6, signs=((2, BarSigns(fine=True)), (6, BarSigns(dacapo=True))))
        da_capo = replace(bars.copy_bars(melody(bars=6), first=1, last=2, before=7).part, form=form)
        self.assertIn("\n7 = 1\n8 = 2\n", plain_lines(da_capo))
        self.assertEqual(read_lines(da_capo, plain_lines(da_capo).replace("3: D4", "3: E4")).part.form, form)
        changed = read_lines(part, text.replace("1: C4", "1: D4")).part
        at = [n.pitch for n, bar in zip(changed.notes, changed.bar_of_note, strict=True) if bar in (1, 5)][
            ::4
        ]
        self.assertEqual(at, [62, 62])
        self.assertEqual(changed.form, part.form)
        for wrong in ("2 = 2", "2 = 3", "2 = x", "2 =", "1 = 1"):
            self.assertRaises(LineError, read_lines, part, wrong)

    def test_a_kit_comes_back_as_it_was_typed_and_a_long_bar_goes_on_in_the_next_line(self) -> None:
        drums = beat().with_notes(())
        for typed in (
            "1: hat/8 hat hat hat\n",
            "1: kick+hat hat snare+hat hat\n",
            "1: hat/8t hat hat kick/4 snare\n",
        ):
            with self.subTest(typed):
                self.assertEqual(plain_lines(read_lines(drums, typed).part), typed)
        long = read_lines(EMPTY, "1 R: " + " ".join(["C4/16", "D4"] * 8)).part
        lines = plain_lines(long).splitlines()
        self.assertEqual([line.split()[0] for line in lines], ["1", "1.."])
        self.assertLess(max(map(len, lines)), 80)
        self.assertEqual(read_lines(long, plain_lines(long)).part, long)

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
    @example(
        replace(EMPTY, meters=MeterMap.of(6, 8)).with_notes(
            Note(onset_tick=tick, length_tick=length, pitch=21, velocity=80, hand=Hand.LEFT)
            for tick, length in ((0, 60), (1473, 120), (1599, 60))
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
            "00: 9=C",
        ):
            with self.subTest(text):
                with self.assertRaises(LineError) as refused:
                    self.read(f"\n{text}")
                self.assertEqual(refused.exception.line, 1 + len(text.splitlines()))
        self.assertRaises(LineError, self.read, "gong", beat())
