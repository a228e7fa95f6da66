"""MusicXML out and in: nothing is lost, others can read it, strangers' files do no harm."""

import io
import json
import re
import zipfile
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from random import Random
from unittest import TestCase

import music21
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from ear.conventions import PLAIN
from ear.editing import velocities
from ear.editing.bars import delete_bars, repeat_bars
from ear.editing.edited import ALL
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.picking import pick
from ear.errors import FormatError
from ear.file_report import ASCII_SIGNS
from ear.formats import limits, safe_zip
from ear.formats.account import Lost
from ear.formats.importing import OpenedFile, open_file
from ear.formats.musicxml import read_musicxml, write_compressed, write_musicxml
from ear.formats.musicxml.levels import Levels
from ear.formats.part_json import part_from_json, part_to_json
from ear.notation.loudness import Loudness, loudness_of
from ear.notation.mei import mei_of
from ear.notation.written import spans_of, voices_of, write_out
from ear.notes import (
    GRACES,
    STANDARD_KIT,
    Articulation,
    Hand,
    Kind,
    MeterMap,
    Note,
    Ornament,
    Part,
    Section,
    SignKind,
    StaffSign,
    TempoChange,
    TempoMap,
    folded,
    ornaments_of,
    spell,
)  # fmt: skip
from ear.patterns.chords import chord_sequence, read_sequence
from ear.patterns.lines import five_finger
from ear.patterns.modes import Tonic
from ear.staves import staves_of
from tests.ear.parts import GROOVES, beat, melody, two_hands

STUBS = Path(__file__).parent / "xsd"
"""The two W3C schemas that MusicXML's own names, cut down to the attributes that it takes from them."""
METERS = ((4, 4), (3, 4), (6, 8), (5, 4), (7, 8), (2, 2))


def schema() -> etree.XMLSchema:
    text = (Path(music21.__file__).parent / "musicxml" / "musicxml.xsd").read_text()
    for name in ("xml", "xlink"):
        text = text.replace(f"http://www.musicxml.org/xsd/{name}.xsd", (STUBS / f"{name}.xsd").as_uri())
    return etree.XMLSchema(etree.fromstring(text.encode()))


@st.composite
def parts(draw) -> Part:
    """Parts such as are played: off the grid, in all meters, with fingers and words, over several bars."""
    kind = draw(st.sampled_from(Kind))
    notes = draw(
        st.lists(
            st.builds(
                Note,
                onset_tick=st.integers(0, 40).map(lambda k: 120 * k) | st.integers(0, 60).map(lambda k: 80 * k) | st.integers(0, 4800),
                length_tick=st.sampled_from((60, 120, 160, 240, 480, 720, 960)) | st.integers(1, 2400),
                pitch=st.integers(35, 57) if kind is Kind.DRUMS else st.integers(21, 108),
                velocity=st.integers(1, 127),
                hand=st.none() if kind is Kind.DRUMS else st.sampled_from(Hand),
                finger=st.none() if kind is Kind.DRUMS else st.none() | st.integers(1, 5),
                label=st.none() | st.sampled_from(("la", "tide-", "é ☂")),
                ornament=st.none() | st.none() | st.sampled_from(ornaments_of(kind.instrument)),
            ),
            min_size=1, max_size=24,
        )
    )  # fmt: skip
    one_hand = draw(st.booleans())
    if kind is Kind.KEYBOARD:
        hands = {n.hand for n in notes}
        if one_hand or len(hands) < 2:
            notes = [replace(n, hand=Hand.LEFT) for n in notes]
    over, under = draw(st.sampled_from(METERS))
    kept = {(n.onset_tick, n.pitch): n for n in notes}.values()
    # Small notes stand before a chord, and of two strokes of it on one pad nobody can tell whose they are.
    alone = [
        n
        for n in kept
        if not any(m is not n and m.pitch == n.pitch and abs(m.onset_tick - n.onset_tick) < 120 for m in kept)
    ]
    return Part.of(
        (n if n in alone else replace(n, ornament=None) for n in kept),
        kind=kind,
        meters=MeterMap.of(over, under),
        tempos=TempoMap([TempoChange(tick=0, bpm=draw(st.sampled_from((60.0, 92.5, 133.0))))]),
        fifths=0 if kind is Kind.DRUMS else draw(st.integers(-7, 7)),
        sections=(Section(bar=1, name="A"),) if draw(st.booleans()) else (),
        cues=[
            replace(
                n, hand=None if kind is Kind.DRUMS else Hand.RIGHT, finger=None, label=None, ornament=None
            )
            for n in notes[:1]
        ]
        if draw(st.booleans()) and kind is Kind.DRUMS
        else (),
    )


