"""Passes, latency, loops, files from elsewhere, corrected copies, and the click."""

from collections.abc import Callable
from dataclasses import replace
from random import Random
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.assess import assess
from ear.criteria.levels import DEFAULT_LEVEL
from ear.editing import drawing
from ear.editing.quantise import QuantiseGrid, plan, quantise
from ear.errors import FormatError, ValueOutOfRange
from ear.extraction.extraction import extract_facts
from ear.formats.events import RawEvent, events_from_take, take_from_events
from ear.formats.smf_parts import read_take
from ear.formats.smf_writing import write_part, write_recording
from ear.notes import Part
from ear.players.robot import Habits, play
from ear.practice.ladder import Rung
from ear.recording.click_mismatch import Doubt, click_doubts
from ear.recording.corrected import Corrected, copy_of, corrections, take_of
from ear.recording.from_file import open_recording
from ear.recording.latency import calibrate
from ear.recording.loops import clean_in_a_row, events_of_loop, is_passed, judge, part_of_loop
from ear.recording.passes import Pass, PassMode, has_touch, layered, standing
from tests.ear.parts import beat, melody, two_hands

STEADY = Habits(spread_ms=4)


def note(time: float, pitch: int = 60, *, length: float = 100, velocity: int = 80) -> list[RawEvent]:
    return [(time, 0x90, pitch, velocity), (time + length, 0x80, pitch, 0)]


def notes_of(passes: list[Pass]) -> list[tuple[float, int]]:
    return [(round(1000 * n.onset_s), n.pitch) for n in layered(passes).notes]


class PassesTest(TestCase):
    first = Pass(events=(*note(0, 36), *note(500, 38), *note(1000, 36), *note(1500, 38)))

    def test_over_adds_and_replace_takes_out_what_began_in_its_stretch(self) -> None:
        over = Pass(events=tuple(note(250, 42)))
        self.assertEqual(
            notes_of([self.first, over]), [(0, 36), (250, 42), (500, 38), (1000, 36), (1500, 38)]
        )
        new = Pass(events=tuple(note(600, 38)), way=PassMode.REPLACE, from_ms=500, until_ms=1500)
        self.assertEqual(notes_of([self.first, new]), [(0, 36), (600, 38), (1500, 38)])
        lane = replace(new, pitches=frozenset({38}))
        self.assertEqual(notes_of([self.first, lane]), [(0, 36), (600, 38), (1000, 36), (1500, 38)])
        self.assertEqual(notes_of([self.first]), [(0, 36), (500, 38), (1000, 36), (1500, 38)])

    def test_each_pass_has_its_own_latency_and_pads(self) -> None:
        late = Pass(events=tuple(note(540, 40)), latency_ms=40, pads={40: 38})
        self.assertEqual(notes_of([Pass(events=tuple(note(0, 36))), late]), [(0, 36), (500, 38)])

    def test_what_rings_rings_on_and_a_pedal_does_not_hang(self) -> None:
        held = Pass(events=((0, 0x90, 60, 80), (10, 0xB0, 64, 127), (900, 0xB0, 64, 0), (1200, 0x80, 60, 0)))
        new = Pass(events=tuple(note(700, 62)), way=PassMode.REPLACE, from_ms=500, until_ms=1000)
        take = layered([held, new])
        self.assertEqual([(n.pitch, round(n.length_s, 3)) for n in take.notes], [(60, 1.2), (62, 0.1)])
        self.assertEqual([(s.start_s, s.end_s) for s in take.pedal], [(0.01, 0.9)])
        bend = Pass(events=((600, 0xE0, 0, 80), (800, 0xE0, 0, 64)))
        self.assertEqual(standing([bend, new])[0], ((800, 0xE0, 0, 64),))

    @given(st.lists(st.tuples(st.integers(0, 4000), st.integers(36, 40)), max_size=30), st.integers(0, 2000))
    def test_replacing_leaves_nothing_inside_and_all_outside(
        self, hits: list[tuple[int, int]], start: int
    ) -> None:
        events = [(float(t), 0x90, p, 70) for t, p in hits]
        later = Pass(events=(), way=PassMode.REPLACE, from_ms=start, until_ms=start + 1000)
        left = standing([Pass(events=tuple(events)), later])[0]
        self.assertEqual(sorted(left), sorted(e for e in events if not start <= e[0] < start + 1000))

    def test_touch_is_in_strengths_that_differ(self) -> None:
        self.assertFalse(has_touch([*note(0), *note(9)]))
        self.assertTrue(has_touch([*note(0), *note(9, velocity=110)]))

    def test_a_file_of_passes_keeps_bend_and_pressure(self) -> None:
        part = melody(bars=2)
        played = events_from_take(play(part, STEADY, seed=2))
        more = [(10.0, 0xE0, 0, 90), (20.0, 0xD0, 55, 0), (30.0, 0xA0, 60, 44), (40.0, 0xB0, 1, 70)]
        data = write_recording([played, more], part=part, count_in_bars=1)
        file = open_recording(data)
        self.assertEqual(file.count_in(part), 1)
        back = file.events(part, count_in_bars=1)
        self.assertEqual(
            [e[1:] for e in sorted(back) if e[1] in (0xE0, 0xD0, 0xA0, 0xB0)], [e[1:] for e in more]
        )
        take = read_take(data, part=part, count_in_bars=1)
        for got, sent in zip(take.notes, take_from_events(played).notes, strict=True):
            self.assertAlmostEqual(got.onset_s, sent.onset_s, delta=0.001)


