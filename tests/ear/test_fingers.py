"""Fingers by the standard tables: every key, both hands, up and down, in chains and chords."""

from dataclasses import replace
from itertools import islice, pairwise, product
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.drawing.page import page_view
from ear.editing.bars import join
from ear.editing.drawing import set_finger
from ear.editing.edited import ALL
from ear.editing.hands import agree_to_fingers, propose_fingers, refingered
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.transpose import transpose
from ear.errors import ValueOutOfRange
from ear.formats.part_json import part_from_json, part_to_json
from ear.labels import LabelKind
from ear.notes import Hand, Part
from ear.notes.pitch import BLACK_KEYS
from ear.patterns.chords import Chord, chord_sequence, read_sequence
from ear.patterns.fingering import chord_fingers, known_fingers
from ear.patterns.lines import LineDirection, LineShape, arpeggio, five_finger, scale
from ear.patterns.modes import MAJOR_NAMES, MINOR_NAMES, Mode, Tonic
from ear.patterns.proposing import cost_of, proposed_fingers
from tests.ear.parts import beat, melody, two_hands

MINORS = (Mode.NATURAL_MINOR, Mode.HARMONIC_MINOR, Mode.MELODIC_MINOR)
KNOWN = {
    ("C", Mode.MAJOR, Hand.RIGHT): "12312345", ("C", Mode.MAJOR, Hand.LEFT): "54321321",
    ("F", Mode.MAJOR, Hand.RIGHT): "12341234", ("B", Mode.MAJOR, Hand.LEFT): "43214321",
    ("B♭", Mode.MAJOR, Hand.RIGHT): "41231234", ("E♭", Mode.MAJOR, Hand.LEFT): "32143213",
    ("F♯", Mode.MAJOR, Hand.RIGHT): "23412312", ("D♭", Mode.MAJOR, Hand.RIGHT): "23123412",
    ("C♯", Mode.HARMONIC_MINOR, Hand.RIGHT): "34123123", ("F♯", Mode.MELODIC_MINOR, Hand.RIGHT): "34123412",
    ("B♭", Mode.HARMONIC_MINOR, Hand.LEFT): "21321432", ("E♭", Mode.NATURAL_MINOR, Hand.LEFT): "21432132",
    ("G♯", Mode.NATURAL_MINOR, Hand.LEFT): "32132143", ("D", Mode.HARMONIC_MINOR, Hand.RIGHT): "12312345",
}  # fmt: skip
"""Hand-made: as methods print them, going up one octave."""


def fingers(part: Part) -> str:
    return "".join(str(n.finger or "-") for n in part.notes)


def thumbs_on_black(part: Part) -> list[int]:
    return [n.pitch for n in part.notes if n.finger == 1 and n.pitch % 12 in BLACK_KEYS]


class ScalesTest(TestCase):
    def scales(self):
        for mode, names in ((Mode.MAJOR, MAJOR_NAMES), *((minor, MINOR_NAMES) for minor in MINORS)):
            for name in names:
                for hand in Hand:
                    for octaves in (1, 2, 3):
                        shape = LineShape(hand=hand, octaves=octaves, octave=3)
                        yield name, mode, hand, scale(Tonic.named(name), mode, shape)

    def test_they_are_as_methods_print_them(self) -> None:
        for (name, mode, hand), wanted in KNOWN.items():
            part = scale(Tonic.named(name), mode, LineShape(hand=hand, way=LineDirection.UP))
            self.assertEqual(fingers(part), wanted, (name, mode, hand))
        two = scale(Tonic.named("B"), Mode.MAJOR, LineShape(hand=Hand.LEFT, octaves=2, way=LineDirection.UP))
        self.assertEqual(fingers(two), "432143213214321")

    def test_no_thumb_stands_on_a_black_key_and_no_finger_strikes_twice(self) -> None:
        for name, mode, hand, part in self.scales():
            with self.subTest(name, mode=mode, hand=hand):
                self.assertEqual(thumbs_on_black(part), [])
                self.assertNotIn("-", fingers(part))
                for a, b in pairwise(part.notes):
                    self.assertNotEqual(a.finger, b.finger)
                    # A finger passes over the thumb, or the thumb under a finger: nothing else crosses.
                    goes_on = ((b.finger or 0) > (a.finger or 0)) == (
                        (b.pitch > a.pitch) == (hand is Hand.RIGHT)
                    )
                    self.assertTrue(goes_on or 1 in (a.finger, b.finger))

    def test_a_line_is_known_by_its_notes(self) -> None:
        for name, mode, hand, part in self.scales():
            actual = known_fingers([n.pitch for n in part.notes], hand=hand)
            self.assertEqual(actual, tuple(n.finger for n in part.notes), (name, mode, hand))
        self.assertIsNone(known_fingers([60, 62, 64, 60, 72], hand=Hand.RIGHT))
        self.assertIsNone(known_fingers([], hand=Hand.RIGHT))