def back(part: Part) -> Part:
    return read_musicxml(write_musicxml(part, title="T")).parts[0].part


def with_all_said(part: Part) -> Part:
    """The part with the names and the voices that it is written with; voices where a staff has more than one."""
    if part.instrument.has_lanes:
        return part.named()
    staves = staves_of(part, kit=STANDARD_KIT)
    lines = [
        (staves.staff_of(n.pitch, n.hand), v)
        for n, v in zip(part.notes, voices_of(write_out(part)), strict=True)
    ]
    several = {staff for staff, voice in lines if voice > 1}
    named = part.named()
    return named.with_notes(
        replace(n, voice=voice if staff in several else None)
        for n, (staff, voice) in zip(named.notes, lines, strict=True)
    )


class RoundTripTest(TestCase):
    @settings(max_examples=80)
    @given(part=parts())
    def test_what_the_format_holds_comes_back(self, part: Part) -> None:
        actual, said = back(part), with_all_said(part)
        self.assertEqual(actual.notes, said.notes)
        self.assertEqual(actual.lasting(len(part.bars)), said.lasting(len(part.bars)))
        # What was said once is written and read as it is.
        self.assertEqual(back(actual), actual)

    def test_keys_chords_cues_and_sections_come_back(self) -> None:
        for part in (
            key_chain(five_finger(Tonic.named("C")), order=KeyOrder.FIFTHS, with_cue=True),
            chord_sequence(read_sequence("C | Am7/G F♯dim | B♭maj7 | E7sus4"), rhythm="x.xx"),
            *GROOVES,
            replace(melody(), least_bars=12),
        ):
            with self.subTest(part.kind, bars=len(part.bars)):
                self.assertEqual(back(part).lasting(len(part.bars)), part.named().lasting(len(part.bars)))

    def test_compressed_is_the_same(self) -> None:
        actual = read_musicxml(write_compressed(write_musicxml(two_hands(), title="Pier")))
        self.assertEqual(
            (actual.title, actual.parts[0].part, actual.not_imported), ("Pier", two_hands().named(), ())
        )


