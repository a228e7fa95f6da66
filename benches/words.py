"""How plainly the project speaks, in figures: `./oido bench words`.

Strings that a person reads, phrases among them that a native reader has flagged (`tests/english/flagged.txt`), names that say
nothing, numbered error codes, class names that stand for two classes, docstrings and comments of the source.
"""

import ast
import io
import re
import tokenize
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from ear.error_texts import ERROR_TEXTS
from tests.oido.test_words import SHARED_CLASS_NAMES, texts

ROOT = Path(__file__).resolve().parents[1]
SRC = ROOT / "src"
FLAGGED = ROOT / "tests" / "english" / "flagged.txt"
SAYS_NOTHING = frozenset({"found", "one", "what", "it", "got", "thing", "stuff", "res", "tmp", "obj"})
HARD = ("matching", "judging", "measuring", "notation")
"""Packages of the core where an engineer most often stops and asks why."""
LEFT = {
    "is out of date": "said of a page, as English does",
    "shorter than (ticks)": "asks for a note value now, not for ticks",
    "the slip was here (also: a printed sign-in slip)": "a printed one is a sign-in slip by its full name",
    "Words (tool groups)": "the group is called Labels now; this is the label of sung words",
}
"""Flagged phrases that stay, each with the reason."""
GAP = re.compile(r"%\((\w+)\)[sd]|\{\{\s*(\w+)[^}]*\}\}")
TAG = re.compile(r"\{%.*?%\}|<[^>]*>", re.DOTALL)
REMARK = re.compile(r" \([^()]*\)$")
"""What the list adds to a phrase: the one place it is about, or how often it occurs."""


def plain(text: str) -> str:
    """Return a text with gaps written alike, however it is stored, in small letters and without line breaks."""
    gaps = GAP.sub(lambda match: "{" + (match[1] or match[2]) + "}", text)
    return re.sub(r"\s+", " ", TAG.sub(" ", gaps)).lower()


def matches(phrase: str, text: str) -> bool:
    """Return whether a plain text contains a flagged phrase. With a remark, it must be the whole text."""
    words = plain(REMARK.sub("", phrase)).strip()
    if words != plain(phrase).strip():
        return text.strip(" .:") == words.strip(" .:")
    return re.search(rf"(?<!\w){re.escape(words)}(?!\w)", text) is not None


def python_files() -> list[Path]:
    return [file for file in sorted(SRC.rglob("*.py")) if "migrations" not in file.parts]


def stored_names(tree: ast.AST) -> Iterator[str]:
    """Yield the names of variables and arguments; those of comprehensions are read on the line that makes them."""
    inside = {
        id(name)
        for node in ast.walk(tree)
        if isinstance(node, ast.comprehension)
        for name in ast.walk(node.target)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store) and id(node) not in inside:
            yield node.id
        elif isinstance(node, ast.arg):
            yield node.arg


IMPERATIVES = frozenset(
    [
        "Accent",
        "Add",
        "Apply",
        "Assign",
        "Begin",
        "Break",
        "Change",
        "Check",
        "Conclude",
        "Count",
        "Delete",
        "Divide",
        "End",
        "Extend",
        "Find",
        "Fit",
        "Follow",
        "Gather",
        "Insert",
        "Lengthen",
        "Link",
        "Mark",
        "Match",
        "Measure",
        "Mend",
        "Merge",
        "Move",
        "Multiply",
        "Open",
        "Paste",
        "Play",
        "Propose",
        "Raise",
        "Read",
        "Remember",
        "Remove",
        "Return",
        "Run",
        "Search",
        "Set",
        "Try",
        "Write",
        "Yield",
    ]
)
"""What a public function of the core does for its caller, as its docstring begins."""
UNIT = re.compile(
    r"\b(ticks?|quarters?|beats?|bars?|ms|seconds?|px|points?|per cent|share|semitones?|velocit(y|ies)|pitch(es)?|shape|steps?"
    r"|0 to 1(00)?|number|how many|count|cost|slope|rho|t|spread|score|credits?|row|lane|staff|days|tempo|rounded|fifths|value)\b"
)
NAMED_UNIT = re.compile(r"(_ms|_s|_px|_ticks|_bpm|ms|seconds|quarters|percent|points|fifths)$")


