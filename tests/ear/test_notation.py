"""Parts spelled in note values, engraved, and labelled."""

import re
from dataclasses import replace
from itertools import pairwise
from threading import Thread
from unittest import TestCase
from xml.etree.ElementTree import fromstring

from hypothesis import given, settings

from benches.random_parts import comes_back, random_part
from ear.conventions import Conventions, Values
from ear.editing.key_chain import KeyOrder, key_chain
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.labels import LabelKind
from ear.labels.chord_cards import chord_cards, chord_names
from ear.labels.counting import counts, move_numbers, syllable
from ear.labels.typed_names import read_name
from ear.labels.typing_keys import HALVES, keyboard_layout, layout_of, reach, two_hand_layout
from ear.notation.engraving import notation_svg
from ear.notation.mei import mei_of
from ear.notation.pieces import bar_pieces
from ear.notation.tempo_marks import tempo_marks
from ear.notation.values import TRIPLET
from ear.notation.written import write_out
from ear.notes import STANDARD_KIT, Hand, Kind, Meter, MeterChange, MeterMap, Note, Ornament, Part, TempoMap
from ear.patterns.chords import chord_sequence, read_sequence
from ear.patterns.grooves import GrooveFeel, groove
from ear.patterns.lines import five_finger
from ear.patterns.modes import Tonic
from ear.reader import Reader
from tests.ear.parts import GROOVES, beat, fills_its_bars, melody, two_hands
from tests.ear.test_musicxml import parts, with_endings


def spelled(*spans: tuple[int, int], meter: tuple[int, int] = (4, 4)) -> str:
    """Notes by (onset, length) in one voice, as their values: 4 for a quarter, a point for a dot, t for a
    triplet, ~ for a tie, lower r for a rest."""
    notes = [Note(onset_tick=a, length_tick=b, pitch=72, velocity=80) for a, b in spans]
    part = Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(*meter), tempos=TempoMap.of(90))
    words = []
    for bar in write_out(part).bars:
        for w in bar.staves[0].voices[0]:
            mark = "r" if w.is_rest else ""
            tie = "~" if w.heads and w.heads[0].is_tied_on else ""
            words.append(
                f"{mark}{w.value.base}{'.' * w.value.dots}{f':{w.value.ratio.notes}' if w.value.ratio else ''}{tie}"
            )
        words.append("|")
    return " ".join(words[:-1])


SEVENTHS = (0, 69, 137, 206, 274, 343, 411, 480)
"""Where notes of a septuplet over a crotchet begin, and the last one ends."""


def accidentals(part: Part) -> list[int]:
    """The beats, counted through from 1, at which accidentals stand."""
    lines = [line for bar in write_out(part).bars for line in bar.staves[0].voices]
    return sorted(
        w.tick // 480 + 1 for line in lines for w in line for head in w.heads if head.shows_accidental
    )