class LoudnessTest(TestCase):
    """Signs of loudness and velocities say the same, both ways."""

    def quiet(self, part: Part) -> Part:
        return velocities.by_sign(part, ALL, sign="mf").part

    def test_signs_set_velocities_and_velocities_write_the_signs(self) -> None:
        part = self.quiet(melody(bars=8))
        bar = part.meters.first.bar_ticks
        self.assertEqual(loudness_of(part), Loudness())
        for signs in (("p", "f"), ("ff", "pp"), ("mp", "f")):
            half = velocities.by_sign(part, pick(part, first_bar=1, last_bar=4), sign=signs[0]).part
            both = velocities.by_sign(half, pick(part, first_bar=5, last_bar=8), sign=signs[1]).part
            self.assertEqual(
                [(s.tick, s.sign) for s in loudness_of(both).signs], [(0, signs[0]), (4 * bar, signs[1])]
            )
            grown = velocities.by_sign(
                half, pick(part, first_bar=5, last_bar=8), sign=signs[0], to=signs[1]
            ).part
            actual = loudness_of(grown)
            self.assertEqual([s.sign for s in actual.signs], list(signs))
            self.assertEqual([h.is_rising for h in actual.hairpins], [signs[0] in ("p", "mp")])
            self.assertAlmostEqual(actual.hairpins[0].start_tick, 4 * bar, delta=2 * bar)

    def test_patterns_of_accents_are_no_change_of_loudness(self) -> None:
        for pattern in GROOVES:
            self.assertLessEqual(len(loudness_of(pattern).signs), 1)
        part = velocities.accent(
            self.quiet(melody(bars=8)), ALL, where=velocities.Accent.FIRST_BEATS, steps=20
        ).part
        self.assertEqual(loudness_of(part).hairpins, ())
        self.assertLessEqual(len(loudness_of(part).signs), 1)

    def test_signs_of_a_score_are_played_as_they_were_written(self) -> None:
        even = velocities.even_out(melody(bars=8), ALL).part
        part = velocities.by_sign(even, pick(even, last_bar=4), sign="p", to="f").part
        part = velocities.by_sign(part, pick(part, first_bar=5), sign="f").part
        # As another program would write it: signs alone.
        bare = re.sub(rb' dynamics="[^"]*"', b"", write_musicxml(part))
        actual = read_musicxml(bare).parts[0].part
        self.assertEqual(loudness_of(actual).signs[-1].sign, "f")
        self.assertLess(
            max(abs(a.velocity - b.velocity) for a, b in zip(actual.notes, part.notes, strict=True)), 14
        )
        drums = beat(bars=2).with_notes(
            replace(n, velocity=118 if n.pitch == 42 and not n.onset_tick % 960 else 80)
            for n in beat(bars=2).notes
        )
        document = re.sub(rb' dynamics="[^"]*"', b"", write_musicxml(drums))
        self.assertIn(b"<accent", document)
        struck = read_musicxml(document).parts[0].part
        self.assertTrue(
            all(
                (n.velocity > 90) is (m.velocity > 90) for n, m in zip(struck.notes, drums.notes, strict=True)
            )
        )

    def test_a_hairpin_leads_to_the_next_sign_or_a_step_further(self) -> None:
        levels = Levels(signs={0: 49, 1920: 96}, hairpins=[(960, 1920, True), (2880, 3840, False)])
        self.assertEqual(
            [levels.at(tick) for tick in (0, 900, 960, 1440, 1920, 2880, 3360, 3840, 9999)],
            [49, 49, 49, round(49 + 47 / 2), 96, 96, 88, 80, 80],
        )


class SecondReaderTest(TestCase):
    """Scores of music21's corpus, read by us and by music21: notes, names, ties, repeats, voices."""

    NAMES = (
        "mozart/k545/movement1_exposition.mxl", "mozart/k80/movement2.mxl", "mozart/k156/movement4.mxl", "corelli/opus3no1/1grave.xml",
        "trecento/PMFC_06_Piero_2-Chavalcando.xml", "monteverdi/madrigal.3.18.mxl", "demos/voices_with_chords.xml",
        "schoenberg/opus19/movement2.mxl",
    )  # fmt: skip
    """Two with repeats, two with several voices on a staff, one whose ties are begun and never ended."""

    def read(self, name: str) -> tuple[OpenedFile, music21.stream.Score]:
        path = Path(music21.__file__).parent / "corpus" / name
        score = music21.converter.parse(path)
        if any(part.recurse().getElementsByClass(music21.bar.Repeat) for part in score.parts):
            score = music21.stream.Score([part.expandRepeats() for part in score.parts])
        return open_file(path.read_bytes()), score

    def heard(self, score: music21.stream.Score) -> set[tuple[int, int, str]]:
        """(onset, length, name) of each note as it sounds; times in 96 to a quarter."""
        return {
            (round(float(each.offset) * 96), round(float(each.quarterLength) * 96), one.pitch.nameWithOctave.replace("-", "b"))
            for part in score.parts for each in part.toSoundingPitch().flatten().stripTies().notes
            if not each.duration.isGrace and not isinstance(each, music21.harmony.Harmony)
            for one in (each.notes if isinstance(each, music21.chord.Chord) else [each])
        }  # fmt: skip

    def test_notes_names_ties_and_repeats_are_the_same(self) -> None:
        for name in self.NAMES:
            opened, score = self.read(name)
            ours = {
                (round(n.onset_tick / 5), round((n.written_end_tick - n.onset_tick) / 5), f"{s.letter}{ASCII_SIGNS[s.alteration]}{s.step // 7 - 1}")
                for c in opened.choices for n in c.part.notes for s in [spell(n.pitch, name_fifth=n.name_fifth)]
            }  # fmt: skip
            with self.subTest(name):
                self.assertEqual(ours, self.heard(score))

    def test_voices_are_the_same(self) -> None:
        told = 0
        for name in ("schoenberg/opus19/movement2.mxl", "schumann_robert/opus41no1/movement3.mxl"):
            opened, score = self.read(name)
            voice = {(n.onset_tick, n.pitch): n.voice for c in opened.choices for n in c.part.notes}
            for measure in score.recurse().getElementsByClass(music21.stream.Measure):
                start = measure.getOffsetInHierarchy(score)
                actual = [
                    {
                        voice.get((round(480 * (start + each.getOffsetBySite(line))), pitch.midi))
                        for each in line.notes if each.tie is None or each.tie.type == "start" for pitch in each.pitches
                    }
                    for line in measure.voices
                ]  # fmt: skip
                actual = [numbers for numbers in actual if numbers]
                with self.subTest(name, measure=measure.number):
                    self.assertTrue(all(len(numbers) == 1 for numbers in actual), actual)
                    self.assertEqual(len({min(numbers) for numbers in actual}), len(actual))
                told += len(actual) > 1
        self.assertGreater(told, 3)


