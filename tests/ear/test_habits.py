"""What students really do: pauses of any length, new starts, keys put right, last notes held back, fills that rush."""

from dataclasses import replace
from itertools import pairwise, product
from random import Random
from unittest import TestCase

import numpy as np

from benches.habits import NO_FAULT, HabitCase, held_against
from ear.assess import Assessment, assess
from ear.editing.edited import ALL
from ear.editing.hands import propose_fingers
from ear.matching.breaks import breaks_between
from ear.matching.match import match
from ear.measuring.copies import copied_by, copies_at
from ear.measuring.grid import grid_step
from ear.measuring.room import room_ms
from ear.notes import Hand, Kind, MeterMap, Note, Part, Take, TakeNote, TempoChange, TempoMap
from ear.players.pieces import drum_part, keyboard_part
from ear.players.robot import Habits, Jump, play
from tests.ear.parts import beat, melody, melody_in_eighths, two_hands

STEADY = Habits(spread_ms=8, velocity_spread=3)


def scale(*, bars: int = 8) -> Part:
    """Quavers up and down two octaves."""
    steps = (0, 2, 4, 5, 7, 9, 11)
    line = [*range(15), *range(13, 0, -1)]
    notes = [
        Note(
            onset_tick=240 * k, length_tick=220, velocity=84 if k % 8 == 0 else 72,
            pitch=60 + 12 * (line[k % 28] // 7) + steps[line[k % 28] % 7],
        )
        for k in range(8 * bars)
    ]  # fmt: skip
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(100.0))