class SpellingTest(TestCase):
    def test_values_show_the_beats(self) -> None:
        table = (
            ("4 4 4 4", [(0, 480), (480, 480), (960, 480), (1440, 480)], (4, 4)),
            ("2. 4", [(0, 1440), (1440, 480)], (4, 4)),
            ("4. 8 2", [(0, 720), (720, 240), (960, 960)], (4, 4)),
            ("8 4 8 2", [(0, 240), (240, 480), (720, 240), (960, 960)], (4, 4)),
            ("4. 8~ 4 4", [(0, 720), (720, 720), (1440, 480)], (4, 4)),
            ("r4 2.", [(480, 1440)], (4, 4)),
            ("2 r4 4~ | 1", [(0, 960), (1440, 2400)], (4, 4)),
            ("8:3 8:3 8:3 4 2", [(0, 160), (160, 160), (320, 160), (480, 480), (960, 960)], (4, 4)),
            ("4:3 8:3 4 r2", [(0, 320), (320, 160), (480, 480)], (4, 4)),
            ("4. 4.", [(0, 720), (720, 720)], (6, 8)),
            ("8 4 4.", [(0, 240), (240, 480), (720, 720)], (6, 8)),
            ("16 8. r4 r2", [(0, 120), (120, 360)], (4, 4)),
            ("r2 r4 4", [(1440, 480)], (4, 4)),
            ("4 r4 r4", [(0, 480)], (3, 4)),
            ("r4 r4 4", [(960, 480)], (3, 4)),
            ("r8 r16 16 r4 r2", [(360, 120)], (4, 4)),
            ("16 r16 r8 r4 r2", [(0, 120)], (4, 4)),
            ("8 r8 r8 r4.", [(0, 240)], (6, 8)),
            ("r4 8 r4.", [(480, 240)], (6, 8)),
            ("8:3 r8:3 r8:3 r4 r2", [(0, 160)], (4, 4)),
            ("r2 2", [(960, 960)], (2, 2)),
            ("4:3 4:3 4:3 2", [(0, 320), (320, 320), (640, 320), (960, 960)], (4, 4)),
            ("2:3 2:3 2:3", [(0, 640), (640, 640), (1280, 640)], (4, 4)),
            ("16:6 16:6 16:6 16:6 16:6 16:6 4", [(80 * k, 80) for k in range(6)] + [(480, 480)], (2, 4)),
            ("16:3 16:3 16:3 8 4", [(0, 80), (80, 80), (160, 80), (240, 240), (480, 480)], (2, 4)),
            ("16:5 16:5 16:5 16:5 16:5 4", [(96 * k, 96) for k in range(5)] + [(480, 480)], (2, 4)),
            ("16:7 16:7 16:7 16:7 16:7 16:7 16:7 4", [(a, b - a) for a, b in pairwise(SEVENTHS)] + [(480, 480)], (2, 4)),
            ("16:5 16:5 16:5 16:5 16:5 4.", [(144 * k, 144) for k in range(5)] + [(720, 720)], (6, 8)),
            ("16. 32 64 64 32 16 2", [(0, 180), (180, 60), (240, 30), (270, 30), (300, 60), (360, 120), (480, 960)], (3, 4)),
            ("8 8 8~ 4", [(0, 240), (240, 240), (480, 720)], (5, 8)),
            ("4 4 4.", [(0, 480), (480, 480), (960, 720)], (7, 8)),
        )  # fmt: skip
        for expected, spans, meter in table:
            with self.subTest(expected):
                self.assertEqual(spelled(*spans, meter=meter), expected)

    def test_an_accidental_holds_for_its_step_to_the_end_of_the_bar_in_all_voices(self) -> None:
        """(beat, voice, (pitch, its name on the line of fifths)) of each note, and the beats at which accidentals stand."""
        f, f_sharp, low_f_sharp = (77, -1), (78, 6), (66, 6)
        table = (
            ("first in the lower voice", [(2, 2, f_sharp), (4, 1, f_sharp)], [2]),
            ("taken back by the other voice", [(1, 1, f_sharp), (3, 2, f), (4, 1, f_sharp)], [1, 3, 4]),
            ("another octave is another step", [(1, 1, f_sharp), (3, 2, low_f_sharp)], [1, 3]),
            ("struck together", [(1, 1, f_sharp), (1, 2, f), (3, 1, f_sharp), (4, 2, f_sharp)], [1, 1, 3]),
            ("said again in the next bar", [(4, 1, f_sharp), (6, 2, f_sharp)], [4, 6]),
            ("plain", [(1, 1, f), (2, 2, f)], []),
        )  # fmt: skip
        for name, struck, expected in table:
            with self.subTest(name):
                notes = [
                    Note(
                        onset_tick=480 * (beat - 1), length_tick=480, pitch=pitch, velocity=80, name_fifth=name_fifth, voice=voice
                    )
                    for beat, voice, (pitch, name_fifth) in struck
                ]  # fmt: skip
                part = Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90))
                self.assertEqual(accidentals(part), expected)

    def test_far_above_and_below_are_written_nearer_under_a_line(self) -> None:
        pitches = (96, 100, 103, 108, 72, 88, 84, 86)
        notes = [
            Note(onset_tick=480 * k, length_tick=480, pitch=p, velocity=80) for k, p in enumerate(pitches)
        ]
        part = melody(bars=2).with_notes(notes)
        (line,) = write_out(part).octave_lines
        self.assertEqual((line.octaves, line.first_tick, line.last_tick, line.end_tick), (2, 0, 1440, 1920))
        mei = fromstring(mei_of(part))
        drawn = [
            (int(n.get("oct", "")), int(n.get("oct.ges", n.get("oct", ""))))
            for n in mei.iterfind(".//{*}note")
        ]
        self.assertEqual(drawn, [(5, 7), (5, 7), (5, 7), (6, 8), (5, 5), (6, 6), (6, 6), (6, 6)])
        low = part.with_notes(
            replace(note, pitch=pitch) for note, pitch in zip(notes, (24, 43, 48, 52) * 2, strict=True)
        )
        self.assertEqual(
            [(each.octaves, each.first_tick) for each in write_out(low).octave_lines], [(-1, 0), (-1, 1920)]
        )
        document = write_musicxml(part)
        self.assertIn(b'<octave-shift type="down" size="15"', document)
        self.assertEqual(read_musicxml(document).parts[0].part.pitches.tolist(), list(pitches))

    def test_a_tempo_is_said_in_the_beat_of_its_metre(self) -> None:
        bars = [
            MeterChange(bar=1, meter=Meter(numerator=6, denominator=8)),
            MeterChange(bar=2, meter=Meter(numerator=2, denominator=2)),
        ]
        part = replace(melody(bars=2, bpm=90), meters=MeterMap(bars))
        marks = [(m.tick, m.beat.base, m.beat.dots, m.per_minute) for m in tempo_marks(part)]
        self.assertEqual(marks, [(0, 4, 1, 60.0), (1440, 2, 0, 45.0)])
        self.assertEqual(notation_svg(part, width=700).count("tempo-note"), 2)
        self.assertEqual(read_musicxml(write_musicxml(part)).parts[0].part.tempos.bpm_at(2000), 90.0)

    def test_a_tie_brings_its_accidental_and_leaves_none_behind(self) -> None:
        spans = ((1440, 960), (2880, 480))
        notes = [Note(onset_tick=a, length_tick=b, pitch=78, velocity=80) for a, b in spans]
        part = Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90))
        self.assertEqual(accidentals(part), [4, 7])

    def test_a_grace_note_has_its_accidental_and_the_notes_behind_it_take_it_back(self) -> None:
        f_twice = [Note(onset_tick=tick, length_tick=480, pitch=77, velocity=80) for tick in (0, 480)]
        for semitones, expected, accid in ((1, [1], "s"), (2, [], None), (None, [], None)):
            graced = replace(f_twice[0], ornament=Ornament.GRACE, grace_semitones=semitones)
            part = Part.of(
                [graced, f_twice[1]], kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90)
            )
            self.assertEqual(accidentals(part), expected)
            small = fromstring(mei_of(part)).find(".//{*}note[@grace]")
            assert small is not None
            self.assertEqual(small.get("accid"), accid)

    def test_what_was_played_short_is_written_as_meant(self) -> None:
        self.assertEqual(spelled((3, 455), (478, 470), (962, 930)), "4 4 2")
        for share in (0.5, 0.875, 0.9, 0.95):
            with self.subTest(share):
                gated = spelled(*((480 * k, round(480 * share)) for k in range(8)))
                self.assertEqual(gated.split()[:2], ["8", "r8"] if share == 0.5 else ["4", "4"])

    def test_each_hand_has_rhythms_of_its_own_and_every_part_comes_back_to_the_tick(self) -> None:
        for seed in range(300):
            part = random_part(seed, bars=2)
            with self.subTest(seed):
                self.assertTrue(comes_back(part))
                self.assertTrue(fills_its_bars(write_out(part)))

    def test_the_higher_voice_is_the_first_and_rests_of_the_other_are_hidden(self) -> None:
        bass = Note(onset_tick=0, length_tick=1440, pitch=48, velocity=80, hand=Hand.RIGHT)
        chords = [
            replace(bass, onset_tick=480 * k, length_tick=480, pitch=pitch)
            for k in (1, 2)
            for pitch in (60, 64)
        ]
        after = replace(bass, onset_tick=1440, length_tick=480)
        part = melody(bars=1).with_notes([bass, *chords, after])
        (staff,) = write_out(part).bars[0].staves
        self.assertEqual(
            [[(w.value.base, [part.notes[h.note].pitch for h in w.heads], w.is_hidden) for w in line] for line in staff.voices],
            [
                [(4, [], False), (4, [60, 64], False), (4, [60, 64], False), (4, [48], False)],
                [(2, [48], False), (4, [], True)],
            ],
        )  # fmt: skip

    def test_two_rhythms_of_one_hand_at_once_are_two_voices(self) -> None:
        notes = [
            Note(onset_tick=step * k, length_tick=step, pitch=pitch, velocity=80)
            for step, pitch, count in ((160, 76, 6), (120, 62, 8)) for k in range(count)
        ]  # fmt: skip
        part = melody(bars=1).with_notes(notes)
        (staff,) = write_out(part).bars[0].staves
        self.assertEqual(
            [{w.value.ratio for w in line if w.heads} for line in staff.voices], [{TRIPLET}, {None}]
        )
        self.assertTrue(comes_back(part))

    def test_what_has_no_rhythm_together_is_two_voices_though_nothing_overlaps(self) -> None:
        spans = ((0, 96, 76), (96, 96, 76), (206, 68, 62), (274, 69, 62))
        part = melody(bars=1).with_notes(
            Note(onset_tick=a, length_tick=b, pitch=pitch, velocity=80) for a, b, pitch in spans
        )
        self.assertEqual(len(write_out(part).bars[0].staves[0].voices), 2)
        self.assertTrue(comes_back(part))

    def test_beams_show_beats_and_groups_and_a_tuplet_without_a_beam_has_a_bracket(self) -> None:
        def beams(*spans: tuple[int, int], meter: tuple[int, int]) -> list[int]:
            notes = [Note(onset_tick=a, length_tick=b, pitch=72, velocity=80) for a, b in spans]
            part = Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(*meter), tempos=TempoMap.of(90))
            return [w.group for w in write_out(part).bars[0].staves[0].voices[0]]

        eighths = [(240 * k, 240) for k in range(8)]
        for meter, expected in (
            ((4, 4), [1, 1, 1, 1, 2, 2, 2, 2]), ((3, 4), [1, 1, 2, 2, 3, 3]), ((6, 8), [1, 1, 1, 2, 2, 2]),
            ((5, 8), [1, 1, 1, 2, 2]), ((7, 8), [1, 1, 2, 2, 3, 3, 3]), ((3, 8), [1, 1, 1]),
            ((2, 2), [1, 1, 1, 1, 2, 2, 2, 2]),
        ):  # fmt: skip
            with self.subTest(meter):
                self.assertEqual(beams(*eighths[: len(expected)], meter=meter), expected)
        triplets = [(0, 160), (160, 160), (320, 160), (480, 320), (800, 160)]
        part = melody(bars=1).with_notes(
            Note(onset_tick=a, length_tick=b, pitch=72, velocity=80) for a, b in triplets
        )
        self.assertEqual(re.findall(r'bracket.visible="(\w+)"', mei_of(part)), ["false", "true"])

    def test_what_the_bar_before_had_altered_is_taken_back_in_brackets(self) -> None:
        sharp, plain = (
            Note(onset_tick=480 * k, length_tick=480, pitch=pitch, velocity=80, name_fifth=fifth)
            for k, pitch, fifth in ((3, 78, 6), (5, 77, -1))
        )
        part = melody(bars=2).with_notes([sharp, plain])
        heads = [h for bar in write_out(part).bars for w in bar.staves[0].voices[0] for h in w.heads]
        self.assertEqual(
            [(h.shows_accidental, h.is_cautionary) for h in heads], [(True, False), (True, True)]
        )
        self.assertIn('cautionary="yes"', write_musicxml(part).decode())
        self.assertEqual(read_musicxml(write_musicxml(part)).parts[0].part.pitches.tolist(), [78, 77])

    @settings(max_examples=80)
    @given(part=parts())
    def test_every_voice_fills_its_bars_and_no_note_is_lost(self, part: Part) -> None:
        score = write_out(part)
        self.assertTrue(fills_its_bars(score))
        heads = {
            h.note for bar in score.bars for s in bar.staves for v in s.voices for w in v for h in w.heads
        }
        self.assertEqual(heads, set(range(len(part.notes))))


