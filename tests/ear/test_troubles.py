"""What players do besides missing notes: ornaments, hands in other octaves, other pads, passes over one another."""

from collections import Counter
from dataclasses import replace
from unittest import TestCase

import numpy as np

from benches.listening import CAUSES, codes_reported
from ear.assess import assess
from ear.criteria.score import IN_TIME
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.matching.match import match
from ear.matching.outcome import Outcome, SlipKind
from ear.measuring.figures import steadiness
from ear.measuring.pads import find_pad_choices, kit_with
from ear.notes import Hand, Kind, Ornament, Part, Take, TakeNote
from ear.players.robot import Habits, Jump, perform, play
from ear.reader import ENGLISH
from tests.ear.parts import alike, beat, melody, melody_in_eighths, two_hands

SNARE, HAT, FOOT, OPEN_HAT = 38, 42, 44, 46


def codes(actual) -> list[str]:
    return [f.code for f in actual.facts.findings]


def with_notes(take: Take, added) -> Take:
    return Take.of([*take.notes, *added])


def small(at: TakeNote, *, ms: float, pitch: int = 0, rate: float = 0.6, length_s: float = 0.05) -> TakeNote:
    """A note beside another one."""
    return TakeNote(
        onset_s=at.onset_s + ms / 1000,
        length_s=length_s,
        pitch=at.pitch + pitch,
        velocity=round(at.velocity * rate),
    )


def about(part: Part, take: Take, targets, **shapes) -> Take:
    """Notes about those that were played for these target notes: `shapes` has (ms, semitones) for each."""
    own = {p.target: take.notes[p.take] for p in match(part, take).links}
    return with_notes(
        take, [small(own[i], ms=ms, pitch=pitch) for i in targets for ms, pitch in shapes["of"]]
    )


class OrnamentsTest(TestCase):
    drums, keys = beat(bars=8), melody(bars=8)
    FIGURES = (
        ("drums", Ornament.FLAM, ((-28, 0),)),
        ("drums", Ornament.DRAG, ((-90, 0), (-42, 0))),
        ("drums", Ornament.ROLL, ((60, 0), (120, 0), (180, 0))),
        ("keys", Ornament.GRACE, ((-70, 2),)),
        ("keys", Ornament.MORDENT, ((70, -1), (140, 0))),
        ("keys", Ornament.UPPER_MORDENT, ((70, 2), (140, 0))),
        ("keys", Ornament.TRILL, ((70, 2), (140, 0), (210, 2), (280, 0))),
        ("keys", Ornament.TURN, ((70, 2), (140, 0), (210, -1), (280, 0))),
    )

    def played(self, kind: str, shape, *, marks: Ornament | None = None):
        part = getattr(self, kind)
        targets = (
            [i for i, n in enumerate(part.notes) if n.pitch == SNARE]
            if kind == "drums"
            else list(range(2, len(part.notes) - 1, 4))
        )
        take = about(part, play(part, Habits(spread_ms=6), seed=3), targets, of=shape)
        if marks:
            part = part.with_notes(
                replace(n, ornament=marks if i in targets else None) for i, n in enumerate(part.notes)
            )
        return targets, assess(part, take)

    def test_each_is_recognised_about_its_note(self) -> None:
        for kind, ornament, shape in self.FIGURES:
            with self.subTest(ornament):
                targets, actual = self.played(kind, shape)
                rows = actual.facts.rows
                self.assertEqual(
                    Counter(o.ornament for o in rows.ornaments), {ornament: len(shape) * len(targets)}
                )
                self.assertEqual({rows.near[o.row] for o in rows.ornaments}, set(targets))
                self.assertTrue(all(rows.outcome[o.row] is Outcome.EXTRA for o in rows.ornaments))
                self.assertEqual(actual.facts.counts.matched, actual.facts.counts.target)

    def test_one_note_tells_them_and_they_cost_a_little(self) -> None:
        for kind, ornament, shape in self.FIGURES:
            with self.subTest(ornament):
                targets, actual = self.played(kind, shape)
                told = [f for f in actual.facts.findings if f.code == "ornament_added"]
                self.assertEqual(
                    [(f.ornament, f.count) for f in told],
                    [(ornament.value, len(targets))],
                )
                self.assertFalse({"doubles", "extras", "grazes"} & set(codes(actual)))
                for to in (FOR_TEACHER, FOR_STUDENT):
                    self.assertNotIn("{", render_finding(told[0], to, ENGLISH))
                notes = next(c for c in actual.judgement.criteria if c.name == "notes")
                self.assertLess(notes.score or 0, 100)

    def test_where_they_are_written_they_are_free(self) -> None:
        for kind, ornament, shape in self.FIGURES:
            with self.subTest(ornament):
                _, actual = self.played(kind, shape, marks=ornament)
                self.assertNotIn("ornament_added", codes(actual))
                notes = next(c for c in actual.judgement.criteria if c.name == "notes")
                self.assertEqual(notes.score, 100)
                for one in actual.facts.rows.ornaments:
                    self.assertEqual(actual.judgement.verdicts[one.row], IN_TIME)

    def test_another_sort_is_not_what_is_written(self) -> None:
        _, actual = self.played("drums", ((60, 0), (120, 0), (180, 0)), marks=Ornament.FLAM)
        self.assertIn("ornament_added", codes(actual))

    def test_a_mordents_note_lasts_as_long_as_its_key(self) -> None:
        part = self.keys
        take = play(part, Habits(spread_ms=4), seed=1)
        own = {p.target: p.take for p in match(part, take).links}
        first = take.notes[own[4]]
        short = replace(first, length_s=0.06)
        again = TakeNote(
            onset_s=first.onset_s + 0.14,
            length_s=first.length_s - 0.14,
            pitch=first.pitch,
            velocity=first.velocity,
        )
        beside = small(first, ms=70, pitch=-1)
        actual = assess(
            part, Take.of([*(n for k, n in enumerate(take.notes) if k != own[4]), short, beside, again])
        )
        self.assertAlmostEqual(actual.facts.rows.length_ratio[4] or 0, 0.95, delta=0.1)

    def test_a_bounce_stays_a_double_and_a_brushed_key_a_graze(self) -> None:
        actual = assess(self.drums, play(self.drums, Habits(spread_ms=6, doubles=0.1), seed=2))
        self.assertEqual((actual.facts.counts.ornaments, "doubles" in codes(actual)), (0, True))
        actual = assess(self.keys, play(self.keys, Habits(spread_ms=6, grazes=0.2), seed=2))
        self.assertIn("grazes", codes(actual))


