"""The command line's contract."""

import io
import json
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import replace
from pathlib import Path
from unittest import TestCase, mock

from benches import fuzz
from benches.cases import make_cases
from benches.matching import report
from ear.cli import main
from ear.formats.events import events_from_take
from ear.formats.musicxml import write_musicxml
from ear.formats.smf_parts import read_take
from ear.formats.smf_writing import write_part, write_recording
from ear.notes import Hand, Note, Take
from ear.players.robot import Habits, play
from tests.ear.parts import beat, two_hands


class MeasureCommandTest(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.target, self.take = Path(folder.name) / "target.mid", Path(folder.name) / "take.mid"
        self.part = beat()
        self.target.write_bytes(write_part(self.part))
        take = play(self.part, Habits(lead_ms=25, spread_ms=5, misses=0.05), seed=1)
        self.take.write_bytes(write_recording([events_from_take(take)], part=self.part, count_in_bars=1))

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

    def test_a_kit_map_says_which_numbers_are_which_lane(self) -> None:
        other = {36: 70, 38: 91, 42: 22}
        take = read_take(self.take.read_bytes(), part=self.part, count_in_bars=1)
        sent = Take.of(replace(n, pitch=other[n.pitch]) for n in take.notes)
        self.take.write_bytes(write_recording([events_from_take(sent)], part=self.part, count_in_bars=1))
        kit = self.take.with_suffix(".json")
        kit.write_text(
            json.dumps(
                {"schema": "oido.kit/1", "lanes": {"kick": [36, 70], "snare": [38, 91], "hat": [42, 22]}}
            )
        )
        without = json.loads(self.run_measure("--count-in", "1", "--json")[1])["score"]
        code, out, _ = self.run_measure("--count-in", "1", "--json", "--kit", str(kit))
        self.assertEqual(code, 0)
        self.assertGreater(json.loads(out)["score"], without + 20)
        for wrong in ("[]", "{", '{"schema": "oido.kit/1", "lanes": {"kick": [36], "snare": [36]}}',
                      '{"schema": "oido.kit/1", "lanes": {"kick": [300]}}'):  # fmt: skip
            kit.write_text(wrong)
            code, out, err = self.run_measure("--kit", str(kit))
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))

    def test_without_a_click_the_players_own_pulse_counts(self) -> None:
        _, out, _ = self.run_measure("--count-in", "1", "--json", "--no-click")
        measures = json.loads(out)["measures"]
        self.assertIsNone(measures["bias_ms"])

    def run_free(self, rules: dict[str, object], *more: str) -> tuple[int, str, str]:
        file = self.target.with_name("rules.json")
        file.write_text(json.dumps(rules))
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main(["measure", "--free", str(file), str(self.take), "--count-in", "1", *more])
        return code, out.getvalue(), err.getvalue()

    def test_a_free_take_is_measured_by_its_rules(self) -> None:
        rules: dict[str, object] = {
            "schema": "oido.free/1", "kind": "drums", "meter": "4/4", "bpm": 100, "bars": 8, "grid_ticks": 240,
        }  # fmt: skip
        code, out, _ = self.run_free(rules, "--json", "--schema", "2")
        result = json.loads(out)
        self.assertEqual((code, result["facts"]["take"]["in_time"]), (0, 1.0))
        self.assertEqual(len(result["facts"]["free"]["notes_a_bar"]), 8)
        _, out, _ = self.run_free({**rules, "meter": "3/4"}, "--json", "--schema", "2")
        self.assertEqual(json.loads(out)["facts"]["target"]["meter"], "3/4")
        for wrong in (
            {"bars": 0},
            {"meter": "4/5"},
            {"schema": "oido.kit/1"},
            {"scale": "X", "pitches": "scale", "kind": "keyboard"},
        ):
            with self.subTest(wrong):
                code, out, err = self.run_free({**rules, **wrong})
                self.assertEqual((code, out, err.count("\n")), (2, "", 1))

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


