"""Rubrics, what a teacher says over a mark, and what it changes."""

import json
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.criteria.flow import FLOW
from ear.criteria.levels import LEVELS, Window
from ear.criteria.notes import NOTES
from ear.criteria.notes.scoring import WRONG
from ear.criteria.score import IN_TIME, NOT_COUNTED, CriterionScore
from ear.criteria.timing import TIMING
from ear.criteria.timing.scoring import LATE
from ear.errors import FormatError, ValueOutOfRange
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import extract_facts
from ear.judging.codec import scores_from_json, scores_to_json
from ear.judging.judge import Changes, Rules, conclude, judge, score
from ear.judging.judgement import Judgement, Scores, TeacherScore
from ear.judging.rubric import (  # fmt: skip
    DEFAULT_RUBRICS,
    Band,
    CriterionLevel,
    HelpCost,
    Rubric,
    TeacherCriterion,
    key_of,
)
from ear.judging.settings import NoteOverride, Reason, TakeSettings
from ear.note_place import NotePlace
from ear.notes import Kind, Take, TakeNote
from ear.players.robot import Habits, Jump, play
from tests.ear.exact import exact
from tests.ear.parts import beat, melody, two_hands

PARTS = (melody(), two_hands(), beat())
ROUGH = Habits(
    spread_ms=30, wrong_keys=0.06, misses=0.05, grazes=0.05, doubles=0.04, lead_ms=40, velocity_spread=10,
    jumps=(Jump(bar=5, quarters=1.5),),
)  # fmt: skip
OWN = Rubric(
    weights=((NOTES, 40), (TIMING, 20)),
    bands=(Band(least=0, name="Not yet"), Band(least=50, name="Nearly"), Band(least=75, name="Sure")),
    teacher_criteria=(
        TeacherCriterion(key="hand-posture", label="Posture", weight=20,
                      steps=(CriterionLevel(name="stiff", points=0), CriterionLevel(name="easy", points=100))),
        TeacherCriterion(key="hand-talk", label="Told", weight=20, items=("explained it", "played it in time", "no help needed")),
    ),
    help=(HelpCost(name="none", cost=0), HelpCost(name="a hint", cost=5), HelpCost(name="played along", cost=20)),
    out_of=10, half_points=True, forgiven_bias_ms=10, level=LEVELS["secure"],
)  # fmt: skip


FACTS = extract_facts(melody(), play(melody(), ROUGH, seed=2))


def marked(rubric: Rubric = OWN, *, help_step: int | None = None, **given: TeacherScore) -> Judgement:
    """80 in Notes, 50 in Timing, by a rubric without ceilings."""
    scores = Scores(
        version="", level="secure", window=Window(full_ms=25, none_ms=80), forgiven_ms=0.0, within_window=None,
        criteria=(
            CriterionScore(name=NOTES, score=80.0),
            CriterionScore(name=TIMING, score=50.0),
        ),
        judged_ms=(None,) * len(FACTS.rows),
    )  # fmt: skip
    free = replace(rubric, has_ceilings=False)
    return conclude(FACTS, scores, free, Changes(teacher_scores=given, help_step=help_step))


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
        twice = (OWN.teacher_criteria[0], replace(OWN.teacher_criteria[1], key="hand-posture"))
        for change in (
            {"weights": ((NOTES, 0),), "teacher_criteria": ()},
            {"weights": ((NOTES, -1), (FLOW, 2))},
            {"bands": (Band(least=10, name="Low"),)},
            {"bands": (Band(least=0, name="A"), Band(least=0, name="B"))},
            {"bands": (Band(least=0, name=" "),)},
            {"teacher_criteria": twice},
            {"help": (HelpCost(name="some", cost=101),)},
            {"out_of": 0},
            {"forgiven_bias_ms": 900},
            {"floor_percent": 99.0},
            {"beside_share": 1.1},
        ):
            with self.subTest(change=change), self.assertRaises(ValueOutOfRange):
                replace(OWN, **change)
        with self.assertRaises(ValueOutOfRange):
            replace(OWN.teacher_criteria[0], items=("both",))

    def test_keys_of_own_criteria_are_never_those_of_measured_ones(self) -> None:
        self.assertEqual(key_of("Timing", []), "hand-timing")
        self.assertEqual(key_of("Hand position!", ["hand-hand-position"]), "hand-hand-position-2")