class HandsTest(TestCase):
    part = two_hands(bars=12)

    def shifted(self, **semitones: int) -> Take:
        take = play(self.part, Habits(spread_ms=8, misses=0.02), seed=2)
        hand = {p.take: self.part.notes[p.target].hand for p in match(self.part, take).links}
        return Take.of(
            replace(n, pitch=n.pitch + semitones.get((hand.get(k) or Hand.LEFT).value, 0))
            for k, n in enumerate(take.notes)
        )

    def test_a_hand_in_another_octave_is_told_once(self) -> None:
        for octaves in ({"left": -12}, {"right": 12}, {"left": 12, "right": -12}):
            with self.subTest(octaves):
                actual = assess(self.part, self.shifted(**octaves))
                told = {f.place: f.size for f in actual.facts.findings if f.code == "hand_octave"}
                self.assertEqual(told, {f"{hand} hand": size for hand, size in octaves.items()})
                self.assertEqual(actual.facts.transposition, 0)
                self.assertFalse({"wrong_key", "transposed", "foreign"} & set(codes(actual)))
                self.assertGreater(
                    actual.facts.counts.matched + actual.facts.counts.wrong_pitch, 0.95 * len(self.part.notes)
                )

    def test_both_hands_in_one_octave_are_a_transposition(self) -> None:
        actual = match(self.part, self.shifted(left=12, right=12))
        self.assertEqual((actual.transposition, actual.octaves), (12, ()))