def lacking(node: ast.FunctionDef) -> str:
    """Return what a docstring lacks: what is returned, units or errors; empty if nothing."""
    docstring = ast.get_docstring(node) or ""
    if docstring.partition(" ")[0].rstrip(",.") not in IMPERATIVES:
        return "what it does or returns"
    returned = ast.unparse(node.returns) if node.returns else ""
    is_number = returned in {"float", "int", "Floats"}
    if is_number and not UNIT.search(docstring) and not NAMED_UNIT.search(node.name):
        return "units"
    raised = {
        ast.unparse(inner.exc.func if isinstance(inner.exc, ast.Call) else inner.exc)
        for inner in ast.walk(node)
        if isinstance(inner, ast.Raise) and inner.exc is not None
    }
    missing = {name for name in raised if name[:1].isupper() and name not in docstring}
    return f"errors: {', '.join(sorted(missing))}" if missing else ""


def public_functions(tree: ast.Module) -> Iterator[ast.FunctionDef]:
    """Yield public functions of the module and public methods of its public classes, without properties."""
    classes = [node for node in tree.body if isinstance(node, ast.ClassDef) and not node.name.startswith("_")]
    for body in (tree.body, *(node.body for node in classes)):
        for node in body:
            is_property = isinstance(node, ast.FunctionDef) and any(
                "property" in ast.unparse(decorator) for decorator in node.decorator_list
            )
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and not is_property:
                yield node


def main() -> None:
    shown = [plain(text) for text, place in texts() if place.startswith("src")]
    flagged = [phrase for phrase in FLAGGED.read_text().splitlines() if phrase]
    left = [phrase for phrase in flagged if any(matches(phrase, text) for text in shown)]
    names: Counter[str] = Counter()
    classes: Counter[str] = Counter()
    lines = comments = hard_lines = hard_comments = 0
    bare: list[str] = []
    for file in python_files():
        source = file.read_text()
        tree = ast.parse(source)
        names.update(stored_names(tree))
        classes.update(node.name for node in tree.body if isinstance(node, ast.ClassDef))
        written = sum(bool(line.strip()) for line in source.splitlines())
        remarked = sum(
            token.type == tokenize.COMMENT for token in tokenize.generate_tokens(io.StringIO(source).readline)
        )
        lines, comments = lines + written, comments + remarked
        if file.parent.name in HARD:
            hard_lines, hard_comments = hard_lines + written, hard_comments + remarked
        if file.is_relative_to(SRC / "ear"):
            bare += [
                f"{file.relative_to(SRC)}: {node.name} lacks {lack}"
                for node in public_functions(tree)
                if (lack := lacking(node))
            ]
    silent = {name: names[name] for name in sorted(SAYS_NOTHING) if names[name]}
    numbered = [code for code in ERROR_TEXTS if re.search(r"_\d+$", code)]
    twice = sorted(name for name, count in classes.items() if count > 1 and name not in {"Command"})
    print(f"strings that a person reads      {len(shown):>6,}")
    print(f"flagged phrases left             {len(left):>6} of {len(flagged)}")
    for phrase in left:
        print(f"    {phrase}: {LEFT.get(phrase, 'to be mended')}")
    print(
        f"names that say nothing           {sum(silent.values()):>6} of {names.total():,} ({sum(silent.values()) / names.total():.2%}): {silent}"
    )
    print(f"numbered error codes             {len(numbered):>6}")
    print(
        f"class names that stand for two   {len(twice):>6}: {', '.join(twice)} (agreed: {', '.join(sorted(SHARED_CLASS_NAMES - {'Command'}))})"
    )
    print(f"public core functions whose docstring lacks something {len(bare)}")
    for line in bare:
        print(f"    {line}")
    print(f"lines with a comment             {comments / lines:>6.1%} of {lines:,}")
    print(f"    in {', '.join(HARD)}: {hard_comments / hard_lines:.1%} of {hard_lines:,}")


if __name__ == "__main__":
    main()
