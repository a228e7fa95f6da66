"""Words are used as docs/words.md says, in pages, guides and code; and what the documents name exists."""

import ast
import re
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple
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
    "pgettext_lazy",
    "term",
}
TEMPLATE_TEXT = re.compile(
    r"""\{%-?\s*translate\s+(?P<q>["'])(?P<one>.*?)(?P=q)|\{%\s*blocktranslate.*?%\}(?P<block>.*?)\{%\s*endblocktranslate"""
    r"""|(?P<plain>>[^<>{}]*[a-z]{2}[^<>{}]*<)""",
    re.DOTALL,
)
SCRIPT_TEXT = re.compile(r"""n?gettext\(\s*(["'])(?P<one>.*?)\1""", re.DOTALL)


SHARED_CLASS_NAMES = {"Command", "Judgement", "Rubric", "Take"}
"""Management commands; and what the core has as a value and the web half as a row."""
NAMED_FILE = re.compile(r"`(?P<file>[\w./-]+\.(?:py|js|html|css|md|json|toml|sh))`")
EMPHASIS = re.compile(r"(?<![\w*])\*(?!\*)([^*\n|]{2,60})\*(?!\*)")
SAMPLES = {
    "Exercises → New exercise", "Show: deleted", "Running", "Walking", "bar 1 again", "before bar 5", "Typing keys reach 16 of these 35 notes",
    "…/join/", "Tuesday Keys", "First tune",
}  # fmt: skip
"""What a guide emphasises that is not a label: a path through pages, a sentence with its figures filled in, an example."""
GENERATED = {"exercise.json", "booklet.json", "oneroster.zip"}


AGREED_NAMES = {"is_told", "not_found"}
"""A field of stored facts, and what HTTP calls a page that does not exist."""
SCRIPT_NAME = re.compile(r"\b(?:const|let|function|class|static|async|get)\s+#?([A-Za-z]\w+)")


class Term(NamedTuple):
    """A row of the glossary."""

    term: str
    code: str
    retired: tuple[str, ...]


def glossary() -> list[Term]:
    """The terms that docs/words.md explains, in its order."""
    rows = re.findall(
        r"^\| (.+?) \| .*? \|(.*?)\|(.*?)\|$", (ROOT / "docs" / "words.md").read_text(), re.MULTILINE
    )
    return [
        Term(term, code.strip(" `"), tuple(word for word in re.split(r",\s*", retired.strip()) if word))
        for term, code, retired in rows[1:]
    ]


def not_in_names() -> set[str]:
    """Return the parts that docs/words.md keeps out of names."""
    section = (ROOT / "docs" / "words.md").read_text().split("## Not in names\n", 1)[1].split("## ", 1)[0]
    return set(re.findall(r"^\| (\w+) \|", section, re.MULTILINE)) - {"not"}