class KitsTest(TestCase):
    part = beat(bars=8)

    def moved(self, pads: dict[int, int]) -> Take:
        take = play(self.part, Habits(spread_ms=6), seed=4)
        return Take.of(replace(n, pitch=pads.get(n.pitch, n.pitch)) for n in take.notes)

    def test_pads_that_send_other_numbers_are_set_up_and_told_once(self) -> None:
        for pads, code in (({SNARE: 75}, "pad_number"), ({SNARE: 75, HAT: 22}, "pad_numbers")):
            take = self.moved(pads)
            actual = assess(self.part, take)
            told = [c for c in codes(actual) if c in ("pad_number", "pad_numbers", "wrong_drum")]
            self.assertEqual(told, [code])
            rows = ((p.target, p.take, p.outcome) for p in match(self.part, take).pairs)
            again = match(self.part, take, kit=kit_with(find_pad_choices(self.part, take, rows)))
            self.assertTrue(all(p.outcome is Outcome.MATCHED for p in again.pairs))

    def test_an_open_hat_for_a_closed_one_is_no_set_up(self) -> None:
        take = self.moved({HAT: OPEN_HAT})
        rows = ((p.target, p.take, p.outcome) for p in match(self.part, take).pairs)
        self.assertEqual(find_pad_choices(self.part, take, rows), ())

    def test_the_foot_beats_time_beside_the_stick(self) -> None:
        take = play(self.part, Habits(spread_ms=6), seed=4)
        beat_s = 60 / self.part.tempos.first_bpm
        feet = [
            TakeNote(onset_s=k * beat_s + 0.02, length_s=0.05, pitch=FOOT, velocity=60) for k in range(32)
        ]
        actual = match(self.part, with_notes(take, feet))
        self.assertEqual(
            Counter(p.outcome for p in actual.pairs),
            {Outcome.MATCHED: len(self.part.notes), Outcome.EXTRA: 32},
        )
        # Nor where the stick has missed a stroke now and then.
        missed = [k for k, n in enumerate(take.notes) if n.pitch == HAT][::16]
        fewer = Take.of(n for k, n in enumerate(take.notes) if k not in missed)
        again = Counter(p.outcome for p in match(self.part, with_notes(fewer, feet)).pairs)
        self.assertEqual((again[Outcome.EXTRA], again[Outcome.MISSED]), (32, len(missed)))

    def test_strokes_of_the_foot_stand_in_for_missing_ones(self) -> None:
        take = play(self.part, Habits(spread_ms=6), seed=4)
        swapped = Take.of(
            replace(n, pitch=FOOT) if n.pitch == HAT and k % 3 == 0 else n for k, n in enumerate(take.notes)
        )
        self.assertTrue(all(p.outcome is Outcome.MATCHED for p in match(self.part, swapped).pairs))


class PassesTest(TestCase):
    def test_a_pass_over_another_is_told_and_one_of_them_measured(self) -> None:
        for part in (beat(bars=8), two_hands(bars=8)):
            first = play(part, Habits(spread_ms=8), seed=1)
            second = play(part, Habits(spread_ms=8, lead_ms=25), seed=2)
            actual = assess(part, with_notes(first, second.notes))
            self.assertIn("second_pass", codes(actual))
            self.assertFalse({"doubles", "extras"} & set(codes(actual)))
            self.assertEqual(actual.facts.counts.matched, len(part.notes))
            self.assertGreaterEqual(actual.facts.counts.overlaid, 0.9 * len(part.notes))

    def test_what_is_played_into_the_count_in_costs_nothing(self) -> None:
        part = melody(bars=8)
        take = play(part, Habits(spread_ms=6), seed=1)
        beat_s = 60 / part.tempos.first_bpm
        taps = [TakeNote(onset_s=-k * beat_s, length_s=0.1, pitch=55, velocity=70) for k in (1, 2, 3, 4)]
        plain, actual = assess(part, take), assess(part, with_notes(take, taps))
        self.assertIn("count_in_played", codes(actual))
        self.assertNotIn("extras", codes(actual))
        self.assertEqual(actual.judgement.points, plain.judgement.points)


class ShortTest(TestCase):
    def test_few_notes_at_any_tempo_and_octave_are_known(self) -> None:
        for count in (3, 4, 6, 8, 12):
            for ratio, octave in ((0.5, 0), (1.5, 12), (0.7, -12), (2.0, 12)):
                with self.subTest(count=count, ratio=ratio, octave=octave):
                    part = melody_in_eighths(bars=4)
                    part = part.with_notes(part.notes[:count])
                    performed = perform(
                        part, Habits(spread_ms=8, tempo_ratio=ratio, transpose=octave), seed=2
                    )
                    actual = match(part, performed.take)
                    wanted = {(target, k) for k, target in enumerate(performed.target_of)}
                    self.assertEqual({(p.target, p.take) for p in actual.links}, wanted)
                    self.assertEqual(actual.transposition, octave)

    def test_a_wrong_note_is_no_other_key(self) -> None:
        part = melody_in_eighths(bars=4)
        part = part.with_notes(part.notes[:5])
        take = play(part, Habits(spread_ms=8), seed=2)
        wrong = Take.of(replace(n, pitch=n.pitch + 2) if k == 2 else n for k, n in enumerate(take.notes))
        actual = match(part, wrong)
        self.assertEqual((actual.transposition, len(actual.links)), (0, 5))