class LatencyTest(TestCase):
    beats = [600.0 * k for k in range(8)]

    def test_the_offset_is_the_middle_of_the_taps_and_a_stray_one_is_left_out(self) -> None:
        noise = (3, -4, 0, 2, -2, 5, -5, 1)
        taps = [b + 32 + n for b, n in zip(self.beats, noise, strict=True)]
        taps[5] += 170
        actual = calibrate(taps, self.beats)
        self.assertAlmostEqual(actual.offset_ms, 32, delta=2)
        self.assertLess(actual.spread_ms, 8)
        self.assertEqual((actual.taps, actual.left_out), (7, 1))
        self.assertTrue(actual.is_steady)

    @given(st.floats(-200, 200), st.integers(0, 99))
    def test_any_constant_offset_is_found_whatever_the_order(self, offset: float, seed: int) -> None:
        taps = [b + offset for b in self.beats]
        Random(seed).shuffle(taps)
        self.assertAlmostEqual(calibrate(taps, self.beats).offset_ms, offset, places=6)

    def test_too_few_taps_say_so_and_wild_ones_are_not_steady(self) -> None:
        for taps in ([], self.beats[:5], [300.0 + 1e6] * 20):
            self.assertRaises(ValueOutOfRange, calibrate, taps, self.beats)
        wild = [b + 60 * (-1) ** k for k, b in enumerate(self.beats)]
        self.assertFalse(calibrate(wild, self.beats).is_steady)


class LoopsTest(TestCase):
    rung = Rung(name="two", first_bar=3, last_bar=4, needed=80, needed_loops=2)

    def test_a_note_just_before_the_loop_belongs_to_it(self) -> None:
        run = [*note(-400), *note(-40, 61), *note(1700, 62, length=300), *note(1900, 65)]
        actual = events_of_loop(run, loop_s=2.0)
        self.assertEqual(actual, [*note(-40, 61), *note(1700, 62, length=300)])

    def test_a_loop_is_judged_as_a_take_is(self) -> None:
        part = part_of_loop(two_hands(), self.rung, bpm=70, fifths=3)
        self.assertEqual((part.tempos.first_bpm, part.fifths, len(part.bars)), (70, 3, 2))
        good = judge(
            part, events_from_take(play(part, STEADY, seed=1)), level=DEFAULT_LEVEL, needed=80, latency_ms=0,
            has_touch=True,
        )  # fmt: skip
        self.assertTrue(good.is_clean)
        nothing = judge(part, [], level=DEFAULT_LEVEL, needed=0, latency_ms=0, has_touch=True)
        self.assertEqual(nothing.points, 0)
        poor = play(part, Habits(spread_ms=60, misses=0.5, wrong_keys=0.3), seed=1)
        bad = judge(
            part, events_from_take(poor), level=DEFAULT_LEVEL, needed=80, latency_ms=0, has_touch=True
        )
        self.assertFalse(bad.is_clean)
        self.assertIsNotNone(bad.fault)

    def test_a_rung_is_passed_by_clean_loops_in_a_row(self) -> None:
        self.assertFalse(is_passed([90, 70, 90], self.rung))
        self.assertTrue(is_passed([90, 70, 90, 80, 10], self.rung))
        self.assertEqual(clean_in_a_row([70, 90, 85], self.rung), 2)
        self.assertEqual(clean_in_a_row([90, 79], self.rung), 0)


class FromFileTest(TestCase):
    def test_the_count_in_is_found_at_another_tempo_and_with_a_missed_first_bar(self) -> None:
        part = beat(bars=4, bpm=100)
        for bars in (0, 1, 2, 4):
            events = [e for e in events_from_take(play(part, STEADY, seed=3)) if e[0] > 2300 or bars < 4]
            file = open_recording(write_recording([events], part=part.at_tempo(100), count_in_bars=bars))
            self.assertEqual(file.count_in(part.at_tempo(80)), bars)
            self.assertAlmostEqual(file.bpm or 0, 100, places=3)

    def test_tracks_are_chosen_and_nothing_is_said(self) -> None:
        file = open_recording(write_part(two_hands()))
        self.assertEqual([(t.name, t.notes) for t in file.tracks],
                         [("right hand, channel 1", 24), ("left hand, channel 1", 16)])  # fmt: skip
        left = file.events(two_hands(), count_in_bars=0, voices={file.tracks[1].voice})
        self.assertEqual(len([e for e in left if e[1] == 0x90]), 16)
        self.assertRaises(ValueOutOfRange, file.events, two_hands(), count_in_bars=0, voices={(7, 7)})
        for wrong in (b"", b"RIFF", b"MThd"):
            self.assertRaises(FormatError, open_recording, wrong)


