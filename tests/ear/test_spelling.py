"""How notes are written: by name where that was said, else by key, chord and where they go."""

from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from music21 import corpus

from ear.conventions import PLAIN
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.transpose import to_key, transpose
from ear.errors import ValueOutOfRange
from ear.formats.importing import open_file
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.plain_text import read_lines
from ear.formats.smf_writing import write_part
from ear.labels.chord_cards import chord_cards, chord_names
from ear.notes import ChordMark, Kind, Note, Part, name_in_key, names_of, pitch_name, sound_name, spell
from ear.notes.spelling import UNKNOWN, key_of, keys_of, spelled
from ear.patterns.chords import Chord, Voicing, chord_sequence, read_sequence
from ear.patterns.lines import LineDirection, LineShape, arpeggio, scale
from ear.patterns.modes import Mode, Tonic
from tests.ear.parts import melody

MAJORS = """
C D E F G A B | G A B C D E F♯ | D E F♯ G A B C♯ | A B C♯ D E F♯ G♯ | E F♯ G♯ A B C♯ D♯ | B C♯ D♯ E F♯ G♯ A♯ |
F♯ G♯ A♯ B C♯ D♯ E♯ | C♯ D♯ E♯ F♯ G♯ A♯ B♯ | F G A B♭ C D E | B♭ C D E♭ F G A | E♭ F G A♭ B♭ C D | A♭ B♭ C D♭ E♭ F G |
D♭ E♭ F G♭ A♭ B♭ C | G♭ A♭ B♭ C♭ D♭ E♭ F | C♭ D♭ E♭ F♭ G♭ A♭ B♭
"""
HARMONIC_MINORS = """
A B C D E F G♯ | E F♯ G A B C D♯ | B C♯ D E F♯ G A♯ | F♯ G♯ A B C♯ D E♯ | C♯ D♯ E F♯ G♯ A B♯ | G♯ A♯ B C♯ D♯ E F♯♯ |
D♯ E♯ F♯ G♯ A♯ B C♯♯ | A♯ B♯ C♯ D♯ E♯ F♯ G♯♯ | D E F G A B♭ C♯ | G A B♭ C D E♭ F♯ | C D E♭ F G A♭ B |
F G A♭ B♭ C D♭ E | B♭ C D♭ E♭ F G♭ A | E♭ F G♭ A♭ B♭ C♭ D | A♭ B♭ C♭ D♭ E♭ F♭ G
"""
MELODIC_DOWN = {
    "A": "A G F E D C B A",
    "D": "D C B♭ A G F E D",
    "F♯": "F♯ E D C♯ B A G♯ F♯",
    "E♭": "E♭ D♭ C♭ B♭ A♭ G♭ F E♭",
}
CHROMATIC = {"C": "C C♯ D D♯ E F F♯ G G♯ A A♯ B C B B♭ A A♭ G G♭ F E E♭ D D♭ C",
             "A": "A A♯ B B♯ C♯ D D♯ E E♯ F♯ F♯♯ G♯ A G♯ G F♯ F E E♭ D C♯ C B B♭ A"}  # fmt: skip
ARPEGGIOS = {"Dm": "D F A D", "A7": "A C♯ E G A", "F♯": "F♯ A♯ C♯ F♯", "E♭m": "E♭ G♭ B♭ E♭", "Bdim7": "B D F A♭ B",
             "G♯m": "G♯ B D♯ G♯", "Caug": "C E G♯ C", "F♯m7b5": "F♯ A C E F♯", "D♭maj7": "D♭ F A♭ C D♭"}  # fmt: skip
"""Hand-made: as the trade's books write them."""
SCORES = (
    "bach/bwv66.6", "bach/bwv244.10", "bach/bwv269", "joplin/maple_leaf_rag", "opus18no1/movement2",
    "opus74no1/movement2", "k155/movement2",
)  # fmt: skip


def letters(part: Part) -> str:
    return " ".join(
        PLAIN.letter(n.pitch, name_fifth=name) for n, name in zip(part.notes, part.names, strict=True)
    )


def line(pitches: list[int], *, fifths: int = 0, chords: tuple[ChordMark, ...] = ()) -> Part:
    notes = [Note(onset_tick=480 * k, length_tick=480, pitch=p, velocity=80) for k, p in enumerate(pitches)]
    return replace(melody().with_notes(notes), fifths=fifths, chords=chords)


