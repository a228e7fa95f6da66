"""Scales, chords, beats and key chains."""

from itertools import pairwise
from unittest import TestCase

from ear.editing.key_chain import KeyOrder, key_chain
from ear.errors import UnknownName, ValueOutOfRange
from ear.formats.part_json import part_from_json, part_to_json
from ear.labels.conventions import PLAIN
from ear.notes import Hand, Kind, Meter
from ear.notes.chord_names import QUALITIES, tones_of
from ear.patterns.beats import BEATS, beat
from ear.patterns.chords import (
    Chord,
    Key,
    Voicing,
    chord_sequence,
    distance,
    read_sequence,
    voiced,
    write_sequence,
)
from ear.patterns.lines import LineDirection, LineShape, arpeggio, five_finger, intervals, scale
from ear.patterns.modes import STEPS, Mode, Tonic, key_fifths
from tests.ear.parts import beat as drum_part
from tests.ear.parts import melody

C, D, F_SHARP, B_FLAT = (Tonic.named(name) for name in ("C", "D", "F♯", "Bb"))


def line(part) -> list[int]:
    return [n.pitch for n in part.notes]


class ScaleTest(TestCase):
    def test_c_major_up_and_down_with_its_fingers(self) -> None:
        part = scale(C, Mode.MAJOR)
        up = [60, 62, 64, 65, 67, 69, 71, 72]
        self.assertEqual(line(part), [*up, *up[-2::-1]])
        self.assertEqual([n.finger for n in part.notes][:8], [1, 2, 3, 1, 2, 3, 4, 5])
        self.assertEqual([n.finger for n in part.notes][8:], [4, 3, 2, 1, 3, 2, 1])
        self.assertEqual(part.end_tick, part.bars[-1].end_tick)

    def test_two_octaves_pass_the_thumb_again(self) -> None:
        right = scale(D, Mode.MAJOR, LineShape(octaves=2, way=LineDirection.UP))
        self.assertEqual([n.finger for n in right.notes], [1, 2, 3, 1, 2, 3, 4, 1, 2, 3, 1, 2, 3, 4, 5])
        left = scale(D, Mode.MAJOR, LineShape(octaves=2, way=LineDirection.UP, hand=Hand.LEFT))
        self.assertEqual([n.finger for n in left.notes], [5, 4, 3, 2, 1, 3, 2, 1, 4, 3, 2, 1, 3, 2, 1])

    def test_melodic_minor_comes_down_another_way(self) -> None:
        part = scale(Tonic.named("A"), Mode.MELODIC_MINOR, LineShape(octave=3))
        self.assertEqual(line(part)[5:8], [66, 68, 69])
        self.assertEqual(line(part)[8:10], [67, 65])
        self.assertEqual(part.fifths, 0)

    def test_every_mode_rises_to_its_octave_in_its_key(self) -> None:
        for mode in Mode:
            part = scale(D, mode, LineShape(way=LineDirection.UP))
            with self.subTest(mode):
                self.assertEqual([p - 62 for p in line(part)], [*STEPS[mode], 12])
        self.assertEqual(key_fifths(D, Mode.DORIAN), 0)
        self.assertEqual(key_fifths(F_SHARP, Mode.MAJOR), 6)
        self.assertEqual(key_fifths(B_FLAT, Mode.NATURAL_MINOR), -5)
        self.assertEqual(key_fifths(Tonic.named("G♯"), Mode.MAJOR), -4)

    def test_positions_arpeggios_and_intervals(self) -> None:
        left = five_finger(C, shape=LineShape(hand=Hand.LEFT, octave=3), degrees=(1, 3, 5))
        self.assertEqual([(n.pitch, n.finger) for n in left.notes], [(48, 5), (52, 3), (55, 1)])
        self.assertEqual(line(arpeggio(C, (0, 4, 7), fifths=0)), [60, 64, 67, 72, 67, 64, 60])
        thirds = intervals(C, Mode.MAJOR, size=3, together=True)
        self.assertEqual([tuple(line(thirds)[k : k + 2]) for k in (0, 2, 4)], [(60, 64), (62, 65), (64, 67)])

    def test_what_leaves_the_keys_or_has_no_name_is_refused(self) -> None:
        for wrong in (
            lambda: scale(C, Mode.MAJOR, LineShape(octave=9)),
            lambda: scale(C, Mode.MAJOR, LineShape(octaves=0)),
            lambda: five_finger(C, degrees=(1, 6)),
            lambda: intervals(C, Mode.MAJOR, size=9),
        ):
            self.assertRaises(ValueOutOfRange, wrong)
        self.assertRaises(UnknownName, Tonic.named, "H")


