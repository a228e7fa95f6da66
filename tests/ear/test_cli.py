"""The command line's contract."""

import io
import json
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

from ear.benchmarks.cases import make_cases
from ear.benchmarks.matching import report
from ear.cli import main
from ear.formats.smf_writing import write_part, write_take
from ear.players.robot import Habits, play
from tests.ear.parts import beat


class MeasureCommandTest(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.target, self.take = Path(folder.name) / "target.mid", Path(folder.name) / "take.mid"
        self.part = beat()
        self.target.write_bytes(write_part(self.part))
        take = play(self.part, Habits(lead_ms=25, spread_ms=5, misses=0.05), seed=1)
        self.take.write_bytes(write_take(take, part=self.part, count_in_bars=1))

    def run_measure(self, *more: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main(["measure", str(self.target), str(self.take), "--kind", "drums", *more])
        return code, out.getvalue(), err.getvalue()

    def test_json_has_all_that_it_promises(self) -> None:
        code, out, _ = self.run_measure("--count-in", "1", "--json")
        result = json.loads(out)
        self.assertEqual(code, 0)
        self.assertEqual(result["schema"], "oido.measure/1")
        self.assertGreaterEqual(
            set(result), {"target", "take", "pairs", "measures", "criteria", "score", "ear_notes"}
        )
        self.assertGreaterEqual(
            set(result["pairs"][0]),
            {"target", "take", "outcome", "deviation_ms", "velocity_difference", "length_ratio"},
        )
        self.assertGreaterEqual(
            set(result["measures"]),
            {"bias_ms", "spread_ms", "drift_ms_per_bar", "tempo_ratio", "transposition", "slips"},
        )
        self.assertAlmostEqual(result["measures"]["bias_ms"], 25, delta=4)
        self.assertGreaterEqual(set(result["criteria"][0]), {"name", "score", "weight", "working"})

    def test_the_second_schema_is_given_where_it_is_asked_for(self) -> None:
        _, out, _ = self.run_measure("--count-in", "1", "--json", "--schema", "2")
        result, first = json.loads(out), json.loads(self.run_measure("--count-in", "1", "--json")[1])
        self.assertEqual(
            (result["schema"], set(result)), ("oido.measure/2", {"schema", "facts", "judgement"})
        )
        judged, facts = result["judgement"], result["facts"]
        self.assertEqual(facts["rows"]["take"], [pair["take"] for pair in first["pairs"]])
        self.assertEqual(len(judged["rows"]), len(first["pairs"]))
        self.assertAlmostEqual(judged["total"], first["score"], delta=0.006)
        timing = next(c for c in judged["criteria"] if c["name"] == "timing")
        self.assertAlmostEqual(
            sum(loss["points"] for loss in timing["losses"]), 100 - timing["score"], places=4
        )
        self.assertEqual({note["tone"] for note in judged["ear_notes"]} - {"fault", "fact", "praise"}, set())

    def test_without_json_it_is_readable(self) -> None:
        code, out, _ = self.run_measure("--count-in", "1", "--level", "Secure")
        self.assertEqual(code, 0)
        self.assertIn("lead or lag  +2", out)
        self.assertIn("level Secure", out)

    def test_bad_input_is_one_line_and_exit_code_2(self) -> None:
        for spoil, said in (
            (lambda: self.take.write_bytes(b""), "an empty file"),
            (lambda: self.take.write_bytes(b"not midi at all"), "take.mid"),
            (lambda: self.take.write_bytes(write_part(self.part)[:40]), "byte"),
            (lambda: self.take.unlink(), "No such file"),
        ):
            spoil()
            code, out, err = self.run_measure("--json")
            self.assertEqual((code, out), (2, ""))
            self.assertIn(said, err)
            self.assertEqual(err.count("\n"), 1)

    def test_a_batch_goes_on_after_a_broken_pair(self) -> None:
        good = {"target": "target.mid", "take": "take.mid", "kind": "drums", "count_in": 1}
        rows = [good, {**good, "take": "gone.mid"}, {"take": "take.mid"}, {**good, "kind": "flute"}, 7, good]
        file = self.target.parent / "list.jsonl"
        file.write_text("\n".join([*(json.dumps(row) for row in rows), "not json"]))
        out = io.StringIO()
        with redirect_stdout(out):
            code = main(["measure", "--batch", str(file)])
        results = [json.loads(line) for line in out.getvalue().splitlines()]
        self.assertEqual(code, 0)
        self.assertEqual(["error" in r for r in results], [False, True, True, True, True, False, True])
        self.assertEqual(results[0], results[5])
        self.assertEqual(results[1]["line"], 2)
        self.assertIn("gone.mid", results[1]["error"])

    def test_the_bench_scores_takes_of_its_own(self) -> None:
        lines = list(report(make_cases(12, seed=3)))
        self.assertIn("takes 12", lines[0])
        f1 = float(lines[1].rsplit(" ", 1)[1])
        self.assertGreater(f1, 0.97)

    def test_an_unknown_level_names_those_there_are(self) -> None:
        code, _, err = self.run_measure("--level", "wizard")
        self.assertEqual(code, 2)
        self.assertIn("first-steps", err)
