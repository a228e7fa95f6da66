"""Files from elsewhere are opened: what is in them, what is not kept, what is taken."""

import json
from collections.abc import Sequence
from dataclasses import replace
from io import BytesIO
from unittest import TestCase, mock

import mido
from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.editing.bars import insert_bars
from ear.editing.key_chain import KeyOrder, key_chain
from ear.errors import FormatError, ValueOutOfRange
from ear.file_report import title_of
from ear.formats import limits, sandboxed_reader
from ear.formats.account import Lost
from ear.formats.importing import HandsFrom, bars_to_take, open_file, opened_from_json, opened_to_json
from ear.formats.multi_part_import import fits
from ear.formats.musicxml import write_musicxml
from ear.formats.sandboxed_reader import checked, read_in_sandbox
from ear.formats.smf_parts import read_part, read_take
from ear.formats.smf_writing import write_part
from ear.notes import Hand, Kind, Note, Section
from ear.patterns.lines import five_finger
from ear.patterns.modes import Tonic
from ear.players.robot import Habits, play
from tests.ear.parts import beat, melody, two_hands


def midi(*tracks: Sequence[mido.Message | mido.MetaMessage], kind: int = 1, charset: str = "utf-8") -> bytes:
    file = mido.MidiFile(type=kind, ticks_per_beat=96, charset=charset)
    file.tracks += [mido.MidiTrack(track) for track in tracks]
    buffer = BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def strike(pitch: int, channel: int = 0, *, wait: int = 0, lasts: int = 96) -> list[mido.Message]:
    return [
        mido.Message("note_on", note=pitch, velocity=70, channel=channel, time=wait),
        mido.Message("note_off", note=pitch, velocity=0, channel=channel, time=lasts),
    ]


class OpeningTest(TestCase):
    def test_tracks_and_channels_are_told_apart(self) -> None:
        name = mido.MetaMessage("track_name", name="Pier")
        opened = open_file(midi([name, *strike(72), *strike(43, 1), *strike(36, 9)], strike(60, 2)))
        self.assertEqual((opened.title, opened.kind), ("Pier", Kind.KEYBOARD))
        table = [(c.key, c.name, c.number, c.channel, c.notes, c.kind) for c in opened.choices]
        self.assertEqual(
            table,
            [
                ("0-0", "Pier", 1, 1, 1, Kind.KEYBOARD), ("0-1", "Pier", 1, 2, 1, Kind.KEYBOARD),
                ("0-9", "Pier", 1, 10, 1, Kind.DRUMS), ("1-2", "", 2, 3, 1, Kind.KEYBOARD),
            ],
        )  # fmt: skip
        self.assertEqual(opened.first_choice(Kind.DRUMS), ("0-9",))
        two = opened.part(("0-0", "0-1"), kind=Kind.KEYBOARD)
        self.assertEqual([(n.pitch, n.hand) for n in two.notes], [(72, Hand.RIGHT), (43, Hand.LEFT)])
        split = opened.part(("0-0", "1-2", "0-1"), kind=Kind.KEYBOARD, hands=HandsFrom.SPLIT)
        self.assertEqual(
            {n.pitch: n.hand for n in split.notes}, {72: Hand.RIGHT, 60: Hand.RIGHT, 43: Hand.LEFT}
        )
        self.assertRaises(ValueOutOfRange, opened.part, (), kind=Kind.KEYBOARD)

    def test_what_is_not_kept_is_said(self) -> None:
        data = midi(
            [
                mido.Message("program_change", program=4), mido.Message("pitchwheel", pitch=200),
                mido.Message("control_change", control=1, value=9), mido.Message("control_change", control=64, value=99),
                *strike(60), mido.Message("control_change", control=64, value=0),
            ]
        )  # fmt: skip
        rows = open_file(data).not_imported
        self.assertEqual(
            [(row.feature, row.bar) for row in rows],
            [
                (Lost.NO_TEMPO, None),
                (Lost.NO_METER, None),
                (Lost.BENDS, 1),
                (Lost.CONTROLLERS, 1),
                (Lost.SOUNDS, 1),
            ],
        )
        self.assertEqual(open_file(write_part(two_hands())).not_imported, ())

    def test_texts_may_be_in_the_old_alphabet(self) -> None:
        name = mido.MetaMessage("track_name", name="Übung")
        self.assertEqual(open_file(midi([name, *strike(60)], charset="latin-1")).title, "Übung")

    def test_parts_of_a_score_are_put_together(self) -> None:
        opened = open_file(write_musicxml(two_hands(), title="Pier"))
        self.assertEqual((opened.title, opened.format, len(opened.choices)), ("Pier", "MusicXML", 1))
        self.assertEqual(opened.part(("0",), kind=Kind.KEYBOARD), two_hands().named())
        self.assertEqual(
            {n.hand for n in opened.part(("0",), kind=Kind.KEYBOARD, hands=HandsFrom.NONE).notes}, {None}
        )
        self.assertIs(open_file(write_musicxml(beat())).kind, Kind.DRUMS)

    def test_other_files_are_refused_in_words(self) -> None:
        for data in (b"", b"RIFF....", b"PK\x03\x04", b"\xef\xbb\xbf<html/>", b"MThd"):
            self.assertRaises(FormatError, open_file, data)


