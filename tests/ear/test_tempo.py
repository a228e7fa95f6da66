"""A player whose tempo moves: the time base follows him, and his tempo is told."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from ear import notes
from ear.drawing.tempo import tempo_picture
from ear.extraction.extraction import extract_facts
from ear.matching.clock import CLICK, PlayerClock
from ear.matching.match import match
from ear.matching.pace import Pace, PaceStretch
from ear.notes import Take, TempoMap
from ear.players.robot import Habits, Jump, TempoHabit, perform, play
from tests.ear.parts import beat, chords, melody_in_eighths, two_hands

PARTS = {"melody": melody_in_eighths(bars=12), "two hands": two_hands(bars=12), "beat": beat(bars=12)}
AT_120 = TempoMap.of(120)
TEMPO_CODES = {
    f"{way}_{where}" for way in ("slower", "faster", "slows", "hurries") for where in ("bars", "from", "end", "lost")
}  # fmt: skip


def links(actual) -> dict[int, int]:
    return {p.target: p.take for p in actual.links}


def true_links(performed) -> dict[int, int]:
    return {target: k for k, target in enumerate(performed.target_of) if target is not None}


def changes(*of: tuple[int, float], glides: bool = False, spread_ms: float = 8) -> Habits:
    return Habits(
        spread_ms=spread_ms, tempo_changes=tuple(TempoHabit(bar=b, ratio=r, glides=glides) for b, r in of)
    )


class PaceTest(TestCase):
    """By hand: at 120 a quarter lasts half a second."""

    pace = Pace(
        stretches=(
            PaceStretch(first_quarter=0.0, last_quarter=8.0, first_ratio=1.0, last_ratio=1.0),
            PaceStretch(first_quarter=8.0, last_quarter=16.0, first_ratio=1.0, last_ratio=0.5),
            PaceStretch(first_quarter=16.0, last_quarter=20.0, first_ratio=0.8, last_ratio=0.8),
        )
    )

    def test_seconds_are_the_sum_of_what_each_lasts(self) -> None:
        at = np.array([-2.0, 0.0, 8.0, 12.0, 16.0, 20.0, 24.0])
        # Four seconds of the click from 8 to 16 last 1 to 2 each: the first two 2 x (1 + 1.5) / 2 = 2.5, all of them 6.
        actual = self.pace.seconds(at, AT_120)
        np.testing.assert_allclose(actual, [-1.0, 0.0, 4.0, 6.5, 10.0, 12.5, 15.0])

    def test_the_tempo_at_a_place_is_that_on_the_way_to_it(self) -> None:
        self.assertEqual([self.pace.ratio_at(q) for q in (0.0, 8.0, 20.0, 30.0)], [1.0, 1.0, 0.8, 0.8])
        self.assertAlmostEqual(self.pace.ratio_at(12.0), 1 / 1.5)
        self.assertAlmostEqual(self.pace.ratio_at(16.0), 0.5)

    def test_the_mean_is_written_over_played(self) -> None:
        self.assertAlmostEqual(self.pace.ratio(AT_120), 10.0 / 12.5)
        self.assertTrue(Pace.steady(1.0).is_click)
        self.assertEqual(Pace.steady(0.7).ratio(AT_120), 0.7)

    def test_a_clock_and_its_reverse(self) -> None:
        clock = PlayerClock(take=np.array([0.0, 4.0, 10.0]), own=np.array([0.0, 2.0, 8.0]))
        np.testing.assert_allclose(clock.own_at(np.array([-2.0, 2.0, 7.0, 12.0])), [-1.0, 1.0, 5.0, 10.0])
        np.testing.assert_allclose(clock.take_at(clock.own_at(np.arange(-3.0, 14.0))), np.arange(-3.0, 14.0))
        self.assertTrue(np.isnan(clock.take_at(np.array([np.nan]))[0]))
        self.assertTrue(PlayerClock.steady(1.0).is_click and CLICK.is_click)


class FollowedTest(TestCase):
    @settings(max_examples=40)
    @given(
        part=st.sampled_from(sorted(PARTS)),
        ratios=st.lists(st.floats(0.62, 1.6), min_size=2, max_size=3),
        seed=st.integers(0, 999),
    )
    def test_a_take_stretched_smoothly_keeps_its_links(
        self, part: str, ratios: list[float], seed: int
    ) -> None:
        written = PARTS[part]
        performed = perform(written, Habits(spread_ms=8), seed=seed)
        t = performed.take.onsets_s
        knots = np.linspace(min(0.0, t[0]), t[-1], len(ratios))
        slow = np.interp(np.linspace(knots[0], knots[-1], 400), knots, 1.0 / np.array(ratios))
        grid = np.linspace(knots[0], knots[-1], 400)
        stretched = np.interp(t, grid, np.concatenate(([0.0], np.cumsum(slow[1:] * np.diff(grid)))))
        take = Take.of(
            replace(n, onset_s=float(s)) for n, s in zip(performed.take.notes, stretched, strict=True)
        )
        actual = match(written, take)
        wanted = true_links(performed)
        same = sum(links(actual).get(i) == j for i, j in wanted.items())
        self.assertGreaterEqual(same, 0.98 * len(wanted))
        self.assertEqual(actual.time_base.slips, ())

    def test_any_tempo_from_a_third_to_twice(self) -> None:
        for name, part in PARTS.items():
            for ratio in (0.35, 0.45, 0.5, 0.55, 1.8, 2.0, 2.2):
                with self.subTest(part=name, ratio=ratio):
                    performed = perform(part, Habits(spread_ms=8, tempo_ratio=ratio, misses=0.03), seed=3)
                    actual = match(part, performed.take)
                    self.assertEqual(links(actual), true_links(performed))
                    self.assertAlmostEqual(actual.time_base.pace.ratio(part.tempos), ratio, delta=0.005)

    def test_sections_in_their_own_tempo_are_no_slips(self) -> None:
        for name, part in PARTS.items():
            for ratio in (0.62, 0.8, 1.3):
                with self.subTest(part=name, ratio=ratio):
                    performed = perform(part, changes((5, ratio), (9, 1.0)), seed=2)
                    actual = match(part, performed.take)
                    self.assertEqual((actual.time_base.slips, links(actual)), ((), true_links(performed)))
                    stretches = actual.time_base.pace.stretches
                    self.assertEqual(len(stretches), 3)
                    self.assertEqual((stretches[0].first_ratio, stretches[2].last_ratio), (1.0, 1.0))
                    self.assertAlmostEqual(stretches[1].first_ratio, ratio, delta=0.03)
                    self.assertAlmostEqual(
                        stretches[1].first_quarter, part.bars[4].start_tick / 480, delta=1.0
                    )

    def test_music_that_begins_with_a_rest_begins_in_time(self) -> None:
        part = PARTS["melody"]
        later = part.with_notes(replace(n, onset_tick=n.onset_tick + 2 * 1920) for n in part.notes)
        actual = match(later, play(later, changes((7, 0.75), (11, 1.0)), seed=2))
        self.assertEqual(actual.time_base.slips, ())
        first = next(p for p in actual.links)
        expected = actual.time_base.expected_s(
            np.array([later.notes[first.target].onset_tick / 480]), later.tempos
        )
        self.assertAlmostEqual(float(expected[0]), later.tempos.second_at(2 * 1920), delta=0.03)

    def test_another_tempo_after_a_stop_is_one_slip(self) -> None:
        part = PARTS["two hands"]
        habits = replace(changes((7, 0.8)), jumps=(Jump(bar=7, quarters=2.0),))
        performed = perform(part, habits, seed=5)
        actual = match(part, performed.take)
        self.assertEqual(links(actual), true_links(performed))
        self.assertEqual(len(actual.time_base.slips), 1)
        self.assertEqual(actual.time_base.slips[0].target, performed.jumps[0][0])

    def test_steady_players_have_one_tempo(self) -> None:
        for part in PARTS.values():
            for spread in (5, 20, 45):
                for seed in range(6):
                    take = play(
                        part,
                        Habits(spread_ms=spread, misses=0.03, wrong_keys=0.03, drift_ms_per_bar=4),
                        seed=seed,
                    )
                    self.assertTrue(match(part, take).time_base.pace.is_click, (spread, seed))

    def test_deviations_are_from_the_moving_tempo(self) -> None:
        part = PARTS["two hands"]
        actual = extract_facts(part, play(part, changes((5, 0.75), (9, 1.0)), seed=1))
        assert actual.figures.bias_ms is not None and actual.figures.spread_ms is not None
        self.assertLess(abs(actual.figures.bias_ms), 12)
        self.assertLess(actual.figures.spread_ms, 14)

    def test_written_changes_of_tempo_are_none_of_the_players(self) -> None:
        written = [notes.TempoChange(tick=0, bpm=90), notes.TempoChange(tick=16 * 480, bpm=60)]
        part = replace(PARTS["melody"], tempos=TempoMap(written))
        self.assertTrue(match(part, play(part, Habits(spread_ms=8), seed=1)).time_base.pace.is_click)
        actual = extract_facts(part, play(part, Habits(spread_ms=8, tempo_ratio=0.8), seed=1))
        self.assertAlmostEqual(actual.figures.tempo_ratio, 0.8, delta=0.005)


class ToldTest(TestCase):
    def told(self, habits: Habits, *, part=None, has_click: bool = True):
        part = part or PARTS["two hands"]
        return extract_facts(part, play(part, habits, seed=4), has_click=has_click)

    def finding(self, code: str, habits: Habits):
        actual = self.told(habits)
        these = [f for f in actual.findings if f.code == code]
        self.assertEqual(len(these), 1, [f.code for f in actual.findings])
        self.assertEqual([f.code for f in actual.findings if f.code in TEMPO_CODES], [code])
        self.assertFalse(
            {f.code for f in actual.findings}
            & {"own_tempo", "slip", "restart", "skip", "rushing", "dragging"}
        )
        return these[0]

    def test_each_way_a_tempo_moves(self) -> None:
        bpm = PARTS["two hands"].tempos.first_bpm
        for code, habits, bars, last in (
            ("slower_bars", changes((5, 0.75), (9, 1.0)), (5, 8), 0.75),
            ("faster_bars", changes((5, 1.3), (9, 1.0)), (5, 8), 1.3),
            ("slower_from", changes((7, 0.75)), (7, 12), 0.75),
            ("faster_from", changes((7, 1.3)), (7, 12), 1.3),
        ):
            with self.subTest(code):
                actual = self.finding(code, habits)
                self.assertEqual(actual.bars, bars)
                self.assertAlmostEqual(actual.first_bpm, bpm, delta=2)
                self.assertAlmostEqual(actual.last_bpm, bpm * last, delta=2)

    def test_slowing_into_the_end(self) -> None:
        habits = Habits(
            spread_ms=8,
            tempo_changes=(TempoHabit(bar=10, ratio=1.0), TempoHabit(bar=12, ratio=0.6, glides=True)),
        )
        actual = self.finding("slows_end", habits)
        self.assertGreaterEqual(actual.bars[0], 9)
        self.assertLess(actual.size, 0.85)

    def test_slower_where_notes_are_lost(self) -> None:
        part = PARTS["two hands"]
        take = play(part, changes((5, 0.75), (9, 1.0)), seed=4)
        linked = links(match(part, take))
        lost = {
            linked[i] for i in range(len(part.notes)) if part.bar_of_note[i] in (5, 6, 7, 8) and i % 4 == 1
        }
        actual = extract_facts(
            part, replace(take, notes=tuple(n for k, n in enumerate(take.notes) if k not in lost))
        )
        told = next(f for f in actual.findings if f.code == "slower_lost")
        self.assertEqual((told.bars, told.count), ((5, 8), len(lost)))

    def test_bars_have_their_own_tempo_beside_the_clicks(self) -> None:
        actual = self.told(changes((5, 0.75), (9, 1.0)))
        bpm = PARTS["two hands"].tempos.first_bpm
        self.assertEqual([row.bar for row in actual.bar_tempos], list(range(1, 13)))
        for row in actual.bar_tempos:
            wanted = bpm * (0.75 if 5 <= row.bar <= 8 else 1.0)
            self.assertEqual(row.click_bpm, bpm)
            self.assertAlmostEqual(row.stretch_bpm, wanted, delta=2)
            self.assertAlmostEqual(row.own_bpm or 0, wanted, delta=4)
        self.assertEqual(self.told(Habits(spread_ms=8)).bar_tempos, ())

    def test_a_picture_has_the_click_and_every_bar(self) -> None:
        drawn = tempo_picture(self.told(changes((5, 0.75), (9, 1.0))).bar_tempos)
        assert drawn is not None
        self.assertEqual(len(drawn.bars), 12)
        slow, fast = drawn.bars[5].stretch_y, drawn.bars[0].stretch_y
        self.assertGreater(slow, fast)
        for bar in drawn.bars:
            self.assertTrue(0 <= bar.stretch_y <= drawn.height and 0 <= (bar.own_y or 0) <= drawn.height)
        self.assertIsNone(tempo_picture(()))

    def test_chords_twice_a_bar_tell_a_tempo_too(self) -> None:
        part = chords(bars=8)
        actual = extract_facts(
            part, play(part, changes((5, 0.8), (7, 1.0), spread_ms=14), seed=1), has_click=False
        )
        self.assertEqual([one.bars for one in actual.tempo], [(1, 4), (5, 6), (7, 8)])

    def test_many_changes_are_told_as_one(self) -> None:
        actual = self.told(changes((3, 0.8), (5, 1.2), (7, 0.8), (9, 1.2), (11, 0.8)))
        codes = [f.code for f in actual.findings]
        self.assertIn("tempo_moves", codes)
        self.assertFalse({"slower_from", "faster_from", "slower_bars", "faster_bars"} & set(codes))
