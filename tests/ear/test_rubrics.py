"""Rubrics, mark sheets, and marking a stored result again."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.errors import FormatError, ValueOutOfRange
from ear.judging.levels import LEVELS, Window
from ear.judging.rubric import (
    DEFAULT_RUBRICS,
    Band,
    CriterionName,
    HandCriterion,
    Help,
    Rubric,
    Step,
    key_of,
)  # fmt: skip
from ear.marking.basis import basis_from_json, basis_of
from ear.marking.marks import costs_by_row, mark, mark_again
from ear.marking.sheet import Given, Measured, make_sheet
from ear.notes import Kind, Take
from ear.players.robot import Habits, Jump, play
from ear.report_json import assessment_to_json
from tests.ear.parts import beat, melody, two_hands

PARTS = (melody(), two_hands(), beat())
ROUGH = Habits(
    spread_ms=30, wrong_keys=0.06, misses=0.05, grazes=0.05, doubles=0.04, lead_ms=40, velocity_spread=10,
    jumps=(Jump(bar=5, quarters=1.5),),
)  # fmt: skip
OWN = Rubric(
    weights=((CriterionName.NOTES, 40), (CriterionName.TIMING, 20)),
    bands=(Band(least=0, name="Not yet"), Band(least=50, name="Nearly"), Band(least=75, name="Sure")),
    hand=(
        HandCriterion(key="hand-posture", label="Posture", weight=20,
                      steps=(Step(name="stiff", points=0), Step(name="easy", points=100))),
        HandCriterion(key="hand-talk", label="Told", weight=20, items=("explained it", "played it in time", "no help needed")),
    ),
    help=(Help(name="none", cost=0), Help(name="a hint", cost=5), Help(name="played along", cost=20)),
    out_of=10, half_points=True, forgiven_bias_ms=10, level=LEVELS["secure"],
)  # fmt: skip


def sheet(rubric: Rubric = OWN, *, help_step: int | None = None, **given: Given):
    measured = [Measured(name="notes", score=80.0, weight=40), Measured(name="timing", score=50.0, weight=20)]
    return make_sheet(
        measured, rubric=rubric, window=Window(full_ms=25, none_ms=80), given=given, help_step=help_step
    )


class RubricTest(TestCase):
    def test_marks_are_written_on_the_rubrics_scale_and_decide_the_band(self) -> None:
        whole = replace(OWN, out_of=20, half_points=False)
        for rubric, total, points, band in (
            (OWN, 74.9, 7.5, "Sure"),
            (OWN, 72.49, 7.0, "Nearly"),
            (OWN, 72.5, 7.5, "Sure"),
            (whole, 72.5, 15.0, "Sure"),
            (whole, 72.4, 14.0, "Nearly"),
            (OWN, 0.0, 0.0, "Not yet"),
            (OWN, 100.0, 10.0, "Sure"),
        ):
            self.assertEqual((rubric.points(total), rubric.band(total).name), (points, band), total)

    def test_a_rubric_goes_to_json_and_back(self) -> None:
        for rubric in (OWN, *DEFAULT_RUBRICS.values()):
            self.assertEqual(Rubric.from_json(rubric.to_json()), rubric)
        for wrong in (
            {},
            {**OWN.to_json(), "bands": []},
            {**OWN.to_json(), "weights": {"charm": 1}},
            {**OWN.to_json(), "level": "high"},
        ):
            with self.assertRaises(FormatError):
                Rubric.from_json(wrong)

    def test_what_a_rubric_cannot_be(self) -> None:
        twice = (OWN.hand[0], replace(OWN.hand[1], key="hand-posture"))
        for change in (
            {"weights": ((CriterionName.NOTES, 0),), "hand": ()},
            {"weights": ((CriterionName.NOTES, -1), (CriterionName.FLOW, 2))},
            {"bands": (Band(least=10, name="Low"),)},
            {"bands": (Band(least=0, name="A"), Band(least=0, name="B"))},
            {"bands": (Band(least=0, name=" "),)},
            {"hand": twice},
            {"help": (Help(name="some", cost=101),)},
            {"out_of": 0},
            {"forgiven_bias_ms": 900},
        ):
            with self.subTest(change=change), self.assertRaises(ValueOutOfRange):
                replace(OWN, **change)
        with self.assertRaises(ValueOutOfRange):
            replace(OWN.hand[0], items=("both",))

    def test_keys_of_own_criteria_are_never_those_of_measured_ones(self) -> None:
        self.assertEqual(key_of("Timing", []), "hand-timing")
        self.assertEqual(key_of("Hand position!", ["hand-hand-position"]), "hand-hand-position-2")


class SheetTest(TestCase):
    def test_what_waits_for_the_teacher_gives_its_weight_to_the_others_until_it_is_marked(self) -> None:
        """(80 × 40 + 50 × 20) ÷ 60 = 70; with 100 and two ticks of three: (3200 + 1000 + 2000 + 1333) ÷ 100."""
        open_sheet = sheet()
        self.assertAlmostEqual(open_sheet.total, 70.0)
        self.assertEqual([row.name for row in open_sheet.to_be_marked], ["hand-posture", "hand-talk"])
        ticked = Given(score=OWN.hand[1].ticked(2), ticked=(0, 2))
        whole = sheet(**{"hand-posture": Given(score=100.0), "hand-talk": ticked})
        self.assertAlmostEqual(whole.total, 75.333, places=3)
        self.assertEqual((whole.points, whole.band.name, whole.to_be_marked), (7.5, "Sure", ()))

    def test_help_lowers_the_mark_as_stated_and_never_below_nothing(self) -> None:
        self.assertAlmostEqual(sheet(help_step=1).total, 65.0)
        self.assertAlmostEqual(sheet(help_step=0).total, 70.0)
        self.assertEqual(sheet(help_step=9).help_cost, 0.0)
        low = {"notes": Given(score=0.0), "timing": Given(score=1.0)}
        self.assertEqual(sheet(help_step=2, **low).total, 0.0)

    def test_a_teachers_score_counts_and_the_machines_stays_beside_it(self) -> None:
        row = sheet(notes=Given(score=100.0, why="by ear")).rows[0]
        self.assertEqual((row.score, row.machine, row.why, row.is_changed), (100.0, 80.0, "by ear", True))
        left_out = sheet(timing=Given(score=None, why="no click"))
        self.assertAlmostEqual(left_out.total, 80.0)


class MarkedAgainTest(TestCase):
    @settings(max_examples=25, deadline=None)
    @given(
        st.sampled_from(PARTS), st.integers(0, 10_000), st.booleans(), st.sampled_from(list(LEVELS.values()))
    )
    def test_a_stored_result_gives_the_very_mark_that_measuring_gives(
        self, part, seed, has_click, level
    ) -> None:
        rubric = replace(OWN, level=level, weights=DEFAULT_RUBRICS[part.kind].weights)
        take = play(part, ROUGH, seed=seed)
        measured = assess(part, take, rubric=rubric, has_click=has_click)
        stored = assessment_to_json(assess(part, take, has_click=has_click))
        again = mark_again(stored, level=LEVELS["building"], rubric=rubric)
        expected = assessment_to_json(measured)
        for name in ("criteria", "score", "band", "window", "level"):
            self.assertEqual(again[name], expected[name], name)
        self.assertEqual(again["measures"], expected["measures"])
        same = mark_again(stored, level=LEVELS["building"], rubric=DEFAULT_RUBRICS[part.kind])
        self.assertEqual(same, stored)

    @settings(max_examples=15, deadline=None)
    @given(st.sampled_from(PARTS), st.integers(0, 10_000))
    def test_what_notes_cost_adds_up_to_what_is_missing(self, part, seed) -> None:
        a = assess(part, play(part, ROUGH, seed=seed))
        marked = mark(
            basis_of(part, a.take, a.match, a.measures),
            level=LEVELS["building"],
            rubric=DEFAULT_RUBRICS[part.kind],
        )
        by_name = {c.name: c for c in marked.criteria}
        for name in ("notes", "timing", "length"):
            if name in by_name and by_name[name].score is not None:
                missing = (100 - by_name[name].score) * by_name[name].weight / 100
                self.assertAlmostEqual(sum(c.points for c in by_name[name].costs), missing, places=6)
        self.assertTrue(all(points > 0 for points in costs_by_row(marked).values()))

    def test_ear_notes_cost_what_their_criterion_then_costs(self) -> None:
        part = melody()
        stored = assessment_to_json(assess(part, play(part, ROUGH, seed=2)))
        rubric = replace(DEFAULT_RUBRICS[Kind.KEYBOARD], weights=((CriterionName.NOTES, 100),))
        again = mark_again(stored, level=LEVELS["building"], rubric=rubric)
        for note in again["ear_notes"]:
            if note["criterion"] == "timing":
                self.assertEqual(note["cost"], 0)
        costs = [n["cost"] for n in again["ear_notes"] if not n["praise"]]
        self.assertEqual(costs, sorted(costs, reverse=True))

    def test_an_empty_take_has_a_basis_too(self) -> None:
        a = assess(melody(), Take(notes=()))
        basis = basis_from_json(assessment_to_json(a))
        self.assertTrue(basis.is_nothing)
        self.assertEqual(mark(basis, level=LEVELS["building"], rubric=OWN).score, 0.0)
