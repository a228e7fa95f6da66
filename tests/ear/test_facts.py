"""Stored facts: today's schema, and what both releases stored, which is rewritten when Oido is upgraded."""

import json
from pathlib import Path
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from ear.errors import FormatError
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import extract_facts
from ear.extraction.finding_codec import finding_from_json, finding_to_json
from ear.extraction.upgrading import upgrade_facts, upgrade_finding
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.judging.codec import scores_from_json
from ear.judging.judge import conclude
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.matching.outcome import Outcome
from ear.measuring.pulse import from_pulse
from ear.notes import Take
from ear.plain import to_plain
from ear.players.robot import Habits, play
from ear.reader import ENGLISH
from tests.ear.parts import beat, melody

STORED = Path(__file__).parent / "stored"


def stored() -> dict[str, dict]:
    """Results that the first release wrote, by name."""
    return {file.stem: json.loads(file.read_text()) for file in sorted(STORED.glob("*.json"))}


class FirstReleaseTest(TestCase):
    def test_results_open_with_the_same_links_and_figures(self) -> None:
        self.assertGreaterEqual(len(stored()), 8)
        for name, result in stored().items():
            with self.subTest(name):
                facts = facts_from_json(upgrade_facts(result))
                pairs = list(zip(facts.rows.target, facts.rows.take, facts.rows.outcome, strict=True))
                expected = [(p["target"], p["take"], Outcome(p["outcome"])) for p in result["pairs"]]
                self.assertEqual(pairs, expected)
                self.assertEqual(facts.figures.bias_ms, result["measures"]["bias_ms"])
                self.assertEqual(
                    [s.kind.value for s in facts.slips], [s["kind"] for s in result["measures"]["slips"]]
                )
                self.assertEqual(facts_from_json(json.loads(json.dumps(facts_to_json(facts)))), facts)

    def test_why_a_figure_is_not_there_is_kept(self) -> None:
        told = {
            name: facts_from_json(upgrade_facts(result)).figures.why_not for name, result in stored().items()
        }
        self.assertEqual(told["without-click"]["bias_ms"], "no_click")
        self.assertEqual(told["without-click"]["swing_ratio"], "few_off_beats")
        self.assertEqual(told["drums"]["accent_contrast"], "no_accents")
        self.assertEqual((told["empty"]["bias_ms"], told["empty"]["level"]), ("no_notes", "few_notes"))

    def test_marks_read_as_they_read_then(self) -> None:
        kept = json.loads((STORED / "second_release" / "scores_of_first_release.json").read_text())
        for name, result in stored().items():
            with self.subTest(name):
                facts = facts_from_json(upgrade_facts(result))
                judged = conclude(facts, scores_from_json(kept[name]), DEFAULT_RUBRICS[facts.target.kind])
                self.assertAlmostEqual(judged.total, result["score"], delta=0.02)
                self.assertEqual(judged.band.name, result["band"])
                first = next((n for n in result["ear_notes"] if not n["praise"]), None)
                if first is not None:
                    sentences = [render_finding(t.finding, FOR_TEACHER, ENGLISH) for t in judged.faults]
                    self.assertIn(first["teacher"], sentences)

    def test_a_figure_that_is_not_there_is_none_and_breaks_nothing(self) -> None:
        result = stored()["keyboard"]
        for name in ("overlap_ms", "swing_ratio", "ramps", "snap_errors", "profile", "contour"):
            del result["measures"][name]
        self.assertIsNone(facts_from_json(upgrade_facts(result)).figures.contour)

    def test_what_is_broken_says_so(self) -> None:
        good = stored()["drums"]
        for wrong in (
            None, [], {}, {"schema": 99}, {"schema": "oido.measure/1"}, {**good, "pairs": [{}]},
            {**good, "measures": {}}, {**good, "pairs": None},
            {"schema": 2}, {"schema": 2, "findings": [{"code": "own_tempo", "size": 1, "rows": [], "values": {}}]},
        ):  # fmt: skip
            with self.assertRaises(FormatError):
                upgrade_facts(wrong)
        for wrong in (
            None,
            good,
            {**upgrade_facts(good), "rows": {}},
            {**upgrade_facts(good), "findings": [1]},
        ):
            with self.assertRaises(FormatError):
                facts_from_json(wrong)


