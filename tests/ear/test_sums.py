"""A hand-worked sum for every criterion: each figure here was added up with pencil and paper."""

from dataclasses import replace
from unittest import TestCase

from ear.assess import assess
from ear.criteria.flow import FLOW
from ear.criteria.levels import LEVELS
from ear.criteria.notes import NOTES
from ear.criteria.notes.scoring import DOUBLE
from ear.criteria.timing.scoring import EARLY, LATE
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts, SlipFact
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.sounding import pedal_spans
from ear.judging.judge import Rules, judge
from ear.judging.judgement import Criterion
from ear.judging.rubric import DEFAULT_BANDS, HelpCost, Rubric
from ear.judging.settings import TakeSettings
from ear.matching.outcome import SlipKind
from ear.notes import STANDARD_KIT, Hand, Kind, MeterMap, Note, Part, PedalSpan, Take, TakeNote, TempoMap
from ear.recording.passes import Pass
from ear.recording.take_settings import as_set

BUILDING = LEVELS["building"]
BEATS = 16


def quarters(*, accents: bool = False, bpm: float = 120.0, kind: Kind = Kind.KEYBOARD) -> Part:
    """Four bars of quarters, each another pitch; half a second apart at 120. Accents stand on each first beat."""
    return Part.of(
        (
            Note(
                onset_tick=480 * k, length_tick=480, pitch=(38, 42, 36, 46)[k % 4] if kind is Kind.DRUMS else 50 + k,
                velocity=100 if accents and k % 4 == 0 else 70,
            )
            for k in range(BEATS)
        ),
        kind=kind, meters=MeterMap.of(4, 4), tempos=TempoMap.of(bpm),
    )  # fmt: skip


def played(
    *, late_ms: dict[int, float] | None = None, velocity: dict[int, int] | None = None, length: float = 1.0,
    without: frozenset[int] = frozenset(), more: tuple[TakeNote, ...] = (), pedal: tuple[PedalSpan, ...] = (),
    accents: bool = False, louder: int = 0,
) -> Take:  # fmt: skip
    """The quarters to the millisecond, but for what is said of some of them."""
    part = quarters(accents=accents)
    return Take.of(
        [
            TakeNote(
                onset_s=0.5 * k + (late_ms or {}).get(k, 0.0) / 1000.0, length_s=0.5 * length, pitch=n.pitch,
                velocity=(velocity or {}).get(k, n.velocity + louder),
            )
            for k, n in enumerate(part.notes)
            if k not in without
        ]
        + list(more),
        pedal=pedal,
    )  # fmt: skip


def criterion(facts: Facts, name: str, **more: object) -> Criterion:
    from ear.criteria.table import CRITERIA

    rubric = Rubric(weights=tuple((one, 10.0) for one in CRITERIA), bands=DEFAULT_BANDS)
    actual = judge(facts, Rules(rubric=replace(rubric, **more), level=BUILDING)).criterion(name)
    assert actual is not None
    return actual


def score(take: Take, name: str, *, accents: bool = False, **more: object) -> float | None:
    return criterion(extract_facts(quarters(accents=accents), take), name, **more).score


class NotesTest(TestCase):
    def test_missed_notes_count_from_the_floor_up(self) -> None:
        # 12 of 16 right are 75%; from 50% up that is half of the way: 50.
        self.assertEqual(score(played(without=frozenset({2, 6, 9, 13})), "notes"), 50.0)
        # With no floor 75.
        self.assertEqual(score(played(without=frozenset({2, 6, 9, 13})), "notes", floor_percent=0.0), 75.0)

    def test_notes_too_many_weigh_one_a_half_and_a_quarter(self) -> None:
        again = TakeNote(onset_s=2.06, length_s=0.05, pitch=54, velocity=40)
        actual = criterion(extract_facts(quarters(), played(more=(again,))), "notes")
        # A double hit weighs half a note: 16 ÷ 16.5 = 97.0%; (97.0 − 50) ÷ 50 = 94.0.
        self.assertEqual((actual.score, actual.losses.why), (94.0, (DOUBLE,)))
        stray = TakeNote(onset_s=2.25, length_s=0.2, pitch=90, velocity=80)
        # An extra note weighs one: 16 ÷ 17 = 94.1%; 88.2.
        self.assertEqual(score(played(more=(stray,)), "notes"), 88.2)
        brushed = TakeNote(onset_s=2.01, length_s=0.04, pitch=55, velocity=15)
        # A brushed key a quarter: 16 ÷ 16.25 = 98.5%; 97.0.
        self.assertEqual(score(played(more=(brushed,)), "notes"), 97.0)


