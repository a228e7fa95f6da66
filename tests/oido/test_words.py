"""One word for one act, as docs/words.md says: the worn-out ones stand in no text that a person reads."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]
SRC = ROOT / "src"
MARKED = {
    "_",
    "gettext",
    "gettext_lazy",
    "ngettext",
    "ngettext_lazy",
    "pgettext",
    "N_",
    "mark",
    "plural",
    "to_say",
}
TEMPLATE_TEXT = re.compile(
    r"""\{%-?\s*translate\s+(?P<q>["'])(?P<one>.*?)(?P=q)|\{%\s*blocktranslate.*?%\}(?P<block>.*?)\{%\s*endblocktranslate"""
    r"""|(?P<plain>>[^<>{}]*[a-z]{2}[^<>{}]*<)""",
    re.DOTALL,
)
SCRIPT_TEXT = re.compile(r"""n?gettext\(\s*(["'])(?P<one>.*?)\1""", re.DOTALL)


def worn_out() -> list[str]:
    """The phrases that docs/words.md lists, one a line, under its last heading."""
    listed = (ROOT / "docs" / "words.md").read_text().split("## Worn out\n", 1)[1]
    return [line.removeprefix("- ").strip() for line in listed.splitlines() if line.startswith("- ")]


def python_texts(file: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.Call) and ast.unparse(node.func).split(".")[-1] in MARKED:
            for argument in node.args:
                if isinstance(argument, ast.Constant) and isinstance(argument.value, str):
                    yield argument.value


def texts() -> Iterator[tuple[str, str]]:
    """Every text that is shown, with the file that says it."""
    for file in sorted(SRC.rglob("*.py")):
        if "migrations" not in file.parts:
            for text in python_texts(file):
                yield text, str(file.relative_to(ROOT))
    for file in sorted(SRC.rglob("*.html")):
        for match in TEMPLATE_TEXT.finditer(file.read_text()):
            yield match["one"] or match["block"] or match["plain"], str(file.relative_to(ROOT))
    for file in sorted(SRC.rglob("*.js")):
        for match in SCRIPT_TEXT.finditer(file.read_text()):
            yield match["one"], str(file.relative_to(ROOT))
    for file in sorted((ROOT / "docs" / "guide").glob("*.md")):
        yield file.read_text(), str(file.relative_to(ROOT))


class WordsTest(TestCase):
    def test_worn_out_words_are_said_nowhere(self) -> None:
        phrases = worn_out()
        self.assertGreater(len(phrases), 40)
        worn = re.compile(r"\b(" + "|".join(re.escape(one) for one in phrases) + r")\b", re.IGNORECASE)
        said = list(texts())
        self.assertGreater(len(said), 1500)
        for text, place in said:
            flat = re.sub(r"\s+", " ", text)
            found = worn.search(flat)
            self.assertIsNone(found, f"{place}: “{flat[:120]}” says “{found and found[0]}”")