class FormsTest(TestCase):
    """A section of four bars twice, then another: A A B."""

    first = melody_in_eighths(bars=4)
    other = two_hands(bars=4)

    def part(self) -> Part:
        bar = 1920
        right = [n for n in melody(bars=8).notes if n.onset_tick >= 4 * bar]
        shifted = [replace(n, onset_tick=n.onset_tick + 4 * bar, pitch=n.pitch + 5) for n in right]
        again = [replace(n, onset_tick=n.onset_tick + 4 * bar) for n in self.first.notes]
        return self.first.with_notes([*self.first.notes, *again, *shifted])

    def test_a_repeat_left_out_is_told_as_that(self) -> None:
        part = self.part()
        take = play(part, Habits(spread_ms=6, jumps=(Jump(bar=5, skip_bars=4),)), seed=1)
        actual = assess(part, take)
        self.assertEqual([s.kind for s in actual.facts.slips], [SlipKind.REPEAT_LEFT_OUT])
        self.assertEqual(actual.facts.slips[0].bar, 9)
        told = next(f for f in actual.facts.findings if f.code == "repeat_left_out")
        self.assertEqual(
            render_finding(told, FOR_TEACHER, ENGLISH),
            "Leaves the repeat out: goes on at bar 9, beat 1, 16 beats sooner.",
        )
        self.assertFalse({"early_start", "skip", "skip_bar"} & set(codes(actual)))

    def test_a_passage_once_more_is_told_as_that(self) -> None:
        part = self.part()
        take = play(part, Habits(spread_ms=6, jumps=(Jump(bar=5, back_bars=4),)), seed=1)
        actual = assess(part, take)
        self.assertEqual([s.kind for s in actual.facts.slips], [SlipKind.REPEAT_ADDED])
        self.assertEqual(actual.facts.counts.matched, len(part.notes))
        self.assertNotIn("extras", codes(actual))

    def test_a_new_start_after_a_stop_is_none(self) -> None:
        take = play(self.first, Habits(spread_ms=6, jumps=(Jump(bar=4, back_bars=2, quarters=0.7),)), seed=1)
        self.assertEqual([s.kind for s in assess(self.first, take).facts.slips], [SlipKind.RESTART])


class CausesTest(TestCase):
    """One cause, told first, by its own name, and without what follows from it."""

    def first(self, name: str, kind: Kind) -> list[tuple[str, ...]]:
        cause = next(c for c in CAUSES if c.name == name)
        actual = [codes_reported(cause, kind, seed) for seed in range(6)]
        for told in actual:
            self.assertIn(told[0] if told else None, cause.codes, (name, told))
        return actual

    def test_each_is_the_first_note(self) -> None:
        for cause in CAUSES:
            if cause.name in (
                "an end three bars early",
                "a bar skipped",
                "a new start",
                "slowing all through",
            ):
                continue  # `bench listening` counts these: now and then two stories are as good.
            for kind in cause.kinds:
                with self.subTest(cause=cause.name, kind=kind):
                    self.first(cause.name, kind)

    def test_what_follows_from_a_cause_is_not_told(self) -> None:
        for name, kind, silent in (
            ("the hat early by 32 ms", Kind.DRUMS, {"lead", "lane_late", "unsteady"}),
            ("chords rolled by 40 ms a note", Kind.KEYBOARD, {"hand_late", "lag", "unsteady"}),
            ("the left hand uneven in time", Kind.KEYBOARD, {"unsteady"}),
            ("the right hand alone", Kind.KEYBOARD, {"missed"}),
            ("everything on one pad", Kind.DRUMS, {"missed", "wrong_drum", "transposed"}),
        ):
            for told in self.first(name, kind):
                self.assertFalse(silent & set(told), (name, told))

    def test_clean_takes_are_without_a_fault(self) -> None:
        for kind in Kind:
            for seed in range(12):
                self.assertEqual(codes_reported(None, kind, seed), ())

    def test_a_figure_says_how_sure_it_is(self) -> None:
        for part, least, most in ((melody(bars=2), 3, 12), (melody_in_eighths(bars=16), 0.5, 3)):
            take = play(part, Habits(spread_ms=14, lead_ms=60), seed=2)
            told = next(f for f in assess(part, take).facts.findings if f.code == "lag")
            self.assertTrue(least <= told.error_ms <= most, told)
            self.assertIn(" ± ", render_finding(told, FOR_TEACHER, ENGLISH))

    def test_of_two_lanes_that_is_off_which_is_further_from_the_click(self) -> None:
        whole = beat(bars=12)
        part = whole.with_notes(n for n in whole.notes if n.pitch in (SNARE, HAT))
        for lane, ms, code in ((HAT, -35.0, "lane_early"), (SNARE, 35.0, "lane_late")):
            take = play(part, Habits(spread_ms=6, late_lanes=((lane, ms),)), seed=3)
            told = [
                f.code
                for f in assess(part, take).facts.findings
                if f.code.startswith(("lane_", "lead", "lag"))
            ]
            self.assertEqual(told, [code])

    def test_steadiness_of_few_values_is_that_of_many(self) -> None:
        random = np.random.default_rng(4)
        for count in (8, 16, 64):
            actual = []
            for _ in range(400):
                values = random.normal(0, 1, count)
                slope, level = np.polyfit(np.arange(count), values, 1)
                actual.append(steadiness(values - slope * np.arange(count) - level, small=1.85))
            self.assertAlmostEqual(float(np.mean(actual)), 1.0, delta=0.08, msg=str(count))

    def test_steadiness_does_not_shrink_with_few_notes(self) -> None:
        means = []
        for bars in (2, 4, 16):
            part = melody(bars=bars)
            spreads = [
                assess(part, play(part, Habits(spread_ms=30), seed=seed)).facts.figures.spread_ms or 0
                for seed in range(40)
            ]
            means.append(sum(spreads) / len(spreads))
        self.assertGreater(min(means) / max(means), 0.75, means)