class TimingTest(TestCase):
    def test_a_late_note_loses_by_its_place_in_the_window(self) -> None:
        # Full to 40 ms, none from 120: 80 ms late is half a note. 15.5 ÷ 16 = 96.9.
        actual = criterion(
            extract_facts(quarters(), played(late_ms={5: 80.0})), "timing", forgiven_bias_ms=0.0
        )
        self.assertEqual((actual.score, actual.losses.why), (96.9, (LATE,)))
        # 45 ms: (120 − 45) ÷ 80 = 0.94: 15.94 ÷ 16 = 99.6.
        self.assertEqual(score(played(late_ms={5: 45.0}), "timing", forgiven_bias_ms=0.0), 99.6)
        early = criterion(
            extract_facts(quarters(), played(late_ms={5: -80.0})), "timing", forgiven_bias_ms=0.0
        )
        self.assertEqual((early.score, early.losses.why), (96.9, (EARLY,)))

    def test_a_note_that_is_not_played_earns_nothing(self) -> None:
        self.assertEqual(score(played(without=frozenset({7})), "timing"), 93.8)


class FlowTest(TestCase):
    def flow(self, *slips: tuple[SlipKind, float], unplayed: int = 0) -> float | None:
        facts = extract_facts(quarters(), played(without=frozenset(range(16 - 4 * unplayed, 16))))
        made = [SlipFact(kind=kind, bar=2, beat=1, beats=beats, row=4) for kind, beats in slips]
        return criterion(replace(facts, slips=tuple(made)), "flow").score

    def test_each_slip_costs_its_points(self) -> None:
        for kind, cost in (
            (SlipKind.LATE_START, 17), (SlipKind.EARLY_START, 17), (SlipKind.SLIP, 31.1), (SlipKind.RECOVERY, 7.1),
            (SlipKind.RESTART, 42.4), (SlipKind.SKIP, 36.8), (SlipKind.SKIP_BAR, 36.8), (SlipKind.PUT_RIGHT, 19.8),
            (SlipKind.LAST_NOTE_LATE, 22.6),
        ):  # fmt: skip
            with self.subTest(kind):
                # Four beats are two seconds: from 0.4 s on a break costs all; in four bars √2 times as much as in eight.
                self.assertAlmostEqual(self.flow((kind, 4.0)), 100.0 - cost)
                self.assertAlmostEqual(self.flow((kind, -4.0)), 100.0 - cost)

    def test_a_small_slip_costs_less_and_several_add_up(self) -> None:
        # Half a beat is 0.25 s: half of the way from 0.1 to 0.4, so half of 31.1.
        self.assertEqual(self.flow((SlipKind.SLIP, 0.5)), 84.4)
        self.assertEqual(self.flow((SlipKind.SLIP, 4.0), (SlipKind.RESTART, 4.0)), 26.5)

    def test_each_further_attempt_costs_more(self) -> None:
        facts = extract_facts(quarters(), played())
        again = SlipFact(kind=SlipKind.RESTART, bar=2, beat=1, beats=4, row=4, attempts=3)
        self.assertEqual(criterion(replace(facts, slips=(again,)), "flow").score, 42.7)

    def test_bars_left_unplayed_at_the_end_cost_their_share(self) -> None:
        self.assertEqual(self.flow(unplayed=1), 75.0)
        self.assertEqual(self.flow(unplayed=2), 50.0)


