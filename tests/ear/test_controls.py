"""Pedal and wheels as they were recorded: read, found in the part, drawn and said."""

from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.assess import assess
from ear.drawing.boxes import Overlay, overlay_of
from ear.drawing.controls import controls_by_bars, played_controls
from ear.drawing.in_words import result_of
from ear.drawing.page import page_view
from ear.drawing.verdicts import EVERYTHING, selected_rows
from ear.drawing.wheels import MIN_STEP_PX, Wheel
from ear.formats.events import (
    STATUS_BEND,
    STATUS_CONTROL,
    bend_bytes,
    bend_position,
    events_from_take,
    take_from_events,
)
from ear.formats.sounding import MODULATION_WHEEL, SUSTAIN_PEDAL
from ear.notes import STANDARD_KIT, Part, Take
from ear.notes.controls import UNUSED, ControlLines, Controls, control_lines, reach
from ear.players.robot import Habits, play
from ear.reader import ENGLISH
from ear.recording.passes import Pass, layered
from ear.words.controls import describe_controls
from tests.ear.parts import melody

BAR_MS = 2500.0
"""Of `melody` at 96 beats a minute."""
GESTURES = [
    (BAR_MS - 20, STATUS_CONTROL, SUSTAIN_PEDAL, 127),
    (2 * BAR_MS - 100, STATUS_CONTROL, SUSTAIN_PEDAL, 0),
    (4 * BAR_MS + 100, STATUS_BEND, 0, 96),
    (4 * BAR_MS + 900, STATUS_BEND, 0, 64),
    (6 * BAR_MS + 100, STATUS_CONTROL, MODULATION_WHEEL, 51),
    (7 * BAR_MS + 100, STATUS_CONTROL, MODULATION_WHEEL, 0),
]


def with_gestures(part: Part) -> tuple[Take, Overlay]:
    """A clean take with the pedal from just before bar 2 in it, a bend in bar 5 and the modulation wheel in bars 7 and 8."""
    take = take_from_events([*events_from_take(play(part, Habits(), seed=3)), *GESTURES])
    assessed = assess(part, take)
    return take, overlay_of(take, assessed.facts, assessed.judgement)


class ReadTest(TestCase):
    def test_wheels_are_kept_and_what_repeats_a_position_is_not(self) -> None:
        take = take_from_events(
            [
                (0.0, STATUS_BEND, 0, 64),
                (500.0, STATUS_BEND | 3, 0, 0),
                (600.0, STATUS_BEND | 3, 0, 0),
                (700.0, STATUS_BEND, 127, 127),
                (800.0, STATUS_CONTROL, MODULATION_WHEEL, 127),
            ],
            latency_ms=100.0,
        )
        self.assertEqual([(m.time_s, m.position) for m in take.bend], [(0.4, -1.0), (0.6, 1.0)])
        self.assertEqual([(m.time_s, m.position) for m in take.modulation], [(0.7, 1.0)])

    @given(st.integers(0, 127), st.integers(0, 127))
    def test_a_bend_is_written_as_it_was_read(self, low: int, high: int) -> None:
        self.assertEqual(bend_bytes(bend_position(low, high)), (low, high))

    def test_a_take_with_wheels_is_the_same_after_its_events(self) -> None:
        take, _ = with_gestures(melody())
        again = take_from_events(events_from_take(take))
        self.assertEqual(
            (again.pedal, again.bend, again.modulation), (take.pedal, take.bend, take.modulation)
        )

    def test_passes_bring_their_wheels_and_a_take_in_another_time_moves_them(self) -> None:
        bent = Pass(events=((1000.0, STATUS_BEND, 0, 96),))
        modulated = Pass(events=((500.0, STATUS_CONTROL, MODULATION_WHEEL, 127),))
        take = layered([bent, modulated])
        self.assertEqual((len(take.bend), len(take.modulation)), (1, 1))
        slower = take.at([], move_time=lambda second: 2 * second)
        self.assertEqual((slower.bend[0].time_s, slower.modulation[0].time_s), (2.0, 1.0))


