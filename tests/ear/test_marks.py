"""Marks: hand-worked sums, and the good behaviour that they promise."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import Assessment, assess
from ear.errors import UnknownName
from ear.judging.levels import LEVELS, level_named, window_for
from ear.judging.rubric import DEFAULT_RUBRICS, CriterionName
from ear.marking.criteria import score_notes
from ear.measuring.measures import Counts
from ear.notes import Kind, Part, Take, TakeNote
from ear.players.robot import Habits, play
from tests.ear.parts import beat, melody, two_hands

PARTS = (melody(), two_hands(), beat())
SEEDS = st.integers(0, 10_000)


def exact(part: Part) -> Take:
    """The target itself as a take."""
    return Take.of(
        TakeNote(
            onset_s=part.tempos.second_at(n.onset_tick),
            length_s=part.tempos.second_at(n.end_tick) - part.tempos.second_at(n.onset_tick),
            pitch=n.pitch,
            velocity=n.velocity,
        )
        for n in part.notes
    )


def scores(a: Assessment) -> dict[str, float | None]:
    return {c.name.value: c.score for c in a.mark.criteria}


class SumsTest(TestCase):
    def test_notes_by_hand(self) -> None:
        """18 right of 20, 2 extra, 2 doubles, 4 grazes: 18 ÷ (20 + 2 + 1 + 1) = 75."""
        counts = Counts(
            target=20,
            take=26,
            matched=18,
            wrong_pitch=1,
            missed=1,
            doubles=2,
            extras=2,
            grazes=4,
            abandoned=5,
        )
        scored = score_notes(counts)
        self.assertAlmostEqual(scored.score or 0, 75.0)
        self.assertEqual(scored.working[-1].figure, "18 ÷ 24 = 75")

    def test_timing_by_hand(self) -> None:
        """Building gives full credit to 40 ms and none from 120: 80 ms off is half."""
        part = melody(bars=4)
        take = exact(part)
        moved = tuple(
            replace(n, onset_s=n.onset_s + (0.08 if k % 4 == 3 else 0)) for k, n in enumerate(take.notes)
        )
        found = assess(part, replace(take, notes=moved))
        self.assertAlmostEqual(scores(found)["timing"] or 0, 100 * (12 + 4 * 0.5) / 16, delta=0.01)

    def test_windows_are_never_wider_than_the_grid_allows(self) -> None:
        """Sixteenths at 150: 100 ms apart, so full to 25 and none from 50."""
        window = window_for(LEVELS["first-steps"], bpm=150, grid_ticks=120)
        self.assertAlmostEqual(window.full_ms, 25.0)
        self.assertAlmostEqual(window.none_ms, 50.0)

    def test_levels_by_name(self) -> None:
        self.assertEqual(level_named("First steps").key, "first-steps")
        with self.assertRaises(UnknownName):
            level_named("expert")

    def test_what_is_not_assessed_gives_its_weight_to_the_others(self) -> None:
        part = melody()
        found = assess(part, replace(exact(part), has_touch=False))
        weights = {c.name: c.weight for c in found.mark.criteria}
        self.assertEqual(weights[CriterionName.DYNAMICS], 0)
        self.assertAlmostEqual(weights[CriterionName.NOTES], 100 * 35 / 90)
        self.assertAlmostEqual(sum(weights.values()), 100)

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
            found = assess(part, exact(part), level=LEVELS["exacting"])
            self.assertEqual(set(scores(found).values()), {100.0})
            self.assertEqual(found.mark.score, 100.0)

    def test_an_empty_take_has_0_and_says_so(self) -> None:
        for part in PARTS:
            found = assess(part, Take.of(()))
            self.assertEqual(found.mark.score, 0.0)
            self.assertEqual([f.kind for f in found.findings], ["empty"])

    @given(st.sampled_from(PARTS), SEEDS, st.floats(0.2, 0.8))
    @settings(max_examples=25, deadline=None)
    def test_less_jitter_never_lowers_timing(self, part: Part, seed: int, share: float) -> None:
        """Pull every onset towards the click by the same share."""
        rough = play(part, Habits(spread_ms=24), seed=seed)
        a = assess(part, rough)
        onset = {
            p.take: part.tempos.second_at(part.notes[p.target].onset_tick)
            for p in a.match.pairs
            if p.target is not None
        }
        calm = Take.of(
            replace(n, onset_s=onset[k] + (n.onset_s - onset[k]) * share) if k in onset else n
            for k, n in enumerate(rough.notes)
        )
        b = assess(part, calm)
        self.assertGreaterEqual((scores(b)["timing"] or 0) + 1e-6, scores(a)["timing"] or 0)

    @given(st.sampled_from(PARTS), SEEDS)
    @settings(max_examples=20, deadline=None)
    def test_jitter_alone_leaves_notes_dynamics_and_length(self, part: Part, seed: int) -> None:
        calm, rough = (play(part, Habits(spread_ms=spread), seed=seed) for spread in (2, 18))
        a, b = scores(assess(part, calm)), scores(assess(part, rough))
        for name in ("notes", "dynamics", "length"):
            self.assertAlmostEqual(a.get(name) or 0, b.get(name) or 0, delta=1.5)

    @given(st.sampled_from(PARTS[:2]), st.data())
    @settings(max_examples=20, deadline=None)
    def test_a_wrong_note_costs_notes_and_not_timing(self, part: Part, data: st.DataObject) -> None:
        take = exact(part)
        k = data.draw(st.integers(0, len(take.notes) - 1))
        notes = [replace(n, pitch=n.pitch + 1) if i == k else n for i, n in enumerate(take.notes)]
        found = scores(assess(part, Take.of(notes)))
        self.assertLess(found["notes"] or 0, 100)
        self.assertEqual(found["timing"], 100)
        self.assertEqual(found["flow"], 100)

    @given(st.sampled_from(PARTS), st.floats(0.8, 3.0), st.data())
    @settings(max_examples=20, deadline=None)
    def test_a_slip_costs_flow_and_not_the_rest_of_timing(
        self, part: Part, size: float, data: st.DataObject
    ) -> None:
        bar = data.draw(st.integers(3, 6))
        at = part.tempos.second_at(part.meters.bar(bar).start_tick)
        take = exact(part)
        late = Take.of(
            replace(n, onset_s=n.onset_s + size) if n.onset_s >= at - 1e-6 else n for n in take.notes
        )
        found = scores(assess(part, late))
        self.assertLess(found["flow"] or 0, 100)
        self.assertGreater(found["timing"] or 0, 97)

    @given(st.sampled_from(PARTS), SEEDS)
    @settings(max_examples=15, deadline=None)
    def test_order_of_simultaneous_notes_makes_no_difference(self, part: Part, seed: int) -> None:
        take = play(part, Habits(spread_ms=15, wrong_keys=0.05), seed=seed)
        again = Take.of(reversed(take.notes))
        self.assertEqual(assess(part, take).mark, assess(part, again).mark)

    @given(SEEDS, st.floats(0.6, 1.6))
    @settings(max_examples=15, deadline=None)
    def test_a_scaled_piece_gives_scaled_results(self, seed: int, rate: float) -> None:
        part = melody(bpm=90)
        take = play(part, Habits(spread_ms=10, lead_ms=20), seed=seed)
        fast = part.at_tempo(90 * rate)
        scaled = Take.of(replace(n, onset_s=n.onset_s / rate, length_s=n.length_s / rate) for n in take.notes)
        a, b = assess(part, take).measures.timing, assess(fast, scaled).measures.timing
        self.assertAlmostEqual((a.bias_ms.value or 0) / rate, b.bias_ms.value or 0, delta=0.01)
        self.assertAlmostEqual((a.spread_ms.value or 0) / rate, b.spread_ms.value or 0, delta=0.01)
