"""Matching against the truth of the robot player's takes."""

from dataclasses import dataclass
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.matching.match import match
from ear.matching.outcome import Match, Outcome, SlipKind
from ear.notes import Part, Take, TakeNote
from ear.players.robot import Habits, Jump, Performance, perform, play
from tests.ear.parts import beat, melody, two_hands

PARTS = {"melody": melody(bars=12), "two hands": two_hands(bars=12), "beat": beat(bars=12)}


def links(found: Match) -> set[tuple[int, int]]:
    return {(p.target, p.take) for p in found.pairs if p.target is not None and p.take is not None}


def true_links(performed: Performance) -> set[tuple[int, int]]:
    return {(t, k) for k, t in enumerate(performed.target_of) if t is not None}


def f1(part: Part, performed: Performance) -> float:
    found, wanted = links(match(part, performed.take)), true_links(performed)
    return 2 * len(found & wanted) / (len(found) + len(wanted))


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
            found = match(PARTS["two hands"], performed.take)
            self.assertEqual(found.transposition, semitones)
            self.assertEqual(links(found), true_links(performed))

    def test_slips_are_found_with_bar_size_and_kind(self) -> None:
        part = PARTS["two hands"]
        for jump, kind, quarters in (
            (Jump(bar=5, quarters=1.25), SlipKind.SLIP, 1.25),
            (Jump(bar=6, back_bars=2), SlipKind.RESTART, 6.0),
            (Jump(bar=6, skip_bars=1), SlipKind.SKIP_BAR, -3.0),
            (Jump(bar=1, quarters=2.0), SlipKind.LATE_START, 2.0),
        ):
            with self.subTest(kind):
                found = match(part, play(part, Habits(jumps=(jump,), spread_ms=6), seed=5))
                (slip,) = found.time_base.slips
                self.assertEqual(slip.kind, kind)
                self.assertAlmostEqual(slip.quarters, quarters, delta=0.06)

    def test_empty_and_foreign_takes_have_no_links(self) -> None:
        part = PARTS["melody"]
        self.assertEqual(links(match(part, Take.of(()))), set())
        low = Take.of(
            TakeNote(onset_s=0.37 * k, length_s=0.2, pitch=30 + k % 3, velocity=60) for k in range(40)
        )
        found = match(part, low)
        self.assertTrue(found.is_foreign)
        self.assertEqual(links(found), set())

    def test_doubles_grazes_and_abandoned_notes_are_told_apart(self) -> None:
        part = PARTS["melody"]
        found = match(part, play(part, Habits(doubles=0.3, spread_ms=4), seed=8))
        self.assertGreater(sum(p.outcome is Outcome.DOUBLE for p in found.pairs), 5)
        found = match(part, play(part, Habits(grazes=0.3, spread_ms=4), seed=8))
        self.assertGreater(sum(p.is_graze for p in found.pairs), 5)
        found = match(part, play(part, Habits(jumps=(Jump(bar=7, back_bars=3),), spread_ms=4), seed=8))
        self.assertEqual(sum(p.is_abandoned for p in found.pairs), 12)


class ShapeTest(TestCase):
    @given(st.integers(0, 10_000), st.floats(0, 0.4), st.floats(0, 0.4), st.sampled_from(sorted(PARTS)))
    @settings(max_examples=25, deadline=None)
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