class OthersTest(TestCase):
    def test_arpeggios_have_thumbs_on_black_only_where_all_is_black(self) -> None:
        for names, quality in ((MAJOR_NAMES, ""), (MINOR_NAMES, "m")):
            for name in names:
                for hand in Hand:
                    chord = Chord.named(f"{name}{quality}")
                    shape = LineShape(hand=hand, octaves=2, octave=3)
                    part = arpeggio(chord.root, chord.intervals, fifths=chord.key_fifths, shape=shape)
                    is_black = all(n.pitch % 12 in BLACK_KEYS for n in part.notes)
                    self.assertTrue(
                        is_black or not thumbs_on_black(part), (name, quality, hand, fingers(part))
                    )
                    self.assertEqual(known_fingers([n.pitch for n in part.notes], hand=hand),
                                     tuple(n.finger for n in part.notes))  # fmt: skip
        for name, wanted in (("C", "1231235"), ("B♭", "2124124"), ("B♭m", "2312312"), ("F♯", "1231235")):
            chord = Chord.named(name)
            shape = LineShape(octaves=2, octave=3, way=LineDirection.UP)
            self.assertEqual(fingers(arpeggio(chord.root, chord.intervals, fifths=0, shape=shape)), wanted)

    def test_chords_and_their_inversions(self) -> None:
        for pitches, right, left in (
            ((60, 64, 67), (1, 3, 5), (5, 3, 1)), ((64, 67, 72), (1, 2, 5), (5, 3, 1)),
            ((67, 72, 76), (1, 3, 5), (5, 2, 1)), ((60, 64, 67, 70), (1, 2, 3, 5), (5, 3, 2, 1)),
            ((64, 67, 70, 72), (1, 2, 4, 5), (5, 3, 2, 1)), ((70, 72, 76, 79), (1, 2, 3, 5), (5, 4, 2, 1)),
        ):  # fmt: skip
            self.assertEqual((chord_fingers(pitches, hand=Hand.RIGHT), chord_fingers(pitches, hand=Hand.LEFT)),
                             (right, left))  # fmt: skip
        for cluster, right in (
            ((60, 62), (1, 2)), ((60, 62, 64), (1, 2, 3)), ((60, 62, 64, 65, 67), (1, 2, 3, 4, 5)),
            ((60, 62, 64, 65, 67, 69), (1, 1, 2, 3, 4, 5)), ((60, 62, 64, 65, 67, 69, 71), (1, 1, 2, 3, 4, 5, 5)),
            ((60, 64, 67, 70, 74), (1, 2, 3, 4, 5)),
        ):  # fmt: skip
            self.assertEqual(chord_fingers(cluster, hand=Hand.RIGHT), right)
            left = chord_fingers([-p for p in reversed(cluster)], hand=Hand.LEFT)
            self.assertEqual(left, right[::-1])
        self.assertIsNone(chord_fingers(range(60, 76, 2), hand=Hand.RIGHT))
        part = chord_sequence(read_sequence("C | Am"), with_bass=False)
        self.assertNotIn("-", fingers(part))

    def test_a_chain_has_the_fingers_of_each_key(self) -> None:
        for mode in (Mode.MAJOR, *MINORS):
            for hand in Hand:
                part = scale(Tonic.named("C"), mode, LineShape(hand=hand, octave=3))
                for order in KeyOrder:
                    chain = key_chain(part, order=order)
                    self.assertEqual(thumbs_on_black(chain), [], (mode, hand, order))
                    self.assertNotIn("-", fingers(chain))
        for hand in Hand:
            shape = LineShape(hand=hand, octave=3)
            chord = Chord.named("C")
            parts = (
                scale(Tonic.named("C"), Mode.MAJOR, shape),
                arpeggio(chord.root, chord.intervals, fifths=0, shape=shape),
            )
            counts = [len(one.notes) for one in parts]
            for order in KeyOrder:
                pitches = iter([n.pitch for n in key_chain(join(*parts), order=order).notes])
                figures = [list(islice(pitches, count)) for _key in range(12) for count in counts]
                wanted = [finger for figure in figures for finger in known_fingers(figure, hand=hand)]
                made = [n.finger for n in key_chain(join(*parts), order=order).notes]
                self.assertEqual(made, wanted, (hand, order))
        chain = key_chain(five_finger(Tonic.named("C")), order=KeyOrder.UP)
        self.assertEqual({fingers(chain)[k : k + 9] for k in range(0, len(chain.notes), 9)}, {"123454321"})

    def test_what_no_table_knows_is_proposed_where_a_thumb_would_stand_on_black(self) -> None:
        tune = melody()
        notes = [replace(n, finger=1 + k % 5, hand=Hand.RIGHT) for k, n in enumerate(tune.notes)]
        wide = tune.with_notes([*notes[:-1], replace(notes[-1], pitch=84)])
        for semitones in range(1, 7):
            moved = transpose(wide, frozenset(), semitones=semitones).part
            made = refingered(moved)
            self.assertEqual({n.is_proposed for n in made.notes}, {bool(thumbs_on_black(moved))})
            pitches = [n.pitch for n in moved.notes]
            was, now = (
                cost_of(pitches, [n.finger or 0 for n in p.notes], hand=Hand.RIGHT) for p in (moved, made)
            )
            self.assertLessEqual(now, was)


