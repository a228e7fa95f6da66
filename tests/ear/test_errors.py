"""Errors carry codes: each that is raised has a text, whose gaps its values fill; none is left over."""

import ast
import string
from pathlib import Path
from unittest import TestCase

from ear.error_texts import ERROR_TEXTS
from ear.errors import FormatError, UnknownName, ValueOutOfRange
from ear.judging.scale import ContradictoryMarks
from ear.practice.rules import RecordingRules
from ear.reader import ENGLISH, Reader
from ear.words.errors import describe_error

SRC = Path(__file__).resolve().parents[2] / "src"


def raised() -> dict[str, list[set[str]]]:
    """Of each code that is raised, the names of the values with which it is, wherever it is."""
    actual: dict[str, list[set[str]]] = {}
    for file in SRC.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "ValueOutOfRange":
                assert isinstance(node.args[0], ast.Constant), f"{file}:{node.lineno}"
                names = {str(k.arg) for k in node.keywords} - {"field"}
                actual.setdefault(str(node.args[0].value), []).append(names)
    return actual


class ErrorsTest(TestCase):
    def test_each_code_has_its_text_and_each_text_its_code(self) -> None:
        codes = raised()
        self.assertEqual(set(codes) | {"marks_contradict"}, set(ERROR_TEXTS))
        for code, calls in codes.items():
            gaps = {name for _, name, _, _ in string.Formatter().parse(ERROR_TEXTS[code].singular) if name}
            for names in calls:
                self.assertEqual(names, gaps, code)

    def test_each_is_a_whole_sentence(self) -> None:
        for code, text in ERROR_TEXTS.items():
            self.assertRegex(text.singular, r"^[A-Z{“].*\.$", code)
            self.assertNotRegex(code, r"_\d$")

    def test_they_are_said_in_the_readers_language_and_know_their_field(self) -> None:
        contradictory = ContradictoryMarks(worse=1, better=2)
        self.assertEqual(describe_error(contradictory, ENGLISH), str(contradictory))
        self.assertEqual(
            describe_error(FormatError(expected="a note", actual="nothing", track=2, offset=40), ENGLISH),
            "Track 2 could not be read: Oido expected a note but found nothing.",
        )
        with self.assertRaises(ValueOutOfRange) as caught:
            RecordingRules(attempts=2, handed_in_takes=3)
        self.assertEqual(caught.exception.field, "handed_in_takes")
        unknown = UnknownName(kind="level", name="x", known=("a", "b"))
        self.assertEqual(
            describe_error(unknown, ENGLISH),
            "There is no level of strictness “x”. Oido knows, for example, a, b.",
        )
        german = Reader(
            gettext=lambda text: {"Enter at least one copy.": "Mindestens eine Kopie."}.get(text, text)
        )
        self.assertEqual(describe_error(ValueOutOfRange("copies_too_few"), german), "Mindestens eine Kopie.")
        self.assertIn(
            "LEVEL", describe_error(unknown, Reader(gettext=lambda text: text.replace("level", "LEVEL")))
        )
