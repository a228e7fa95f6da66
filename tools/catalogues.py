"""Gather the texts of pages, core and scripts into the catalogue of each language; or, with `--check`, say what is missing there,
out of date or badly formatted.

A complete language has every text, to be translated where it is new. American English keeps only what it says differently.
"""

import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LANGUAGES = ROOT / "src" / "oido" / "languages"
DOMAINS = ("django", "djangojs")
PARTIAL = "en_US"
BRITISH_ONLY = re.compile(
    r"\b(?:semibreve|minim|crotchet|quaver|semiquaver|demisemiquaver|bars?|colour\w*|centre|practis\w+|licence|programme)\b",
    re.IGNORECASE,
)
"""Words that American English has others for."""
NOISE = re.compile(r'^"(?:POT-Creation-Date|Report-Msgid-Bugs-To): .*\n|\A#\n#, fuzzy\n', re.MULTILINE)
"""What changes, or says nothing, in the head of a catalogue."""


def gather(folder: Path) -> None:
    """Bring all catalogues of a folder up to date with the texts in the code."""
    import django
    from django.conf import settings
    from django.core.management import call_command

    os.chdir(ROOT / "src")
    django.setup()
    settings.LOCALE_PATHS = [str(folder)]
    for domain in DOMAINS:
        call_command(
            "makemessages", locale=sorted(path.name for path in folder.iterdir()), domain=domain, no_location=True,
            no_obsolete=True, verbosity=0, ignore_patterns=["*/migrations/*", "*/vendor/*"],
        )  # fmt: skip
    for file in _catalogues(folder):
        if file.parents[1].name == PARTIAL:
            subprocess.run(
                ["msgattrib", "--translated", "--no-fuzzy", "--force-po", "-o", file, file], check=True
            )
        file.write_text(NOISE.sub("", file.read_text()))


def check() -> list[str]:
    """Return what is wrong with the catalogues, in words."""
    with tempfile.TemporaryDirectory() as name:
        fresh = Path(name) / "languages"
        shutil.copytree(LANGUAGES, fresh)
        gather(fresh)
        return [problem for file in _catalogues(fresh) for problem in _problems(file, fresh)]


def _problems(file: Path, fresh: Path) -> Iterator[str]:
    place = file.relative_to(fresh)
    stored = LANGUAGES / place
    if _texts(stored) - _texts(file):
        yield f"{place}: has texts that the code no longer has; run ./oido texts"
    missing = _listed("--untranslated", file) + _listed("--only-fuzzy", file)
    if place.parts[0] != PARTIAL:
        yield from (f"{place}: to be translated: {text}" for text in missing)
    form = subprocess.run(
        ["msgfmt", "--check-format", "--check-domain", "-o", os.devnull, stored],
        capture_output=True,
        text=True,
        check=False,
    )
    if form.returncode:
        yield from (line for line in form.stderr.splitlines() if "warning" not in line)


def _texts(file: Path) -> set[str]:
    return set(_listed("--no-obsolete", file))


def _listed(which: str, file: Path) -> list[str]:
    """Return the source texts of some entries, as written in the catalogue on one line each."""
    command = ["msgattrib", which, "--no-wrap", file]
    entries = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    return [
        text
        for text in re.findall(r'^msgid "(.+)"$|^msgid ""\n((?:".+"\n)+)', entries, re.MULTILINE)
        for text in text
        if text
    ]


def _catalogues(folder: Path) -> list[Path]:
    return sorted(folder.glob("*/LC_MESSAGES/*.po"))


def main(arguments: list[str]) -> int:
    if "--check" not in arguments:
        gather(LANGUAGES)
        return 0
    problems = check()
    for problem in problems:
        print(problem, file=sys.stderr)
    return 1 if problems else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
