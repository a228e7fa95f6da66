"""The sustain pedal, end to end: written, edited, read and written in files, drawn, measured, told."""

import re
from dataclasses import replace
from unittest import TestCase

import numpy as np

from ear.assess import assess
from ear.criteria.chord_evenness import CHORD_EVENNESS
from ear.criteria.dynamics import DYNAMICS
from ear.criteria.flow import FLOW
from ear.criteria.length import LENGTH
from ear.criteria.levels import DEFAULT_LEVEL
from ear.criteria.notes import NOTES
from ear.criteria.pedal import BLURRED, DRY, PEDAL, PEDAL_LATE
from ear.criteria.table import CRITERIA
from ear.criteria.timing import TIMING
from ear.drawing.page import page_view
from ear.editing.bars import copy_bars, delete_bars, insert_bars, join
from ear.editing.pedal import ChangeAt, hold_pedal, lift_pedal
from ear.editing.playing_in import play_in
from ear.errors import ValueOutOfRange
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.smf_parts import read_part
from ear.formats.smf_writing import write_part
from ear.judging.judge import Rules, judge
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notation.engraving import notation_svg
from ear.notes import (
    ChordMark,
    Hand,
    Kind,
    MeterMap,
    Note,
    Part,
    PedalMark,
    PedalMove,
    PedalSpan,
    Take,
    TempoMap,
    pedal_points,
)  # fmt: skip
from ear.players.robot import Habits, play

BAR = 1920
PEDAL_LINE = re.compile(r'class="pedal">\s*<rect x="\d+" y="(\d+)"')
"""A drawn line of the engraver's, and how far down it stands."""
CHORDS = ((60, 64, 67), (57, 60, 64), (53, 57, 60), (55, 59, 62))


def chordal(*, pedal: bool = True) -> Part:
    """Four bars of one chord each, the pedal changed in each."""
    part = Part.of(
        (
            Note(onset_tick=BAR * k, length_tick=1800, pitch=pitch, velocity=80, hand=Hand.RIGHT)
            for k, chord in enumerate(CHORDS)
            for pitch in chord
        ),
        kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(120),
        chords=[ChordMark(tick=BAR * k, name=name) for k, name in enumerate(("C", "Am", "F", "G"))],
    )  # fmt: skip
    return hold_pedal(part, first_bar=1, last_bar=4, change_at=ChangeAt.BARS).part if pedal else part


def spans(part: Part) -> list[tuple[int, int]]:
    return [(mark.start_tick, mark.end_tick) for mark in part.pedal]


def with_pedal(*seconds: tuple[float, float]) -> Take:
    """The chords exactly in time, with this pedal; a bar lasts two seconds."""
    plain = play(chordal(), Habits(without_pedal=True), seed=1)
    return Take.of(plain.notes, pedal=(PedalSpan(start_s=a, end_s=b) for a, b in seconds))


def facts_of(take: Take) -> Facts:
    return extract_facts(chordal(), take)


WRITTEN = [(0, BAR), (BAR, 2 * BAR), (2 * BAR, 3 * BAR), (3 * BAR, 4 * BAR)]