class ChangesTest(TestCase):
    def test_what_waits_for_the_teacher_gives_its_weight_to_the_others_until_it_is_marked(self) -> None:
        """80 × 67 % + 50 × 33 % = 70.1; with 100 and two ticks of three (66.7):
        80 × 40 % + 50 × 20 % + 100 × 20 % + 66.7 × 20 % = 75.34."""
        so_far = marked()
        self.assertEqual(so_far.total, 70.1)
        self.assertEqual([c.name for c in so_far.to_be_marked], ["hand-posture", "hand-talk"])
        ticked = TeacherScore(score=OWN.teacher_criteria[1].ticked(2), ticked=(0, 2))
        whole = marked(**{"hand-posture": TeacherScore(score=100.0), "hand-talk": ticked})
        self.assertEqual(whole.total, 75.34)
        self.assertEqual((whole.points, whole.band.name, whole.to_be_marked), (7.5, "Sure", ()))

    def test_help_lowers_the_mark_as_stated_and_never_below_nothing(self) -> None:
        self.assertEqual(marked(help_step=1).total, 65.1)
        self.assertEqual(marked(help_step=0).total, 70.1)
        self.assertEqual(marked(help_step=9).help_cost, 0.0)
        low = {"notes": TeacherScore(score=0.0), "timing": TeacherScore(score=1.0)}
        self.assertEqual(marked(help_step=2, **low).total, 0.0)

    def test_a_teachers_score_counts_and_the_machines_stays_beside_it(self) -> None:
        row = marked(notes=TeacherScore(score=100.0, why="by ear")).criteria[0]
        self.assertEqual((row.score, row.machine, row.why, row.is_changed), (100.0, 80.0, "by ear", True))
        self.assertEqual(marked(timing=TeacherScore(score=None, why="no click")).total, 80.0)

    def test_a_changed_criterion_reaches_verdicts_ear_notes_and_ceilings(self) -> None:
        part = melody()
        # Not all by the same amount, which only a computer does.
        uneven = (
            replace(n, onset_s=n.onset_s + (0.134, 0.146)[k % 2]) for k, n in enumerate(exact(part).notes)
        )
        late = Take.of(uneven)
        facts = extract_facts(part, late)
        rules = Rules(rubric=DEFAULT_RUBRICS[Kind.KEYBOARD], level=LEVELS["building"])
        before = judge(facts, rules)
        self.assertEqual(set(before.verdicts), {LATE})
        lag = before.faults[0]
        # What the ceiling takes off is its doing, too: Timing 65.2, so at most 72.16.
        self.assertEqual((lag.finding.code, round(lag.cost, 6)), ("lag", 27.84))
        raised = judge(facts, rules, Changes(teacher_scores={"timing": TeacherScore(score=90.0)}))
        self.assertAlmostEqual(raised.faults[0].cost, 8.0)
        self.assertEqual(raised.total, 92.0)
        for said in (TeacherScore(score=100.0), TeacherScore(score=None)):
            whole = judge(facts, rules, Changes(teacher_scores={"timing": said}))
            self.assertEqual(set(whole.verdicts), {IN_TIME})
            self.assertEqual([t.cost for t in whole.faults if t.finding.code == "lag"], [0.0])
            self.assertIsNone(whole.ceiling)
            self.assertEqual(whole.total, 100.0)

    def test_notes_and_bars_said_to_be_right_or_not_to_count(self) -> None:
        part = melody(bars=4)
        notes = list(exact(part).notes)
        notes[5] = replace(notes[5], pitch=notes[5].pitch + 1, onset_s=notes[5].onset_s + 0.08)
        stray = TakeNote(onset_s=notes[12].onset_s + 0.3, length_s=0.2, pitch=95, velocity=80)
        facts = extract_facts(part, Take.of([*notes, stray]))
        rubric, level = DEFAULT_RUBRICS[Kind.KEYBOARD], LEVELS["building"]

        def judged(**overrides: NoteOverride) -> Judgement:
            return judge(
                facts,
                Rules(
                    rubric=rubric, level=level, overrides={NotePlace.read(p): o for p, o in overrides.items()}
                ),
            )

        self.assertEqual(judged().verdicts[5], WRONG)
        right = judged(t5=NoteOverride.RIGHT, k13=NoteOverride.RIGHT)
        self.assertEqual((right.total, right.faults), (100.0, ()))
        self.assertEqual(right.verdicts[-1], NOT_COUNTED)
        bar = judged(b2=NoteOverride.NOT_COUNTED, k13=NoteOverride.NOT_COUNTED)
        self.assertEqual(bar.total, 100.0)
        self.assertEqual(bar.criterion("timing").lines[-1].values["of"], 12)
        stored = TakeSettings(
            overrides={NotePlace.target(5): NoteOverride.RIGHT}, reasons={NotePlace.bar(2): Reason.MISPRINT}
        )
        self.assertEqual(TakeSettings.from_json(stored.to_json()), stored)
        self.assertEqual(stored.to_json()["sayings"], {"t5": "right"})
        with self.assertRaises(FormatError):
            TakeSettings.from_json({"sayings": {"x5": "right"}})

    @settings(max_examples=25)
    @given(
        st.sampled_from(PARTS), st.integers(0, 10_000), st.booleans(), st.sampled_from(list(LEVELS.values()))
    )
    def test_stored_facts_and_scores_give_the_very_judgement_that_measuring_gives(
        self, part, seed, has_click, level
    ) -> None:
        rules = Rules(
            rubric=replace(OWN, level=level, weights=DEFAULT_RUBRICS[part.kind].weights), level=level
        )
        facts = extract_facts(part, play(part, ROUGH, seed=seed), has_click=has_click)
        stored = facts_from_json(json.loads(json.dumps(facts_to_json(facts))))
        scores = scores_from_json(json.loads(json.dumps(scores_to_json(score(stored, rules)))))
        self.assertEqual(stored, facts)
        self.assertEqual(conclude(stored, scores, rules.rubric), judge(facts, rules))
