"""Scales, chords, beats and key chains."""

from collections import Counter
from itertools import groupby, pairwise, product
from unittest import TestCase

from ear.conventions import PLAIN
from ear.editing.key_chain import KeyOrder, key_chain
from ear.errors import UnknownName, ValueOutOfRange
from ear.formats.part_json import part_from_json, part_to_json
from ear.notation.written import spans_of, write_out
from ear.notes import STANDARD_KIT, Hand, Kind, Meter, Ornament, Part
from ear.notes.chord_names import QUALITIES, tones_of
from ear.patterns.accompaniments import CADENCES, ChordFigure, accompaniment
from ear.patterns.beats import beat
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
from ear.patterns.grooves import FAMILIES, GrooveFeel, groove, ostinato
from ear.patterns.lines import LineDirection, LineShape, arpeggio, five_finger, intervals, scale
from ear.patterns.modes import STEPS, Mode, Tonic, key_fifths
from ear.patterns.rudiments import RUDIMENTS, rudiment
from ear.patterns.two_hands import TwoHands, in_two_hands, scale_in_two_hands
from tests.ear.parts import beat as drum_part
from tests.ear.parts import fills_its_bars, melody

C, D, F_SHARP, B_FLAT = (Tonic.named(name) for name in ("C", "D", "F♯", "Bb"))


def line(part) -> list[int]:
    return [n.pitch for n in part.notes]


def comes_back_as_strokes(part: Part) -> bool:
    """Return whether each stroke is written where it is."""
    onsets = [begins for begins, _ in spans_of(write_out(part))]
    return onsets == part.onset_ticks.tolist()


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

    def test_each_groove_fills_its_bars_can_be_played_and_is_shaped(self) -> None:
        for feel, family in FAMILIES.items():
            self.assertGreaterEqual(len(family.bars), 4)
            for variation in range(1, len(family.bars) + 1):
                part = groove(feel, variation=variation, bars=2)
                with self.subTest(feel, variation=variation):
                    self.assertEqual((part.kind, len(part.bars)), (Kind.DRUMS, 2))
                    struck = Counter(
                        n.onset_tick for n in part.notes if not STANDARD_KIT.written_lane(n.pitch).is_foot
                    )
                    self.assertLessEqual(max(struck.values()), 2, "two hands")
                    self.assertGreaterEqual(len({n.velocity for n in part.notes}), 2)
                    self.assertTrue(fills_its_bars(write_out(part)))

    def test_a_fill_takes_the_last_beats_of_its_bars_and_a_crash_follows(self) -> None:
        for feel in GrooveFeel:
            plain = groove(feel, bars=5)
            beat_ticks = plain.meters.first.beat_ticks
            for beats in (1, 2, 4):
                if beats > plain.meters.first.beats:
                    self.assertRaises(ValueOutOfRange, groove, feel, bars=5, fill_bars=(2,), fill_beats=beats)
                    continue
                filled = groove(feel, bars=5, fill_bars=(2, 4), fill_beats=beats)
                starts = [filled.meters.bar(bar + 1).start_tick for bar in (2, 4)]
                changed = {n.onset_tick for n in {*filled.notes} ^ {*plain.notes}}
                with self.subTest(feel, beats=beats):
                    self.assertTrue(
                        all(any(s - beats * beat_ticks <= t <= s for s in starts) for t in changed)
                    )
                    crashes = [n.onset_tick for n in filled.notes if n.pitch == 49]
                    self.assertEqual(crashes, starts)
        self.assertRaises(ValueOutOfRange, groove, GrooveFeel.SWING, variation=9)
        self.assertRaises(ValueOutOfRange, groove, GrooveFeel.SWING, bars=4, fill_bars=(5,))

    def test_there_are_forty_rudiments_and_each_stroke_has_its_hand(self) -> None:
        self.assertEqual((len(RUDIMENTS), len({each.name for each in RUDIMENTS})), (40, 40))
        for each in RUDIMENTS:
            part = each.part(bars=4)
            with self.subTest(each.name):
                self.assertEqual((part.bars[-1].number, {n.label for n in part.notes}), (5, {"R", "L"}))
                self.assertEqual(part.notes[-1].onset_tick, 4 * each.meter.bar_ticks)
                self.assertTrue(comes_back_as_strokes(part))
                ticks = [n.onset_tick for n in part.notes]
                self.assertEqual(len(ticks), len(set(ticks)))
        by_name = {each.name: each.part(bars=2) for each in RUDIMENTS}
        paradiddle = by_name["single paradiddle"]
        self.assertEqual("".join(n.label or "" for n in paradiddle.notes[:8]), "RLRRLRLL")
        self.assertEqual({n.onset_tick % 480 for n in paradiddle.notes if n.velocity > 100}, {0})
        self.assertEqual({n.ornament for n in by_name["flam"].notes[:-1]}, {Ornament.FLAM})
        self.assertEqual({n.ornament for n in by_name["drag"].notes[:-1]}, {Ornament.DRAG})
        nine = [(n.onset_tick, n.label) for n in by_name["nine stroke roll"].notes[:9]]
        self.assertEqual(nine, [(60 * k, hand) for k, hand in enumerate("RRLLRRLLR")])
        self.assertRaises(UnknownName, rudiment, "paradise")

    def test_an_ostinato_keeps_all_lanes_but_one(self) -> None:
        part = ostinato({"hat": "x.x.x.x."}, "kick", ("X.......", "X..x....", "X..x..x."), step_ticks=240)
        kicks = Counter(
            int(bar) for n, bar in zip(part.notes, part.bar_of_note, strict=True) if n.pitch == 36
        )
        hats = Counter(int(bar) for n, bar in zip(part.notes, part.bar_of_note, strict=True) if n.pitch == 42)
        self.assertEqual((kicks, hats), ({1: 1, 2: 2, 3: 3}, {1: 4, 2: 4, 3: 4}))

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