class OrnamentsTest(TestCase):
    def test_small_strokes_of_other_programs_make_a_flam_or_a_drag(self) -> None:
        part = beat(bars=1)
        first = next(k for k, n in enumerate(part.notes) if n.pitch == 38)
        for ornament in (Ornament.FLAM, Ornament.DRAG):
            flammed = part.with_notes(
                replace(n, ornament=ornament if k == first else None) for k, n in enumerate(part.notes)
            )
            document = write_musicxml(flammed)
            self.assertEqual(document.count(b"<grace"), GRACES[ornament])
            self.assertEqual(read_musicxml(document).parts[0].part, flammed)
            read = music21.converter.parse(document.decode(), format="musicxml").flatten().notes
            self.assertEqual(sum(n.duration.isGrace for n in read), GRACES[ornament])

    def test_a_grace_note_keeps_its_pitch_and_has_an_accidental_where_it_needs_one(self) -> None:
        part = melody(bars=1)
        first = part.notes[0].pitch
        for semitones in (None, -1, 1, 7):
            graced = part.with_notes(
                replace(n, ornament=Ornament.GRACE, grace_semitones=semitones) if k in (0, 1) else n
                for k, n in enumerate(part.notes)
            )
            document = write_musicxml(graced)
            kept = [(n.ornament, n.grace_semitones) for n in read_musicxml(document).parts[0].part.notes]
            self.assertEqual(kept, [(n.ornament, n.grace_semitones) for n in graced.notes])
            read = music21.converter.parse(document.decode(), format="musicxml").flatten().notes
            small = next(n for n in read if n.duration.isGrace)
            if semitones is not None:
                self.assertEqual(small.pitch.midi, first + semitones)
            shown = small.pitch.accidental is not None and bool(small.pitch.accidental.displayStatus)
            self.assertEqual(shown, small.pitch.name not in "CDEFGAB")

    def test_of_several_grace_notes_one_is_kept_and_the_others_are_told(self) -> None:
        small = note("D", 1).replace("<pitch>", "<grace/><pitch>").replace("<duration>1</duration>", "")
        lower = small.replace("<octave>4", "<octave>3")
        actual = read_musicxml(document(f"<measure>{lower}{small}{note('G', 8)}{small}</measure>"))
        kept = actual.parts[0].part.notes[0]
        self.assertEqual((kept.ornament, kept.grace_semitones), (Ornament.GRACE, -5))
        self.assertEqual([(row.feature, row.count) for row in actual.not_imported], [(Lost.GRACE, 2)])

    def test_each_sign_is_drawn_and_others_read_it(self) -> None:
        for ornament, name in (
            (Ornament.TRILL, "Trill"), (Ornament.MORDENT, "Mordent"), (Ornament.UPPER_MORDENT, "InvertedMordent"),
            (Ornament.TURN, "Turn"), (Ornament.ROLL, "Tremolo"),
        ):  # fmt: skip
            part = melody(bars=1)
            part = part.with_notes(
                replace(n, ornament=ornament if not k else None) for k, n in enumerate(part.notes)
            )
            read = (
                music21.converter.parse(write_musicxml(part).decode(), format="musicxml").flatten().notes[0]
            )
            self.assertIn(name, [type(each).__name__ for each in read.expressions])
            mei = mei_of(part)
            self.assertIn("3slash" if ornament is Ornament.ROLL else 'startid="#n0-0"', mei)


