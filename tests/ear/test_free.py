"""Exercises without a target part, and without a click."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from ear.criteria.levels import LEVELS
from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.free.exercise import FreeExercise, FreeSpec, Pitches
from ear.free.improvising import improvised
from ear.judging.judge import Rules, judge
from ear.judging.judgement import Judgement
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.judging.working import describe_line
from ear.measuring.figures import WhyNot
from ear.notes import Kind, MeterMap, Part, Take, TakeNote, TempoMap
from ear.players.robot import Habits, play
from ear.practice.ladder import Rung
from ear.reader import ENGLISH
from tests.ear.parts import melody, melody_in_eighths, two_hands

BUILDING = LEVELS["building"]
CHORDS = FreeSpec(bars=8, grid_ticks=240, pitches=Pitches.CHORDS, chords="Am | F | C G | E7", least_a_bar=2)
METERS, BPM = MeterMap.of(4, 4), 90.0
MOST_BY_CHANCE = 15.0
SEEDS = range(8)


def page(spec: FreeSpec = CHORDS, kind: Kind = Kind.KEYBOARD) -> Part:
    return spec.page(kind=kind, meters=METERS, tempos=TempoMap.of(BPM))


def facts(spec: FreeSpec, take: Take, *, has_click: bool = True, kind: Kind = Kind.KEYBOARD) -> Facts:
    sheet = page(spec, kind)
    return extract_facts(sheet, take, has_click=has_click, free=spec.exercise(sheet, has_click=has_click))


def mark(actual: Facts) -> Judgement:
    return judge(actual, Rules(rubric=DEFAULT_RUBRICS[actual.target.kind], level=BUILDING))


def scores(actual: Facts) -> dict[str, float | None]:
    return {str(c.name): c.score for c in mark(actual).criteria}


def line(spec: FreeSpec = CHORDS, seed: int = 1, **habits) -> Take:
    sheet = page(spec)
    return play(improvised(spec.exercise(sheet), sheet, seed=seed), Habits(**habits), seed=seed)


def at(take: Take, times) -> Take:
    return Take.of(replace(n, onset_s=float(t)) for n, t in zip(take.notes, times, strict=True))


def codes(actual: Facts) -> set[str]:
    return {finding.code for finding in actual.findings}


class FreeTest(TestCase):
    def test_a_line_in_time_of_the_chords_notes_is_right_in_all(self) -> None:
        for seed in SEEDS:
            actual = facts(CHORDS, line(seed=seed, spread_ms=8))
            self.assertEqual(scores(actual), {"notes": 100, "timing": 100, "flow": 100})
            self.assertLessEqual({"outside_set", "bars_thin", "no_pulse"} & codes(actual), set())

    def test_an_empty_take_has_0(self) -> None:
        actual = facts(CHORDS, Take.of(()))
        self.assertEqual((scores(actual), mark(actual).total), ({"notes": 0, "timing": 0, "flow": 0}, 0))

    def test_notes_outside_the_chord_cost_notes_alone(self) -> None:
        take = line(spread_ms=5)
        notes = list(take.notes)
        for k in (3, 7):
            notes[k] = replace(notes[k], pitch=notes[k].pitch + 1)
        actual = facts(CHORDS, Take.of(notes))
        self.assertEqual(actual.counts.wrong_pitch, 2)
        self.assertAlmostEqual(scores(actual)["notes"] or 0, 100 * (1 - 2 / len(notes)), delta=0.06)
        self.assertEqual(scores(actual)["timing"], 100)
        told = next(f for f in actual.findings if f.code == "outside_set")
        for to in (FOR_TEACHER, FOR_STUDENT):
            self.assertNotIn("{", render_finding(told, to, ENGLISH))

    def test_two_chords_in_a_bar_have_half_of_it_each(self) -> None:
        third = CHORDS.exercise(page())
        tick = METERS.bar(3).start_tick
        self.assertTrue(third.is_allowed(64, tick=tick) and not third.is_allowed(62, tick=tick))
        self.assertTrue(third.is_allowed(62, tick=tick + 960) and not third.is_allowed(64, tick=tick + 960))

    def test_what_is_allowed_changes_where_it_is_said_to(self) -> None:
        scale = replace(CHORDS, pitches=Pitches.SCALE, chords="", scale="A minor pentatonic")
        for spec, count in ((CHORDS, 10), (replace(CHORDS, pitches=Pitches.ANY, chords=""), 1), (scale, 1)):
            exercise = spec.exercise(page(spec))
            changes = exercise.allowed_changes()
            self.assertEqual(len(changes), count)
            for tick in range(0, exercise.end_tick, 60):
                self.assertEqual([p for at, p in changes if at <= tick][-1], exercise.allowed_at(tick), tick)

    def test_random_times_earn_next_to_nothing(self) -> None:
        """Whatever the notes, with a click and without, few or many."""
        for bars, has_click in ((4, True), (8, True), (16, True), (4, False), (8, False), (16, False)):
            for grid in (480, 240, 120):
                spec = FreeSpec(bars=bars, grid_ticks=grid, least_a_bar=2)
                earned = []
                for seed in SEEDS:
                    random = np.random.default_rng(seed)
                    length = bars * 4 * 60 / BPM
                    onsets = np.sort(random.uniform(0, length, bars * 5))
                    take = Take.of(
                        TakeNote(onset_s=t, length_s=0.2, pitch=60, velocity=80) for t in onsets.tolist()
                    )
                    actual = facts(spec, take, has_click=has_click)
                    earned.append(scores(actual)["timing"] or 0.0)
                self.assertLessEqual(max(earned), MOST_BY_CHANCE, (bars, has_click, grid))

    def test_rougher_is_never_better(self) -> None:
        means = []
        for spread in (5, 20, 40, 60, 90, 140):
            actual = [scores(facts(CHORDS, line(seed=s, spread_ms=spread)))["timing"] or 0 for s in SEEDS]
            means.append(sum(actual) / len(actual))
        self.assertEqual(means, sorted(means, reverse=True))
        self.assertGreater(means[1], 95)
        self.assertLess(means[-1], 20)

    def test_a_steady_player_at_another_tempo_is_told_it(self) -> None:
        for ratio in (0.9, 0.75, 1.12):
            take = line(spread_ms=8)
            actual = facts(CHORDS, at(take, take.onsets_s / ratio))
            told = next(f for f in actual.findings if f.code == "own_tempo")
            self.assertAlmostEqual(told.played_bpm, BPM * ratio, delta=1.0)
            self.assertLess(actual.figures.spread_ms or 99, 14)
            self.assertLess(scores(actual)["timing"] or 0, 75)

    def test_a_constant_lag_is_told_and_forgiven_as_of_any_take(self) -> None:
        take = line(spread_ms=5)
        actual = facts(CHORDS, at(take, take.onsets_s + 0.028))
        self.assertAlmostEqual(actual.figures.bias_ms or 0, 28, delta=3)
        self.assertEqual(scores(actual)["timing"], 100)

    def test_steadiness_without_a_click_is_in_ms_at_any_tempo(self) -> None:
        spec = replace(CHORDS, bars=16)
        for spread in (10, 25):
            for ratio in (0.6, 1.0, 1.5):
                measured = []
                for seed in range(6):
                    sheet = page(spec)
                    made = improvised(spec.exercise(sheet), sheet, seed=seed).at_tempo(BPM * ratio)
                    take = play(made, Habits(spread_ms=spread), seed=seed)
                    actual = facts(spec, at(take, take.onsets_s + 2.7), has_click=False)
                    self.assertEqual(actual.figures.why_not["bias_ms"], WhyNot.NO_CLICK)
                    measured.append(actual.figures.spread_ms or 0)
                self.assertAlmostEqual(
                    float(np.mean(measured)), spread, delta=0.2 * spread, msg=f"{spread} {ratio}"
                )

    def test_triplets_for_quavers_are_told(self) -> None:
        straight = FreeSpec(bars=4, grid_ticks=240, least_a_bar=2)
        beat = 60 / BPM
        triplets = [k * beat / 3 for k in range(4 * 4 * 3)]
        quavers = [k * beat / 2 for k in range(4 * 4 * 2)]
        finer = [k * beat / 4 for k in range(4 * 4 * 4)]
        for times, told in ((triplets, True), (finer, True), (quavers, False), (quavers[::2], False)):
            take = Take.of(
                TakeNote(onset_s=t, length_s=0.1, pitch=60 + k % 5, velocity=80) for k, t in enumerate(times)
            )
            actual = facts(straight, take)
            self.assertEqual("other_division" in codes(actual), told)
        asked = facts(
            replace(straight, grid_ticks=160),
            Take.of(TakeNote(onset_s=t, length_s=0.1, pitch=60, velocity=80) for t in triplets),
        )
        self.assertNotIn("other_division", codes(asked))

    def test_swing_moves_every_second_line(self) -> None:
        beat = 60 / BPM
        times = [k * beat + into for k in range(16) for into in (0.0, beat * 2 / 3)]
        take = Take.of(TakeNote(onset_s=t, length_s=0.1, pitch=60, velocity=80) for t in times)
        spec = FreeSpec(bars=4, grid_ticks=240, swing=2.0)
        for has_click in (True, False):
            self.assertEqual(scores(facts(spec, take, has_click=has_click))["timing"], 100)
        straight = facts(replace(spec, swing=1.0), take)
        self.assertTrue(55 < (scores(straight)["timing"] or 0) < 75)
        self.assertIn("swung", codes(straight))

    def test_what_is_played_otherwise_than_asked_is_told_as_that_and_is_no_noise(self) -> None:
        beat = 60 / BPM
        quavers, shuffle = FreeSpec(bars=4, grid_ticks=240), FreeSpec(bars=4, grid_ticks=240, swing=2.0)
        for spec, into, code in (
            (quavers, (0.0, 1 / 3, 2 / 3), "other_division"), (quavers, (0.0, 0.25, 0.5, 0.75), "other_division"),
            (shuffle, (0.0, 0.5), "swing_straight"), (quavers, (0.0, 2 / 3), "swung"),
        ):  # fmt: skip
            with self.subTest(code=code, into=into):
                notes = Take.of(
                    # A few ms off, as no machine is.
                    TakeNote(
                        onset_s=(k + i) * beat + 0.004 * ((7 * k + n) % 3 - 1),
                        length_s=0.1,
                        pitch=60,
                        velocity=80,
                    )
                    for k in range(16)
                    for n, i in enumerate(into)
                )
                actual = facts(spec, notes)
                self.assertEqual(mark(actual).faults[0].finding.code, code)
                self.assertEqual(actual.take.in_time, 1.0)
                self.assertTrue(45 < mark(actual).total < 80, mark(actual).total)

    def test_a_tempo_that_slows_beside_the_click_is_told_as_that(self) -> None:
        take = line(spread_ms=6)
        t = take.onsets_s
        actual = facts(CHORDS, at(take, t * (1 + 0.12 * t / t[-1])))
        self.assertEqual(mark(actual).faults[0].finding.code, "slows")
        self.assertTrue(45 < mark(actual).total < 80, mark(actual).total)

    def test_empty_bars_own_what_they_cost(self) -> None:
        take = line(spread_ms=6)
        gone = Take.of(n for n in take.notes if not 4.0 <= n.onset_s < 8.0)
        judged = mark(facts(replace(CHORDS, least_a_bar=1), gone))
        empty = next(f for f in judged.faults if f.finding.code == "bars_empty")
        self.assertGreater(empty.cost, 1.0)

    def test_a_pulse_that_slows_evenly_is_told_and_followed(self) -> None:
        for end, code in ((0.75, "slows"), (1.3, "hurries")):
            take = line(spread_ms=6)
            t = take.onsets_s / take.onsets_s[-1]
            bent = take.onsets_s[-1] * (t + (1 / end - 1) * t * t / 2)
            actual = facts(CHORDS, at(take, bent + 1.0), has_click=False)
            told = next(f for f in actual.findings if f.code == code)
            self.assertAlmostEqual(told.last_bpm / told.first_bpm, end, delta=0.05)
            self.assertGreater(scores(actual)["timing"] or 0, 90)
            self.assertLess(actual.figures.spread_ms or 99, 12)

    def test_density_and_repeats_cost_flow(self) -> None:
        spec = FreeSpec(bars=4, grid_ticks=480, least_a_bar=4, most_a_bar=4, pairs_repeat=True)
        beat = 60 / BPM

        def bars(*notes_of_bar: tuple[int, ...]) -> Take:
            return Take.of(
                TakeNote(onset_s=4 * beat * b + beat * k, length_s=0.3, pitch=p, velocity=80)
                for b, pitches in enumerate(notes_of_bar)
                for k, p in enumerate(pitches)
            )

        a, b = (60, 62, 64, 65), (67, 65, 62, 60)
        self.assertEqual(scores(facts(spec, bars(a, a, b, b)))["flow"], 100)
        half = facts(spec, bars(a, a, a, b))
        self.assertEqual((half.free.repeated, scores(half)["flow"]), (0.5, 75))
        self.assertIn("not_repeated", codes(half))
        thin = facts(spec, bars(a, a, b[:2], ()))
        self.assertLessEqual({"bars_thin", "bars_empty"}, codes(thin))
        self.assertEqual((thin.free.thin_bars, thin.free.empty_bars, thin.free.full_bars), ((3,), (4,), ()))

    def test_bars_of_it_ask_for_what_these_bars_ask_for(self) -> None:
        whole = replace(CHORDS, pairs_repeat=True).exercise(page())
        for first, last in ((1, 8), (2, 3), (3, 3), (7, 8)):
            section = Rung(name="some", first_bar=first, last_bar=last).part(page())
            some = whole.of_bars(first, last, page=section)
            start = whole.meters.bar(first).start_tick
            self.assertEqual(some.end_tick, whole.meters.bar(last).end_tick - start)
            self.assertEqual(some.pairs_repeat, first % 2 == 1 and last > first)
            for tick in range(0, some.end_tick, 120):
                self.assertEqual(some.allowed_at(tick), whole.allowed_at(start + tick), (first, last, tick))

    def test_what_is_not_played_earns_nothing(self) -> None:
        take = line(spread_ms=5)
        few = Take.of(take.notes[:4])
        self.assertLess(mark(facts(CHORDS, few)).total, 30)

    def test_drums_are_free_on_their_pads(self) -> None:
        spec = FreeSpec(bars=4, grid_ticks=240, lanes=(36, 38), least_a_bar=2)
        beat = 60 / BPM
        take = Take.of(
            TakeNote(onset_s=k * beat, length_s=0.05, pitch=(36, 38, 36, 49)[k % 4], velocity=90)
            for k in range(16)
        )
        actual = facts(spec, take, kind=Kind.DRUMS)
        self.assertEqual((scores(actual)["notes"], "outside_drum" in codes(actual)), (75, True))

    def test_what_is_stored_opens_again_and_what_cannot_be_is_refused(self) -> None:
        self.assertEqual(FreeSpec.from_json(CHORDS.to_json()), CHORDS)
        actual = facts(CHORDS, line())
        self.assertEqual(facts_from_json(facts_to_json(actual)), actual)
        self.assertEqual([c.name for c in page().chords[:4]], ["Am", "F", "C", "G"])
        for wrong in (
            replace(CHORDS, chords="Am | Hx"), replace(CHORDS, bars=0), replace(CHORDS, swing=9.0),
            replace(CHORDS, least_a_bar=5, most_a_bar=2), replace(CHORDS, pitches=Pitches.SCALE, scale="Q major"),
            replace(CHORDS, pitches=Pitches.SCALE, scale="A sideways"),
        ):  # fmt: skip
            with self.assertRaises(EarError):
                page(wrong)
        with self.assertRaises(FormatError):
            FreeSpec.from_json({"bars": "many"})
        with self.assertRaises(ValueOutOfRange):
            FreeExercise(kind=Kind.KEYBOARD, meters=METERS, tempos=TempoMap.of(90), bars=4, grid_ticks=0)

    @given(
        notes=st.lists(st.tuples(st.floats(-3, 40), st.integers(21, 108), st.floats(0, 3)), max_size=60),
        has_click=st.booleans(),
    )
    @example(notes=[(0.0, 21, 0.0), (-1.0, 21, 0.0), (-1.7e-17, 22, 0.0)], has_click=False)
    @settings(max_examples=40)
    def test_any_take_is_measured_and_costs_add_up(self, notes, has_click) -> None:
        take = Take.of(TakeNote(onset_s=t, length_s=s, pitch=p, velocity=64) for t, p, s in notes)
        actual = facts(CHORDS, take, has_click=has_click)
        self.assertEqual(sorted(t for t in actual.rows.take if t is not None), list(range(len(take.notes))))
        judged = mark(actual)
        self.assertTrue(0 <= judged.total <= 100)
        for criterion in judged.criteria:
            if criterion.score is not None and take.notes and actual.target.notes:
                self.assertAlmostEqual(sum(criterion.losses.points), 100 - criterion.score, places=6)
            for each in criterion.lines:
                self.assertNotIn("{", describe_line(each, ENGLISH).figure)


class WithoutAClickTest(TestCase):
    """Parts that are written, played at the player's own speed."""

    def timing(self, part: Part, times) -> tuple[float, Facts]:
        take = Take.of(
            TakeNote(onset_s=float(t), length_s=0.3, pitch=n.pitch, velocity=n.velocity)
            for t, n in zip(times, part.notes, strict=True)
        )
        actual = extract_facts(part, take, has_click=False)
        return scores(actual)["timing"] or 0.0, actual

    def times(self, part: Part) -> np.ndarray:
        return part.tempos.seconds(part.onset_ticks / 480)

    def test_random_times_earn_next_to_nothing(self) -> None:
        for part in (melody(), melody_in_eighths()):
            written = self.times(part)
            for seed in SEEDS:
                random = np.random.default_rng(seed)
                gap = float(np.mean(np.diff(written)))
                for gaps in (
                    random.uniform(0.1, 2.0, len(written)) * gap, random.exponential(gap, len(written)),
                    random.lognormal(0, 0.7, len(written)) * gap,
                ):  # fmt: skip
                    earned, _ = self.timing(part, np.cumsum(gaps))
                    self.assertLessEqual(earned, MOST_BY_CHANCE)

    def test_steadiness_does_not_depend_on_the_tempo(self) -> None:
        part = melody_in_eighths()
        written = self.times(part)
        for spread in (10, 25):
            means = []
            for ratio in (0.6, 0.8, 1.0, 1.3):
                actual = []
                for seed in range(8):
                    noise = np.random.default_rng(seed).normal(0, spread / 1000, len(written))
                    _, measured = self.timing(part, np.sort(written / ratio + noise))
                    actual.append(measured.figures.spread_ms or 0)
                means.append(float(np.mean(actual)))
            self.assertLess(max(means) - min(means), 0.15 * spread, means)
            self.assertAlmostEqual(float(np.mean(means)), spread, delta=0.25 * spread)

    def test_an_even_slowing_is_told_with_both_tempos_and_costs_nothing(self) -> None:
        for part in (melody(), melody_in_eighths(), two_hands()):
            written = self.times(part)
            t = written / written[-1]
            for end, code in ((0.8, "slows"), (0.65, "slows"), (1.25, "hurries")):
                bent = written[-1] * (t + (1 / end - 1) * t * t / 2)
                earned, actual = self.timing(part, bent)
                told = [f for f in actual.findings if f.code == code]
                self.assertEqual(len(told), 1, (end, codes(actual)))
                first, last = (told[0].first_bpm, told[0].last_bpm)
                self.assertAlmostEqual(first, part.tempos.first_bpm, delta=2.0)
                self.assertAlmostEqual(last / first, end, delta=0.04)
                self.assertGreater(earned, 97)
                self.assertEqual(actual.counts.matched, len(part.notes))

    def test_a_steady_take_is_not_told_to_bend(self) -> None:
        for seed in SEEDS:
            part = melody()
            noise = np.random.default_rng(seed).normal(0, 0.03, len(part.notes))
            _, actual = self.timing(part, np.sort(self.times(part) / 0.85 + noise))
            self.assertFalse({"slows", "hurries", "no_pulse"} & codes(actual), seed)
            self.assertEqual(actual.take.in_time, 1.0)

    def test_one_hesitation_is_no_bend(self) -> None:
        part = melody()
        times = self.times(part)
        half = len(times) // 2
        _, actual = self.timing(part, np.concatenate([times[:half], times[half:] + 1.4]))
        self.assertFalse({"slows", "hurries"} & codes(actual))

    def test_robots_for_the_demo_are_the_same_each_time(self) -> None:
        sheet = page()
        self.assertEqual(
            improvised(CHORDS.exercise(sheet), sheet, seed=4),
            improvised(CHORDS.exercise(sheet), sheet, seed=4),
        )