class WritingTest(TestCase):
    def test_it_is_held_changed_and_lifted(self) -> None:
        part = chordal(pedal=False)
        self.assertEqual(spans(chordal()), WRITTEN)
        by_chords = hold_pedal(part, first_bar=2, last_bar=3, change_at=ChangeAt.CHORDS).part
        self.assertEqual(spans(by_chords), WRITTEN[1:3])
        through = hold_pedal(part, first_bar=1, last_bar=2, change_at=ChangeAt.NOWHERE).part
        self.assertEqual(spans(through), [(0, 2 * BAR)])
        at_notes = [i for i, note in enumerate(part.notes) if note.onset_tick in (BAR, 3 * BAR)]
        by_notes = hold_pedal(
            part, first_bar=1, last_bar=3, change_at=ChangeAt.NOTES, selection=frozenset(at_notes)
        ).part
        self.assertEqual(spans(by_notes), [(0, BAR), (BAR, 3 * BAR)])
        self.assertEqual(spans(lift_pedal(through, first_bar=2, last_bar=2).part), [(0, BAR)])
        held = hold_pedal(part, first_bar=1, last_bar=4, change_at=ChangeAt.NOWHERE).part
        self.assertEqual(
            spans(lift_pedal(held, first_bar=2, last_bar=2).part), [(0, BAR), (2 * BAR, 4 * BAR)]
        )
        beats = hold_pedal(part, first_bar=1, last_bar=1, change_at=ChangeAt.BEATS).part
        self.assertEqual(spans(beats), [(0, 480), (480, 960), (960, 1440), (1440, BAR)])
        moves = [point.move for point in pedal_points(chordal().pedal)]
        self.assertEqual(moves, [PedalMove.DOWN, *[PedalMove.CHANGE] * 3, PedalMove.UP])

    def test_what_makes_no_sense_is_refused(self) -> None:
        part = chordal(pedal=False)
        self.assertRaises(ValueOutOfRange, PedalMark, start_tick=5, end_tick=5)
        with self.assertRaises(ValueOutOfRange):
            hold_pedal(part, first_bar=2, last_bar=2, change_at=ChangeAt.NOTES, selection=frozenset({0}))
        self.assertRaises(ValueOutOfRange, hold_pedal, part, first_bar=1, last_bar=5, change_at=ChangeAt.BARS)
        marks = (PedalMark(start_tick=0, end_tick=10), PedalMark(start_tick=9, end_tick=12))
        with self.assertRaises(ValueOutOfRange):
            Part.of((), kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90), pedal=marks)
        drums = Part.of((), kind=Kind.DRUMS, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90))
        self.assertRaises(ValueOutOfRange, lift_pedal, drums, first_bar=1, last_bar=1)

    def test_bars_take_their_pedal_with_them(self) -> None:
        part = chordal()
        self.assertEqual(spans(delete_bars(part, first=2, last=2).part), WRITTEN[:3])
        moved = insert_bars(part, before=3, count=1).part
        self.assertEqual(spans(moved), [*WRITTEN[:2], (3 * BAR, 4 * BAR), (4 * BAR, 5 * BAR)])
        copied = copy_bars(part, first=1, last=2, before=5).part
        self.assertEqual(len(copied.pedal), 6)
        head = delete_bars(part, first=3, last=len(part.bars)).part
        tail = delete_bars(part, first=1, last=2).part
        self.assertEqual(join(head, tail).pedal, part.pedal)

    def test_it_comes_back_from_every_format(self) -> None:
        part = chordal()
        self.assertEqual(part_from_json(part_to_json(part)), part)
        self.assertNotIn("pedal", part_to_json(chordal(pedal=False)))
        self.assertEqual(read_part(write_part(part), kind=Kind.KEYBOARD).pedal, part.pedal)
        self.assertEqual(read_musicxml(write_musicxml(part)).parts[0].part.pedal, part.pedal)
        held = part_from_json({**part_to_json(part), "pedal": [[0, 900], [960, 3000]]})
        self.assertEqual(read_musicxml(write_musicxml(held)).parts[0].part.pedal, held.pedal)
        self.assertEqual(read_part(write_part(held), kind=Kind.KEYBOARD).pedal, held.pedal)

    def test_it_is_drawn_under_the_staff(self) -> None:
        rows = page_view(chordal(), width=860).rows
        lines = [line for row in rows for line in row.pedal]
        self.assertEqual([line.ends_by_change for line in lines], [True, True, True, False])
        self.assertTrue(lines[-1].closes)
        self.assertTrue(all(line.y > rows[0].staff_bottom for line in rows[0].pedal))
        self.assertEqual(page_view(chordal(pedal=False), width=860).rows[0].pedal, ())

    def test_each_line_is_engraved_and_all_stand_at_one_height(self) -> None:
        heights = PEDAL_LINE.findall(notation_svg(chordal(), width=1400))
        self.assertEqual(len(heights), len(chordal().pedal))
        self.assertEqual(len(set(heights)), 1)

    def test_what_was_played_in_has_its_pedal(self) -> None:
        take = Take.of((), pedal=[PedalSpan(start_s=0.03, end_s=1.98)])
        laid = play_in(chordal(pedal=False), take, first_bar=1, last_bar=2, grid_ticks=480).part
        self.assertEqual(spans(laid), [(0, BAR)])


