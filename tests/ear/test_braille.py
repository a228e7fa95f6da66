"""Music braille: the same cells as another program of the trade writes, and the code's own rules."""

import re
from dataclasses import replace
from unittest import TestCase

from music21 import braille as other_braille  # noqa: F401  # its translator needs the package
from music21 import converter
from music21.braille import translate

from ear.errors import ValueOutOfRange
from ear.formats.braille import WIDTH, as_brf, key_sign, meter_sign, write_braille
from ear.formats.musicxml import write_musicxml
from ear.library.catalogue import LIBRARY
from ear.notes import Hand, Kind, Meter, Note, Part
from tests.ear.parts import beat, melody, two_hands

DYNAMICS = re.compile("⠜[⠍⠏⠋]+⠄?")
WIDE = 4000
FINEST_QUAVER = 240
"""Shorter notes are abbreviated by the other program: the first of a group of semiquavers tells of all."""


def bodies(text: str) -> list[str]:
    """The lines of music without what is laid out: heading, number of the first bar, blank cells."""
    lines = [DYNAMICS.sub("", line) for line in text.splitlines()]
    heading = next(k for k, line in enumerate(lines) if "⠶⠼" in line)
    return [re.sub("^⠼?[⠁⠃⠉]?⠀+|⠀", "", line) for line in lines[heading + 1 :] if line.strip("⠀")]


def is_plain(part: Part) -> bool:
    """Is there nothing in it that the other program writes in ways of its own (chords, articulation, semiquavers), and one
    hand, where it leaves out no bars?
    """
    strokes = [(note.onset_tick, note.hand) for note in part.notes]
    return (
        part.kind is Kind.KEYBOARD
        and part.first_bar == 1
        and len(part.meters.changes) == 1
        and len({note.hand for note in part.notes}) == 1
        and len(set(strokes)) == len(strokes)
        and all(note.length_tick >= FINEST_QUAVER and not note.articulations for note in part.notes)
    )


def by_the_other(part: Part) -> list[str]:
    score = converter.parseData(write_musicxml(part, title=""), format="musicxml")
    return bodies(translate.objectToBraille(score, maxLineLength=WIDE))


class BrailleTest(TestCase):
    def test_the_cells_are_those_of_another_program(self) -> None:
        parts = [two_hands(bars=4), melody(bars=4)]
        parts += [
            replace(piece.part, chords=(), signs=(), pedal=(), sections=(), form=None)
            for piece in LIBRARY
            if is_plain(piece.part)
        ]
        self.assertGreater(len(parts), 10)
        for part in parts:
            self.assertEqual(bodies(write_braille(part, width=WIDE)), by_the_other(part))

    def test_lines_are_as_wide_as_a_display_and_hands_stand_over_each_other(self) -> None:
        text = write_braille(two_hands(bars=16))
        lines = text.splitlines()
        self.assertLessEqual(max(map(len, lines)), WIDTH)
        body = lines[1:]
        self.assertEqual(len(body) % 2, 0)
        for right, left in zip(body[::2], body[1::2], strict=True):
            self.assertIn("⠨⠜", right)
            self.assertIn("⠸⠜", left)

    def test_octaves_chords_ties_and_signatures(self) -> None:
        notes = [
            Note(onset_tick=480 * k, length_tick=480, pitch=pitch, velocity=80, hand=Hand.RIGHT)
            for k, pitch in enumerate((60, 64, 71, 72))
        ]
        scale = Part.of(notes, kind=Kind.KEYBOARD, meters=two_hands().meters, tempos=melody().tempos)
        # A third needs no octave; a fifth within the octave none; a second over the octave's line none.
        self.assertIn("⠐⠹⠫⠺", write_braille(replace(scale, meters=melody().meters)))
        self.assertEqual([key_sign(fifths) for fifths in (0, 2, -3, 4, -5)], ["", "⠩⠩", "⠣⠣⠣", "⠼⠙⠩", "⠼⠑⠣"])
        self.assertEqual(meter_sign(Meter(numerator=12, denominator=8)), "⠼⠁⠃⠦")
        self.assertRaises(ValueOutOfRange, write_braille, beat())

    def test_files_are_in_the_ascii_of_braille(self) -> None:
        self.assertEqual(as_brf("⠼⠁⠀⠐⠹⠱⠫⠻⠣⠅\n"), '#A "?:$]<K\n')
        cells = "".join(chr(0x2800 + k) for k in range(64))
        self.assertEqual(len(set(as_brf(cells))), 64)
        self.assertTrue(as_brf(cells).isascii())
