"""One rule, read by all: what is drawn, what is told and what was lost are one value."""

from dataclasses import replace
from itertools import product
from random import Random
from unittest import TestCase

from ear.assess import assess
from ear.criteria.flow import FLOW
from ear.criteria.levels import LEVELS
from ear.criteria.notes import NOTES
from ear.criteria.score import ABANDONED, NOT_COUNTED
from ear.criteria.table import FAULTS
from ear.criteria.timing import TIMING
from ear.drawing.boxes import overlay_of
from ear.drawing.page import page_view
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.judging.judge import Changes, Rules, judge
from ear.judging.judgement import Judgement, TeacherScore
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notes import Kind, Part, Take
from ear.players.robot import Habits, Jump, play
from ear.report_json import assessment_to_json
from tests.ear.parts import beat, melody, two_hands

TAKES = 400
PARTS = (melody(), two_hands(), beat())
TROUBLES = (
    {}, {"lead_ms": 60.0}, {"lead_ms": -140.0}, {"spread_ms": 45.0}, {"wrong_keys": 0.15}, {"misses": 0.2},
    {"tempo_ratio": 0.85}, {"drift_ms_per_bar": 14.0}, {"doubles": 0.1, "grazes": 0.1}, {"accents": -0.5},
    {"length": 0.4}, {"stop_after_bar": 5}, {"jumps": (Jump(bar=4, quarters=1.5),)},
    {"jumps": (Jump(bar=5, back_bars=1),)}, {"left_hand_ms": 50.0}, {"late_places": ((480, 60.0),)},
    {"velocity_spread": 25.0}, {"jumps": tuple(Jump(bar=b, quarters=0.4) for b in range(2, 8))},
    {"jumps": (Jump(bar=1, quarters=0.5),)}, {"jumps": (Jump(bar=4, skip_bars=1),)},
)  # fmt: skip


def takes() -> list[tuple[Part, Take, bool]]:
    """Robot takes with one or two troubles each, every fourth without a click."""
    random, actual = Random(5), []
    for number in range(TAKES):
        habits = {"spread_ms": random.uniform(4, 20), **TROUBLES[number % len(TROUBLES)]}
        habits |= random.choice(TROUBLES)
        part = PARTS[number % len(PARTS)]
        actual.append((part, play(part, Habits(**habits), seed=number), number % 4 != 3))
    return actual


def rubrics(kind: Kind) -> list[Rules]:
    own = DEFAULT_RUBRICS[kind]
    only_time = replace(own, weights=((TIMING, 3), (FLOW, 1)), forgiven_bias_ms=100)
    only_notes = replace(own, weights=((NOTES, 1),), floor_percent=10)
    strict = replace(own, forgiven_bias_ms=0, has_ceilings=False, beside_share=0.0)
    return [
        Rules(rubric=own, level=LEVELS["building"]),
        Rules(rubric=only_time, level=LEVELS["first-steps"]),
        Rules(rubric=only_notes, level=LEVELS["secure"]),
        Rules(rubric=strict, level=LEVELS["exacting"]),
    ]