class DynamicsTest(TestCase):
    def test_a_note_off_the_written_shape_loses_by_how_far(self) -> None:
        # One note 31 steps too loud among sixteen alike: 16 cost nothing, 46 all, so it has half: 15.5 ÷ 16.
        self.assertEqual(score(played(velocity={5: 101}), "dynamics"), 96.9)
        self.assertEqual(score(played(velocity={5: 90}), "dynamics"), 99.2)
        self.assertEqual(score(played(velocity={5: 125}), "dynamics"), 93.8)

    def test_all_louder_by_fifteen_steps_costs_nothing_by_more_something(self) -> None:
        self.assertEqual(score(played(louder=15), "dynamics"), 100.0)
        # 40 too loud, 15 forgiven: 25 off, (46 − 25) ÷ 30 = 0.7.
        self.assertEqual(score(played(louder=40), "dynamics"), 70.0)

    def test_accents_are_seven_tenths_of_it(self) -> None:
        # Accents stand 30 above their neighbours; full credit from 0.7 of that. All flat: accents 0, the rest full.
        flat = dict.fromkeys(range(BEATS), 70)
        self.assertEqual(score(played(velocity=flat, accents=True), "dynamics", accents=True), 30.0)
        # Of four accents one is missing: 3 ÷ 4 = 75 → 0.7 × 75 + 0.3 × 100 = 82.5.
        self.assertEqual(score(played(velocity={8: 70}, accents=True), "dynamics", accents=True), 82.5)
        # 24 of 30 are enough.
        self.assertEqual(score(played(velocity={8: 94}, accents=True), "dynamics", accents=True), 100.0)


class LengthTest(TestCase):
    def test_short_and_long_notes_lose_by_octaves(self) -> None:
        # Half as long is one octave: (1.6 − 1) ÷ 1.3 = 0.46.
        self.assertEqual(score(played(length=0.5), "length"), 46.0)
        # 0.75 is 0.415 octaves: (1.6 − 0.415) ÷ 1.3 = 0.91.
        self.assertEqual(score(played(length=0.75), "length"), 91.0)
        self.assertEqual(score(played(length=0.9), "length"), 100.0)

    def test_what_the_pedal_holds_is_right(self) -> None:
        held = played(length=0.5, pedal=(PedalSpan(start_s=0.0, end_s=3.9),))
        # The first eight are held: 8 + 8 × 0.46 = 11.68 of 16.
        self.assertEqual(score(held, "length"), 73.0)


class WholeTest(TestCase):
    def test_help_is_taken_off_and_a_total_is_never_below_nothing(self) -> None:
        from ear.judging.judge import Changes

        rubric = Rubric(
            weights=((NOTES, 1.0),),
            bands=DEFAULT_BANDS,
            help=(HelpCost(name="all", cost=30.0),),
        )
        rules = Rules(rubric=rubric, level=BUILDING)
        facts = extract_facts(quarters(), played())
        self.assertEqual(judge(facts, rules, Changes(help_step=0)).total, 70.0)
        empty = extract_facts(quarters(), Take.of(()))
        self.assertEqual(judge(empty, rules, Changes(help_step=0)).total, 0.0)

    def test_a_verdict_names_what_cost(self) -> None:
        judged = assess(quarters(), played(late_ms={5: 90.0}), rubric=None).judgement
        self.assertEqual(judged.verdicts[5], LATE)


class KeptTest(TestCase):
    def test_cues_and_hands_are_kept(self) -> None:
        cue = Note(onset_tick=0, length_tick=60, pitch=60, velocity=50, hand=Hand.LEFT)
        part = replace(quarters(), cues=(cue,))
        self.assertEqual(part_from_json(part_to_json(part)).cues, (cue,))

    def test_a_latency_that_is_set_moves_later_passes_with_the_first(self) -> None:
        passes = [Pass(events=(), latency_ms=10.0), Pass(events=(), latency_ms=25.0)]
        moved = as_set(passes, TakeSettings(latency_ms=40.0))
        self.assertEqual([one.latency_ms for one in moved], [40.0, 55.0])
        heard = [Pass(events=((100.0, 0x90, 60, 80),), latency_ms=one.latency_ms) for one in moved]
        self.assertEqual([one.read_events()[0][0] for one in heard], [60.0, 45.0])

    def test_a_pedal_counts_from_half_way_down(self) -> None:
        self.assertEqual(pedal_spans([(1.0, 63), (2.0, 64), (3.0, 63)], end=5.0), [(2.0, 3.0)])

    def test_what_a_drummer_calls_one_is_one(self) -> None:
        for one, other in ((42, 44), (36, 35), (38, 40)):
            self.assertEqual(STANDARD_KIT.fold(one), STANDARD_KIT.fold(other))
        self.assertNotEqual(STANDARD_KIT.fold(42), STANDARD_KIT.fold(46))

    def test_a_files_count_in_is_of_its_own_meter(self) -> None:
        from ear.formats.events import events_from_take
        from ear.formats.smf_parts import read_take
        from ear.formats.smf_writing import write_recording

        part = replace(quarters(), meters=MeterMap.of(3, 4))
        back = read_take(
            write_recording([events_from_take(played())], part=part, count_in_bars=2),
            part=part,
            count_in_bars=2,
        )
        self.assertAlmostEqual(back.notes[3].onset_s, 1.5, places=2)