def names_given(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """Yield the line and the name of everything that a module names, fields of stored formats excepted."""
    stored = {
        id(inner)
        for node in ast.walk(tree)
        if isinstance(node, ast.ClassDef) and any("Struct" in ast.unparse(base) for base in node.bases)
        for inner in ast.walk(node)
    }
    for node in ast.walk(tree):
        if id(node) in stored:
            continue
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            yield node.lineno, node.name
        elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
            yield node.lineno, node.id
        elif isinstance(node, ast.arg):
            yield node.lineno, node.arg


def all_names() -> Iterator[tuple[str, str]]:
    """Yield every name of the source with its place, of Python files and of scripts."""
    for file in SRC.rglob("*.py"):
        if "migrations" not in file.parts:
            for line, name in names_given(ast.parse(file.read_text())):
                yield name, f"{file.relative_to(ROOT)}:{line}: {name}"
    for file in SRC.rglob("*.js"):
        for match in SCRIPT_NAME.finditer(file.read_text()):
            yield match[1], f"{file.relative_to(ROOT)}: {match[1]}"


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
        self.assertGreater(len(phrases), 100)
        # What stands in brackets limits a retired word to one of its senses, which no pattern can tell.
        phrases += [word for term in glossary() for word in term.retired if "(" not in word]
        worn = re.compile(r"\b(" + "|".join(map(re.escape, phrases)) + r")\b", re.IGNORECASE)
        shown = list(texts())
        self.assertGreater(len(shown), 1500)
        for text, place in shown:
            flat = re.sub(r"\s+", " ", text)
            match = worn.search(flat)
            self.assertIsNone(match, f"{place}: “{flat[:120]}” says “{match and match[0]}”")

    def test_labels_that_guides_name_are_on_a_page(self) -> None:
        gap = re.compile(r"\{%.*?%\}|\{\{.*?\}\}|\s+", re.DOTALL)
        shown = " ".join(gap.sub(" ", text) for text, place in texts() if place.startswith("src")).lower()
        for guide in sorted((ROOT / "docs" / "guide").glob("*.md")):
            for label in EMPHASIS.findall(guide.read_text()):
                is_shown = label.lower().rstrip(" .,:…") in shown
                self.assertTrue(is_shown or label in SAMPLES, f"{guide.name}: no page says “{label}”")

    def test_the_glossary_is_in_order_and_its_names_are_in_the_code(self) -> None:
        terms = glossary()
        self.assertGreater(len(terms), 50)
        names = [term.term.lower() for term in terms]
        self.assertEqual(names, sorted(names))
        source = "\n".join(file.read_text() for file in SRC.rglob("*.py"))
        for term in terms:
            self.assertRegex(source, rf"\b{term.code}\b", term.term)

    def test_a_class_name_stands_for_one_class(self) -> None:
        places: dict[str, list[str]] = defaultdict(list)
        for file in SRC.rglob("*.py"):
            if "migrations" not in file.parts:
                for node in ast.parse(file.read_text()).body:
                    if isinstance(node, ast.ClassDef):
                        places[node.name].append(str(file.relative_to(ROOT)))
        twice = {name: files for name, files in places.items() if len(files) > 1}
        self.assertEqual(set(twice), SHARED_CLASS_NAMES, twice)

    def test_names_have_no_part_that_the_glossary_keeps_out(self) -> None:
        kept_out = not_in_names()
        self.assertGreater(len(kept_out), 10)
        found = set()
        for name, place in all_names():
            parts = set(re.sub(r"([a-z0-9])([A-Z])", r"\1_\2", name).lower().split("_"))
            if parts & kept_out and name not in AGREED_NAMES:
                found.add((name, place))
            self.assertNotRegex(name, r"^_?[A-Z_]+_(MOST|LEAST)(_[A-Z]+)?$|^(MOST|LEAST)_", place)
        self.assertEqual(found, set())

    def test_texts_are_marked_by_names_that_translation_tools_read(self) -> None:
        for file in SRC.rglob("*.py"):
            for node in ast.walk(ast.parse(file.read_text())):
                if isinstance(node, ast.ImportFrom) and node.module in {
                    "django.utils.translation",
                    "ear.text",
                }:
                    renamed = [alias.asname for alias in node.names if alias.asname not in {None, "_"}]
                    self.assertEqual(renamed, [], f"{file.relative_to(ROOT)}:{node.lineno}")

    def test_options_and_benches_that_documents_name_exist(self) -> None:
        source = "\n".join(
            file.read_text()
            for folder in (SRC, ROOT / "tools", ROOT / "benches")
            for file in folder.rglob("*.py")
        )
        known = set(re.findall(r"\"(--[a-z][a-z-]+)\"", source))
        benches = set(
            re.findall(
                r"\"([a-z]+)\"",
                (SRC / "launch" / "trying.py").read_text() + (ROOT / "benches" / "__main__.py").read_text(),
            )
        )
        for document in (*ROOT.glob("*.md"), *(ROOT / "docs").rglob("*.md")):
            text = document.read_text()
            for line in re.findall(r"\./oido [^\n`]+", text):
                for option in re.findall(r"--[a-z][a-z-]+", line):
                    self.assertIn(option, known, f"{document.name}: {line}")
            for bench in re.findall(r"\./oido bench ([a-z]+)", text):
                self.assertIn(bench, benches, document.name)

    def test_files_that_documents_name_exist(self) -> None:
        folders = ("src", "tests", "tools", "benches", "docs", "requirements")
        files = [str(path) for folder in folders for path in (ROOT / folder).rglob("*") if path.is_file()]
        files += [str(path) for path in ROOT.iterdir()]
        documents = [*ROOT.glob("*.md"), *(ROOT / "docs").rglob("*.md")]
        named = {
            (match["file"], str(document.relative_to(ROOT)))
            for document in documents
            for match in NAMED_FILE.finditer(document.read_text())
        }
        self.assertGreater(len(named), 60)
        missing = {
            (file, document)
            for file, document in named
            if file not in GENERATED and not any(path.endswith(f"/{file}") for path in files)
        }
        self.assertEqual(missing, set())
