"""Fingers by the standard tables: every key, both hands, up and down, in chains and chords."""

from dataclasses import replace
from itertools import groupby, islice, pairwise, product
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
from ear.notes import Hand, Note, Part
from ear.notes.pitch import BLACK_KEYS
from ear.patterns.chords import Chord, chord_sequence, read_sequence
from ear.patterns.fingering import chord_fingers, figures, known_fingers, position_fingers
from ear.patterns.lines import LineDirection, LineShape, arpeggio, five_finger, intervals, scale
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
    ("D", Mode.DORIAN, Hand.RIGHT): "12312345", ("F", Mode.LYDIAN, Hand.RIGHT): "12312345",
    ("B", Mode.PHRYGIAN, Hand.LEFT): "43214321", ("B♭", Mode.MIXOLYDIAN, Hand.RIGHT): "41231234",
    ("C", Mode.CHROMATIC, Hand.RIGHT): "1313123131312", ("C", Mode.CHROMATIC, Hand.LEFT): "1313213131321",
    ("C", Mode.MAJOR_PENTATONIC, Hand.RIGHT): "123123", ("A", Mode.MINOR_PENTATONIC, Hand.LEFT): "321321",
    ("G♯", Mode.NATURAL_MINOR, Hand.LEFT): "32132143", ("D", Mode.HARMONIC_MINOR, Hand.RIGHT): "12312345",
}  # fmt: skip
"""Hand-made: as methods print them, going up one octave."""


def fingers(part: Part) -> str:
    return "".join(str(n.finger or "-") for n in part.notes)


def thumbs_on_black(part: Part) -> list[int]:
    return [n.pitch for n in part.notes if n.finger == 1 and n.pitch % 12 in BLACK_KEYS]


