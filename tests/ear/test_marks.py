"""Marks: hand-worked sums, and the good behaviour that they promise."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.criteria.credits import tenths
from ear.criteria.levels import LEVELS, level_named, window_for
from ear.criteria.notes.scoring import DOUBLE, WRONG
from ear.criteria.timing.scoring import BESIDE, LATE
from ear.errors import UnknownName
from ear.extraction.extraction import extract_facts
from ear.judging.judge import Rules, judge, whole_shares
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.matching.match import match
from ear.notes import Kind, Part, Take, TakeNote
from ear.players.robot import Habits, play
from tests.ear.exact import exact, scores
from tests.ear.parts import beat, melody, two_hands

PARTS = (melody(), two_hands(), beat())
SEEDS = st.integers(0, 10_000)


class SumsTest(TestCase):
    """A sum for every criterion, worked by hand."""

    def test_notes(self) -> None:
        """16 written; one wrong, one missed, one extra, one double: 14 ÷ 17.5 = 80%, of which 50 count
        nothing: (80 − 50) ÷ 50 = 60."""
        part = melody(bars=4)
        notes = list(exact(part).notes)
        wrong = replace(notes[5], pitch=notes[5].pitch + 1)
        again = TakeNote(onset_s=notes[2].onset_s + 0.05, length_s=0.03, pitch=notes[2].pitch, velocity=40)
        stray = TakeNote(onset_s=notes[8].onset_s + 0.3, length_s=0.3, pitch=95, velocity=90)
        notes[2] = replace(notes[2], length_s=0.03)
        take = Take.of([*notes[:5], wrong, *notes[6:9], *notes[10:], again, stray])
        actual = assess(part, take).judgement.criterion("notes")
        assert actual is not None
        self.assertEqual(actual.score, 60.0)
        self.assertEqual(sorted(actual.losses.why), ["double", "extra", "missed", "wrong"])
        by_why = dict(zip(actual.losses.why, actual.losses.points, strict=True))
        self.assertAlmostEqual(by_why[WRONG], 40 / 3.5)
        self.assertAlmostEqual(by_why[DOUBLE], 20 / 3.5)
        self.assertAlmostEqual(sum(actual.losses.points), 40.0)

    def test_timing(self) -> None:
        """Building gives full credit to 40 ms and none from 120: 80 ms off is half. One of 16 missed has none:
        (11 + 4 × 0.5) ÷ 16 = 81.25, written 81.3."""
        part = melody(bars=4)
        moved = [
            replace(n, onset_s=n.onset_s + (0.08 if k % 4 == 3 else 0))
            for k, n in enumerate(exact(part).notes)
        ]
        actual = assess(part, Take.of(moved[:6] + moved[7:])).judgement.criterion("timing")
        assert actual is not None
        self.assertEqual(actual.score, 81.3)
        lost = dict(zip(actual.losses.row, actual.losses.points, strict=True))
        self.assertAlmostEqual(lost[6], 2 * lost[3])

    def test_timing_beside_the_click(self) -> None:
        """At 0.8 of the tempo from the first note on: each note has half of its credit against the player's
        own pulse, if its credit against the click is less; quarters at 96 fall behind by 156 ms each, so all but
        the first have none there."""
        part = melody(bars=8)
        slow = Take.of(
            replace(n, onset_s=n.onset_s / 0.8, length_s=n.length_s / 0.8) for n in exact(part).notes
        )
        actual = assess(part, slow)
        timing = actual.judgement.criterion("timing")
        assert timing is not None
        self.assertEqual(timing.score, tenths(100 * (1 + 31 * 0.5) / 32))
        said = {line.code: line.values for line in timing.lines}
        self.assertEqual(said["timing_full"], {"count": 1})
        self.assertEqual(said["timing_beside"], {"count": 31, "credit": 15.5})
        self.assertNotIn("timing_partly", said)
        # Half a beat is 312 ms: up to there a note is late, then it is told by its own pulse.
        self.assertEqual(actual.judgement.verdicts[1], LATE)
        self.assertEqual(set(actual.judgement.verdicts[2:]), {BESIDE})
        kept = replace(DEFAULT_RUBRICS[Kind.KEYBOARD], beside_share=0.2)
        again = judge(actual.facts, Rules(rubric=kept, level=LEVELS["building"])).criterion("timing")
        assert again is not None
        self.assertEqual(again.score, tenths(100 * (1 + 31 * 0.2) / 32))

    def test_flow(self) -> None:
        """A slip of 0.25 s is half-way from 0.1 to 0.4 s: half of 22. Two of eight bars unplayed: 25."""
        part = melody(bars=8)
        notes = [n for n in exact(part).notes if n.onset_s < part.tempos.second_at(6 * 1920) - 0.01]
        at = part.tempos.second_at(2 * 1920)
        late = Take.of(replace(n, onset_s=n.onset_s + (0.25 if n.onset_s >= at - 0.01 else 0)) for n in notes)
        actual = assess(part, late).judgement.criterion("flow")
        assert actual is not None
        self.assertEqual(actual.score, 100 - 11 - 25)
        lost = dict(zip(actual.losses.row, actual.losses.points, strict=True))
        self.assertAlmostEqual(lost[8], 11.0)
        self.assertAlmostEqual(lost[24], 25 / 8)

    def test_dynamics(self) -> None:
        """First beats are written 20 steps above the others. Played at 7 above, they reach half of the 14 that
        have full credit: 0.7 × 50 + 0.3 × 100. Others 31 steps off have half: 0.7 × 100 + 0.3 × 83.3."""
        part = melody(bars=8)
        take = exact(part)
        soft = Take.of(replace(n, velocity=79 if n.velocity == 92 else 72) for n in take.notes)
        self.assertEqual(scores(assess(part, soft))["dynamics"], 65.0)
        plain = [k for k, n in enumerate(part.notes) if n.velocity == 72]
        loud = dict.fromkeys(plain[:4], 72 + 31) | dict.fromkeys(plain[4:8], 72 - 31)
        uneven = Take.of(replace(n, velocity=loud.get(k, n.velocity)) for k, n in enumerate(take.notes))
        # (46 − 31) ÷ (46 − 16) = 0.5 of eight in 24, the rest in full.
        self.assertEqual(
            scores(assess(part, uneven))["dynamics"], tenths(70 + 0.3 * tenths(100 * (16 + 8 * 0.5) / 24))
        )

    def test_length(self) -> None:
        """Half as long is an octave: (1.6 − 1) ÷ (1.6 − 0.3) = 0.46 of a note, to hundredths."""
        part = melody(bars=4)
        short = Take.of(
            replace(n, length_s=n.length_s * (0.5 if k < 8 else 1)) for k, n in enumerate(exact(part).notes)
        )
        self.assertEqual(scores(assess(part, short))["length"], tenths(100 * (8 + 8 * 0.46) / 16))

    def test_a_ceiling_bounds_the_whole_and_can_be_switched_off(self) -> None:
        """140 ms late with 30 forgiven has 0.13 by the click. By its own pulse it has 0.7 at first, for who never was with the
        click, and after 8 bars 0.6: Timing 65, so at most 72."""
        part = melody(bars=8)
        # Not all by the same amount, which only a computer does.
        uneven = (
            replace(n, onset_s=n.onset_s + (0.134, 0.146)[k % 2]) for k, n in enumerate(exact(part).notes)
        )
        late = Take.of(uneven)
        judged = assess(part, late).judgement
        self.assertEqual((judged.sum, judged.total), (87.82, 72.16))
        assert judged.ceiling is not None
        self.assertEqual((judged.ceiling.of, judged.ceiling.by, judged.ceiling.most), ("timing", 65.2, 72.16))
        free = replace(DEFAULT_RUBRICS[Kind.KEYBOARD], has_ceilings=False)
        self.assertEqual(assess(part, late, rubric=free).judgement.total, 87.82)

    def test_windows_are_never_wider_than_the_notes_about_a_place_allow(self) -> None:
        """Sixteenths at 150: 100 ms apart, so full to 25 and none from 50."""
        window = window_for(LEVELS["first-steps"], room_ms=100.0)
        self.assertAlmostEqual(window.full_ms, 25.0)
        self.assertAlmostEqual(window.none_ms, 50.0)

    def test_levels_by_name(self) -> None:
        self.assertEqual(level_named("First steps").key, "first-steps")
        with self.assertRaises(UnknownName):
            level_named("expert")

    def test_what_is_not_assessed_gives_its_weight_to_the_others_in_whole_per_cents(self) -> None:
        part = melody()
        actual = assess(part, replace(exact(part), has_touch=False)).judgement
        weights = {c.name: c.weight for c in actual.criteria}
        self.assertEqual(weights, {"notes": 39, "timing": 39, "flow": 11, "dynamics": 0, "length": 11})

    @given(st.lists(st.one_of(st.just(0.0), st.floats(0.01, 1000)), max_size=17))
    @settings(max_examples=200)
    def test_shares_are_whole_and_add_up(self, weights: list[float]) -> None:
        shares = whole_shares(weights)
        self.assertEqual(sum(shares), 100 if any(weights) else 0)
        for weight, share in zip(weights, shares, strict=True):
            self.assertEqual(share > 0, weight > 0)

    def test_bands_begin_where_they_say(self) -> None:
        rubric = DEFAULT_RUBRICS[Kind.KEYBOARD]
        table = [
            (0, "Begin again"),
            (39.4, "Begin again"),
            # Written as 40: what is read decides.
            (39.5, "On the way"),
            (90, "Concert-ready"),
            (100, "Concert-ready"),
        ]
        for total, name in table:
            self.assertEqual(rubric.band(total).name, name)


class BehaviourTest(TestCase):
    def test_a_perfect_take_has_100_in_everything(self) -> None:
        for part in PARTS:
            actual = assess(part, exact(part), level=LEVELS["exacting"])
            self.assertEqual(set(scores(actual).values()), {100.0})
            self.assertEqual(actual.judgement.total, 100.0)

    def test_an_empty_take_has_0_and_says_so(self) -> None:
        for part in PARTS:
            actual = assess(part, Take.of(()))
            self.assertEqual(actual.judgement.total, 0.0)
            self.assertEqual([(t.finding.code, t.cost) for t in actual.judgement.faults], [("empty", 100.0)])

    @given(st.sampled_from(PARTS), SEEDS, st.floats(0.2, 0.8))
    @settings(max_examples=25)
    def test_less_jitter_never_lowers_timing(self, part: Part, seed: int, share: float) -> None:
        """Pull every onset towards the click by the same share."""
        rough = play(part, Habits(spread_ms=24), seed=seed)
        a = assess(part, rough)
        onset = {
            p.take: part.tempos.second_at(part.notes[p.target].onset_tick)
            for p in match(part, rough).pairs
            if p.target is not None
        }
        calm = Take.of(
            replace(n, onset_s=onset[k] + (n.onset_s - onset[k]) * share) if k in onset else n
            for k, n in enumerate(rough.notes)
        )
        b = assess(part, calm)
        self.assertGreaterEqual((scores(b)["timing"] or 0) + 1e-6, scores(a)["timing"] or 0)

    @given(st.sampled_from(PARTS), SEEDS)
    @settings(max_examples=20)
    def test_jitter_alone_leaves_notes_dynamics_and_length(self, part: Part, seed: int) -> None:
        calm, rough = (play(part, Habits(spread_ms=spread), seed=seed) for spread in (2, 18))
        a, b = scores(assess(part, calm)), scores(assess(part, rough))
        for name in ("notes", "dynamics", "length"):
            self.assertAlmostEqual(a.get(name) or 0, b.get(name) or 0, delta=1.5)

    @given(st.sampled_from(PARTS[:2]), st.data())
    @settings(max_examples=20)
    def test_a_wrong_note_costs_notes_and_not_timing(self, part: Part, data: st.DataObject) -> None:
        take = exact(part)
        k = data.draw(st.integers(0, len(take.notes) - 1))
        notes = [replace(n, pitch=n.pitch + 1) if i == k else n for i, n in enumerate(take.notes)]
        actual = scores(assess(part, Take.of(notes)))
        self.assertLess(actual["notes"] or 0, 100)
        self.assertEqual(actual["timing"], 100)
        self.assertEqual(actual["flow"], 100)

    @given(st.sampled_from(PARTS), st.integers(1, 4), st.data())
    @settings(max_examples=20)
    def test_a_slip_of_whole_beats_costs_flow_and_not_timing(
        self, part: Part, beats: int, data: st.DataObject
    ) -> None:
        bar = data.draw(st.integers(3, 6))
        at = part.tempos.second_at(part.meters.bar(bar).start_tick)
        size = beats * 60 / part.tempos.first_bpm
        late = Take.of(
            replace(n, onset_s=n.onset_s + size) if n.onset_s >= at - 1e-6 else n for n in exact(part).notes
        )
        actual = scores(assess(part, late))
        self.assertLess(actual["flow"] or 0, 100)
        self.assertGreater(actual["timing"] or 0, 97)

    @given(st.sampled_from(PARTS), SEEDS)
    @settings(max_examples=15)
    def test_order_of_simultaneous_notes_makes_no_difference(self, part: Part, seed: int) -> None:
        take = play(part, Habits(spread_ms=15, wrong_keys=0.05), seed=seed)
        again = Take.of(reversed(take.notes))
        self.assertEqual(assess(part, take).judgement, assess(part, again).judgement)

    @given(SEEDS, st.floats(0.6, 1.6))
    @settings(max_examples=15)
    def test_a_scaled_piece_gives_scaled_results(self, seed: int, rate: float) -> None:
        part = melody(bpm=90)
        take = play(part, Habits(spread_ms=10, lead_ms=20), seed=seed)
        fast = part.at_tempo(90 * rate)
        scaled = Take.of(replace(n, onset_s=n.onset_s / rate, length_s=n.length_s / rate) for n in take.notes)
        a, b = extract_facts(part, take).figures, extract_facts(fast, scaled).figures
        self.assertAlmostEqual((a.bias_ms or 0) / rate, b.bias_ms or 0, delta=0.01)
        self.assertAlmostEqual((a.spread_ms or 0) / rate, b.spread_ms or 0, delta=0.01)