class ProposedTest(TestCase):
    def cost(self, pitches: list[int], fingers: tuple[int, ...]) -> float:
        return cost_of(pitches, fingers, hand=Hand.RIGHT)

    @settings(max_examples=40)
    @given(st.lists(st.integers(55, 79), min_size=1, max_size=5), st.sampled_from(Hand))
    def test_no_other_fingers_cost_less(self, pitches: list[int], hand: Hand) -> None:
        pitches = [p for p, before in zip(pitches, [None, *pitches], strict=False) if p != before]
        actual = proposed_fingers(pitches, hand=hand)
        least = min(cost_of(pitches, ways, hand=hand) for ways in product(range(1, 6), repeat=len(pitches)))
        self.assertAlmostEqual(cost_of(pitches, actual, hand=hand), least)

    def test_each_rule_costs_what_its_source_says(self) -> None:
        for pitches, fingers, cost in (
            ([60, 62], (1, 2), 0), ([60, 62], (3, 4), 2), ([60, 70], (1, 2), 9), ([60, 64], (2, 3), 6),
            ([61, 62], (1, 2), 3), ([64, 66], (3, 4), 3), ([59, 60], (3, 1), 5), ([60, 62, 64], (3, 4, 5), 4),
        ):  # fmt: skip
            self.assertEqual(self.cost(pitches, fingers), cost, (pitches, fingers))

    def test_hands_are_mirrors_and_a_key_struck_again_keeps_its_finger(self) -> None:
        line = [60, 64, 62, 65, 64, 67]
        # About D the black keys lie alike on both sides.
        mirror = [2 * 62 - p for p in line]
        self.assertEqual(proposed_fingers(line, hand=Hand.RIGHT), proposed_fingers(mirror, hand=Hand.LEFT))
        actual = proposed_fingers([60, 60, 64, 64, 60], hand=Hand.RIGHT)
        self.assertEqual((actual[0], actual[2]), (actual[1], actual[3]))
        self.assertEqual(proposed_fingers([], hand=Hand.LEFT), ())

    def test_a_part_is_proposed_fingers_that_are_marked_until_agreed_to(self) -> None:
        part = two_hands()
        own = replace(part.notes[0], finger=3)
        part = part.with_notes([own, *part.notes[1:]])
        actual = propose_fingers(part, ALL).part
        self.assertNotIn("-", fingers(actual))
        self.assertEqual([n.is_proposed for n in actual.notes], [n != own for n in part.notes])
        lines = [line for note in page_view(actual, width=860).rows[0].targets for line in note.labels]
        texts = {label.text for line in lines for label in line if label.kind is LabelKind.FINGERS}
        self.assertTrue(any(text.startswith("(") for text in texts) and "3" in texts)
        self.assertEqual(part_from_json(part_to_json(actual)), actual)
        agreed = agree_to_fingers(actual, ALL).part
        self.assertEqual((fingers(agreed), {n.is_proposed for n in agreed.notes}), (fingers(actual), {False}))
        self.assertFalse(set_finger(actual, frozenset({1}), finger=2).part.notes[1].is_proposed)
        self.assertRaises(ValueOutOfRange, propose_fingers, beat(), ALL)
        scale_alone = scale(Tonic.named("E♭"), Mode.MAJOR)
        bare = scale_alone.with_notes(replace(n, finger=None) for n in scale_alone.notes)
        self.assertEqual(fingers(propose_fingers(bare, ALL).part), fingers(scale_alone))