class ScalesTest(TestCase):
    def scales(self):
        modes = (Mode.DORIAN, Mode.PHRYGIAN, Mode.LYDIAN, Mode.MIXOLYDIAN, Mode.LOCRIAN)
        others = ((mode, MAJOR_NAMES[2:13]) for mode in modes)
        for mode, names in ((Mode.MAJOR, MAJOR_NAMES), *((minor, MINOR_NAMES) for minor in MINORS), *others):
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

    def test_sevenths_and_other_triads_have_thumbs_on_white_keys_where_there_is_one(self) -> None:
        for name, hand, wanted in (
            ("C7", Hand.RIGHT, "12345"), ("C7", Hand.LEFT, "54321"), ("B♭7", Hand.RIGHT, "21234"), ("B♭7", Hand.LEFT, "32132"),
            ("E♭maj7", Hand.LEFT, "43212"), ("F♯m7", Hand.RIGHT, "21234"), ("Bdim", Hand.RIGHT, "1235"),
            ("C♯dim", Hand.RIGHT, "2124"),
        ):  # fmt: skip
            chord = Chord.named(name)
            shape = LineShape(hand=hand, octave=3, way=LineDirection.UP)
            with self.subTest(name, hand=hand):
                self.assertEqual(
                    fingers(arpeggio(chord.root, chord.intervals, fifths=0, shape=shape)), wanted
                )

    def test_thirds_lie_under_two_or_three_positions_and_come_down_as_they_go_up(self) -> None:
        right = intervals(Tonic.named("C"), Mode.MAJOR, size=3, together=True)
        self.assertEqual(fingers(right)[:16], "1324351324132413")
        broken = intervals(Tonic.named("C"), Mode.MAJOR, LineShape(hand=Hand.LEFT, octave=3), size=3)
        self.assertEqual(fingers(broken)[:14], fingers(broken)[:-15:-1])
        for name, hand in product(MAJOR_NAMES, Hand):
            part = intervals(Tonic.named(name), Mode.MAJOR, LineShape(hand=hand, octave=3), size=3)
            for a, b in zip(part.notes[::2], part.notes[1::2], strict=True):
                self.assertEqual(abs((a.finger or 0) - (b.finger or 0)), 2)
            pairs = [(a.finger, b.finger) for a, b in zip(part.notes[::2], part.notes[1::2], strict=True)]
            half = pairs[: len(pairs) // 2]
            self.assertTrue(all(one != other for one, other in pairwise(half)), (name, hand))

    def test_broken_chords_keep_each_chord_in_one_position(self) -> None:
        alberti = [48, 55, 52, 55] * 2 + [47, 55, 50, 55]
        up = [48, 52, 55, 52, 48, 52, 55, 52, 48, 53, 57, 53]
        inversions = [60, 64, 67, 72, 64, 67, 72, 76, 67, 72, 76, 79]
        for pitches, hand, wanted in (
            (alberti, Hand.LEFT, (5, 1, 3, 1) * 3), (up, Hand.LEFT, (5, 3, 1, 3) * 2 + (5, 2, 1, 2)),
            (inversions, Hand.RIGHT, (1, 2, 3, 5) + (1, 2, 4, 5) * 2), ([60, 64, 67] * 2, Hand.RIGHT, (1, 3, 5) * 2),
        ):  # fmt: skip
            with self.subTest(pitches):
                self.assertEqual(figures(pitches, hand=hand), [(range(len(pitches)), wanted)])
        for line in ([60, 62, 64, 62] * 2, [60, 74, 64, 74] * 2, [48, 55, 52, 55]):
            self.assertEqual(figures(line, hand=Hand.RIGHT)[0][1], None, line)

    def test_chords_and_their_inversions(self) -> None:
        for pitches, right, left in (
            ((60, 64, 67), (1, 3, 5), (5, 3, 1)), ((64, 67, 72), (1, 2, 5), (5, 3, 1)),
            ((67, 72, 76), (1, 3, 5), (5, 2, 1)), ((60, 64, 67, 70), (1, 2, 3, 5), (5, 3, 2, 1)),
            ((60, 64), (1, 3), (3, 1)), ((60, 69), (1, 5), (5, 1)), ((60, 64, 67, 72), (1, 2, 3, 5), (5, 4, 2, 1)),
            ((64, 67, 72, 76), (1, 2, 4, 5), (5, 4, 2, 1)), ((67, 72, 76, 79), (1, 2, 4, 5), (5, 3, 2, 1)),
            ((62, 66, 69, 74), (1, 2, 3, 5), (5, 3, 2, 1)),
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


class LinesAndChordsTest(TestCase):
    def proposed(
        self, *moments: tuple[int, tuple[int, ...]], hand: Hand = Hand.RIGHT
    ) -> list[tuple[int | None, ...]]:
        """The fingers of (onset, pitches), a quaver each."""
        notes = [
            Note(onset_tick=onset, length_tick=240, pitch=pitch, velocity=80, hand=hand)
            for onset, pitches in moments for pitch in pitches
        ]  # fmt: skip
        part = propose_fingers(melody(bars=2).with_notes(notes), ALL).part
        return [
            tuple(n.finger for n in together)
            for _, together in groupby(part.notes, key=lambda n: n.onset_tick)
        ]

    def test_a_line_and_its_chords_are_decided_together(self) -> None:
        fingers = self.proposed(
            (0, (60, 64, 67)), (240, (69,)), (480, (60, 65, 69)), (720, (71,)), (960, (72,))
        )
        # The key that stays keeps its finger, and the chord before leaves that finger free for it.
        self.assertEqual((fingers[1], fingers[2][-1]), ((5,), 5))
        self.assertNotIn(5, fingers[0])
        self.assertEqual((len(fingers[0]), fingers[0][0]), (3, 1))

    @settings(max_examples=60)
    def test_one_figure_leads_into_the_next_without_a_finger_on_two_keys(self) -> None:
        pitches = (79, 81, 79, 77, 76, 74, 72, 71, 69, 67, 69, 71, 72, 74, 76, 77, 79)
        for step, is_quick in ((120, True), (480, False)):
            notes = [
                Note(onset_tick=k * step, length_tick=step, pitch=pitch, velocity=80, hand=Hand.RIGHT)
                for k, pitch in enumerate(pitches)
            ]
            fingers = [n.finger for n in propose_fingers(melody().with_notes(notes), ALL).part.notes]
            repeated = sum(a == b for a, b in pairwise(fingers))
            self.assertEqual(repeated, 0 if is_quick else 1, fingers)

    @given(
        st.lists(st.tuples(st.integers(48, 76), st.sampled_from([(), (4,), (3, 7)])), min_size=2, max_size=8)
    )
    def test_what_five_fingers_hold_has_fingers_that_rise_with_the_keys(
        self, moments: list[tuple[int, tuple[int, ...]]]
    ) -> None:
        struck = [(240 * k, (low, *(low + step for step in more))) for k, (low, more) in enumerate(moments)]
        for hand in Hand:
            for fingers in self.proposed(*struck, hand=hand):
                known = [finger for finger in fingers if finger is not None]
                self.assertEqual(len(known), len(fingers))
                self.assertEqual(known, sorted(known, reverse=hand is Hand.LEFT))
                self.assertEqual(len(set(known)), len(known))

    def test_a_line_under_five_fingers_stays_in_its_position(self) -> None:
        part = Part.of(
            [Note(onset_tick=480 * k, length_tick=480, pitch=p, velocity=80, hand=Hand.RIGHT) for k, p in enumerate((60, 64, 67, 64, 62, 65, 64, 60))],
            kind=melody().kind, meters=melody().meters, tempos=melody().tempos,
        )  # fmt: skip
        self.assertEqual(fingers(propose_fingers(part, ALL).part), "13532431")
        self.assertEqual(position_fingers((60, 63, 67, 68), hand=Hand.LEFT), None)
        self.assertEqual(position_fingers((60, 62, 64), hand=Hand.LEFT), None)
        self.assertEqual(position_fingers((60, 63, 67, 62), hand=Hand.LEFT), (5, 3, 1, 4))

    def test_no_finger_plays_two_keys_within_a_quaver_where_another_is_free(self) -> None:
        broken = self.proposed((0, (60, 67)), (240, (64,)), (480, (62, 67)), (720, (65,)), (960, (60, 64)))
        keys = [(60, 67), (64,), (62, 67), (65,), (60, 64)]
        for (before, held), (after, fingers) in pairwise(zip(keys, broken, strict=True)):
            used = dict(zip(held, before, strict=True))
            self.assertTrue(
                all(used.get(f, key) == key for key, f in zip(after, fingers, strict=True)), broken
            )

    def test_a_finger_that_was_set_stays_and_the_others_go_round_it(self) -> None:
        notes = [
            replace(
                n,
                onset_tick=240 * k,
                length_tick=240,
                pitch=pitch,
                hand=Hand.RIGHT,
                finger=2 if k == 2 else None,
            )
            for k, (n, pitch) in enumerate(zip(melody().notes, (64, 67, 60, 65), strict=False))
        ]
        part = propose_fingers(melody(bars=1).with_notes(notes), ALL).part
        self.assertEqual((part.notes[2].finger, part.notes[2].is_proposed), (2, False))
        self.assertTrue(all(n.is_proposed for k, n in enumerate(part.notes) if k != 2))