class NamesTest(TestCase):
    @given(st.integers(0, 127))
    def test_every_name_of_a_pitch_is_that_pitch(self, pitch: int) -> None:
        for name_fifth in names_of(pitch):
            actual = spell(pitch, name_fifth=name_fifth)
            self.assertEqual(actual.name_fifth, name_fifth)
            natural = 12 * (actual.step // 7) + (0, 2, 4, 5, 7, 9, 11)[actual.step % 7]
            self.assertEqual(natural + actual.alteration, pitch)
        for fifths in range(-7, 8):
            self.assertIn(name_in_key(pitch, fifths), names_of(pitch))

    def test_a_dominant_that_is_borrowed_is_stacked_in_thirds(self) -> None:
        for fifths, expected in ((0, "C E G E G♯ B D"), (2, "D F♯ A F♯ A♯ C♯ E"), (-3, "E♭ G B♭ G B D F")):
            tonic = 60 + 7 * fifths % 12
            chords = ((0, 4, 7), (4, 8, 11, 14))
            notes = [
                Note(onset_tick=480 * k, length_tick=480, pitch=tonic + step, velocity=80)
                for k, chord in enumerate(chords) for step in chord
            ]  # fmt: skip
            with self.subTest(fifths):
                self.assertEqual(letters(replace(melody().with_notes(notes), fifths=fifths)), expected)

    def test_a_chromatic_line_is_written_by_where_it_goes(self) -> None:
        up, down = list(range(67, 80)), list(range(79, 66, -1))
        for fifths, rising, falling in (
            (0, "G G♯ A A♯ B C C♯ D D♯ E F F♯ G", "G G♭ F E E♭ D D♭ C B B♭ A A♭ G"),
            (1, "G G♯ A A♯ B C C♯ D D♯ E E♯ F♯ G", "G F♯ F E E♭ D D♭ C B B♭ A A♭ G"),
            (-3, "G A♭ A B♭ B C C♯ D E♭ E F F♯ G", "G G♭ F F♭ E♭ D D♭ C C♭ B♭ B♭♭ A♭ G"),
        ):
            with self.subTest(fifths):
                self.assertEqual(letters(line(up, fifths=fifths)), rising)
                self.assertEqual(letters(line(down, fifths=fifths)), falling)

    def test_the_fewer_accidentals_nearby_decide(self) -> None:
        for fifths, pitches, expected in (
            (5, [60, 66, 60], "B♯ F♯ B♯"), (-2, [65, 66, 67], "F G♭ G"), (2, [67, 66, 65], "G F♯ F"),
            (-2, [67, 66, 65], "G G♭ F"), (0, [60, 66, 60], "C F♯ C"),
        ):  # fmt: skip
            with self.subTest(fifths=fifths, pitches=pitches):
                self.assertEqual(letters(line(pitches, fifths=fifths)), expected)

    def test_octaves_go_by_letters(self) -> None:
        self.assertEqual([pitch_name(60, name_fifth=f) for f in names_of(60)], ["D♭♭4", "C4", "B♯3"])
        self.assertEqual([pitch_name(59, name_fifth=f) for f in names_of(59)], ["C♭4", "B3", "A♯♯3"])

    def test_a_wrong_name_is_refused_and_a_right_one_kept(self) -> None:
        note = Note(onset_tick=0, length_tick=480, pitch=61, velocity=80, name_fifth=-5)
        self.assertRaises(ValueOutOfRange, replace, note, name_fifth=6)
        self.assertEqual(
            (note.at_pitch(61), note.at_pitch(62).name_fifth, note.at_pitch(73, -5).name_fifth),
            (note, None, -5),
        )
        part = line([61]).with_notes([note])
        self.assertEqual((letters(part), sound_name(part, 61), letters(part_from_json(part_to_json(part)))),
                         ("D♭", "D♭4", "D♭"))  # fmt: skip
        self.assertEqual(letters(line([61])), "C♯")


class PatternsTest(TestCase):
    def up(self, name: str, mode: Mode) -> str:
        return letters(scale(Tonic.named(name), mode, LineShape(way=LineDirection.UP)))

    def test_scales_in_all_keys_are_written_as_in_the_table(self) -> None:
        for table, mode in ((MAJORS, Mode.MAJOR), (HARMONIC_MINORS, Mode.HARMONIC_MINOR)):
            for row in table.replace("\n", " ").split("|"):
                wanted = row.split()
                with self.subTest(wanted[0], mode=mode):
                    self.assertEqual(self.up(wanted[0], mode), " ".join([*wanted, wanted[0]]))

    def test_what_comes_down_another_way_and_what_goes_by_semitones(self) -> None:
        for tonic, wanted in MELODIC_DOWN.items():
            self.assertEqual(
                letters(scale(Tonic.named(tonic), Mode.MELODIC_MINOR, LineShape(way=LineDirection.DOWN))),
                wanted,
            )
        for tonic, wanted in CHROMATIC.items():
            self.assertEqual(letters(scale(Tonic.named(tonic), Mode.CHROMATIC)), wanted)

    def test_every_other_mode_has_each_letter_once(self) -> None:
        for mode in Mode:
            for tonic in ("C", "F♯", "B♭", "E", "A♭"):
                actual = self.up(tonic, mode).split()[:-1]
                if mode is not Mode.CHROMATIC:
                    self.assertEqual(len({name[0] for name in actual}), len(actual), (mode, tonic, actual))

    def test_arpeggios_and_chords_are_stacked_in_thirds(self) -> None:
        for name, wanted in ARPEGGIOS.items():
            chord = Chord.named(name)
            part = arpeggio(
                chord.root, chord.intervals, fifths=chord.key_fifths, shape=LineShape(way=LineDirection.UP)
            )
            self.assertEqual(letters(part), wanted, name)
        part = chord_sequence(read_sequence("Dm | A7 | B♭ | A♭"), with_bass=False)
        cards = {card.name: set(card.notes) for card in chord_cards(part)}
        self.assertEqual(cards["A7"], {"A", "C♯", "E", "G"})
        self.assertEqual(cards["A♭"], {"A♭", "C", "E♭"})

    def test_chords_are_called_as_their_notes_are_written(self) -> None:
        part = chord_sequence(read_sequence("E♭ | C♯m"), with_bass=False, voicing=Voicing.ROOT)
        bare = replace(part.named(), chords=())
        self.assertEqual(list(chord_names(bare).values()), ["E♭", "C♯m"])


class PartsTest(TestCase):
    def test_what_is_typed_or_imported_stays_as_it_is(self) -> None:
        part = read_lines(melody(bars=1).with_notes(()), "C#5 Db5 E#4 Fb4 Bbb3")
        self.assertEqual(letters(part.part), "C♯ D♭ E♯ F♭ B♭♭")
        back = read_musicxml(write_musicxml(part.part, title="T")).parts[0].part
        self.assertEqual(letters(back), "C♯ D♭ E♯ F♭ B♭♭")

    def test_a_name_goes_along_into_another_key_and_over_octaves(self) -> None:
        part = scale(Tonic.named("D"), Mode.HARMONIC_MINOR, LineShape(way=LineDirection.UP))
        self.assertEqual(letters(to_key(part, fifths=0).part), "A B C D E F G♯ A")
        self.assertEqual(letters(to_key(part, fifths=-6).part), "E♭ F G♭ A♭ B♭ C♭ D E♭")
        self.assertEqual(letters(transpose(part, frozenset({6}), semitones=12).part).split()[6], "C♯")
        chain = key_chain(part, order=KeyOrder.UP, keys=12)
        for section in chain.sections:
            first = chain.meters.bar(section.bar).start_tick
            names = [
                name
                for n, name in zip(chain.notes, chain.names, strict=True)
                if first <= n.onset_tick < first + 7 * 480
            ]
            self.assertEqual(len({4 * name % 7 for name in names}), 7, section.name)

    def test_unnamed_notes_go_by_key_neighbours_and_chord(self) -> None:
        self.assertEqual(letters(line([62, 64, 65, 67, 69, 70, 73, 74], fifths=-1)), "D E F G A B♭ C♯ D")
        self.assertEqual(letters(line([67, 66, 67, 69, 68, 69, 71, 72])), "G F♯ G A G♯ A B C")
        self.assertEqual(letters(line([72, 70, 69, 68, 67, 66, 65, 64, 62, 60], fifths=-3)).split()[3], "A♭")
        mark = ChordMark(tick=0, name="A♭")
        self.assertEqual(letters(line([68, 72, 75, 80], chords=(mark,))), "A♭ C E♭ A♭")

    def test_a_file_without_a_key_is_given_the_likeliest(self) -> None:
        for fifths in (-4, -1, 0, 3, 5):
            part = to_key(melody(), fifths=fifths).part
            data = write_part(part)
            at = data.index(b"\xff\x59")
            opened = open_file(data[:at] + b"\xff\x01" + data[at + 2 :])  # a text, in place of the key
            read = opened.part(opened.first_choice(Kind.KEYBOARD), kind=Kind.KEYBOARD)
            self.assertEqual(letters(read), letters(part), fifths)
        self.assertEqual((key_of([]), len(keys_of(np.zeros(0, dtype=np.int64)))), (0, 0))

    def test_scores_are_spelled_again_as_they_were(self) -> None:
        """A few of those that `./oido bench spelling` reads."""
        notes = wrong = wrong_without = 0
        for path in map(Path, corpus.getPaths()):
            if path.suffix != ".mxl" or f"{path.parent.name}/{path.stem}" not in SCORES:
                continue
            rows = sorted(
                (n.onset_tick, n.pitch, one.part.fifths_at(n.onset_tick), n.name_fifth)
                for one in read_musicxml(path.read_bytes()).parts for n in one.part.notes
            )  # fmt: skip
            _onset, pitch, fifths, names = np.array(rows).T
            unknown = np.full(len(pitch), UNKNOWN)
            notes += len(pitch)
            wrong += int((spelled(pitch, fifths, unknown) != names).sum())
            wrong_without += int((spelled(pitch, keys_of(pitch), unknown) != names).sum())
        self.assertGreater(notes, 8_000)
        self.assertLess(wrong / notes, 0.01)
        self.assertLess(wrong_without / notes, 0.02)