class OrdinaryFilesTest(TestCase):
    """Files as programs write them: many tracks, keys struck twice, parts that do not agree, works too long."""

    def test_a_key_struck_twice_at_one_moment_is_struck_once_and_that_is_said(self) -> None:
        data = midi(
            [mido.MetaMessage("track_name", name="Conductor")], [*strike(60), *strike(64)], [*strike(60, 1, lasts=200)],
            [*strike(43, 1)],
        )  # fmt: skip
        opened = open_file(data)
        taken = opened.take([c.key for c in opened.choices], kind=Kind.KEYBOARD)
        self.assertEqual([(n.onset_tick, n.length_tick, n.pitch) for n in taken.part.notes],
                         [(0, 480, 43), (0, 1000, 60), (480, 480, 64)])  # fmt: skip
        self.assertEqual([(r.feature, r.bar, r.count) for r in taken.not_imported], [(Lost.UNISON, 1, 1)])
        part = read_part(data, kind=Kind.KEYBOARD)
        self.assertEqual(len(read_take(data, part=part).notes), len(part.notes))
        facts = assess(part, play(part, Habits(), seed=1)).facts
        self.assertEqual(facts.counts.matched, len(part.notes))

    def test_titles_are_the_pieces_and_never_the_tracks(self) -> None:
        for name, title in (
            ("Conductor", ""), ("Track 1", ""), ("right hand", ""), ("", ""), ("Piano", ""), ("Ebb and flow", "Ebb and flow"),
        ):  # fmt: skip
            with self.subTest(name):
                named = mido.MetaMessage("track_name", name=name)
                self.assertEqual(open_file(midi([named], strike(60))).title, title)
        self.assertEqual(title_of(open_file(midi(strike(60))), "Ebb_and_flow.mid"), "Ebb and flow")
        self.assertEqual(open_file(write_part(two_hands(), title="Sea Gate")).title, "Sea Gate")
        drums = mido.MetaMessage("track_name", name="Drum kit")
        self.assertIs(open_file(midi([drums, *strike(36, 0), *strike(38, 0)])).kind, Kind.DRUMS)

    def test_of_many_tracks_those_for_two_hands_are_proposed(self) -> None:
        def track(name: str, channel: int, program: int, notes: int) -> list[mido.Message | mido.MetaMessage]:
            begins = [mido.MetaMessage("track_name", name=name)]
            return [*begins, mido.Message("program_change", channel=channel, program=program)] + [
                message for _ in range(notes) for message in strike(60, channel)
            ]

        strings, bass = track("Strings", 2, 48, 9), track("Bass", 3, 33, 9)
        named = open_file(midi(strings, bass, track("Left", 0, 0, 2), track("Right", 0, 0, 3)))
        self.assertEqual(named.first_choice(Kind.KEYBOARD), ("2-0", "3-0"))
        sounding = open_file(midi(strings, bass, track("", 0, 0, 2)))
        self.assertEqual(sounding.first_choice(Kind.KEYBOARD), ("2-0",))
        neither = open_file(midi(strings, bass, track("", 0, 70, 12)))
        self.assertEqual(neither.first_choice(Kind.KEYBOARD), ("2-0",))

    def test_a_bar_that_one_part_leaves_short_shifts_nothing(self) -> None:
        def part(key: str, *bars: str) -> str:
            measures = "".join(f"<measure>{bar}</measure>" for bar in bars)
            return f'<part id="{key}">{measures}</part>'

        def quarter(step: str) -> str:
            pitch = f"<pitch><step>{step}</step><octave>4</octave></pitch>"
            return f"<note>{pitch}<duration>1</duration></note>"

        begins = "<attributes><divisions>1</divisions><time><beats>2</beats><beat-type>4</beat-type></time></attributes>"
        score = (
            "<score-partwise><part-list/>"
            + part("P1", begins + quarter("C") * 2, quarter("D"), quarter("E") * 2)
            + part("P2", begins + quarter("F") * 2, quarter("G") * 2, quarter("A") * 2)
            + "</score-partwise>"
        )
        for encoding in ("utf-8", "utf-16"):
            opened = open_file(score.encode(encoding))
            onsets = [[n.onset_tick for n in c.part.notes] for c in opened.choices]
            self.assertEqual(onsets, [[0, 480, 960, 1920, 2400], [0, 480, 960, 1440, 1920, 2400]])
            self.assertEqual([(r.feature, r.bar) for r in opened.not_imported], [(Lost.UNEVEN, 2)])

    def test_a_bar_is_as_long_as_its_meter_says_or_as_most_parts_have_it(self) -> None:
        def part(*lengths: int) -> str:
            note = "<note><pitch><step>C</step><octave>4</octave></pitch><duration>{}</duration></note>"
            return f"<part>{''.join(f'<measure>{begins}{note.format(length)}</measure>' for length in lengths)}</part>"

        begins = "<attributes><divisions>1</divisions><time><beats>2</beats><beat-type>4</beat-type></time></attributes>"
        # Bar 2: two parts are short and one is full. Bar 3: nobody is full, two agree, one is too long.
        parts = part(2, 1, 1, 2) + part(2, 1, 1, 2) + part(2, 2, 3, 2)
        opened = open_file(f"<score-partwise><part-list/>{parts}</score-partwise>".encode())
        for choice in opened.choices:
            self.assertEqual([n.onset_tick for n in choice.part.notes], [0, 960, 1920, 2400])
        self.assertEqual(
            [(r.feature, r.bar, r.count) for r in opened.not_imported],
            [(Lost.OWN_METER, 3, 1), (Lost.UNEVEN, 2, 2), (Lost.OVERFULL, 3, 1)],
        )

    def test_of_a_long_work_some_bars_are_taken(self) -> None:
        opened = open_file(write_part(melody(bars=440)))
        keys = opened.first_choice(Kind.KEYBOARD)
        whole = opened.take(keys, kind=Kind.KEYBOARD)
        self.assertEqual((whole.bars, bars_to_take(whole.bars), fits(whole.part)), (440, (1, 400), False))
        some = opened.take(keys, kind=Kind.KEYBOARD, bars=(401, 404))
        self.assertEqual((len(some.part.bars), some.bars), (4, 440))
        first = whole.part.meters.bar(401).start_tick
        self.assertEqual(
            [(n.onset_tick, n.pitch) for n in some.part.notes],
            [(n.onset_tick - first, n.pitch) for n, bar in zip(whole.part.notes, whole.part.bar_of_note, strict=True)
             if 401 <= bar <= 404],
        )  # fmt: skip
        self.assertRaises(FormatError, read_part, write_part(melody(bars=440)), kind=Kind.KEYBOARD)

    def test_what_was_opened_is_kept_as_plain_values(self) -> None:
        for data in (write_part(two_hands()), write_musicxml(two_hands(), title="Pier")):
            opened = open_file(data)
            self.assertEqual(opened_from_json(json.loads(json.dumps(opened_to_json(opened)))), opened)