class OthersReadItTest(TestCase):
    def test_it_keeps_to_the_schema(self) -> None:
        valid = schema()
        for part in (
            melody(), two_hands(), beat(), *GROOVES,
            key_chain(five_finger(Tonic.named("E")), order=KeyOrder.UP, with_cue=True),
            chord_sequence(read_sequence("C Am | Gaug7/B"), rhythm="x.x"),
            replace(melody(), notes=tuple(replace(n, label="la", finger=2) for n in melody().notes)),
        ):  # fmt: skip
            document = etree.fromstring(write_musicxml(part))
            self.assertTrue(valid.validate(document), valid.error_log.filter_from_errors()[:2])

    def test_another_reader_finds_the_same_notes(self) -> None:
        for part in (melody(), two_hands()):
            score = music21.converter.parse(write_musicxml(part).decode(), format="musicxml")
            actual = sorted(
                (round(float(note.getOffsetInHierarchy(score)) * 480), pitch.midi)
                for note in score.recurse().notes
                if note.tie is None or note.tie.type == "start"
                for pitch in note.pitches
            )
            self.assertEqual(actual, [(n.onset_tick, n.pitch) for n in part.notes])


def document(measures: str, *, head: str = "", attributes: str = "") -> bytes:
    first = f"<attributes><divisions>2</divisions><time><beats>4</beats><beat-type>4</beat-type></time>{attributes}</attributes>"
    body = measures.replace("<measure>", f"<measure>{first}", 1)
    return (
        f'<score-partwise version="4.0">{head}<part-list><score-part id="P1"><part-name>Air</part-name></score-part>'
        f'</part-list><part id="P1">{body}</part></score-partwise>'
    ).encode()


def note(step: str, duration: int = 8, more: str = "", octave: int = 4) -> str:
    return f"<note><pitch><step>{step}</step><octave>{octave}</octave></pitch><duration>{duration}</duration>{more}</note>"


TIES = ('<tie type="start"/>', '<tie type="stop"/>')
REPEAT = '<barline location="right"><repeat direction="backward"/></barline>'
FORWARD = '<barline location="left"><repeat direction="forward"/></barline>'


def ending(number: str, *, closes: bool) -> str:
    side, kind = ("right", "stop") if closes else ("left", "start")
    repeat = '<repeat direction="backward"/>' if closes and number != "2" else ""
    return f'<barline location="{side}"><ending number="{number}" type="{kind}"/>{repeat}</barline>'


def with_endings() -> Part:
    """C D | C E | F, and from the sign over F once more."""
    measures = (
        f"<measure>{FORWARD}{note('C')}</measure>"
        f"<measure>{ending('1', closes=False)}{note('D')}{ending('1', closes=True)}</measure>"
        f"<measure>{ending('2', closes=False)}{note('E')}{ending('2', closes=True)}</measure>"
        f"<measure><sound segno='s'/>{note('F')}<sound dalsegno='s'/></measure>"
    )
    return read_musicxml(document(measures)).parts[0].part


def sounding(part: Part) -> list[tuple[int, ...]]:
    return [(n.onset_tick, n.length_tick, n.pitch, n.velocity) for n in part.notes]


