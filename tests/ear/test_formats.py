import contextlib
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.criteria.levels import LEVELS
from ear.errors import FormatError
from ear.formats.events import (
    MIN_HELD_S,
    STATUS_CONTROL,
    STATUS_NOTE_OFF,
    STATUS_NOTE_ON,
    check_events,
    events_from_take,
    take_from_events,
)
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.smf import read_contents
from ear.formats.smf_parts import read_part, read_take
from ear.formats.smf_writing import write_part, write_recording
from ear.formats.sounding import ALL_NOTES_OFF
from ear.notes import Hand, Kind, MeterMap, Note, Part, Section, TempoMap
from ear.players.robot import Habits, play
from tests.ear.parts import beat, melody, two_hands


def smf(track: str, *, kind: str = "0000", division: str = "0060") -> bytes:
    """A file of one track from hex: division 96 unless told."""
    body = bytes.fromhex(track.replace("\n", " "))
    return (
        b"MThd"
        + bytes.fromhex(f"00000006 {kind} 0001 {division}")
        + b"MTrk"
        + len(body).to_bytes(4, "big")
        + body
    )


# delta status data …        what it is
RUNNING_STATUS = """
00 FF 51 03 09 27 C0         tempo 100
00 FF 58 04 03 02 18 08      3/4
00 90 3C 50                  C4 on
60 3C 00                     running status: C4 off by velocity 0
00 40 46                     E4 on
30 40 28                     E4 on again while it sounds: ends the first
30 80 40 40                  E4 off
00 FF 2F 00
"""


def hex_only(text: str) -> str:
    return "\n".join(line[:29] for line in text.strip().splitlines())


class ReadingTest(TestCase):
    def test_running_status_velocity_zero_and_overlap(self) -> None:
        part = read_part(smf(hex_only(RUNNING_STATUS)), kind=Kind.KEYBOARD)
        rows = [(n.onset_tick, n.length_tick, n.pitch, n.velocity) for n in part.notes]
        self.assertEqual(rows, [(0, 480, 60, 80), (480, 240, 64, 70), (720, 240, 64, 40)])
        self.assertEqual(part.tempos.first_bpm, 100)
        self.assertEqual(part.meters.first.numerator, 3)

    def test_a_file_without_tempo_runs_at_120_and_sounding_notes_end_with_it(self) -> None:
        part = read_part(smf("00 90 3C 50 60 FF 2F 00"), kind=Kind.KEYBOARD)
        self.assertEqual(part.tempos.first_bpm, 120)
        self.assertEqual(part.notes[0].length_tick, 480)

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        whole = smf(hex_only(RUNNING_STATUS))
        for data, said in [
            (b"", "an empty file"),
            (b"RIFF1234", "MThd"),
            (whole[:10], "end of the file"),
            (whole[:-9], "byte"),
            (smf("00 90 3C 50", division="E728"), "SMPTE"),
            (smf("00 FF 2F 00", kind="0002"), "type 2"),
            (smf("00 FF 51 03 00 00 01 00 FF 2F 00"), "tempo"),
        ]:
            with self.subTest(said), self.assertRaises(FormatError) as caught:
                read_contents(data)
            self.assertIn(said, str(caught.exception))

    @given(st.binary(max_size=200), st.integers(0, 60))
    @settings(max_examples=150)
    def test_broken_bytes_never_raise_anything_else(self, noise: bytes, at: int) -> None:
        whole = bytearray(smf(hex_only(RUNNING_STATUS)))
        whole[at : at + len(noise)] = noise
        with contextlib.suppress(FormatError):
            read_part(bytes(whole), kind=Kind.KEYBOARD)


NOTES = st.builds(
    Note,
    onset_tick=st.integers(0, 20_000),
    length_tick=st.integers(1, 100),
    pitch=st.integers(0, 127),
    velocity=st.integers(1, 127),
    hand=st.sampled_from(Hand),
)