class ChordTest(TestCase):
    def test_names_are_read_as_musicians_write_them(self) -> None:
        for name, classes in (
            ("C", (0, 4, 7)), ("Am", (9, 0, 4)), ("F#dim", (6, 9, 0)), ("G7", (7, 11, 2, 5)),
            ("Bb-7", (10, 1, 5, 8)), ("Dø", (2, 5, 8, 0)), ("E♭maj7", (3, 7, 10, 2)), ("A+", (9, 1, 5)),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual(Chord.named(name).pitch_classes, classes)
        self.assertEqual(Chord.named("c/E").name, "C/E")
        self.assertEqual(Chord.named("Bbm7b5").name, "B♭m7♭5")
        for name in ("", "X7", "Cmaj13x", "C/", "Am/x", "Cfoo", "C55"):
            self.assertRaises(UnknownName, Chord.named, name)

    def test_every_quality_has_its_own_name_again(self) -> None:
        for quality in QUALITIES:
            chord = Chord(root=C, quality=quality)
            self.assertEqual(Chord.named(chord.name), chord)

    def test_every_common_writing_is_read(self) -> None:
        for names, tones in (
            (("Cmaj7", "CΔ7", "CΔ", "CM7", "Cma7", "Cmaj7"), "C E G B"), (("Hm", "Bm", "H-", "Bmin"), "B D F♯"),
            (("Dm7b5", "Dm7♭5", "Dø", "Dø7", "D-7b5", "Dm7-5", "Dm7(b5)"), "D F A♭ C"), (("C6/9", "C69"), "C D E G A"),
            (("G7sus4", "G7sus"), "G C D F"), (("Gsus2",), "G A D"), (("C°7", "Cdim7", "Co7"), "C E♭ G♭ B♭♭"),
            (("E7#9", "E7(♯9)"), "E F♯♯ G♯ B D"), (("A7b9",), "A B♭ C♯ E G"), (("Fmaj7#11",), "F A B C E"),
            (("C+", "Caug", "C+5", "C(#5)"), "C E G♯"), (("G13",), "G A B D E F"), (("Am(maj7)", "AmM7", "A-Δ7"), "A C E G♯"),
            (("B♭add9", "Bbadd2"), "B♭ C D F"), (("F♯5",), "F♯ C♯"), (("C/E",), "C E G"), (("Ab/Bb",), "A♭ B♭ C E♭"),
        ):  # fmt: skip
            for name in names:
                actual = {PLAIN.letter(7 * place % 12, name_fifth=place) for place in tones_of(name).values()}
                self.assertEqual(actual, set(tones.split()), name)

    def test_a_sequence_is_bars_commas_or_one_chord_a_bar(self) -> None:
        for text, wanted in (
            ("C Am F G7", "C | Am | F | G7"), ("C, Am F, G7", "C | Am F | G7"), ("C | Am, F | G7 |", "C | Am F | G7"),
            ("C N.C. G", "C | N.C. | G"), ("Cm7b5", "Cm7♭5"),
        ):  # fmt: skip
            self.assertEqual(write_sequence(read_sequence(text)), wanted)
            self.assertEqual(write_sequence(read_sequence(wanted)), wanted)
        self.assertEqual(write_sequence(read_sequence("C Am", is_shared=True)), "C Am")
        for text, bar in (("C | X", 2), ("C, Am, Foo7", 3), ("C Hx", 2)):
            with self.assertRaises(ValueOutOfRange) as caught:
                read_sequence(text)
            self.assertIn(f"Bar {bar}", str(caught.exception))

    def test_roman_numerals_go_by_the_key(self) -> None:
        for tonic, is_minor, text, wanted in (
            ("G", False, "I vi IV V7", "G | Em | C | D7"), ("E♭", False, "ii7 V7 Imaj7", "Fm7 | B♭7 | E♭maj7"),
            ("A", True, "i iv V7 vii°", "Am | Dm | E7 | G♯dim"), ("F♯", True, "i VI III VII", "F♯m | D | A | E"),
            ("C", False, "I ♭VII IV viiø7", "C | B♭ | F | Bm7♭5"),
        ):  # fmt: skip
            key = Key(tonic=Tonic.named(tonic), is_minor=is_minor)
            self.assertEqual(write_sequence(read_sequence(text, key=key)), wanted)

    def test_where_no_chord_sounds_there_is_rest(self) -> None:
        part = chord_sequence(read_sequence("C | N.C. | G"))
        self.assertEqual(
            (len(part.bars), {part.meters.position(n.onset_tick).bar for n in part.notes}), (3, {1, 3})
        )
        self.assertEqual([mark.name for mark in part.chords], ["C", "N.C.", "G"])
        self.assertRaises(ValueOutOfRange, chord_sequence, read_sequence("N.C."))

    def test_nearest_notes_move_less_than_root_positions(self) -> None:
        chords = [chord for bar in read_sequence("C | Am F | Dm7 G7 | C") for chord in bar]
        near, root = voiced(chords, Voicing.SMOOTH), voiced(chords, Voicing.ROOT)

        def moved(actual):
            return sum(distance(a, b) for a, b in pairwise(actual))

        self.assertLess(moved(near), moved(root))
        for chord, pitches in zip(chords, near, strict=True):
            self.assertEqual({p % 12 for p in pitches}, set(chord.pitch_classes))
        self.assertEqual(near[1], (60, 64, 69))

    def test_a_sequence_shares_its_bars_and_strikes_its_rhythm(self) -> None:
        part = chord_sequence(read_sequence("C | Am F/C"), rhythm="x-x.")
        self.assertEqual(len(part.bars), 2)
        bass = [(n.onset_tick, n.pitch % 12) for n in part.notes if n.hand is Hand.LEFT]
        self.assertEqual(bass, [(0, 0), (1920, 9), (2880, 0)])
        strokes = sorted({(n.onset_tick, n.length_tick) for n in part.notes if n.hand is Hand.RIGHT})
        self.assertEqual(strokes[:2], [(0, 960), (960, 480)])
        self.assertEqual(strokes[2:4], [(1920, 480), (2400, 240)])
        for text in ("", "C || G", "C | X"):
            self.assertRaises(ValueOutOfRange, read_sequence, text)
        self.assertRaises(ValueOutOfRange, chord_sequence, read_sequence("C"), rhythm="ab")


class BeatTest(TestCase):
    def test_rows_become_strokes_with_their_strengths(self) -> None:
        part = beat({"hat": "Xo.x", "kick": "x..."}, step_ticks=480)
        self.assertEqual(
            [(n.onset_tick, n.pitch, n.velocity) for n in part.notes],
            [(0, 36, 88), (0, 42, 112), (480, 42, 48), (1440, 42, 88)],
        )

    def test_each_beat_to_start_from_fills_its_bars(self) -> None:
        for pattern in BEATS:
            part = pattern.part(bars=2)
            with self.subTest(pattern.name):
                self.assertEqual((part.kind, len(part.bars)), (Kind.DRUMS, 2))

    def test_wrong_rows_are_refused(self) -> None:
        for rows in ({}, {"hat": "x"}, {"hat": "x...", "kick": "x."}, {"hat": "x?.."}):
            self.assertRaises(ValueOutOfRange, beat, rows, step_ticks=480)
        self.assertRaises(UnknownName, beat, {"triangle": "x..."}, step_ticks=480)
        three = Meter(numerator=3, denominator=4)
        self.assertRaises(ValueOutOfRange, beat, {"hat": "x..."}, step_ticks=480, meter=three)


class KeyChainTest(TestCase):
    def test_twelve_keys_each_by_its_name(self) -> None:
        part = five_finger(C, degrees=(1, 2, 3, 1))
        for order, second in ((KeyOrder.FIFTHS, "G"), (KeyOrder.UP, "D♭"), (KeyOrder.DOWN, "B")):
            chain = key_chain(part, order=order)
            with self.subTest(order):
                names = [s.name for s in chain.sections]
                self.assertEqual((len(set(names)), names[:2]), (12, ["C", second]))
                self.assertEqual([s.bar for s in chain.sections], list(range(1, 24, 2)))
                links = [line(chain)[k : k + 4] for k in range(0, 48, 4)]
                self.assertEqual({tuple(p - link[0] for p in link) for link in links}, {(0, 2, 4, 0)})
                self.assertEqual(len({link[0] % 12 for link in links}), 12)
                self.assertLessEqual(max(abs(link[0] - 60) for link in links), 6)
                self.assertEqual([n.finger for n in chain.notes[4:8]], [1, 2, 3, 1])
                self.assertEqual(part_from_json(part_to_json(chain)), chain)

    def test_a_cue_gives_the_next_keys_first_note(self) -> None:
        chain = key_chain(melody(bars=1), order=KeyOrder.FIFTHS, keys=2, with_cue=True)
        cues = [n for n in chain.cues if 1920 <= n.onset_tick < 3840]
        self.assertEqual(len(chain.notes), 2 * len(melody(bars=1).notes))
        following = next(n for n in chain.notes if n.onset_tick == 3840)
        self.assertEqual([n.pitch for n in cues], [following.pitch] * 4)

    def test_minor_keys_have_their_names_and_drums_have_none(self) -> None:
        part = scale(Tonic.named("A"), Mode.NATURAL_MINOR, LineShape(octave=3))
        chain = key_chain(part, order=KeyOrder.FIFTHS, keys=3, gap_bars=0, is_minor=True)
        self.assertEqual([s.name for s in chain.sections], ["A minor", "E minor", "B minor"])
        self.assertRaises(ValueOutOfRange, key_chain, drum_part(), order=KeyOrder.UP)