class EngravingTest(TestCase):
    def test_each_note_is_drawn_and_can_be_found(self) -> None:
        for part in (melody(), two_hands(), beat(), *GROOVES, melody(bars=0)):
            svg = notation_svg(part, width=700)
            with self.subTest(part.kind, notes=len(part.notes)):
                for i in range(len(part.notes)):
                    self.assertIn(f'id="n{i}-0"', svg)
                # A page that allows no inline styles draws it all the same, and printers find no nested svg.
                self.assertNotIn("style", svg)
                self.assertEqual(svg.count("<svg"), 1)

    def test_a_long_part_is_drawn_in_pieces_that_hold_each_note_once(self) -> None:
        part = melody(bars=40)
        pieces = bar_pieces(part, most=50)
        self.assertEqual([len(piece) for piece in pieces], [12, 12, 12, 4])
        self.assertEqual([bar for piece in pieces for bar in piece], list(range(1, 41)))
        drawn = [
            set(re.findall(r'id="n(\d+)-', notation_svg(part, width=900, bars=piece))) for piece in pieces
        ]
        self.assertEqual([len(notes) for notes in drawn], [48, 48, 48, 16])
        self.assertEqual(len(set().union(*drawn)), 160)
        self.assertEqual(bar_pieces(melody(bars=3)), [range(1, 4)])

    def test_each_thread_of_a_server_can_draw(self) -> None:
        drawn: list[str] = []
        threads = [Thread(target=lambda: drawn.append(notation_svg(melody(), width=700))) for _ in range(3)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(set(drawn), {notation_svg(melody(), width=700)})

    def test_what_is_played_again_is_engraved_once_with_its_signs(self) -> None:
        part = with_endings()
        mei = mei_of(part, as_written=True)
        for sign in (
            'left="rptstart"', 'right="rptend"', '<ending n="1">', '<ending n="2">', 'func="segno"', 'func="dalSegno"',
        ):  # fmt: skip
            self.assertEqual(mei.count(sign), 1, sign)
        changed = part.with_notes([replace(part.notes[0], velocity=1), *part.notes[1:]])
        for drawn, bars in ((mei, 4), (mei_of(part), 6), (mei_of(changed, as_written=True), 6)):
            self.assertEqual(drawn.count("<measure"), bars)
        self.assertIn("<svg", notation_svg(part, width=700, as_written=True))

    def test_labels_stand_in_it(self) -> None:
        part = five_finger(Tonic.named("D"))
        kinds = (LabelKind.FINGERS, LabelKind.NAMES, LabelKind.COUNT)
        mei = mei_of(part, labels=kinds, reader=Reader(conventions=Conventions(solfege=True)))
        self.assertEqual(mei.count("<fing "), len(part.notes))
        self.assertIn("<syl>fa♯</syl>", mei)
        self.assertIn('<verse n="2"><syl>1</syl>', mei)
        self.assertNotIn("<fing", mei_of(part, labels=()))

    def test_each_beat_of_a_drum_part_is_counted_whichever_voice_has_it(self) -> None:
        kicks = beat().with_notes(n for n in beat().notes if n.pitch == 36 and n.onset_tick % 480 == 0)
        said = counts(kicks)
        self.assertEqual([said[480 * k] for k in range(8)], ["1", "2", "3", "4"] * 2)
        mei = mei_of(kicks, labels=(LabelKind.COUNT,))
        self.assertEqual((mei.count("<dir "), mei.count("<verse")), (4 * len(kicks.bars), 0))
        self.assertEqual(
            mei.count("<dir "), mei_of(kicks, labels=(LabelKind.COUNT, LabelKind.KEYS)).count("<dir ")
        )
        in_six = replace(kicks, meters=MeterMap.of(6, 8))
        self.assertEqual([counts(in_six)[240 * k] for k in range(6)], ["1", "2", "3", "4", "5", "6"])
        self.assertEqual(set(counts(melody())), {n.onset_tick for n in melody().notes})

    def test_what_stands_under_the_notes_of_two_voices_has_a_line_for_each(self) -> None:
        mei = mei_of(beat(), labels=(LabelKind.NAMES,))
        self.assertEqual(set(re.findall(r'<verse n="(\d)"><syl>(?:kick|hat)', mei)), {"1", "2"})
        self.assertEqual(len(re.findall(r'<verse n="2"><syl>kick</syl>', mei)), mei.count(">kick<"))

    def test_where_a_key_is_let_go_makes_no_triplet(self) -> None:
        last = Note(onset_tick=0, length_tick=1843, pitch=60, velocity=80)
        (written,) = write_out(melody(bars=1).with_notes([last])).bars[0].staves[0].voices[0]
        self.assertEqual((written.value.base, written.value.ratio), (1, None))
        third = replace(last, length_tick=320)
        voice = write_out(melody(bars=1).with_notes([third])).bars[0].staves[0].voices[0]
        self.assertEqual(voice[0].value.ratio, TRIPLET)

    def test_the_hat_that_the_foot_closes_is_written_with_the_feet(self) -> None:
        part = beat(bars=1)
        stepped = part.with_notes((*part.notes, replace(part.notes[0], pitch=44, onset_tick=480)))
        voices = write_out(stepped).bars[0].staves[0].voices
        feet = [head for w in voices[1] for head in w.heads]
        self.assertEqual({(h.pitch, h.lane.staff_step) for h in feet if h.lane}, {(36, 1), (44, -1)})
        document = write_musicxml(stepped)
        self.assertEqual(read_musicxml(document).parts[0].part, stepped)
        bare = re.sub(
            rb"<(instrument|midi-instrument) id.*?(/>|</midi-instrument>)", b"", document, flags=re.DOTALL
        )
        self.assertIn(44, {n.pitch for n in read_musicxml(bare).parts[0].part.notes})

    def test_accents_and_ghost_notes_are_written(self) -> None:
        even = beat().with_notes(replace(n, velocity=78) for n in beat().notes)
        self.assertNotIn('artic="acc"', mei_of(even))
        backbeats = even.with_notes(
            replace(n, velocity=104) if n.pitch == 42 and n.onset_tick % 960 == 480 else n for n in even.notes
        )
        strong = {n.onset_tick for n in backbeats.notes if n.velocity == 104}
        self.assertEqual(mei_of(backbeats).count('artic="acc"'), len(strong))
        low = even.with_notes(replace(n, velocity=104) if n.onset_tick == 0 else n for n in even.notes)
        self.assertEqual([mei_of(low).count(f'artic="acc" place="{p}"') for p in ("above", "below")], [1, 1])
        quiet = replace(beat().notes[8], velocity=46, onset_tick=3360)
        self.assertEqual(quiet.pitch, 38)
        self.assertEqual(mei_of(even.with_notes((*even.notes, quiet))).count('head.mod="paren"'), 1)
        soft_hat = replace(quiet, pitch=42, onset_tick=3300)
        swell = even.with_notes(
            replace(n, pitch=38, velocity=min(30 + 2 * k, 110)) for k, n in enumerate(even.notes)
        )
        accent = even.with_notes((*even.notes, replace(quiet, velocity=104)))
        for none in (even, backbeats, accent, swell, even.with_notes((*even.notes, soft_hat))):
            self.assertNotIn("head.mod", mei_of(none))
        shaped = melody().with_notes(
            replace(n, velocity=60 + 40 * (k % 4 == 0)) for k, n in enumerate(melody().notes)
        )
        self.assertNotIn('artic="acc"', mei_of(shaped))

    def test_keys_of_sections_are_written(self) -> None:
        mei = mei_of(key_chain(five_finger(Tonic.named("C")), order=KeyOrder.FIFTHS, keys=3))
        self.assertEqual([mei.count(f'keysig="{k}"') for k in ("0", "1s", "2s")], [1, 1, 1])


class LabelsTest(TestCase):
    def test_beats_are_counted_as_musicians_do(self) -> None:
        for meter, table in (
            (
                (4, 4),
                {
                    0: "1",
                    240: "&",
                    120: "e",
                    360: "a",
                    480: "2",
                    640: "trip",
                    800: "let",
                    50: "",
                    1919: "1",
                },
            ),
            ((6, 8), {0: "1", 240: "2", 360: "&", 1200: "6"}),
            ((2, 2), {0: "1", 480: "&", 960: "2"}),
        ):
            for tick, said in table.items():
                actual = syllable(Meter(numerator=meter[0], denominator=meter[1]), tick)
                with self.subTest(meter=meter, tick=tick):
                    self.assertEqual(actual, said)

    def test_hands_that_strike_together_are_one_movement(self) -> None:
        part = groove(GrooveFeel.EIGHTHS, variation=2, bars=2)
        actual = move_numbers(part)
        self.assertEqual([actual[240 * k] for k in range(16)], [1, 2, 3, 4, 5, 6, 7, 8] * 2)
        self.assertEqual(set(counts(part)), set(actual))

    def test_typing_keys_are_places_and_reach_every_note_of_a_melody(self) -> None:
        layout = keyboard_layout(60, fifths=0)
        self.assertEqual((layout["KeyA"], layout["KeyS"], layout["KeyW"], layout["KeyX"]), (60, 62, 63, 61))
        for part in (melody(), beat()):
            self.assertGreaterEqual(set(layout_of(part).values()), {n.pitch for n in part.notes})
        right, left = layout_of(beat()), layout_of(beat(), left_handed=True)
        self.assertEqual((right["KeyJ"], right["KeyF"]), (left["KeyF"], left["KeyJ"]))

    def test_it_is_said_what_typing_keys_reach_and_what_would_reach_more(self) -> None:
        part = two_hands(bars=8)
        actual = reach(part)
        assert actual is not None
        own = set(layout_of(part).values())
        self.assertEqual(actual.as_they_lie, sum(n.pitch in own for n in part.notes))
        self.assertEqual(actual.by_two_hands, len(part.notes))
        self.assertTrue(actual.as_they_lie <= actual.from_best < actual.by_two_hands)
        best = set(keyboard_layout(actual.best, fifths=part.fifths).values())
        self.assertEqual(actual.from_best, sum(n.pitch in best for n in part.notes))
        layout = two_hand_layout(part)
        for hand, rows in HALVES.items():
            keys = [key for row in rows for key in row if key in layout]
            pitches = [layout[key] for key in keys]
            self.assertEqual(pitches, sorted({n.pitch for n in part.notes if n.hand is hand}))
        wide = part.with_notes(
            replace(part.notes[0], onset_tick=240 * k, pitch=30 + k, name_fifth=None) for k in range(60)
        )
        self.assertEqual(len(two_hand_layout(wide)), 15 if wide.notes[0].hand else 30)
        self.assertIsNone(reach(beat()))

    def test_each_lane_has_a_key_of_its_own_that_no_part_changes(self) -> None:
        plain = layout_of(beat().with_notes(()))
        self.assertEqual(set(plain.values()), {lane.pitches[0] for lane in STANDARD_KIT.lanes})
        for pattern in GROOVES:
            self.assertEqual(layout_of(pattern), plain)
        self.assertEqual((plain["KeyF"], plain["KeyJ"]), (36, 38))
        left = layout_of(beat(), left_handed=True)
        self.assertEqual((len(left), set(left.values())), (len(plain), set(plain.values())))
        odd = beat().with_notes(replace(n, pitch=60 + k % 3) for k, n in enumerate(beat().notes))
        self.assertLessEqual({60, 61, 62} | set(plain.values()), set(layout_of(odd).values()))

    def test_chords_are_named_and_their_cards_show_what_moves(self) -> None:
        part = chord_sequence(read_sequence("C | Am | F | C"))
        self.assertEqual(list(chord_names(part).values()), ["C", "Am", "F", "C"])
        # Without names of its own the part's notes give them.
        self.assertEqual(list(chord_names(replace(part, chords=())).values()), ["C", "Am", "F", "C"])
        cards = chord_cards(part)
        self.assertEqual([card.name for card in cards][:3], ["C", "Am", "F"])
        self.assertEqual((cards[0].moving, cards[1].moving), ((), ("A",)))
        states = {key.pitch: key.state for key in cards[1].keys if key.state != "free"}
        self.assertEqual({p for p, s in states.items() if s == "stays"}, {60, 64})
        self.assertIn("left", states.values())
        self.assertEqual(chord_cards(melody(bars=0)), ())

    def test_values_have_two_names(self) -> None:
        american = Conventions(values=Values.AMERICAN, middle_c_octave=3)
        table = {
            "semiquaver triplet": "sixteenth-note triplet", "dotted crotchet": "dotted quarter note",
            "demisemiquaver": "thirty-second note",
        }  # fmt: skip
        for british, name in table.items():
            self.assertEqual(american.value_name(british), name)
            self.assertEqual(Conventions().value_name(british), british)
        self.assertEqual(
            (american.pitch(60, fifths=0), Conventions(solfege=True).pitch(66, fifths=2)), ("C3", "fa♯4")
        )

    def test_names_are_read_as_they_are_written(self) -> None:
        for conventions in (
            Conventions(),
            Conventions(middle_c_octave=3),
            Conventions(solfege=True, middle_c_octave=3),
        ):
            for pitch in range(21, 109):
                for fifths in (-3, 0, 4):
                    name = conventions.pitch(pitch, fifths=fifths)
                    self.assertEqual(read_name(name, melody(), conventions=conventions), pitch, name)

    def test_a_left_hand_alone_reads_the_bass_clef(self) -> None:
        low = five_finger(Tonic.named("C")).with_notes(
            replace(n, pitch=n.pitch - 24, hand=Hand.LEFT) for n in five_finger(Tonic.named("C")).notes
        )
        self.assertEqual(write_out(low).clefs, ("bass",))