class ReadCommandTest(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_read(self, data: bytes, *more: str) -> tuple[int, str, str]:
        file = self.folder / "Sea_gate.mid"
        file.write_bytes(data)
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main(["read", str(file), *more])
        return code, out.getvalue(), err.getvalue()

    def test_json_says_every_note_as_the_page_would_write_it(self) -> None:
        first = Note(
            onset_tick=1200, length_tick=480, pitch=61, velocity=70, hand=Hand.RIGHT, finger=2, name_fifth=-5
        )
        low = Note(onset_tick=0, length_tick=1440, pitch=45, velocity=50, hand=Hand.RIGHT)
        part = replace(two_hands(bars=2).with_notes([first, low]), fifths=2)
        code, out, _ = self.run_read(write_musicxml(part, title="Pier"), "--json")
        actual = json.loads(out)
        self.assertEqual(
            (code, actual["schema"], actual["title"], actual["kind"]), (0, "oido.read/1", "Pier", "keyboard")
        )
        self.assertEqual(
            (actual["bars"], actual["meters"], actual["keys"], actual["tempos"]),
            (
                2,
                [{"bar": 1, "numerator": 3, "denominator": 4}],
                [{"bar": 1, "fifths": 2}],
                [{"onset": 0.0, "bpm": 100.0}],
            ),
        )
        low_said, said = actual["notes"]
        self.assertEqual(
            said,
            {"onset": 2.5, "length": 1.0, "pitch": 61, "name": "Db4", "velocity": 70, "hand": "right", "voice": 1,
             "finger": 2, "tie": True},
        )  # fmt: skip
        self.assertEqual((low_said["name"], low_said["voice"], low_said["tie"]), ("A2", 2, False))
        self.assertEqual(actual["not_imported"], [])
        respelled = json.loads(self.run_read(write_musicxml(part), "--json", "--respell")[1])
        self.assertEqual([note["name"] for note in respelled["notes"]], ["A2", "C#4"])

    def test_what_was_read_is_written_in_the_format_of_the_suffix(self) -> None:
        text = "keyboard\nmetre 7/8 2+2+3\nmetre 4/4 from bar 3\ntempo 96\nkey 2 flats\n1 R: D4/4 Eb4/8t F4 G4 A4/4.\n"
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "page.txt"
            file.write_text(text)
            for suffix in (".musicxml", ".mxl", ".txt", ".mid"):
                out = Path(folder) / f"out{suffix}"
                with redirect_stdout(io.StringIO()), self.subTest(suffix):
                    self.assertEqual(main(["read", str(file), "--write", str(out)]), 0)
                    back = Path(folder) / "back.txt"
                    self.assertEqual(main(["read", str(out), "--write", str(back)]), 0)
                    said = back.read_text().splitlines()
                    (first,) = (line for line in said if line.startswith("1 "))
                    self.assertEqual(first.split()[-5:], ["D4/4", "Eb4/8t", "F4/8t", "G4/8t", "A4/4."])
                    self.assertIn("key 2 flats", said)
                    # Standard MIDI Files have no groups.
                    self.assertIn("metre 7/8" if suffix == ".mid" else "metre 7/8 2+2+3", said)
            for bad, wrong in (
                ("metre 7\n1 C4\n", "Line 1"),
                ("\nmetre 4/4\n1 Q\n", "Line 3"),
                ("metre 7/8 2+2\n", "Line 1"),
            ):
                file.write_text(bad)
                with redirect_stderr(io.StringIO()) as err:
                    self.assertEqual(main(["read", str(file)]), 2)
                self.assertIn(wrong, err.getvalue())
            with redirect_stderr(io.StringIO()) as err:
                self.assertEqual(main(["read", str(file), "--write", str(Path(folder) / "out.pdf")]), 2)
            self.assertIn(".musicxml", err.getvalue())

    def test_what_is_not_imported_has_its_bar_and_the_file_lends_its_name(self) -> None:
        part = two_hands(bars=2)
        code, out, _ = self.run_read(write_part(part), "--json", "--kind", "drums")
        actual = json.loads(out)
        self.assertEqual((code, actual["title"], actual["kind"]), (0, "Sea gate", "drums"))
        grace = b"<note><grace/><pitch><step>C</step><octave>4</octave></pitch></note></measure>"
        score = write_musicxml(part).replace(b"</measure>", grace)
        self.assertEqual(
            json.loads(self.run_read(score, "--json")[1])["not_imported"],
            [
                {"bar": 1, "what": "Only one grace note before each note was imported"},
                {"bar": 2, "what": "Only one grace note before each note was imported"},
            ],
        )
        self.assertIn("Only one grace note before each note was imported: bars 1, 2", self.run_read(score)[1])

    def test_bad_files_are_one_line_and_exit_code_2(self) -> None:
        for data in (b"", b"hello", write_part(beat())[:40], b"<score-partwise/>"):
            code, out, err = self.run_read(data, "--json")
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))


class FuzzTest(TestCase):
    def test_inputs_are_made_from_their_number_and_none_breaks_the_reading(self) -> None:
        files = fuzz.corpus()
        self.assertTrue(any(fuzz.attempt(data) for data in files))
        self.assertEqual(fuzz.mutated(7, files), fuzz.mutated(7, files))
        tried = fuzz.try_some(range(120), files)
        self.assertEqual((tried.read + tried.refused, tried.broken), (120, ()))
        self.assertGreater(min(tried.read, tried.refused), 10)

    def test_what_breaks_or_takes_too_long_is_told_with_its_number(self) -> None:
        with mock.patch.object(fuzz, "open_file", side_effect=KeyError("x")):
            self.assertEqual(
                [number for number, _ in fuzz.try_some([40, 42], fuzz.corpus()).broken], [40, 42]
            )

        def endless(_data: bytes) -> None:
            while True:
                pass

        with mock.patch.object(fuzz, "open_file", endless), mock.patch.object(fuzz, "CPU_S", 0.05):
            self.assertIn("not over", fuzz.try_some([3], fuzz.corpus()).broken[0][1])
