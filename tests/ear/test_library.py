"""The library: every piece is within reach, adds up, ends where it should and says how it is played."""

import re
from collections import Counter
from itertools import groupby
from unittest import TestCase

from ear.errors import UnknownName
from ear.library.catalogue import LIBRARY, library_piece
from ear.library.piece import GRADES, LibraryPiece, kit, tonic_and_mode
from ear.library.tags import TAGS
from ear.notes import FOOT_HAT, STANDARD_KIT, Hand, Kind, Note
from ear.notes.chord_names import tones_of
from ear.patterns.modes import STEPS
from ear.reader import ENGLISH

REACH = {Hand.RIGHT: range(48, 97), Hand.LEFT: range(28, 72)}
OCTAVE = 12
FEET = frozenset({FOOT_HAT.name, "kick"})
KEYBOARD, DRUMS = ([piece for piece in LIBRARY if piece.kind is kind] for kind in (Kind.KEYBOARD, Kind.DRUMS))


def at_once(notes: list[Note]) -> list[list[Note]]:
    return [list(together) for _, together in groupby(notes, key=lambda n: n.onset_tick)]


class LibraryTest(TestCase):
    def each(self, pieces: list[LibraryPiece]) -> "list[LibraryPiece]":
        self.assertTrue(pieces)
        return pieces

    def test_twelve_pieces_of_each_grade_and_instrument_all_named_apart(self) -> None:
        counts = Counter((piece.grade, piece.kind) for piece in LIBRARY)
        self.assertEqual(
            counts, {(grade, kind): 12 for grade in GRADES for kind in (Kind.KEYBOARD, Kind.DRUMS)}
        )
        for field in ("name", "title", "instructions"):
            self.assertEqual(len({getattr(piece, field) for piece in LIBRARY}), len(LIBRARY), field)
        self.assertIs(library_piece("morning-gate"), LIBRARY[0])
        self.assertRaises(UnknownName, library_piece, "evening-gate")

    def test_a_piece_has_all_that_a_student_is_given(self) -> None:
        for piece in LIBRARY:
            with self.subTest(piece.name):
                self.assertRegex(piece.name, r"^[a-z0-9-]+$")
                self.assertRegex(piece.instructions, r"^[A-Z“].*[.?]$")
                self.assertTrue(1 <= len(piece.tags) <= 6)
                self.assertEqual(
                    [tag for tag in piece.tags if tag not in TAGS and not re.match(r"\d+/\d+$", tag)], []
                )
                rungs = piece.ladder(ENGLISH).rungs
                self.assertTrue(2 <= len(rungs) <= (21 if piece.grade == 1 else 16), len(rungs))
                self.assertEqual(rungs[-2].last_bar, len(piece.part.bars))
        used = {tag for piece in LIBRARY for tag in piece.tags}
        self.assertEqual(TAGS - used, set())

    def test_a_metre_that_is_not_four_crotchets_is_among_the_tags(self) -> None:
        for piece in LIBRARY:
            meter = piece.part.bars[0].meter
            names = [tag for tag in piece.tags if "/" in tag]
            if names:
                self.assertEqual(names, [f"{meter.numerator}/{meter.denominator}"], piece.name)
            else:
                self.assertIn(
                    (meter.numerator, meter.denominator), {(4, 4), (2, 4), (3, 4), (6, 8)}, piece.name
                )

    def test_bars_add_up_and_the_last_one_is_filled(self) -> None:
        for piece in LIBRARY:
            part = piece.part
            with self.subTest(piece.name):
                self.assertGreaterEqual(len(part.bars), 4 if piece.kind is Kind.DRUMS else 2)
                self.assertEqual(sum(bar.meter.bar_ticks for bar in part.bars), part.bars[-1].end_tick)
                if piece.kind is Kind.KEYBOARD:
                    self.assertEqual(part.end_tick, part.bars[-1].end_tick)
                else:
                    self.assertEqual(
                        part.notes[-1].onset_tick, part.bars[-1].start_tick, "closes on a first beat"
                    )

    def test_every_key_is_within_reach_and_has_a_finger_of_its_own(self) -> None:
        for piece in KEYBOARD:
            for hand in Hand:
                notes = [n for n in piece.part.notes if n.hand is hand]
                with self.subTest(piece.name, hand=hand):
                    self.assertEqual([n.pitch for n in notes if n.pitch not in REACH[hand]], [])
                    for chord in at_once(notes):
                        pitches, fingers = [n.pitch for n in chord], [n.finger for n in chord]
                        self.assertLessEqual(max(pitches) - min(pitches), OCTAVE)
                        ordered = sorted(
                            fingers, reverse=hand is Hand.LEFT
                        )  # also refuses a note without one
                        self.assertEqual(fingers, ordered, chord[0].onset_tick)
                        self.assertEqual(len(set(fingers)), len(fingers))

    def test_in_one_position_each_key_has_one_finger(self) -> None:
        for piece in KEYBOARD:
            if "one position" in piece.tags:
                for hand in Hand:
                    keys = {(n.pitch, n.finger) for n in piece.part.notes if n.hand is hand}
                    self.assertEqual(len(keys), len({pitch for pitch, _ in keys}), piece.name)

    def test_a_piece_closes_on_its_degree(self) -> None:
        for piece in KEYBOARD:
            tonic, mode = tonic_and_mode(piece.key)
            last = max(n.onset_tick for n in piece.part.notes)
            bass = min(n.pitch for n in piece.part.notes if n.end_tick > last)
            degree = STEPS[mode][piece.closes_on - 1]
            self.assertEqual((bass - tonic.pitch_class - degree) % OCTAVE, 0, piece.name)

    def test_a_first_beat_belongs_to_the_chord_above_it(self) -> None:
        for piece in KEYBOARD:
            names = {mark.tick: mark.name for mark in piece.part.chords}
            for struck in at_once(list(piece.part.notes)):
                name = names.get(struck[0].onset_tick)
                if name is not None:
                    outside = [n.pitch for n in struck if n.pitch % OCTAVE not in tones_of(name)]
                    self.assertEqual(outside, [], f"{piece.name} at {struck[0].onset_tick} under {name}")

    def test_the_hands_do_not_cross(self) -> None:
        for piece in KEYBOARD:
            right, left = ([n for n in piece.part.notes if n.hand is hand] for hand in Hand)
            for low in left:
                over = [n for n in right if low.onset_tick < n.end_tick and n.onset_tick < low.end_tick]
                self.assertEqual([n.pitch for n in over if n.pitch <= low.pitch], [], piece.name)

    def test_two_hands_play_what_is_struck_at_once_and_each_stroke_names_one(self) -> None:
        for piece in DRUMS:
            for struck in at_once(list(piece.part.notes)):
                lanes = [STANDARD_KIT.written_lane(n.pitch).name for n in struck]
                hands = [n.label for n, lane in zip(struck, lanes, strict=True) if lane not in FEET]
                with self.subTest(piece.name, tick=struck[0].onset_tick):
                    self.assertLessEqual(set(hands), {"R", "L"})
                    self.assertEqual(len(hands), len(set(hands)), lanes)
                    self.assertLess(
                        len({"hat", "open hat", FOOT_HAT.name} & set(lanes)), 2, "one pair of cymbals"
                    )

    def test_accents_and_soft_notes_differ_from_the_rest(self) -> None:
        for piece in LIBRARY:
            if len(piece.part.notes) > 12 and {
                "rolls",
                "single strokes",
                "double strokes",
                "flams",
            }.isdisjoint(piece.tags):
                self.assertGreater(len({n.velocity for n in piece.part.notes}), 1, piece.name)

    def test_hands_take_turns_on_the_finest_division_of_a_bar(self) -> None:
        def sticking(rows: str) -> str:
            part = kit(rows, step=120, bpm=80, ends_on=("snare",))()
            return "".join(n.label or "-" for n in part.notes)

        self.assertEqual(sticking("snare  x...x...x...x..."), "RLRLR")
        self.assertEqual(sticking("snare  x.xxxxxxx...x..."), "RRLRLRLRRR")
        self.assertEqual(sticking("hat  x.x.x.x.x.x.x.x.\nsnare  ....X.......X..x"), "RRLRRRRLRRLR")