class ReadingTest(TestCase):
    def letters(self, measures: str) -> str:
        part = read_musicxml(document(measures)).parts[0].part
        return "".join("CDEFGAB"[(0, 2, 4, 5, 7, 9, 11).index(n.pitch % 12)] for n in part.notes)

    def test_repeats_are_unfolded(self) -> None:
        bars = {step: note(step) for step in "CDEFG"}
        table = (
            (f"<measure>{bars['C']}{REPEAT}</measure><measure>{bars['D']}</measure>", "CCD"),
            (f"<measure>{bars['C']}</measure><measure>{FORWARD}{bars['D']}{REPEAT}</measure><measure>{bars['E']}</measure>", "CDDE"),
            (
                f"<measure>{bars['C']}</measure><measure>{ending('1', closes=False)}{bars['D']}{ending('1', closes=True)}</measure>"
                f"<measure>{ending('2', closes=False)}{bars['E']}{ending('2', closes=True)}</measure><measure>{bars['F']}</measure>",
                "CDCEF",
            ),
            (
                f"<measure>{bars['C']}</measure><measure>{bars['D']}<sound fine='yes'/></measure>"
                f"<measure>{bars['E']}<sound dacapo='yes'/></measure>",
                "CDECD",
            ),
            (
                f"<measure>{bars['C']}</measure><measure><sound segno='s'/>{bars['D']}<sound tocoda='c'/></measure>"
                f"<measure>{bars['E']}<sound dalsegno='s'/></measure><measure><sound coda='c'/>{bars['F']}</measure>",
                "CDEDF",
            ),
        )  # fmt: skip
        for measures, order in table:
            with self.subTest(order):
                self.assertEqual(self.letters(measures), order)

    def test_the_written_form_is_kept_and_written_again(self) -> None:
        bars = {step: f"<measure>{{}}{note(step, 8)}{{}}</measure>" for step in "CDEFGA"}

        def bar(step: str, before: str = "", behind: str = "") -> str:
            return bars[step].format(before, behind)

        first, second = ((ending(k, closes=False), ending(k, closes=True)) for k in "12")
        table = (
            (bar("C") + bar("D", behind=REPEAT) + bar("E"), "CDCDE", 3),
            (bar("C") + bar("D", FORWARD, REPEAT.replace("/></bar", ' times="3"/></bar')) + bar("E"), "CDDDE", 3),
            (bar("C", FORWARD) + bar("D", *first) + bar("E", *second) + bar("F", behind=REPEAT) + bar("G"), "CDCEFFG", 5),
            (bar("C") + bar("D", behind="<sound fine='yes'/>") + bar("E", behind="<sound dacapo='yes'/>"), "CDECD", 3),
            (
                bar("C") + bar("D", "<sound segno='s'/>", "<sound tocoda='c'/>") + bar("E", behind="<sound dalsegno='s'/>")
                + bar("F", "<sound coda='c'/>"),
                "CDEDF", 4,
            ),
        )  # fmt: skip
        for measures, order, written in table:
            with self.subTest(order):
                part = read_musicxml(document(measures)).parts[0].part
                self.assertEqual("".join("C.D.EF.G.A.B"[n.pitch % 12] for n in part.notes), order)
                self.assertEqual(part_from_json(json.loads(json.dumps(part_to_json(part)))), part)
                data = write_musicxml(part)
                self.assertEqual(data.count(b"<measure"), written)
                self.assertTrue(schema().validate(etree.fromstring(data)), schema().error_log)
                again = read_musicxml(data).parts[0].part
                self.assertEqual((again.notes, again.form), (part.notes, part.form))
                self.assertEqual(again.tempos.first_bpm, part.tempos.first_bpm)

    def test_what_is_another_the_second_time_is_written_as_it_is_played(self) -> None:
        measures = f"<measure>{note('C', 8)}</measure><measure>{note('D', 8)}{REPEAT}</measure><measure>{note('E', 8)}</measure>"
        part = read_musicxml(document(measures)).parts[0].part
        notes = list(part.notes)
        for place, change in (
            (3, {"pitch": 71, "name_fifth": 5}), (3, {"velocity": 20}), (1, {"length_tick": 2400}), (4, {"length_tick": 960}),
        ):  # fmt: skip
            other = part.with_notes([*notes[:place], replace(notes[place], **change), *notes[place + 1 :]])
            data = write_musicxml(other)
            # The last bar is not repeated: what is changed there is no other form.
            self.assertEqual(data.count(b"<measure"), 3 if place == 4 else 5)
            self.assertEqual(sounding(read_musicxml(data).parts[0].part), sounding(other))
        # A note that lasts over the repeat each time would be tied into other music.
        lasting = part.with_notes(
            replace(n, length_tick=2400) if k in (1, 3) else n for k, n in enumerate(notes)
        )
        self.assertIsNone(folded(lasting))
        self.assertEqual(sounding(read_musicxml(write_musicxml(lasting)).parts[0].part), sounding(lasting))
        for other in (delete_bars(part, first=2, last=2).part, replace(part, least_bars=6)):
            self.assertIsNone(folded(other))
            self.assertEqual(sounding(read_musicxml(write_musicxml(other)).parts[0].part), sounding(other))

    def test_bars_repeated_by_hand_are_written_once(self) -> None:
        made = repeat_bars(melody(), first=2, last=3, times=1).part
        data = write_musicxml(made)
        self.assertEqual(data.count(b"<measure"), len(melody().bars))
        self.assertEqual(sounding(read_musicxml(data).parts[0].part), sounding(made))
        self.assertEqual(made.form and made.form.passages, ((4, 2, True),))

    def test_what_an_instrument_that_transposes_reads_is_written_as_it_sounds(self) -> None:
        bar = (
            "<measure>"
            + "".join(
                f"<note><pitch><step>{step}</step><alter>{alter}</alter><octave>4</octave></pitch><duration>1</duration></note>"
                for step, alter in (("D", 0), ("F", 1), ("A", 1), ("E", -1))
            )
            + "</measure>"
        )
        for chromatic, key, sounding, names in (
            (-2, 2, 0, "C E G♯ D♭"),
            (-9, 3, 0, "F A C♯ G♭"),
            (3, 4, 1, "F A C♯ G♭"),
        ):
            attributes = (
                f"<key><fifths>{key}</fifths></key><transpose><chromatic>{chromatic}</chromatic></transpose>"
            )
            part = read_musicxml(document(bar, attributes=attributes)).parts[0].part
            actual = " ".join(PLAIN.letter(n.pitch, name_fifth=n.name_fifth) for n in part.notes)
            self.assertEqual((part.fifths, actual), (sounding, names), chromatic)

    def test_pick_up_ties_voices_and_transposition(self) -> None:
        pickup = (
            f"<measure>{note('G', 2)}</measure>"
            f"<measure>{note('C', 8, TIES[0])}</measure>"
            f"<measure>{note('C', 4, TIES[1])}{note('E', 4)}</measure>"
        )
        actual = read_musicxml(
            document(pickup, attributes="<transpose><chromatic>-2</chromatic></transpose>")
        )
        part = actual.parts[0].part
        self.assertEqual(
            [(n.onset_tick, n.length_tick, n.pitch) for n in part.notes],
            [(1440, 480, 65), (1920, 2880, 58), (4800, 960, 62)],
        )
        self.assertEqual(([bar.number for bar in part.bars], actual.not_imported), ([0, 1, 2], ()))

    def test_slurs_fermatas_words_and_articulations_come_back(self) -> None:
        part = two_hands(bars=2)
        notes = list(part.notes)
        notes[0] = replace(
            notes[0], articulations=(Articulation.STACCATO, Articulation.ACCENT), length_tick=240
        )
        notes[-1] = replace(notes[-1], articulations=(Articulation.TENUTO,))
        right, left = (
            sorted({n.onset_tick for n in notes if n.hand is hand}) for hand in (Hand.RIGHT, Hand.LEFT)
        )
        signs = (
            StaffSign(tick=right[0], kind=SignKind.TEXT, end_tick=right[0], text="with weight"),
            StaffSign(tick=right[0], kind=SignKind.SLUR, end_tick=right[2]),
            StaffSign(tick=left[0], kind=SignKind.SLUR, end_tick=left[1], is_left=True),
            StaffSign(tick=right[2], kind=SignKind.SLUR, end_tick=right[3]),
            StaffSign(tick=right[-1], kind=SignKind.FERMATA, end_tick=right[-1]),
        )
        full = Part.of(
            notes, kind=part.kind, meters=part.meters, tempos=part.tempos, fifths=part.fifths, signs=signs
        ).named()
        document = write_musicxml(full)
        read = read_musicxml(document)
        self.assertEqual((read.parts[0].part.signs, read.not_imported), (full.signs, ()))
        self.assertEqual(tuple(replace(n, voice=None) for n in read.parts[0].part.notes), full.notes)
        self.assertEqual(part_from_json(part_to_json(full)), full)
        mei = mei_of(full)
        for drawn, times in (
            ("<slur", 3),
            ("<fermata", 1),
            ("with weight", 1),
            ('artic="stacc"', 1),
            ('artic="ten"', 1),
        ):
            self.assertEqual(mei.count(drawn), times, drawn)
        # Half as long as it is written: a crotchet with a dot, not a quaver and a rest.
        self.assertEqual(spans_of(write_out(full))[0], (0, 480))
        foreign = document.replace(b' release="-240"', b"")
        self.assertEqual(read_musicxml(foreign).parts[0].part.notes[0].length_tick, 240)

    def test_what_is_not_understood_is_said(self) -> None:
        grace = note("D", 1).replace("<pitch>", "<grace/><pitch>").replace("<duration>1</duration>", "")
        trill = note(
            "C",
            8,
            "<notations><ornaments><shake/></ornaments><articulations><spiccato/></articulations></notations><lyric><text>one</text></lyric><lyric><text>two</text></lyric>",
        )
        actual = read_musicxml(document(f"<measure>{grace}{trill}</measure>"))
        self.assertEqual(actual.parts[0].part.notes[0].label, "one")
        self.assertEqual(
            [(row.feature, row.bar, row.count) for row in actual.not_imported],
            [(feature, 1, 1) for feature in (Lost.ORNAMENTS, Lost.ARTICULATIONS, Lost.VERSES)],
        )

    def test_drums_are_told_by_instrument_or_place(self) -> None:
        head = "<note><unpitched><display-step>{}</display-step><display-octave>{}</display-octave></unpitched><duration>8</duration>{}</note>"
        cross = "<notehead>x</notehead>"
        measures = f"<measure>{head.format('C', 5, '')}</measure><measure>{head.format('G', 5, cross)}</measure><measure>{head.format('F', 4, '')}</measure>"
        part = read_musicxml(document(measures)).parts[0].part
        self.assertEqual((part.kind, [n.pitch for n in part.notes]), (Kind.DRUMS, [38, 42, 36]))