class RoundTripTest(TestCase):
    @given(st.lists(NOTES, max_size=40, unique_by=lambda n: (n.onset_tick // 200, n.pitch)))
    @settings(max_examples=60)
    def test_a_part_comes_back_from_both_forms(self, notes: list[Note]) -> None:
        apart = [
            n
            for n in notes
            if all(abs(n.onset_tick - m.onset_tick) > 100 for m in notes if m is not n and m.pitch == n.pitch)
        ]
        part = Part.of(apart, kind=Kind.KEYBOARD, meters=MeterMap.of(6, 8), tempos=TempoMap.of(90), fifths=-3)
        self.assertEqual(part_from_json(part_to_json(part)), part)
        again = read_part(write_part(part), kind=Kind.KEYBOARD)
        self.assertEqual(again.notes, part.notes)
        self.assertEqual((again.meters, again.tempos, again.fifths), (part.meters, part.tempos, part.fifths))

    def test_a_take_comes_back_with_its_count_in(self) -> None:
        for part in (melody(), beat()):
            take = play(part, Habits(spread_ms=10, lead_ms=-30), seed=3)
            file = write_recording([events_from_take(take)], part=part, count_in_bars=2)
            again = read_take(file, part=part, count_in_bars=2)
            self.assertEqual([n.pitch for n in again.notes], [n.pitch for n in take.notes])
            for a, b in zip(again.notes, take.notes, strict=True):
                self.assertAlmostEqual(a.onset_s, b.onset_s, delta=0.0005)

    def test_hands_are_read_from_two_tracks(self) -> None:
        part = two_hands()
        self.assertEqual(read_part(write_part(part), kind=Kind.KEYBOARD).notes, part.notes)


class EventsTest(TestCase):
    def test_latency_is_taken_off_and_the_pedal_kept(self) -> None:
        events = [(20.0, 0x90, 60, 70), (100.0, 0xB0, 64, 127), (420.0, 0x80, 60, 0), (900.0, 0xB0, 64, 0)]
        take = take_from_events(events, latency_ms=20.0)
        self.assertAlmostEqual(take.notes[0].onset_s, 0.0)
        self.assertAlmostEqual(take.notes[0].length_s, 0.4)
        self.assertAlmostEqual(take.pedal[0].end_s, 0.88)

    def test_keys_that_are_down_at_the_end_are_held_until_then(self) -> None:
        on, off = STATUS_NOTE_ON, STATUS_NOTE_OFF
        ended = (2500.0, STATUS_CONTROL, ALL_NOTES_OFF, 0)
        struck = [(0.0, on, 60, 80), (500.0, off, 60, 64), (1000.0, on, 62, 80)]
        first, last = take_from_events([*struck, ended]).notes
        self.assertEqual((first.length_s, first.is_held), (0.5, False))
        self.assertEqual((last.length_s, last.is_held), (1.5, True))
        # Recorded by an earlier version, nothing says when the recording ended.
        [_first, last] = take_from_events(struck).notes
        self.assertEqual((last.length_s, last.is_held), (MIN_HELD_S, True))
        # Struck again, or let go, after all notes have ended: a new note.
        again = take_from_events([*struck, ended, (2600.0, on, 62, 80), (2900.0, off, 62, 64)]).notes
        self.assertEqual([(n.pitch, n.is_held) for n in again], [(60, False), (62, True), (62, False)])

    def test_a_last_note_held_to_the_end_counts_in_full_and_is_written_out(self) -> None:
        part = melody()
        played = events_from_take(play(part, Habits(), seed=1))
        last_end = max(played)
        played.remove(last_end)
        for more in ([], [(last_end[0] - 300.0, STATUS_CONTROL, ALL_NOTES_OFF, 0)]):
            events = [*played, *more]
            take = take_from_events(events)
            self.assertTrue(take.notes[-1].is_held)
            actual = assess(part, take, level=LEVELS["building"])
            self.assertNotIn("last_note_short", [told.finding.code for told in actual.judgement.faults])
            self.assertIsNone(actual.facts.rows.length_ratio[-1])
            [written] = read_contents(write_recording([events], part=part)).notes[-1:]
            self.assertGreater(written.end, written.onset + 10)
            self.assertFalse(written.is_open)

    def test_events_and_takes_there_and_back(self) -> None:
        take = play(two_hands(), Habits(spread_ms=12), seed=1)
        for a, b in zip(take_from_events(events_from_take(take)).notes, take.notes, strict=True):
            self.assertEqual((a.pitch, a.velocity), (b.pitch, b.velocity))
            self.assertAlmostEqual(a.onset_s, b.onset_s, places=9)

    def test_bad_events_are_refused_with_their_number(self) -> None:
        good = [0.0, 0x90, 60, 70]
        for bad in (
            [0.0, 0x90, 60],
            [float("nan"), 0x90, 60, 70],
            [0.0, 0x90, 128, 1],
            [0.0, 0xF0, 1, 1],
            ["0", 0x90, 1, 1],
            [True, 0x90, 1, 1],
            7,
        ):
            with self.subTest(bad=bad), self.assertRaises(FormatError) as caught:
                check_events([good, bad])
            self.assertIn("event 1", str(caught.exception))
        with self.assertRaises(FormatError):
            check_events({"not": "a list"})


class StoredPartTest(TestCase):
    def test_fingers_sections_and_empty_bars_are_kept(self) -> None:
        part = replace(
            two_hands(),
            least_bars=12,
            sections=(Section(bar=1, name="A"), Section(bar=5, name="G", fifths=1)),
        )
        part = part.with_notes([replace(part.notes[0], finger=5), *part.notes[1:]])
        self.assertEqual(part_from_json(part_to_json(part)), part)
        self.assertEqual(len(part_from_json(part_to_json(part)).bars), 12)

    def test_parts_stored_before_there_were_fingers_are_read(self) -> None:
        data = part_to_json(melody())
        for name in ("sections", "least_bars"):
            del data[name]
        self.assertEqual({len(row) for row in data["notes"]}, {5})
        self.assertEqual(part_from_json(data), melody())

    def test_what_breaks_a_rule_is_said(self) -> None:
        for change in (
            {"least_bars": 0},
            {"sections": [[4, "B", None], [1, "A", None]]},
            {"notes": [[0, 480, 60, 80, None, 6]]},
        ):
            with self.subTest(change), self.assertRaises(FormatError):
                part_from_json(part_to_json(melody()) | change)
