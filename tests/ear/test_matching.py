"""Matching against the truth of the robot player's takes."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from benches.matching import read_truths, tally
from ear.matching import path
from ear.matching.bar_again import match_bars_again
from ear.matching.clock import CLICK
from ear.matching.match import match
from ear.matching.matcher import Matcher
from ear.matching.outcome import Match, Outcome, SlipKind
from ear.matching.path import ShiftRange, best_path, straight_path
from ear.notes import STANDARD_KIT, Part, Take, TakeNote
from ear.players.robot import Habits, Jump, Performance, perform, play
from ear.units import TICKS_PER_QUARTER
from tests.ear.parts import beat, chords, melody, two_hands
from tests.ear.test_sections import slow_then_fast

PARTS = {"melody": melody(bars=12), "two hands": two_hands(bars=12), "beat": beat(bars=12)}


def links(actual: Match) -> set[tuple[int, int]]:
    return {(p.target, p.take) for p in actual.pairs if p.target is not None and p.take is not None}


def true_links(performed: Performance) -> set[tuple[int, int]]:
    return {(t, k) for k, t in enumerate(performed.target_of) if t is not None}


def f1(part: Part, performed: Performance) -> float:
    actual, wanted = links(match(part, performed.take)), true_links(performed)
    return 2 * len(actual & wanted) / (len(actual) + len(wanted))


@dataclass(frozen=True)
class Trouble:
    name: str
    habits: Habits
    least: float = 0.99


TROUBLES = (
    Trouble("clean", Habits(spread_ms=6), 1.0),
    Trouble("lead", Habits(lead_ms=-150, spread_ms=8)),
    Trouble("lag", Habits(lead_ms=180, spread_ms=8)),
    Trouble("drift", Habits(drift_ms_per_bar=25, spread_ms=8)),
    Trouble("slower", Habits(tempo_ratio=0.7, spread_ms=8)),
    Trouble("faster", Habits(tempo_ratio=1.45, spread_ms=8)),
    Trouble("unsteady", Habits(spread_ms=28), 0.97),
    Trouble("late start", Habits(jumps=(Jump(bar=1, quarters=2.0),), spread_ms=8)),
    Trouble("slip", Habits(jumps=(Jump(bar=5, quarters=1.3),), spread_ms=8)),
    Trouble("restart", Habits(jumps=(Jump(bar=6, back_bars=2, quarters=0.6),), spread_ms=8), 0.97),
    Trouble("stops early", Habits(stop_after_bar=7, spread_ms=8)),
    Trouble("doubles and grazes", Habits(doubles=0.15, grazes=0.15, spread_ms=8)),
    Trouble("grace notes and flams", Habits(grace_notes=0.2, spread_ms=6)),
    Trouble("wrong and missed", Habits(wrong_keys=0.08, misses=0.08, spread_ms=8), 0.95),
)


class LinksTest(TestCase):
    def test_links_hold_under_each_trouble(self) -> None:
        for part_name, part in PARTS.items():
            for trouble in TROUBLES:
                for seed in range(2):
                    with self.subTest(part=part_name, trouble=trouble.name, seed=seed):
                        self.assertGreaterEqual(
                            f1(part, perform(part, trouble.habits, seed=seed)), trouble.least
                        )

    def test_transposed_takes_are_said_to_be_so(self) -> None:
        for semitones in (-12, -5, 2, 7, 12):
            performed = perform(PARTS["two hands"], Habits(transpose=semitones, spread_ms=8), seed=2)
            actual = match(PARTS["two hands"], performed.take)
            self.assertEqual(actual.transposition, semitones)
            self.assertEqual(links(actual), true_links(performed))

    def test_another_key_at_another_tempo(self) -> None:
        for part in (PARTS["melody"], PARTS["two hands"]):
            habits = Habits(transpose=-3, tempo_ratio=0.7, misses=0.1, spread_ms=8)
            performed = perform(part, habits, seed=4)
            actual = match(part, performed.take)
            self.assertEqual(actual.transposition, -3)
            self.assertAlmostEqual(actual.time_base.pace.ratio(part.tempos), 0.7, delta=0.005)
            self.assertEqual(links(actual), true_links(performed))

    def test_chords_at_another_tempo_are_not_a_jump_each(self) -> None:
        part = chords(bars=8)
        for ratio in (0.75, 0.88, 1.2):
            performed = perform(part, Habits(tempo_ratio=ratio, spread_ms=12), seed=2)
            actual = match(part, performed.take)
            self.assertEqual((actual.time_base.slips, links(actual)), ((), true_links(performed)))
            self.assertAlmostEqual(actual.time_base.pace.ratio(part.tempos), ratio, delta=0.005)

    def test_a_key_is_found_though_half_the_part_is_missing(self) -> None:
        part = PARTS["melody"]
        habits = Habits(transpose=-2, stop_after_bar=6, misses=0.1, spread_ms=8)
        self.assertEqual(match(part, play(part, habits, seed=3)).transposition, -2)

    def test_a_take_that_is_mostly_tries_does_not_skip_ahead(self) -> None:
        """Bars 1 to 5, again from bar 3, broken off after bar 6: no bar beyond was played."""
        part = PARTS["two hands"]
        habits = Habits(jumps=(Jump(bar=6, back_bars=3, quarters=0.7),), stop_after_bar=6, spread_ms=6)
        performed = perform(part, habits, seed=2)
        actual = match(part, performed.take)
        self.assertEqual([s.kind for s in actual.time_base.slips], [SlipKind.RESTART])
        self.assertEqual(links(actual), true_links(performed))

    def test_a_short_slip_is_a_jump_and_no_sudden_haste(self) -> None:
        """220 ms could be crept within a bar of quavers; nobody who slips does."""
        part = beat(bars=12)
        habits = Habits(
            jumps=(Jump(bar=5, quarters=0.4), Jump(bar=8, quarters=-0.4)), spread_ms=5, doubles=0.1
        )
        slips = match(part, play(part, habits, seed=6)).time_base.slips
        self.assertEqual([s.kind for s in slips], [SlipKind.SLIP, SlipKind.RECOVERY])
        for slip, quarters in zip(slips, (0.4, -0.4), strict=True):
            self.assertAlmostEqual(slip.quarters, quarters, delta=0.05)

    def test_a_bar_left_out_among_bars_alike_is_a_whole_bar(self) -> None:
        """All bars but the last are alike: which was left out is open, that it was one is not."""
        part = beat(bars=12)
        (slip,) = match(
            part, play(part, Habits(jumps=(Jump(bar=6, skip_bars=1),), spread_ms=5), seed=1)
        ).time_base.slips
        self.assertEqual((slip.kind, slip.quarter % 4), (SlipKind.SKIP_BAR, 0.0))
        self.assertAlmostEqual(slip.quarters, -4.0, delta=0.05)

    def test_a_note_far_too_late_in_slow_music_is_late_and_not_missed(self) -> None:
        part = melody(bars=4, bpm=60.0)
        for late_s, outcome in ((0.15, Outcome.MATCHED), (0.39, Outcome.MATCHED), (0.5, Outcome.MISSED)):
            late = Take.of(
                TakeNote(
                    onset_s=n.onset_tick / 480 + late_s * (i == 9), length_s=0.4, pitch=n.pitch, velocity=70
                )
                for i, n in enumerate(part.notes)
            )
            self.assertEqual(match(part, late).pairs[9].outcome, outcome, late_s)

    def test_slips_are_found_with_bar_size_and_kind(self) -> None:
        part = PARTS["two hands"]
        for jump, kind, quarters in (
            (Jump(bar=5, quarters=1.25), SlipKind.SLIP, 1.25),
            (Jump(bar=6, back_bars=2), SlipKind.RESTART, 6.0),
            (Jump(bar=6, skip_bars=1), SlipKind.SKIP_BAR, -3.0),
            (Jump(bar=1, quarters=2.0), SlipKind.LATE_START, 2.0),
        ):
            with self.subTest(kind):
                actual = match(part, play(part, Habits(jumps=(jump,), spread_ms=6), seed=5))
                (slip,) = actual.time_base.slips
                self.assertEqual(slip.kind, kind)
                self.assertAlmostEqual(slip.quarters, quarters, delta=0.06)

    def test_empty_and_foreign_takes_have_no_links(self) -> None:
        part = PARTS["melody"]
        self.assertEqual(links(match(part, Take.of(()))), set())
        low = Take.of(
            TakeNote(onset_s=0.37 * k, length_s=0.2, pitch=30 + k % 3, velocity=60) for k in range(40)
        )
        actual = match(part, low)
        self.assertTrue(actual.is_foreign)
        self.assertEqual(links(actual), set())

    def test_doubles_grazes_and_abandoned_notes_are_told_apart(self) -> None:
        part = PARTS["melody"]
        actual = match(part, play(part, Habits(doubles=0.3, spread_ms=4), seed=8))
        self.assertGreater(sum(p.outcome is Outcome.DOUBLE for p in actual.pairs), 5)
        actual = match(part, play(part, Habits(grazes=0.3, spread_ms=4), seed=8))
        self.assertGreater(sum(p.is_graze for p in actual.pairs), 5)
        actual = match(part, play(part, Habits(jumps=(Jump(bar=7, back_bars=3),), spread_ms=4), seed=8))
        self.assertEqual(sum(p.is_abandoned for p in actual.pairs), 12)


class SparedSearchTest(TestCase):
    """The wide search is left out only where it would find the same path."""

    def test_the_proof_holds_against_the_search(self) -> None:
        spared = 0
        for name, part in PARTS.items():
            for seed in range(6):
                habits = Habits(spread_ms=4 * seed, lead_ms=-20 * seed, misses=0.04, wrong_keys=0.03)
                take = play(part, habits, seed=seed)
                matcher = Matcher(part, take, kit=STANDARD_KIT)
                grid = matcher.grid(matcher.played, CLICK)
                with mock.patch("ear.matching.path._play", wraps=path._play) as played:
                    quick = best_path(grid, straight_path(grid), reach=ShiftRange.NEAR)
                spared += not played.called
                with mock.patch("ear.matching.path.no_jump_pays", return_value=False):
                    searched = best_path(grid, straight_path(grid), reach=ShiftRange.NEAR)
                with self.subTest(part=name, seed=seed):
                    np.testing.assert_array_equal(quick.run, searched.run)
                    np.testing.assert_allclose(quick.score, searched.score, atol=0.01)
        self.assertGreater(spared, 12)

    def test_rewards_with_a_step_are_a_bound(self) -> None:
        part = PARTS["two hands"]
        matcher = Matcher(part, play(part, Habits(spread_ms=20), seed=1), kit=STANDARD_KIT)
        grid = matcher.grid(matcher.played, CLICK)
        exact = grid.rewards(low=-60, width=121)
        bound = grid.rewards(low=-60, width=121, step=3)
        for k in range(bound.shape[1]):
            around = exact[:, max(0, 3 * k - 1) : 3 * k + 2].max(axis=1)
            self.assertTrue((bound[:, k] >= around - 1e-5).all())


class LabelledTakesTest(TestCase):
    """Takes that were not made by the robot player, with what each note is."""

    def test_links_outcomes_slips_and_keys(self) -> None:
        names = []
        for truth in read_truths(Path(__file__).parent / "takes"):
            names.append(truth.name)
            with self.subTest(truth.name):
                actual = match(truth.part, truth.take)
                one = tally(truth, actual)
                self.assertGreaterEqual(one.f1, 0.98)
                self.assertGreaterEqual(one.macro_f1, 0.95)
                self.assertEqual(actual.is_foreign, "wrong_piece" in truth.tags)
                if not actual.is_foreign:
                    self.assertEqual(actual.transposition, truth.transposition)
                    self.assertAlmostEqual(
                        actual.time_base.pace.ratio(truth.part.tempos) / (truth.tempo_ratio or 1.0),
                        1.0,
                        delta=0.005,
                    )
                    self.assertEqual(
                        [s.target for s in actual.time_base.slips], [s["target"] for s in truth.slips]
                    )
        self.assertEqual(len(names), 10)


class ShapeTest(TestCase):
    @given(st.integers(0, 10_000), st.floats(0, 0.4), st.floats(0, 0.4), st.sampled_from(sorted(PARTS)))
    @settings(max_examples=25)
    def test_every_note_ends_in_exactly_one_row(
        self, seed: int, misses: float, wrong: float, name: str
    ) -> None:
        part = PARTS[name]
        take = play(
            part, Habits(spread_ms=30, misses=misses, wrong_keys=wrong, doubles=0.1, grazes=0.1), seed=seed
        )
        rows = match(part, take).pairs
        self.assertEqual([p.target for p in rows if p.target is not None], list(range(len(part.notes))))
        self.assertEqual(sorted(p.take for p in rows if p.take is not None), list(range(len(take.notes))))
        for p in rows:
            self.assertEqual(
                p.target is not None and p.take is not None,
                p.outcome in (Outcome.MATCHED, Outcome.WRONG_PITCH),
            )


class BarAgainTest(TestCase):
    """Matched by itself, a bar that was played elsewhere is found; the rest stays as it was."""

    def moved(self, part: Part, bar: int, move: Callable[[float], float], *, seed: int = 2) -> Take:
        begin, end = (
            part.tempos.second_at(t) for t in (part.bars[bar - 1].start_tick, part.bars[bar - 1].end_tick)
        )
        take = play(part, Habits(spread_ms=6), seed=seed)
        return Take.of(
            replace(n, onset_s=begin + move(n.onset_s - begin))
            if begin - 0.05 <= n.onset_s < end - 0.05
            else n
            for n in take.notes
        )

    def test_a_bar_late_hurried_or_dragged_is_found(self) -> None:
        moves = {"late": lambda s: s + 0.45, "hurried": lambda s: 0.55 * s + 0.3}
        for name, move in moves.items():
            for part in (melody(bars=8), two_hands(), slow_then_fast(melody(bars=8))):
                for bar in (3, 6):
                    with self.subTest(name=name, bar=bar, kind=part.kind):
                        take = self.moved(part, bar, move)
                        actual = match(part, take)
                        again = match_bars_again(part, take, actual, {bar}, kit=STANDARD_KIT)
                        self.assertEqual(
                            len([p for p in again.pairs if p.outcome is Outcome.MATCHED]), len(part.notes)
                        )
                        outside = [p for p in actual.links if part.bar_of_note[p.target] != bar]
                        self.assertLessEqual(set(outside), set(again.links))
                        after = part.bars[-1].start_tick / TICKS_PER_QUARTER
                        ends = [
                            m.time_base.expected_s(np.array([after]), part.tempos) for m in (actual, again)
                        ]
                        self.assertAlmostEqual(float(ends[0][0]), float(ends[1][0]), places=6)

    @settings(max_examples=30)
    @given(st.integers(0, 10_000), st.integers(1, 8))
    def test_no_row_is_lost_and_no_bar_worse(self, seed: int, bar: int) -> None:
        part = melody(bars=8)
        take = play(part, Habits(spread_ms=40, wrong_keys=0.2, misses=0.2, doubles=0.1), seed=seed)
        actual = match(part, take)
        again = match_bars_again(part, take, actual, {bar, 99}, kit=STANDARD_KIT)
        self.assertEqual(
            [p.target for p in again.pairs if p.target is not None], list(range(len(part.notes)))
        )
        self.assertEqual(
            sorted(p.take for p in again.pairs if p.take is not None), list(range(len(take.notes)))
        )
        right = [sum(p.outcome is Outcome.MATCHED for p in m.pairs) for m in (actual, again)]
        self.assertGreaterEqual(right[1], right[0])
