"""Files from elsewhere are opened: what is in them, what is not kept, what is taken."""

from collections.abc import Sequence
from dataclasses import replace
from io import BytesIO
from unittest import TestCase

import mido

from ear.editing.bars import insert_bars
from ear.editing.key_chain import KeyOrder, key_chain
from ear.errors import FormatError, ValueOutOfRange
from ear.formats.account import Lost
from ear.formats.importing import HandsFrom, open_file
from ear.formats.musicxml import write_musicxml
from ear.formats.smf_parts import read_part
from ear.formats.smf_writing import write_part
from ear.notes import Hand, Kind, Section
from ear.patterns.lines import five_finger
from ear.patterns.modes import Tonic
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
            [(row.what, row.bar) for row in rows],
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


class WhatMidiHoldsTest(TestCase):
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
        found = read_part(write_part(chain), kind=Kind.KEYBOARD)
        self.assertEqual(found.sections, chain.sections)
        self.assertEqual(
            [(n.onset_tick, n.pitch) for n in found.notes], [(n.onset_tick, n.pitch) for n in chain.notes]
        )