class OneRuleTest(TestCase):
    """Over robot takes and four rubrics; all claims are looked at for each."""

    def check(self, part: Part, take: Take, facts: Facts, judged: Judgement) -> None:
        for c in judged.criteria:
            lost = 0.0 if c.score is None else 100.0 - c.score
            self.assertAlmostEqual(sum(c.losses.points), lost, places=6, msg=c.name)
            self.assertTrue(all(points > 0 for points in c.losses.points))
        # What a ceiling takes off belongs to the rows of its criterion, too.
        lost = 100.0 - judged.total
        if any(judged.row_costs):
            self.assertAlmostEqual(sum(judged.row_costs), lost, places=2)
        self.assertAlmostEqual(sum(t.cost for t in judged.faults) + judged.rest.cost, lost, places=2)
        for verdict, cost in zip(judged.verdicts, judged.row_costs, strict=True):
            self.assertEqual(verdict in FAULTS, cost > 0.0)
        for told in judged.faults:
            claimed = {row for claim in told.finding.claims() for row in claim.rows or ()}
            rows = sum(judged.row_costs[row] for row in claimed)
            if not told.finding.kind.is_of_whole:
                self.assertLessEqual(told.cost, rows + 1e-9, told.finding.code)
        self.assertEqual(
            [t.cost for t in judged.faults], sorted((t.cost for t in judged.faults), reverse=True)
        )
        for finding in judged.praise:
            if finding.code.startswith("improved"):
                continue
            name = {"well_notes": "notes", "mostly_notes": "notes", "well_accents": "dynamics"}.get(
                finding.code, "timing" if "time" in finding.code else None
            )
            for c in judged.criteria:
                if c.weight and (name is None or c.name == name):
                    self.assertFalse(set(c.losses.row) & set(finding.rows), finding.code)
        self.check_sums(judged)
        self.check_page(part, take, facts, judged)

    def check_sums(self, judged: Judgement) -> None:
        """With the figures that are printed: scores to a tenth, whole per cents, points exactly."""
        printed = [(round(c.score, 1), c.weight) for c in judged.criteria if c.score is not None]
        self.assertEqual([s for s, _ in printed], [c.score for c in judged.criteria if c.score is not None])
        self.assertEqual(sum(w for _, w in printed), 100)
        self.assertAlmostEqual(sum(s * w / 100 for s, w in printed), judged.sum, places=9)
        most = judged.ceiling.most if judged.ceiling else 100.0
        self.assertAlmostEqual(min(judged.sum, most), judged.total, places=9)

    def check_page(self, part: Part, take: Take, facts: Facts, judged: Judgement) -> None:
        """Heads, strips and faults say what the verdicts say."""
        overlay = overlay_of(take, facts, judged)
        page = page_view(part, width=900, overlay=overlay)
        state = {box.id: box.state for row in page.rows for box in row.takes}
        written = {box.id: box.state for row in page.rows for box in row.targets}
        plain = {"matched", "spare", NOT_COUNTED, ABANDONED}
        for row in overlay.rows:
            drawn = state[f"k{row.take}"] if row.take is not None else written[f"t{row.target}"]
            self.assertEqual(drawn not in plain, judged.row_costs[row.number] > 0.0)
        timing = judged.criterion("timing")
        untimely = set(timing.losses.row) if timing and timing.weight else set()
        marks = {m.target: m.state for row in page.rows for m in row.drift.marks}
        for target, drawn in marks.items():
            self.assertEqual(drawn != "in_time", target in untimely)

    def test_robot_takes_by_four_rubrics(self) -> None:
        for number, (part, take, has_click) in enumerate(takes()):
            facts = extract_facts(part, take, has_click=has_click)
            for which, rules in enumerate(rubrics(part.kind)):
                with self.subTest(take=number, rubric=which):
                    self.check(part, take, facts, judge(facts, rules))

    def test_with_a_teachers_figures(self) -> None:
        for number, (part, take, has_click) in enumerate(takes()[:40]):
            facts = extract_facts(part, take, has_click=has_click)
            for name, given in product(("timing", "notes"), (100.0, None)):
                rules = rubrics(part.kind)[0]
                with self.subTest(take=number, name=name, given=given):
                    judged = judge(facts, rules, Changes(teacher_scores={name: TeacherScore(score=given)}))
                    self.check(part, take, facts, judged)

    def test_json_says_the_same(self) -> None:
        for part, take, _ in takes()[:12]:
            actual = assess(part, take)
            judged = actual.judgement
            one, two = (assessment_to_json(actual, schema=n) for n in (1, 2))
            self.assertEqual(one["score"], round(judged.total, 2))
            self.assertEqual(two["judgement"]["total"], judged.total)
            self.assertEqual([r["verdict"] for r in two["judgement"]["rows"]], list(judged.verdicts))
            for first, second in zip(one["ear_notes"], two["judgement"]["ear_notes"], strict=True):
                self.assertAlmostEqual(first["cost"], second["cost"], delta=0.006)
            self.assertEqual(
                [n["kind"] for n in one["ear_notes"]], [n["code"] for n in two["judgement"]["ear_notes"]]
            )