class UseTest(TestCase):
    def test_a_position_holds_until_the_next_and_the_spring_s_play_is_rest(self) -> None:
        moves = [(1.0, 0.5), (2.0, -0.8), (3.0, 0.0), (4.0, 0.004)]
        self.assertEqual(reach(moves, 0.0, 1.0), (0.0, 0.0))
        self.assertEqual(reach(moves, 1.5, 2.0), (0.0, 0.5))
        self.assertEqual(reach(moves, 1.5, 2.5), (0.8, 0.5))
        self.assertEqual(reach(moves, 1.5, 1.5), (0.0, 0.5))
        self.assertEqual(reach(moves, 3.0, 5.0), (0.0, 0.0))
        self.assertFalse(ControlLines(pedal=((0.0, 1.0),)).between(1.0, 2.0))
        self.assertTrue(ControlLines(pedal=((0.0, 1.0),)).between(0.9, 2.0))

    def test_each_is_found_in_the_bars_in_which_it_was_used_and_no_other(self) -> None:
        part = melody()
        take, overlay = with_gestures(part)
        used = controls_by_bars(part, played_controls(part, overlay))
        self.assertEqual(list(used), [(2, 2), (5, 5), (7, 8)])
        self.assertTrue(used[2, 2].is_pedal_down)
        self.assertAlmostEqual(used[5, 5].bend_up, 0.5, places=3)
        self.assertAlmostEqual(used[7, 8].modulation, 0.4, places=2)
        self.assertEqual(control_lines(replace(take, pedal=(), bend=(), modulation=())), UNUSED)

    def test_what_was_done_is_said(self) -> None:
        self.assertEqual(describe_controls(Controls(), ENGLISH), [])
        self.assertEqual(
            describe_controls(Controls(is_pedal_down=True, bend_down=0.5, modulation=0.4), ENGLISH),
            ["sustain pedal down", "pitch bend down by as much as 50%", "modulation up to 40%"],
        )
        part = melody()
        _, overlay = with_gestures(part)
        rows = selected_rows(part, overlay, EVERYTHING, kit=STANDARD_KIT)
        lines = result_of(part, overlay, rows, {}, ENGLISH)
        self.assertEqual(sum("sustain pedal down" in line for line in lines), 4)
        self.assertTrue(all(line.startswith("bar 5") for line in lines if "pitch bend" in line))


class DrawnTest(TestCase):
    def test_a_wheel_is_drawn_in_the_rows_in_which_it_moved_clear_of_the_strips(self) -> None:
        part = melody()
        _, overlay = with_gestures(part)
        rows = page_view(part, width=400.0, overlay=overlay).rows
        drawn = {
            bar.number: [strip.wheel for strip in row.wheels]
            for row in rows
            for bar in row.bars
            if row.wheels
        }
        self.assertEqual(drawn[5], [Wheel.BEND])
        self.assertEqual(drawn[7], [Wheel.MODULATION])
        self.assertNotIn(1, drawn)
        for row in rows:
            assert row.drift is not None
            for strip in row.wheels:
                self.assertGreater(strip.top, row.staff_bottom)
                self.assertLess(strip.bottom, row.drift.top)
        self.assertTrue(any(row.played_pedal for row in rows), "the part writes no pedal")

    def test_ten_thousand_moves_are_drawn_in_a_step_for_each_column(self) -> None:
        part = melody()
        take, overlay = with_gestures(part)
        wobbling = [(20_000.0 * k / 10_000, STATUS_BEND, 0, 64 + k % 50) for k in range(10_000)]
        shaken = take_from_events([*events_from_take(take), *wobbling])
        for row in page_view(part, width=800.0, overlay=replace(overlay, take=shaken)).rows:
            [bend, *_] = row.wheels
            columns = [float(step.split("V")[0]) for step in bend.path.split("H")[1:]]
            self.assertLessEqual(len(columns), row.box.right / MIN_STEP_PX)
            self.assertTrue(all(after >= before for before, after in pairwise(columns)))