def groove_with_fills() -> Part:
    """Eight bars, the second half of the fourth and the eighth a fill in semiquavers."""
    kept = [
        n for n in beat().notes
        if n.onset_tick // 1920 % 4 != 3 or n.onset_tick % 1920 < 960
    ]  # fmt: skip
    fill = [
        Note(
            onset_tick=bar * 1920 + 960 + 120 * k, length_tick=60, pitch=(38, 48, 45, 43)[k // 2], velocity=90
        )
        for bar in (3, 7)
        for k in range(8)
    ]
    return beat().with_notes([*kept, *fill])


def first_codes(assessed: Assessment, count: int = 1) -> list[str]:
    return [fault.finding.code for fault in assessed.judgement.faults[:count]]


def moved(take: Take, from_s: float, by_s: float) -> list[TakeNote]:
    """The notes of a take, those from a moment on later."""
    return [replace(n, onset_s=n.onset_s + (by_s if n.onset_s >= from_s else 0.0)) for n in take.notes]


class PausesTest(TestCase):
    def paused(self, beats: float, *, part: Part | None = None) -> Assessment:
        part = part or scale()
        return assess(part, play(part, replace(STEADY, jumps=(Jump(bar=5, quarters=beats),)), seed=3))

    def test_no_length_costs_much_more_than_its_neighbour(self) -> None:
        marks = [self.paused(0.2 + 0.05 * k).judgement.total for k in range(43)]
        self.assertLess(max(abs(a - b) for a, b in pairwise(marks)), 4.0)
        self.assertLess(max(marks) - min(marks), 15.0)
        for lost in (100.0 - self.paused(1.0).judgement.total, 100.0 - self.paused(2.0).judgement.total):
            self.assertTrue(3.0 <= lost <= 8.0, lost)

    def test_a_pause_owns_what_it_cost(self) -> None:
        for beats in (0.4, 0.6, 1.0, 1.5):
            with self.subTest(beats):
                actual = self.paused(beats)
                self.assertEqual(first_codes(actual, 9), ["slip"])
                slip = actual.judgement.faults[0]
                self.assertAlmostEqual(slip.cost, 100.0 - actual.judgement.total, delta=1.0)
                self.assertEqual(slip.finding.bars, (5, 5))
                off = min(beats % 1.0, 1.0 - beats % 1.0)
                self.assertAlmostEqual(getattr(slip.finding, "off_beats", 0.0), off, delta=0.05)

    def test_the_click_that_was_lost_late_is_dear_for_fewer_notes(self) -> None:
        part = scale(bars=16)
        marks = [
            assess(
                part, play(part, replace(STEADY, jumps=(Jump(bar=bar, quarters=0.5),)), seed=3)
            ).judgement.total
            for bar in (2, 5, 9, 14)
        ]
        self.assertEqual(marks, sorted(marks))

    def test_who_finds_the_click_again_has_lost_nothing_more(self) -> None:
        part = scale(bars=12)
        lost, found_again = (
            assess(part, play(part, replace(STEADY, jumps=jumps), seed=3))
            for jumps in (
                (Jump(bar=4, quarters=0.5),),
                (Jump(bar=4, quarters=0.5), Jump(bar=6, quarters=0.5)),
            )
        )
        timing = [a.judgement.criterion("timing").score or 0.0 for a in (lost, found_again)]
        self.assertGreater(timing[1], timing[0])

    def test_entering_between_the_beats_and_staying_there_is_off_the_click(self) -> None:
        for beats in (0.5, -0.5, 1.4):
            with self.subTest(beats):
                part = scale()
                late = [replace(n, onset_s=n.onset_s + 0.6 * beats) for n in play(part, STEADY, seed=3).notes]
                actual = assess(part, Take.of(late))
                self.assertEqual(first_codes(actual, 9), ["off_click"])
                self.assertTrue(60.0 <= actual.judgement.total <= 82.0)

    def test_halting_at_each_bar_is_one_habit_whose_tempo_is_the_clicks(self) -> None:
        part = melody_in_eighths(bars=8)
        jumps = tuple(Jump(bar=bar, quarters=0.35 + 0.05 * (bar % 3)) for bar in range(2, 9))
        for has_click in (True, False):
            with self.subTest(has_click=has_click):
                take = play(part, replace(STEADY, jumps=jumps), seed=5)
                actual = assess(part, take, has_click=has_click)
                self.assertEqual(first_codes(actual, 9), ["halting"])
                self.assertTrue(actual.judgement.faults[0].finding.is_each_bar)
                self.assertLess(actual.judgement.total, 78.0)
                self.assertEqual(actual.facts.figures.tempo_ratio, 1.0)
                self.assertFalse([f.code for f in actual.judgement.praise if "time" in f.code])

    def test_a_swung_line_played_straight_does_not_halt(self) -> None:
        from tests.ear.parts import shuffle

        straight = replace(STEADY, late_places=tuple((320 + 480 * k, -90) for k in range(4)))
        self.assertNotIn("halting", first_codes(assess(shuffle(), play(shuffle(), straight, seed=1)), 9))


class BreaksTest(TestCase):
    def stops(self, **late: float) -> list[int]:
        """Before which of 32 quavers time stands still, where some are later by so many seconds."""
        written = np.arange(32) * 0.3
        played = written + np.random.default_rng(1).normal(0, 0.008, 32)
        for name, seconds in late.items():
            kind, at = name.split("_")
            played[int(at) :] += seconds if kind == "from" else 0.0
            played[int(at)] += seconds if kind == "at" else 0.0
        return breaks_between(written, played, np.zeros(32, dtype=np.int64)).tolist()

    def test_time_that_stays_behind_is_a_stop_and_a_late_note_is_none(self) -> None:
        self.assertEqual(self.stops(), [])
        self.assertEqual(self.stops(from_8=0.15, from_20=0.3), [8, 20])
        self.assertEqual(self.stops(at_8=0.2), [])
        self.assertEqual(self.stops(at_8=0.2, at_9=0.2), [])


class RoomTest(TestCase):
    def test_room_is_that_of_the_hand_within_a_beat(self) -> None:
        part = two_hands(bars=2)
        quick = [
            replace(n, onset_tick=n.onset_tick + 160 * k, length_tick=100)
            for n in part.notes if n.onset_tick == 480 for k in (0, 1, 2)
        ]  # fmt: skip
        mixed = part.with_notes([*(n for n in part.notes if n.onset_tick != 480), *quick])
        room = dict(zip(((n.onset_tick, n.hand) for n in mixed.notes), room_ms(mixed).tolist(), strict=True))
        for (tick, hand), ms in room.items():
            expected = 1800.0 if hand is Hand.LEFT else 200.0 if 480 <= tick <= 1280 else 600.0
            with self.subTest(tick=tick, hand=hand):
                self.assertAlmostEqual(ms, expected)

    def test_quintuplets_and_septuplets_are_grids_and_leave_a_good_player_his_credit(self) -> None:
        for notes, step in ((2, 240), (3, 160), (5, 96), (7, 69)):
            ticks = [round(480 * beat + 480 * k / notes) for beat in range(0, 16, 2) for k in range(notes)]
            plain = [480 * beat for beat in range(1, 16, 2)]
            part = melody(bars=4, bpm=72).with_notes(
                Note(onset_tick=t, length_tick=60, pitch=60 + k % 12, velocity=80)
                for k, t in enumerate(sorted([*ticks, *plain]))
            )
            self.assertEqual(grid_step(part), step)
            self.assertGreaterEqual(
                assess(part, play(part, Habits(spread_ms=14), seed=9)).judgement.total, 95.0
            )

    def test_the_closest_notes_within_a_beat_count_not_the_next_ones_alone(self) -> None:
        ticks = (0, 240, 480, 720, 840, 960, 1200, 1440, 1680)
        part = melody().with_notes(Note(onset_tick=t, length_tick=100, pitch=60, velocity=80) for t in ticks)
        room = [round(ms) for ms in room_ms(part).tolist()]
        self.assertEqual(room, [312, 312, 156, 156, 156, 156, 156, 312, 312])


class NewStartsTest(TestCase):
    def test_two_failed_tries_with_wrong_notes_are_one_new_start(self) -> None:
        part = scale()
        take = play(part, STEADY, seed=2)
        at = next(n.onset_s for n in take.notes if n.onset_s > part.tempos.second_at(4 * 1920) - 0.05)
        passage = [n for n in take.notes if at <= n.onset_s < at + 1.4]
        wrong = replace(passage[-1], pitch=passage[-1].pitch + 1)
        first = [*passage[:-1], wrong]
        second = [replace(n, onset_s=n.onset_s + 2.3) for n in [*passage[:-1], wrong]]
        before = [n for n in take.notes if n.onset_s < at]
        after = [replace(n, onset_s=n.onset_s + 4.5) for n in take.notes if n.onset_s >= at]
        actual = assess(part, Take.of([*before, *first, *second, *after]))
        self.assertEqual(first_codes(actual, 9), ["restart"])
        self.assertEqual(actual.facts.slips[0].attempts, 3)
        self.assertEqual((actual.facts.counts.extras, actual.facts.counts.missed), (0, 0))

    def test_beginning_again_off_the_click_is_a_new_start_and_no_lag(self) -> None:
        part = two_hands(bars=12)
        take = play(part, STEADY, seed=2)
        broken_off = [n for n in take.notes if n.onset_s < 4 * 1.8]
        again = [replace(n, onset_s=n.onset_s + 4 * 1.8 + 1.1) for n in take.notes]
        actual = assess(part, Take.of([*broken_off, *again]))
        self.assertEqual(first_codes(actual, 9), ["restart"])

    def test_beginning_again_on_a_bar_line_is_one_too_unless_the_passage_was_played_to_its_end(self) -> None:
        part = two_hands(bars=12)
        take = play(part, STEADY, seed=2)
        broken_off = [n for n in take.notes if n.onset_s < 3.3 * 1.8]
        again = [replace(n, onset_s=n.onset_s + 4 * 1.8) for n in take.notes]
        self.assertEqual(first_codes(assess(part, Take.of([*broken_off, *again]))), ["restart"])

    def test_a_passage_that_was_played_to_its_end_and_once_more_in_time_is_a_repeat(self) -> None:
        part = two_hands(bars=12)
        take = play(part, STEADY, seed=2)
        whole = [n for n in take.notes if n.onset_s < 4 * 1.8 - 0.1]
        again = [replace(n, onset_s=n.onset_s + 4 * 1.8) for n in take.notes]
        self.assertEqual(first_codes(assess(part, Take.of([*whole, *again]))), ["repeat_added"])


class StoriesTest(TestCase):
    """The simplest story wins, among bars that are alike, too: the key and the beginning are as they are written."""

    def told(self, part: Part, notes: list[TakeNote]) -> list[str]:
        matched = match(part, Take.of(notes))
        self.assertEqual((matched.transposition, matched.time_base.pace.is_click), (0, True))
        self.assertGreater(len(matched.links), 0.96 * len(part.notes))
        return [slip.kind.value for slip in matched.time_base.slips]

    def test_new_starts_and_pauses_are_that_and_nothing_else(self) -> None:
        for seed, make in product(range(6), (keyboard_part, drum_part)):
            part, random = make(seed, bars=8 + 4 * (seed % 3)), Random(seed)
            take = play(part, Habits(spread_ms=13, velocity_spread=4), seed=seed)
            bar_s, beat_s = part.tempos.second_at(part.bars[1].start_tick), 60 / part.tempos.first_bpm
            broken_off_s, waits_s = random.uniform(1.3, 4.4) * bar_s, random.uniform(0.6, 3) * beat_s
            first = [n for n in take.notes if n.onset_s < broken_off_s]
            at = part.tempos.second_at(part.bars[random.randint(2, 6)].start_tick) - 0.05
            passage = [n for n in take.notes if at <= n.onset_s < at + random.uniform(0.5, 1) * bar_s]
            again_s = passage[-1].onset_s - passage[0].onset_s + random.uniform(0.8, 2) * beat_s
            before = [n for n in take.notes if n.onset_s < at]
            tries = [replace(n, onset_s=n.onset_s + again_s * k) for k in (0, 1) for n in passage]
            with self.subTest(seed=seed, kind=part.kind):
                self.assertEqual(
                    self.told(part, [*first, *moved(take, -9.0, broken_off_s + waits_s)]), ["restart"]
                )
                self.assertEqual(
                    self.told(part, moved(take, at, random.uniform(0.2, 2.3) * beat_s)), ["slip"]
                )
                after = [n for n in moved(take, at, 2 * again_s) if n.onset_s >= at + 2 * again_s]
                self.assertEqual(self.told(part, [*before, *tries, *after]), ["restart"])


class PutRightTest(TestCase):
    def put_right(self, part: Part, which: tuple[int, ...], wait_s: float) -> Assessment:
        """Wrong keys at these notes, the right ones so much later, and all behind them."""
        notes: list[TakeNote] = []
        late = 0.0
        for k, note in enumerate(play(part, STEADY, seed=4).notes):
            if k in which:
                notes.append(replace(note, onset_s=note.onset_s + late, length_s=0.1, pitch=note.pitch + 2))
                late += wait_s
            notes.append(replace(note, onset_s=note.onset_s + late))
        return assess(part, Take.of(notes))

    def test_a_wrong_key_put_right_costs_less_than_one_left_wrong_and_more_than_nothing(self) -> None:
        part, which = melody(bars=12), (13, 30)
        right = self.put_right(part, which, 0.25)
        self.assertEqual(first_codes(right, 9), ["put_right"])
        self.assertEqual((right.facts.counts.put_right, right.facts.counts.extras), (2, 0))
        wrong_notes = [
            replace(n, pitch=n.pitch + 2) if k in which else n
            for k, n in enumerate(play(part, STEADY, seed=4).notes)
        ]
        wrong = assess(part, Take.of(wrong_notes)).judgement.criterion("notes")
        notes = right.judgement.criterion("notes")
        self.assertLess(wrong.score, notes.score)
        self.assertLess(notes.score, 100.0)

    def test_it_is_heard_whether_the_music_waits_or_not(self) -> None:
        part = melody(bars=12)
        for wait_s in (0.5, 0.8, 1.2):
            with self.subTest(wait_s):
                self.assertEqual(first_codes(self.put_right(part, (13, 30, 41), wait_s)), ["put_right"])
        in_time = list(play(part, STEADY, seed=4).notes)
        in_time[13] = replace(in_time[13], onset_s=in_time[13].onset_s + 0.22)
        stray = replace(
            in_time[13], onset_s=in_time[13].onset_s - 0.22, length_s=0.1, pitch=in_time[13].pitch + 1
        )
        actual = assess(part, Take.of([*in_time, stray]))
        self.assertIn("put_right", first_codes(actual, 9))
        self.assertEqual((actual.facts.counts.wrong_pitch, actual.facts.counts.extras), (0, 0))

    def test_the_key_of_the_note_before_pressed_again_is_one_put_right(self) -> None:
        part = scale()
        falling = [k for k in range(1, 60) if part.notes[k - 1].pitch == part.notes[k].pitch + 2]
        for wait_s in (0.2, 0.28, 0.36):
            for k in falling[1::6]:
                with self.subTest(wait_s=wait_s, note=k):
                    actual = self.put_right(part, (k,), wait_s)
                    self.assertEqual(first_codes(actual, 9), ["put_right"])
                    self.assertEqual((actual.facts.counts.put_right, actual.facts.counts.extras), (1, 0))


class CostsTest(TestCase):
    def test_what_has_a_cause_of_its_own_is_not_unsteady(self) -> None:
        part = scale(bars=16)
        take = play(part, replace(STEADY, spread_ms=50, lead_ms=90), seed=12)
        costs = {fault.finding.code: fault.cost for fault in assess(part, take).judgement.faults}
        self.assertEqual(next(iter(costs)), "lag")
        self.assertGreater(costs["lag"], 2 * costs.get("unsteady", 0.0))


class EndingsTest(TestCase):
    def test_a_last_note_held_back_is_that_and_nothing_else(self) -> None:
        for part in (scale(), two_hands()):
            for beats in (0.5, 1.0, 1.9):
                with self.subTest(hands=part.notes[0].hand is not None, beats=beats):
                    take = play(part, STEADY, seed=6)
                    last_s = part.tempos.second_at(part.notes[-1].onset_tick) - 0.1
                    actual = assess(part, Take.of(moved(take, last_s, 0.6 * beats)))
                    self.assertEqual(first_codes(actual, 9), ["last_note_late"])
                    self.assertTrue(90.0 <= actual.judgement.total <= 98.5, actual.judgement.total)

    def test_a_last_note_that_never_came_is_missed(self) -> None:
        take = play(scale(), STEADY, seed=6)
        self.assertEqual(first_codes(assess(scale(), Take.of(take.notes[:-1]))), ["missed"])


class FiguresTest(TestCase):
    def rushed(self, by_ms: float) -> Assessment:
        part = groove_with_fills()
        notes = play(part, STEADY, seed=7).notes
        fills = [n.onset_tick // 1920 % 4 == 3 and n.onset_tick % 1920 >= 960 for n in part.notes]
        return assess(
            part,
            Take.of(
                replace(n, onset_s=n.onset_s - (by_ms / 1000 if in_fill else 0.0))
                for n, in_fill in zip(notes, fills, strict=True)
            ),
        )

    def test_fills_that_rush_are_told_with_their_bars_and_no_lane_is_blamed(self) -> None:
        actual = self.rushed(45.0)
        self.assertEqual(first_codes(actual, 9), ["fills_early"])
        self.assertEqual(actual.judgement.faults[0].finding.in_bars, (4, 8))
        heard = {finding.code for finding in actual.facts.findings}
        self.assertFalse(heard & {"lane_early", "place_early", "passage_early"}, heard)
        self.assertTrue(92.0 <= actual.judgement.total <= 99.0, actual.judgement.total)
        self.assertEqual(first_codes(self.rushed(0.0), 9), [])

    def test_a_voice_apart_costs_as_one_voice_however_many_notes_it_has(self) -> None:
        part, lost = beat(), []
        for pitch in (38, 36, 42):
            take = play(part, replace(STEADY, late_lanes=((pitch, 40.0),)), seed=7)
            lost.append(100.0 - assess(part, take).judgement.total)
        self.assertTrue(all(1.0 <= points <= 8.0 for points in lost), lost)
        self.assertLess(max(lost) / min(lost), 2.0, lost)

    def test_hands_apart_cost_something_whatever_their_place_by_the_click(self) -> None:
        take = play(two_hands(bars=12), replace(STEADY, left_hand_ms=45), seed=7)
        lost = 100.0 - assess(two_hands(bars=12), take).judgement.total
        self.assertTrue(1.0 <= lost <= 8.0, lost)


class TempoWrittenTest(TestCase):
    def part(self) -> Part:
        changes = [TempoChange(tick=0, bpm=80.0), TempoChange(tick=5 * 1920, bpm=110.0)]
        return replace(melody_in_eighths(bars=10), tempos=TempoMap(changes))

    def test_a_change_that_is_not_made_is_told_as_that(self) -> None:
        part = self.part()
        one_tempo = replace(part, tempos=TempoMap.of(80.0))
        actual = assess(part, play(one_tempo, STEADY, seed=8))
        self.assertEqual(first_codes(actual, 9), ["tempo_change_ignored"])
        finding = actual.judgement.faults[0].finding
        self.assertAlmostEqual(finding.first_bpm, 80.0, delta=1.0)
        self.assertEqual((finding.last_bpm, finding.bars), (110.0, (6, 10)))

    def test_a_written_ritardando_that_is_played_is_no_fault(self) -> None:
        changes = [TempoChange(tick=0, bpm=100.0)]
        changes += [TempoChange(tick=(32 + k) * 480, bpm=100.0 - 6 * (k + 1)) for k in range(8)]
        part = replace(melody_in_eighths(bars=10), tempos=TempoMap(changes))
        self.assertEqual(first_codes(assess(part, play(part, STEADY, seed=8)), 9), [])


class WorthTest(TestCase):
    def test_another_key_costs_what_the_rubric_says_and_another_octave_nothing(self) -> None:
        part = two_hands(bars=12)
        key, octave = (assess(part, play(part, replace(STEADY, transpose=by), seed=9)) for by in (2, 12))
        self.assertEqual((first_codes(key, 9), first_codes(octave, 9)), (["transposed"], ["transposed"]))
        self.assertEqual(octave.judgement.criterion("notes").score, 100.0)
        self.assertEqual(key.judgement.criterion("notes").score, 70.0)
        self.assertAlmostEqual(key.judgement.faults[0].cost, 100.0 - key.judgement.total, places=2)
        free = replace(key.rubric, other_key_share=0.0)
        self.assertEqual(assess(part, play(part, replace(STEADY, transpose=2), seed=9), rubric=free).judgement.criterion("notes").score, 100.0)  # fmt: skip

    def test_no_note_is_called_wrong_for_the_key_of_the_whole(self) -> None:
        part = two_hands(bars=12)
        key = assess(part, play(part, replace(STEADY, transpose=2), seed=9))
        self.assertEqual(set(key.judgement.verdicts), {"in_time"})

    def test_a_drum_of_the_family_is_half_right_and_the_foot_nearly(self) -> None:
        part = beat()
        take = play(part, STEADY, seed=9)
        marks = {}
        for pitch in (42, 51, 44, 38):
            hats = [replace(n, pitch=pitch) if n.pitch == 42 else n for n in take.notes]
            marks[pitch] = assess(part, Take.of(hats)).judgement.total
        self.assertGreaterEqual(marks[51], 50.0)
        self.assertTrue(1.0 <= marks[42] - marks[44] <= 8.0, marks)
        self.assertLess(marks[38], marks[51])

    def test_one_hand_an_octave_off_costs_at_most_a_third(self) -> None:
        part = two_hands(bars=12)
        low = Take.of(
            replace(n, pitch=n.pitch - (12 if n.pitch < 60 else 0)) for n in play(part, STEADY, seed=9).notes
        )
        actual = assess(part, low)
        self.assertEqual(first_codes(actual), ["hand_octave"])
        self.assertGreaterEqual(actual.judgement.total, 66.6)

    def test_a_few_triplets_leave_the_quavers_their_room(self) -> None:
        part = melody_in_eighths(bars=8)
        triplets = [
            replace(n, onset_tick=1920 * 4 + 160 * k, length_tick=150) for k, n in enumerate(part.notes[:3])
        ]
        kept = [n for n in part.notes if not 1920 * 4 <= n.onset_tick < 1920 * 4 + 480]
        mixed = part.with_notes([*kept, *triplets])
        self.assertGreaterEqual(
            assess(mixed, play(mixed, Habits(spread_ms=14), seed=9)).judgement.total, 95.0
        )


class IntervalsTest(TestCase):
    def test_give_or_take_holds_for_hands_that_wander(self) -> None:
        """Two of three times, where six tenths of a deviation carry over to the next note."""
        part = scale()
        for carried in (0.0, 0.6):
            inside = []
            for seed in range(60):
                random, off, notes = Random(seed), 0.0, []
                for note in part.notes:
                    off = carried * off + random.gauss(0, 14 * (1 - carried**2) ** 0.5)
                    at = part.tempos.second_at(note.onset_tick) + (45 + off) / 1000
                    notes.append(TakeNote(onset_s=at, length_s=0.2, pitch=note.pitch, velocity=note.velocity))
                lag = next(f for f in assess(part, Take.of(notes)).facts.findings if f.code == "lag")
                inside.append(abs(lag.size_ms - 45) <= lag.error_ms)
            with self.subTest(carried):
                self.assertGreaterEqual(sum(inside) / len(inside), 0.62)


class TouchTest(TestCase):
    def test_a_heavy_thumb_is_heard_whether_fingers_are_written_or_would_be_proposed(self) -> None:
        part = scale(bars=8)
        fingered = propose_fingers(part, ALL).part
        take = play(part, STEADY, seed=14)
        heavy = Take.of(
            replace(n, velocity=min(127, n.velocity + (26 if f.finger == 1 else 0)))
            for n, f in zip(take.notes, fingered.notes, strict=True)
        )
        for written in (part, fingered):
            actual = assess(written, heavy)
            self.assertEqual(first_codes(actual), ["finger_loud"])
            self.assertEqual(actual.judgement.faults[0].finding.finger, 1)
        self.assertEqual(first_codes(assess(part, take), 9), [])

    def test_chords_rolled_by_more_than_80_ms_and_an_uneven_left_hand_are_heard(self) -> None:
        part = two_hands(bars=12).with_notes(
            replace(n, pitch=n.pitch + step)
            for n in two_hands(bars=12).notes
            for step in ((0, 3, 7) if n.hand is Hand.LEFT and n.pitch < 48 else (0,))
        )
        rolled = play(part, replace(STEADY, chord_roll_ms=30), seed=14)
        self.assertIn("rolled_chords", first_codes(assess(part, rolled), 9))


class SmallChangesTest(TestCase):
    def test_a_note_less_in_a_short_part_moves_the_mark_by_little_more_than_its_share(self) -> None:
        for part in (melody(bars=2), scale(bars=1), two_hands(bars=3)):
            take = play(part, replace(STEADY, spread_ms=25), seed=11)
            whole = assess(part, take).judgement.total
            for gone in range(len(part.notes)):
                less = part.with_notes(n for k, n in enumerate(part.notes) if k != gone)
                changed = assess(less, take).judgement.total
                self.assertLess(abs(changed - whole), 100.0 / len(part.notes) + 6.0, gone)

    def test_one_per_cent_of_tempo_is_a_small_change_of_a_short_part(self) -> None:
        part = melody_in_eighths(bars=2)
        for ratio in (0.9, 0.97, 1.0, 1.03, 1.1):
            marks = [
                assess(part, play(part, replace(STEADY, tempo_ratio=ratio * by), seed=11)).judgement.total
                for by in (1.0, 1.01)
            ]
            self.assertLess(abs(marks[0] - marks[1]), 100.0 / len(part.notes) + 6.0, ratio)


class HabitsBenchTest(TestCase):
    def test_a_case_is_held_against_marks_and_first_words(self) -> None:
        part = scale()
        take = play(part, replace(STEADY, jumps=(Jump(bar=5, quarters=0.5),)), seed=3)
        case = HabitCase(
            name="a", habit="pause", part=part, take=take, mark=(76, 96.5), first=frozenset({"slip"}),
            never=frozenset({"unsteady", "slip"}),
        )  # fmt: skip
        result = held_against(case, assess(part, take))
        self.assertEqual((result.mark_fits, result.first_fits, result.untrue), (True, True, ("slip",)))
        clean = assess(part, play(part, STEADY, seed=3))
        self.assertFalse(held_against(case, clean).mark_fits)
        self.assertFalse(held_against(case, clean).first_fits)
        silent = replace(case, first=frozenset({NO_FAULT}))
        self.assertTrue(held_against(silent, clean).first_fits)


class CopiesTest(TestCase):
    def test_notes_that_arrive_twice_are_a_set_up_and_music_in_octaves_is_none(self) -> None:
        part = two_hands(bars=8)
        take = play(part, STEADY, seed=13)
        for semitones in (0, 12, -12):
            with self.subTest(semitones):
                copies = [
                    replace(n, onset_s=n.onset_s + 0.007, pitch=n.pitch + semitones) for n in take.notes
                ]
                both = Take.of([*take.notes, *copies])
                self.assertEqual(copied_by(part, both), semitones)
                self.assertEqual(len(assess(part, both).judgement.faults), 1)
        self.assertIsNone(copied_by(part, take))
        octaves = part.with_notes([*part.notes, *(replace(n, pitch=n.pitch + 12) for n in part.notes)])
        self.assertIsNone(copied_by(octaves, play(octaves, STEADY, seed=13)))

    def test_an_octave_that_is_played_keeps_both_its_notes(self) -> None:
        onsets_s, pitches = np.array([0.0, 0.002, 0.006, 0.008]), np.array([60, 72, 72, 84])
        self.assertEqual(copies_at(onsets_s, pitches, 12).tolist(), [False, False, True, True])

    def test_repeated_notes_are_no_copies(self) -> None:
        take = Take.of(
            TakeNote(onset_s=0.1 * k, length_s=0.05, pitch=60 + k // 8, velocity=80) for k in range(64)
        )
        self.assertFalse(copies_at(take.onsets_s, take.pitches, 0).any())