class BoundsTest(TestCase):
    def test_notes_bound_the_whole(self) -> None:
        # 12 of 16 right: Notes 75 where the floor is 0. No more than 45 + 0.55 × 75 = 86.25.

        rubric = Rubric(
            weights=((NOTES, 1.0), (FLOW, 99.0)),
            bands=DEFAULT_BANDS,
            floor_percent=0.0,
        )
        facts = extract_facts(quarters(), played(without=frozenset({2, 6, 9, 12})))
        judged = judge(facts, Rules(rubric=rubric, level=BUILDING))
        self.assertEqual((judged.sum, judged.total), (99.75, 86.25))

    def test_notes_of_a_false_start_weigh_nothing_here(self) -> None:
        stray = TakeNote(onset_s=2.25, length_s=0.2, pitch=90, velocity=80)
        facts = extract_facts(quarters(), played(more=(stray,)))
        begun = replace(facts, rows=replace(facts.rows, abandoned=(16,)))
        self.assertEqual((criterion(facts, "notes").score, criterion(begun, "notes").score), (88.2, 100.0))


class MeasuredTest(TestCase):
    def test_evenness_compares_within_a_lane(self) -> None:
        part = quarters(kind=Kind.DRUMS)
        take = Take.of(
            TakeNote(
                onset_s=0.5 * k,
                length_s=0.05,
                pitch=n.pitch,
                velocity={38: 100, 42: 50, 36: 90, 46: 60}[n.pitch],
            )
            for k, n in enumerate(part.notes)
        )
        self.assertEqual(extract_facts(part, take).figures.evenness, 0.0)

    def test_one_hand_twice_is_not_one_recording(self) -> None:
        from ear.measuring.fairness import imprint, is_same_recording

        again = played(late_ms={k: 12.0 * (-1) ** k for k in range(BEATS)})
        self.assertFalse(is_same_recording(imprint(played()), imprint(again)))

    def test_a_kit_has_no_octaves(self) -> None:
        part = quarters(kind=Kind.DRUMS)
        moved = Take.of(
            TakeNote(onset_s=0.5 * k, length_s=0.05, pitch=n.pitch + 12, velocity=70)
            for k, n in enumerate(part.notes)
        )
        facts = extract_facts(part, moved)
        self.assertEqual((facts.transposition, facts.counts.matched), (0, 0))

    def test_who_drags_is_slower_than_the_click(self) -> None:
        from ear.players.robot import Habits, play

        part = quarters()
        long = Part.of(
            (Note(onset_tick=480 * k, length_tick=480, pitch=50 + k % 20, velocity=70) for k in range(64)),
            kind=part.kind, meters=part.meters, tempos=part.tempos,
        )  # fmt: skip
        for rate, is_slower in ((15, True), (-15, False)):
            take = play(long, Habits(drift_ms_per_bar=rate, spread_ms=3), seed=1)
            actual = {f.code: f for f in extract_facts(long, take).findings}[
                "dragging" if is_slower else "rushing"
            ]
            # A bar lasts 2000 ms: 15 ms more are 119.1, 15 ms less 120.9.
            self.assertAlmostEqual(actual.played_bpm, 119.1 if is_slower else 120.9, delta=0.2)


class TrendTest(TestCase):
    def test_a_line_through_five_takes(self) -> None:
        from ear.progress.trend import MEDIAN_LOSS, student_t, trend

        # 1 2 3 4 6: six of ten pairs rise by 1, so does the line, from 1 on; only the last take is off, by 1. Three
        # degrees of freedom are left: √(1 ÷ 3) = 0.577. The slope's error is that over √(5 × 24 ÷ 12).
        actual = trend([1.0, 2.0, 3.0, 4.0, 6.0])
        assert actual is not None
        self.assertEqual((actual.first, actual.change), (1.0, 4.0))
        self.assertAlmostEqual(actual.spread, 0.5774, places=4)
        self.assertAlmostEqual(actual.chance, student_t(3) * MEDIAN_LOSS * 0.57735 * 4 / 10**0.5, places=3)