class TwoHandsTest(TestCase):
    def test_hands_go_together_as_far_apart_as_was_asked_for(self) -> None:
        for tonic, mode in product(("C", "E♭", "F♯"), (Mode.MAJOR, Mode.HARMONIC_MINOR)):
            for hands, apart in (
                (TwoHands.OCTAVES, {12}), (TwoHands.THIRDS, {3, 4}), (TwoHands.SIXTHS, {8, 9}), (TwoHands.TENTHS, {15, 16}),
            ):  # fmt: skip
                shape = LineShape(value_ticks=240, octaves=2)
                part = scale_in_two_hands(Tonic.named(tonic), mode, shape, hands=hands)
                right, left = ([n for n in part.notes if n.hand is hand] for hand in (Hand.RIGHT, Hand.LEFT))
                with self.subTest(tonic=tonic, mode=mode, hands=hands):
                    self.assertEqual([n.onset_tick for n in right], [n.onset_tick for n in left])
                    gaps = {a.pitch - b.pitch for a, b in zip(right, left, strict=True)}
                    if mode is Mode.MAJOR:
                        self.assertLessEqual(gaps, apart)
                    self.assertTrue(all(n.finger for n in part.notes))
                    self.assertFalse(
                        {(n.onset_tick, n.pitch) for n in right} & {(n.onset_tick, n.pitch) for n in left}
                    )

    def test_in_contrary_motion_one_hand_mirrors_the_other(self) -> None:
        shape = LineShape(value_ticks=240, octaves=1)
        part = scale_in_two_hands(Tonic.named("C"), Mode.MAJOR, shape, hands=TwoHands.CONTRARY)
        right, left = ([n.pitch for n in part.notes if n.hand is hand] for hand in (Hand.RIGHT, Hand.LEFT))
        self.assertEqual((right[:3], left[:3], right[-1], left[-1]), ([60, 62, 64], [48, 47, 45], 60, 48))
        broken = in_two_hands(
            lambda own: arpeggio(Tonic.named("C"), (0, 4, 7), fifths=0, shape=own),
            shape,
            hands=TwoHands.CONTRARY,
        )
        self.assertEqual({n.hand for n in broken.notes}, {Hand.RIGHT, Hand.LEFT})


class AccompanimentTest(TestCase):
    BARS = read_sequence("C | Am | Dm7 | G7 | C")

    def test_each_figure_plays_its_chords_in_every_metre_and_is_shaped(self) -> None:
        for figure, (over, under) in product(ChordFigure, ((4, 4), (3, 4), (6, 8))):
            meter = Meter(numerator=over, denominator=under)
            part = accompaniment(self.BARS, figure, meter=meter)
            with self.subTest(figure, meter=(over, under)):
                self.assertEqual(
                    (len(part.bars), [c.name for c in part.chords]), (5, ["C", "Am", "Dm7", "G7", "C"])
                )
                self.assertTrue(fills_its_bars(write_out(part)))
                self.assertGreaterEqual(len({n.velocity for n in part.notes}), 2)
                self.assertLessEqual(max(n.end_tick for n in part.notes), part.bars[-1].end_tick)
                for together in (
                    list(g) for _, g in groupby(part.notes, key=lambda n: (n.onset_tick, n.hand))
                ):
                    self.assertLessEqual(together[-1].pitch - together[0].pitch, 16)
                if figure is not ChordFigure.WALKING:
                    tones = {c.tick: tones_of(c.name).keys() for c in part.chords}
                    for note in part.notes:
                        last = max(tick for tick in tones if tick <= note.onset_tick)
                        self.assertIn(note.pitch % 12, tones[last])

    def test_a_bass_walks_into_the_next_root_by_a_semitone(self) -> None:
        part = accompaniment(self.BARS, ChordFigure.WALKING)
        line = [n.pitch for n in part.notes]
        self.assertEqual(line[:5], [36, 40, 43, 44, 45])
        for bar in (4, 8, 12):
            self.assertEqual(abs(line[bar] - line[bar - 1]), 1)
        self.assertRaises(ValueOutOfRange, accompaniment, [], ChordFigure.WALKING)

    def test_each_cadence_ends_on_the_chord_that_it_is_named_for(self) -> None:
        last = {"perfect": "C", "plagal": "C", "imperfect": "G", "interrupted": "Am", "two-five-one": "Cmaj7"}
        for name, numerals in CADENCES.items():
            with self.subTest(name):
                part = chord_sequence(read_sequence(numerals))
                self.assertEqual(part.chords[-1].name, last[name])
                upper = [
                    [n.pitch for n in part.notes if n.onset_tick == c.tick and n.hand is Hand.RIGHT]
                    for c in part.chords
                ]
                self.assertTrue(
                    all(abs(a - b) <= 5 for x, y in pairwise(upper) for a, b in zip(x, y, strict=False))
                )