class HarmTest(TestCase):
    def refused(self, data: bytes) -> str:
        with self.assertRaises(FormatError) as caught:
            read_musicxml(data)
        return str(caught.exception)

    def test_damaged_archives_are_refused_whatever_is_broken_in_them(self) -> None:
        """Negative places, names that are no text, compressions that are no data: the library raises many things."""
        buffer, chance = io.BytesIO(), Random(1)
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
            for name in ("exercise.json", "META-INF/container.xml"):
                archive.writestr(name, f"{name} " * 40)
        refused = 0
        for _ in range(3000):
            data = bytearray(buffer.getvalue())
            for _ in range(chance.randint(1, 6)):
                data[chance.randrange(len(data))] = chance.randrange(256)
            try:
                with safe_zip.opened(bytes(data)) as archive:
                    for name in archive.namelist():
                        safe_zip.entry(archive, name)
            except FormatError:
                refused += 1
        self.assertGreater(refused, 1000)

    def test_entities_and_bombs_are_refused(self) -> None:
        for dtd in (
            '<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]>',
            '<!DOCTYPE a [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]>',
        ):
            self.assertIn(
                "without entities", self.refused(f"<?xml version='1.0'?>{dtd}<score-partwise/>".encode())
            )
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("score.xml", b" " * (limits.OPENED_BYTES + 10))
        self.assertLess(len(buffer.getvalue()), 40_000)
        self.assertIn("at most 20,000,000 bytes", self.refused(buffer.getvalue()))

    def test_what_is_no_score_is_refused_in_words(self) -> None:
        whole = write_musicxml(two_hands())
        for data in (
            b"", b"<a/>", b"hello", whole[: len(whole) // 2], b"<score-timewise/>", b"<score-partwise/>",
            write_compressed(whole)[:200], b"PK\x03\x04" + b"\0" * 40,
            document(f"<measure>{note('H')}</measure>"),
            document(f"<measure>{note('C', 10**9)}</measure>"),
            document("<measure><attributes><time><beats>4</beats><beat-type>5</beat-type></time></attributes></measure>"),
        ):  # fmt: skip
            with self.subTest(data[:60]):
                self.assertTrue(self.refused(data))

    @settings(max_examples=60)
    @given(cut=st.integers(0, 4000), patch=st.binary(max_size=6))
    def test_broken_documents_raise_nothing_else(self, cut: int, patch: bytes) -> None:
        data = write_musicxml(two_hands())
        broken = data[:cut] + patch + data[cut + len(patch) :]
        with suppress(FormatError):
            read_musicxml(broken)