class SecondReleaseTest(TestCase):
    def test_every_ear_note_says_what_it_said(self) -> None:
        notes = json.loads((STORED / "second_release" / "ear_notes.json").read_text())
        self.assertGreaterEqual(len(notes), 90)
        for note in notes:
            with self.subTest(note["stored"]["code"]):
                finding = finding_from_json(upgrade_finding(note["stored"]) or {})
                assert finding is not None
                self.assertEqual(finding_from_json(json.loads(json.dumps(finding_to_json(finding)))), finding)
                said = [render_finding(finding, to, ENGLISH) for to in (FOR_TEACHER, FOR_STUDENT)]
                self.assertEqual(said, [note["teacher"], note["student"]])
                self.assertEqual((finding.unit, finding.place), (note["unit"], note["place"]))
                self.assertAlmostEqual(finding.size, note["size"], delta=1.0)
                rung = finding.practice(last_bar=note["bars_of_part"], targets=note["notes_of_part"])
                self.assertEqual(to_plain(rung), note["practice"])

    def test_facts_keep_all_else_as_it_stood(self) -> None:
        for name in ("keyboard", "drums"):
            old = json.loads((STORED / "second_release" / f"facts-{name}.json").read_text())
            new = facts_to_json(facts_from_json(upgrade_facts(old)))
            later = {"rows": {"own", "put_right"}, "counts": {"put_right"}}
            for table, names in later.items():
                new[table] = {name: value for name, value in new[table].items() if name not in names}
            for slip in new["slips"]:
                self.assertEqual(slip.pop("attempts"), 1)
            self.assertEqual({**new, "findings": 0, "schema": 2}, {**old, "findings": 0})
            self.assertEqual([f["code"] for f in new["findings"]], [f["code"] for f in old["findings"]])

    def test_facts_are_judged_as_they_were(self) -> None:
        """By the window of the part's grid, and as one who has been beside the click for long."""
        old = json.loads((STORED / "second_release" / "facts-keyboard.json").read_text())
        new = upgrade_facts(old)
        own = new["rows"]["own"]
        self.assertEqual({len(column) for column in own.values()}, {old["target"]["notes"]})
        self.assertEqual({value for name in ("beside", "lost") for value in own[name]}, {1.0})
        self.assertEqual(upgrade_facts(new), new)

    def test_facts_of_another_schema_are_not_read_as_if_they_were_of_this_one(self) -> None:
        good = facts_to_json(
            facts_from_json(
                upgrade_facts(json.loads((STORED / "second_release" / "facts-keyboard.json").read_text()))
            )
        )
        for schema in (2, 99):
            with self.assertRaises(FormatError):
                facts_from_json({**good, "schema": schema})

    def test_a_cause_that_is_no_longer_known_is_left_out(self) -> None:
        old = {"code": "hums", "size": 1, "unit": "notes", "rows": [], "bars": None, "values": {}}
        self.assertIsNone(upgrade_finding(old))
        self.assertIsNone(finding_from_json({"code": "hums"}))


class PulseTest(TestCase):
    @settings(max_examples=40)
    @given(st.integers(3, 120), st.floats(-200, 200), st.floats(-60, 60), st.integers(0, 999))
    def test_no_straight_line_changes_it(self, count: int, level: float, slope: float, seed: int) -> None:
        random = np.random.default_rng(seed)
        quarter = np.sort(random.uniform(0, count / 2, count))
        off = random.normal(0, 15, count)
        moved = from_pulse(quarter, off + level + slope * quarter)
        np.testing.assert_allclose(moved, from_pulse(quarter, off), atol=1e-6)

    def test_a_tempo_that_changes_is_followed_and_a_late_note_is_not(self) -> None:
        quarter = np.arange(64.0)
        bend = np.where(quarter < 32, 0.0, 12.0 * (quarter - 32))
        bend[50] += 90
        actual = from_pulse(quarter, bend)
        self.assertLess(np.abs(actual[[*range(20), *range(44, 50), *range(51, 64)]]).max(), 12)
        self.assertGreater(actual[50], 75)
        self.assertEqual(len(from_pulse(np.zeros(0), np.zeros(0))), 0)


class KitsAndShortOnesTest(TestCase):
    def test_a_kit_has_no_key_and_a_groove_on_one_pad_is_known(self) -> None:
        part = beat()
        onsets = {round(n.onset_s, 2): n for n in play(part, Habits(spread_ms=4), seed=2).notes}
        take = Take.of(
            type(n)(onset_s=s, length_s=0.06, pitch=38, velocity=n.velocity) for s, n in onsets.items()
        )
        facts = extract_facts(part, take)
        self.assertEqual((facts.transposition, facts.take.is_foreign), (0, False))
        self.assertNotIn("transposed", [f.code for f in facts.findings])
        self.assertIn("one_pad", [f.code for f in facts.findings])

    def test_a_right_exercise_of_few_notes_is_never_another_piece(self) -> None:
        whole = melody(bars=2)
        for count in (2, 3, 4, 6):
            part = whole.with_notes(whole.notes[:count])
            for seed in range(25):
                with self.subTest(count=count, seed=seed):
                    facts = extract_facts(part, play(part, Habits(spread_ms=20, lead_ms=25), seed=seed))
                    self.assertEqual(facts.counts.matched, count)