class CorrectedTest(TestCase):
    def setUp(self) -> None:
        self.part = melody(bars=4)
        self.take = play(self.part, Habits(spread_ms=25), seed=5)
        self.raw = copy_of(self.take, self.part)

    def test_a_copy_is_the_take_in_ticks(self) -> None:
        self.assertEqual(corrections(self.raw, self.raw), ())
        back = take_of(self.raw, self.take)
        for was, now in zip(self.take.notes, back.notes, strict=True):
            self.assertAlmostEqual(max(0.0, was.onset_s), now.onset_s, delta=0.001)

    def test_what_is_done_is_what_is_listed(self) -> None:
        one = frozenset({3})
        acts: list[tuple[Corrected, Callable[[Part], Part]]] = [
            (Corrected.MOVED, lambda p: drawing.move(p, one, ticks=20).part),
            (Corrected.PITCH, lambda p: drawing.move(p, one, semitones=1).part),
            (Corrected.LENGTH, lambda p: drawing.lengthen(p, one, ticks=-90).part),
            (Corrected.VELOCITY, lambda p: drawing.change_velocity(p, one, steps=9).part),
            (Corrected.DELETED, lambda p: drawing.delete(p, one).part),
        ]
        for kind, act in acts:
            actual = corrections(self.raw, act(self.raw))
            self.assertEqual([(c.kind, c.note) for c in actual], [(kind, self.raw.notes[3])], kind)

    def test_quantising_lists_each_note_that_moved(self) -> None:
        moves = plan(self.raw, frozenset(), QuantiseGrid(step=480))
        copy = quantise(self.raw, moves).part
        moved = {m.from_tick: m.to_tick for m in moves if m.from_tick != m.to_tick}
        actual = {c.before: c.after for c in corrections(self.raw, copy) if c.kind is Corrected.MOVED}
        self.assertEqual(actual, moved)

    def test_a_note_that_is_quantised_and_corrected_is_one_note_in_either_order(self) -> None:
        one = frozenset({3})
        moves = plan(self.raw, frozenset(), QuantiseGrid(step=480))
        first = drawing.move(quantise(self.raw, moves).part, one, semitones=-2).part
        second_raw = drawing.move(self.raw, one, semitones=-2).part
        second = quantise(second_raw, plan(second_raw, frozenset(), QuantiseGrid(step=480))).part
        for copy in (first, second):
            actual = [c for c in corrections(self.raw, copy) if c.note == self.raw.notes[3]]
            self.assertEqual({c.kind for c in actual}, {Corrected.PITCH, Corrected.MOVED})
            made = {c.kind for c in corrections(self.raw, copy)}
            self.assertEqual(made, {Corrected.PITCH, Corrected.MOVED})


class ClickTest(TestCase):
    def doubts(
        self, habits: Habits, *, heard: bool = True, asks: bool = True
    ) -> dict[Doubt, tuple[float, float]]:
        part = melody(bars=8)
        actual = click_doubts(
            extract_facts(part, play(part, habits, seed=4)), heard_click=heard, asks_click=asks
        )
        return {d.doubt: (round(d.click), round(d.played)) for d in actual}

    def test_both_figures_are_told(self) -> None:
        self.assertEqual(self.doubts(STEADY), {})
        self.assertEqual(self.doubts(STEADY, heard=False), {Doubt.CLICK_OFF: (96, 96)})
        self.assertEqual(self.doubts(STEADY, heard=False, asks=False), {})

    def test_another_tempo_and_a_late_start(self) -> None:
        part = melody(bars=8)
        faster = play(part.at_tempo(110), STEADY, seed=4)
        late = take_from_events(
            [(t + 1250, *rest) for t, *rest in events_from_take(play(part, STEADY, seed=4))]
        )
        events = events_from_take(play(part, Habits(spread_ms=1), seed=4))
        moved = take_from_events([(t + 277, *rest) for t, *rest in events])
        facts = extract_facts(part, moved)
        [doubt] = click_doubts(facts, heard_click=True, asks_click=True)
        self.assertEqual((doubt.doubt, round(doubt.played)), (Doubt.COMPUTER_OFF, 277))
        in_time, actual = (assess(part, take).judgement for take in (take_from_events(events), moved))
        # The offset costs nothing and is no fault of the player's.
        self.assertAlmostEqual(actual.total, in_time.total, delta=1.0)
        self.assertNotIn("lag", [told.finding.code for told in actual.faults])
        # A player who is late is never so even about it.
        uneven = play(part, Habits(spread_ms=20, lead_ms=-277), seed=4)
        self.assertEqual(click_doubts(extract_facts(part, uneven), heard_click=True, asks_click=True), ())
        for take, wanted in ((faster, {Doubt.OTHER_TEMPO: (96, 110)}), (late, {Doubt.STARTED_LATE: (0, 2)})):
            actual = click_doubts(extract_facts(part, take), heard_click=True, asks_click=True)
            self.assertEqual({d.doubt: (round(d.click), round(d.played)) for d in actual}, wanted)