class PractisedTest(TestCase):
    def test_a_hand_is_practised_alone_by_the_name_that_a_rung_has(self) -> None:
        part = two_hands(bars=12)
        actual = assess(part, play(part, Habits(spread_ms=6, left_hand_ms=55), seed=1))
        told = next(f for f in actual.facts.findings if f.code == "hand_late")
        practice = told.practice(last_bar=12, targets=len(part.notes))
        self.assertEqual((practice.alone, told.place), ("left", "left hand"))


class GuessTest(TestCase):
    def test_a_bar_left_out_among_bars_alike_is_called_a_guess(self) -> None:
        for part, bars in ((alike(beat()), [4, 5, 6, 7]), (beat(), []), (melody_in_eighths(bars=8), [])):
            actual = assess(part, play(part, Habits(spread_ms=6, jumps=(Jump(bar=4, skip_bars=1),)), seed=1))
            told = [f for f in actual.facts.findings if f.code == "skip_bar"]
            (slip,) = actual.facts.slips
            self.assertEqual([part.bar_holding(n).number for n in slip.could_land], bars)
            self.assertEqual(" A guess: " in render_finding(told[0], FOR_TEACHER, ENGLISH), bool(bars))
            if not bars:
                # Two bars that differ by one stroke: the one that leaves nothing missing was left out.
                self.assertEqual(slip.bar, 5)

    def test_a_listener_says_which_of_the_bars_it_was(self) -> None:
        for part in (alike(beat()), alike(melody_in_eighths(bars=8))):
            take = play(part, Habits(spread_ms=6, jumps=(Jump(bar=4, skip_bars=1),)), seed=1)
            heard = match(part, take)
            (slip,) = heard.time_base.slips
            for place in slip.could_land:
                actual = match(part, take, landings={slip.could_land[0]: place})
                missed = {
                    part.bar_holding(p.target).number for p in actual.pairs if p.outcome is Outcome.MISSED
                }
                self.assertEqual(missed, {part.bar_holding(place).number - 1})
                self.assertEqual(len(actual.links), len(heard.links))
                (told,) = actual.time_base.slips
                self.assertEqual((told.could_land, told.is_guess), (slip.could_land, False))
            # What is said of places that there are not changes nothing.
            for unknown in ({slip.could_land[0]: 1}, {1: slip.could_land[1]}):
                self.assertEqual(match(part, take, landings=unknown).pairs, heard.pairs)


class OddInputTest(TestCase):
    def test_whatever_comes_is_measured(self) -> None:
        """Music that begins long after the take has ended, a take hours long, keys at the end of the keyboard."""
        part = two_hands(bars=4)
        late = part.with_notes(replace(n, onset_tick=n.onset_tick + 200 * 1920) for n in part.notes)
        high = part.with_notes(replace(n, pitch=n.pitch + 27) for n in part.notes)
        low = Take.of(
            TakeNote(onset_s=0.3 * k, length_s=0.1, pitch=21 + k % 5, velocity=70) for k in range(40)
        )
        hours = Take.of(
            TakeNote(onset_s=900.0 * k, length_s=0.1, pitch=60 + k, velocity=70) for k in range(5)
        )
        for written, take in (
            (late, play(part, Habits(spread_ms=8), seed=1)),
            (high, low),
            (part, hours),
            (late, hours),
        ):
            actual = match(written, take)
            self.assertEqual({p.take for p in actual.pairs} - {None}, set(range(len(take.notes))))