class LimitsTest(TestCase):
    """Each limit stops a file that has one too many of its thing while it is read, and says so."""

    def refused(self, data: bytes) -> str:
        with self.assertRaises(FormatError) as caught:
            open_file(data)
        return str(caught.exception)

    def test_midi_that_has_too_much_is_refused(self) -> None:
        far = mido.Message("note_on", note=60, time=0x0FFFFFFF)
        tempos = [mido.MetaMessage("set_tempo", tempo=500_000, time=1)] * (limits.TEMPOS + 1)
        meters = [mido.MetaMessage("time_signature", time=1)] * (limits.METERS + 1)
        bends = [mido.Message("pitchwheel", pitch=k % 99) for k in range(limits.MIDI_STEPS // 3)]
        notes = [mido.Message("note_on", note=60, velocity=9, time=9)] * (limits.NOTES + 1)
        for messages, said in (
            ([far], "bars"), (tempos, "changes of tempo"), (meters, "changes of meter"), (bends, "bytes of messages"),
            (notes, "notes"),
        ):  # fmt: skip
            with self.subTest(said):
                self.assertIn(said, self.refused(midi(messages)))
        head = midi(strike(60))[:22]
        self.assertIn("bytes for one number", self.refused(head + b"\xff" * 20_000))
        self.assertIn("tracks", self.refused(head[:10] + b"\xff\xff" + head[12:]))
        # What stands an age behind the last note is no music.
        late = mido.MetaMessage("text", text="x", time=0x0FFFFFFF)
        self.assertEqual(len(read_part(midi([*strike(60), late]), kind=Kind.KEYBOARD).bars), 1)

    def test_scores_that_have_too_much_are_refused(self) -> None:
        def score(body: str, divisions: str = "1") -> bytes:
            first = f"<attributes><divisions>{divisions}</divisions></attributes>"
            return f"<score-partwise><part-list/><part id='P'><measure>{first}{body}</measure></part></score-partwise>".encode()

        note = "<note><pitch><step>C</step><octave>4</octave></pitch><duration>1</duration></note>"
        repeat = '<barline><repeat direction="backward" times="{0}"/></barline>'
        measure = f"<measure>{note}</measure>"
        for data, said in (
            (score(note, "0.00001"), "quarters in a bar"), (score(note * 80), "quarters in a bar"),
            (score("<a>" * 90), "in one another"), (score("<a/>" * (limits.ELEMENTS + 1)), "elements"),
            (score(note * 2000 + repeat.format(16), "100"), "notes"), (score(f"</measure>{measure * 2001}<measure>"), "bars"),
        ):  # fmt: skip
            with self.subTest(said):
                self.assertIn(said, self.refused(data))
        endless = '<barline><ending number="{0}" type="start"/></barline>' + repeat
        self.assertEqual(len(open_file(score(note + endless.format("9" * 6000))).choices), 1)

    def test_a_file_that_is_too_hard_ends_its_own_process_alone(self) -> None:
        self.assertEqual(
            opened_from_json(checked(read_in_sandbox(write_part(two_hands())))),
            open_file(write_part(two_hands())),
        )
        with self.assertRaises(FormatError) as caught:
            checked(read_in_sandbox(b"hello"))
        self.assertIn("MIDI or MusicXML", str(caught.exception))
        hard = write_part(melody(bars=390))
        for name, most in (("CPU_S", 0), ("MEMORY_BYTES", 1)):
            with self.subTest(name), mock.patch.object(sandboxed_reader, name, most):
                with self.assertRaises(FormatError) as refused:
                    checked(read_in_sandbox(hard))
                self.assertIn("read within", str(refused.exception))


class WhatMidiHoldsTest(TestCase):
    @given(notes=st.lists(
        st.tuples(st.integers(0, 3840), st.integers(1, 2000), st.sampled_from((60, 62)), st.sampled_from((None, *Hand))),
        min_size=1, max_size=24, unique_by=lambda n: (n[0], n[2]),
    ))  # fmt: skip
    @settings(max_examples=60)
    def test_lengths_come_back_where_a_key_is_struck_while_it_is_held(self, notes) -> None:
        hands = {hand for *_, hand in notes}
        part = melody().with_notes(
            Note(
                onset_tick=at,
                length_tick=length,
                pitch=pitch,
                velocity=64,
                hand=None if None in hands else hand,
            )
            for at, length, pitch, hand in notes
        )
        self.assertEqual(read_part(write_part(part), kind=Kind.KEYBOARD).notes, part.notes)
        self.assertEqual(len(read_take(write_part(part), part=part).notes), len(part.notes))

    def test_a_stroke_whose_end_is_missing_ends_at_the_next(self) -> None:
        on, off = (
            mido.Message("note_on", note=60, velocity=70, time=96),
            mido.Message("note_off", note=60, time=96),
        )
        actual = read_part(midi([on, on, off, off, on, on, off]), kind=Kind.KEYBOARD)
        self.assertEqual(
            [(n.onset_tick, n.length_tick) for n in actual.notes],
            [(480, 960), (960, 960), (2400, 480), (2880, 480)],
        )
        # Without a next one it lasts a whole note, not to the end of the piece.
        later = [mido.Message("note_on", note=72, velocity=70, time=96 * 40), off.copy(note=72)]
        actual = read_part(midi([on, *later]), kind=Kind.KEYBOARD)
        self.assertEqual([n.length_tick for n in actual.notes], [1920, 480])

    def test_sections_words_and_empty_bars_come_back(self) -> None:
        part = replace(
            melody(), least_bars=11, sections=(Section(bar=1, name="Ebbe"), Section(bar=5, name="Flut ♭")),
            notes=tuple(replace(n, label="la" if k % 3 else None) for k, n in enumerate(melody().notes)),
        )  # fmt: skip
        self.assertEqual(read_part(write_part(part), kind=Kind.KEYBOARD), part)
        later = insert_bars(melody(), before=1, count=2).part
        self.assertEqual(read_part(write_part(later), kind=Kind.KEYBOARD).notes, later.notes)

    def test_the_keys_of_a_chain_come_back(self) -> None:
        chain = key_chain(five_finger(Tonic.named("C")), order=KeyOrder.FIFTHS)
        actual = read_part(write_part(chain), kind=Kind.KEYBOARD)
        self.assertEqual(actual.sections, chain.sections)
        self.assertEqual(
            [(n.onset_tick, n.pitch) for n in actual.notes], [(n.onset_tick, n.pitch) for n in chain.notes]
        )