class MeasuringTest(TestCase):
    def outcome(self, take: Take) -> list[tuple[str, float | None]]:
        return [(one.outcome.value, one.deviation_ms) for one in facts_of(take).pedal]

    def test_as_written_it_is_worth_all(self) -> None:
        take = play(chordal(), Habits(), seed=3)
        judged = judge(facts_of(take), Rules(rubric=DEFAULT_RUBRICS[Kind.KEYBOARD], level=DEFAULT_LEVEL))
        pedal = judged.criterion("pedal")
        assert pedal is not None
        self.assertEqual(pedal.score, 100.0)
        self.assertEqual(pedal.weight, 9)

    def test_a_part_without_pedal_is_not_asked_for_it(self) -> None:
        part = chordal(pedal=False)
        judged = assess(part, play(part, Habits(), seed=3)).judgement
        self.assertIsNone(judged.criterion("pedal"))
        self.assertEqual(sum(c.weight for c in judged.criteria), 100)

    def test_each_move_is_told_by_hand(self) -> None:
        # Down 0.25 s late, changed in time, not changed (blurred), not taken again (dry), so nothing to lift.
        actual = self.outcome(with_pedal((0.25, 2.05), (2.1, 6.1)))
        self.assertEqual([outcome for outcome, _ in actual], ["moved", "moved", "blurred", "dry"])
        self.assertAlmostEqual(actual[0][1] or 0, 250, delta=1)
        self.assertAlmostEqual(actual[1][1] or 0, 50, delta=1)
        # Never lifted at the end.
        held = self.outcome(with_pedal((0.0, 2.0), (2.1, 4.0), (4.1, 6.0), (6.1, 9.5)))
        self.assertEqual([outcome for outcome, _ in held], [*["moved"] * 4, "blurred"])

    def test_the_foot_belongs_to_the_chord_as_it_was_struck(self) -> None:
        plain = with_pedal((0.04, 2.2), (2.28, 4.04), (4.1, 6.04), (6.1, 8.0))
        late = [replace(n, onset_s=n.onset_s + 0.15) if 1.9 < n.onset_s < 2.1 else n for n in plain.notes]
        (change,) = [
            one for one in facts_of(Take.of(late, pedal=plain.pedal)).pedal if (one.bar, one.beat) == (2, 1)
        ]
        # The chord of bar 2 came 150 ms late, the foot 50 ms after it.
        self.assertAlmostEqual(change.deviation_ms or 0, 50, delta=2)

    def test_the_sum_is_that_of_a_hand(self) -> None:
        # 250 ms late: (450 − 250) ÷ (450 − 200) = 0.8; in time 1; blurred 0; dry 0: 1.8 of 4 are 45.
        facts = facts_of(with_pedal((0.25, 2.05), (2.1, 6.1)))
        judged = judge(facts, Rules(rubric=DEFAULT_RUBRICS[Kind.KEYBOARD], level=DEFAULT_LEVEL))
        pedal = judged.criterion("pedal")
        assert pedal is not None
        self.assertEqual(pedal.score, 45.0)
        self.assertAlmostEqual(sum(pedal.losses.points), 55.0)
        lost = dict(zip(pedal.losses.why, pedal.losses.points, strict=True))
        self.assertAlmostEqual(lost[BLURRED], 25.0)
        self.assertAlmostEqual(lost[DRY], 25.0)
        self.assertAlmostEqual(lost[PEDAL_LATE], 5.0)
        self.assertEqual(judged.verdicts[0], PEDAL_LATE)

    def test_an_input_without_pedal_is_not_marked_down(self) -> None:
        typed = Take.of(with_pedal().notes, has_touch=False)
        criterion = assess(chordal(), typed).judgement.criterion("pedal")
        assert criterion is not None
        self.assertIsNone(criterion.score)
        forgotten = assess(chordal(), with_pedal()).judgement.criterion("pedal")
        assert forgotten is not None
        self.assertEqual(forgotten.score, 0.0)

    def test_more_trouble_is_never_better(self) -> None:
        def score(habits: Habits) -> float:
            actual = assess(chordal(), play(chordal(), habits, seed=5)).judgement.criterion("pedal")
            assert actual is not None and actual.score is not None
            return actual.score

        late = [score(Habits(pedal_ms=ms)) for ms in range(0, 460, 20)]
        self.assertEqual(late, sorted(late, reverse=True))
        self.assertEqual((late[0], late[10]), (100.0, 100.0))
        self.assertLess(late[-1], 10.0)

    def test_its_ear_notes_name_the_cause(self) -> None:
        for habits, code in (
            (Habits(unchanged_pedal=1.0), "pedal_blurred"), (Habits(without_pedal=True), "pedal_dry"),
            (Habits(pedal_ms=300), "pedal_late"), (Habits(pedal_ms=-200), "pedal_early"),
        ):  # fmt: skip
            with self.subTest(code):
                judged = assess(chordal(), play(chordal(), habits, seed=2)).judgement
                self.assertEqual(judged.faults[0].finding.code, code)
                self.assertLessEqual(judged.faults[0].cost, 100.0 - judged.sum + 1e-6)

    def test_facts_keep_it(self) -> None:
        facts = facts_of(with_pedal((0.25, 2.05), (2.1, 6.1)))
        self.assertEqual(facts_from_json(facts_to_json(facts)), facts)
        old = facts_to_json(facts)
        del old["pedal"], old["take"]["has_pedal"]
        self.assertEqual(facts_from_json(old).pedal, ())

    def test_slips_and_tempo_move_what_is_expected(self) -> None:
        slow = play(chordal(), Habits(tempo_ratio=0.8), seed=4)
        self.assertTrue(all(abs(one.deviation_ms or 0) < 100 for one in facts_of(slow).pedal))
        self.assertEqual(np.unique([one.outcome for one in facts_of(slow).pedal]).tolist(), ["moved"])


class CriterionTest(TestCase):
    def test_the_table_is_in_the_order_of_mark_sheets(self) -> None:
        self.assertEqual(list(CRITERIA), [NOTES, TIMING, FLOW, DYNAMICS, LENGTH, PEDAL, CHORD_EVENNESS])
        self.assertFalse(CRITERIA[PEDAL].serves(Kind.DRUMS.instrument))
        self.assertFalse(CRITERIA[LENGTH].serves(Kind.DRUMS.instrument))
