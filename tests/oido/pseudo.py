"""A language of its own for tests: every text in brackets and 40 % longer, with a decimal comma."""

import re
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.test import override_settings
from django.utils.translation import trans_real

ROOT = Path(__file__).resolve().parents[2]
SPANISH = ROOT / "src" / "oido" / "languages" / "es" / "LC_MESSAGES"
CODE = "es-xa"
"""With Spanish behind it, for what Django itself says, and for how numbers are written."""
OPEN, CLOSE = "⟦", "⟧"
LONGER = 1.4
FILLER = "~~~~~ "
"""As long as words are, so that lines can break."""
ENTRY = re.compile(r'^(msgstr(?:\[\d\])? )("(?:.*)"\n(?:".*"\n)*)', re.MULTILINE)
HEAD = "Content-Type:"
"""In the head of a catalogue, and in no text."""
STRING = re.compile(r'"(.*)"\n')


def lengthen(text: str) -> str:
    """Return a text in brackets, longer by the usual share of a translation."""
    missing = round(len(text) * LONGER) - len(text)
    return f"{OPEN}{text}{(FILLER * missing)[:missing]}{CLOSE}" if text.strip() else text


def _emptied(match: re.Match[str]) -> str:
    return match[0] if HEAD in match[2] else f'{match[1]}""\n'


def _longer(match: re.Match[str]) -> str:
    text = "".join(STRING.findall(match[2]))
    if not text or HEAD in text:
        return match[0]
    # What ends in a new line must go on to do so.
    end = "\\n" if text.endswith("\\n") else ""
    return f'{match[1]}"{lengthen(text.removesuffix(end))}{end}"\n'


def make_catalogues(folder: Path) -> None:
    """Write the pseudo-language's catalogues below a folder."""
    target = folder / "es_XA" / "LC_MESSAGES"
    target.mkdir(parents=True)
    for source in SPANISH.glob("*.po"):
        written = subprocess.run(
            ["msgcat", "--no-wrap", source], capture_output=True, text=True, check=True
        ).stdout
        # Each text translated by itself, then made longer.
        plain = subprocess.run(
            ["msgen", "--no-wrap", "-o", "-", "-"],
            input=ENTRY.sub(_emptied, written),
            capture_output=True,
            text=True,
            check=True,
        ).stdout
        subprocess.run(
            ["msgfmt", "-o", target / f"{source.stem}.mo", "-"],
            input=ENTRY.sub(_longer, plain),
            text=True,
            check=True,
        )


@contextmanager
def pseudo_language() -> Iterator[None]:
    """Offer the pseudo-language for a block."""
    with tempfile.TemporaryDirectory() as name:
        make_catalogues(Path(name))
        languages = [*settings.LANGUAGES, (CODE, "Longer")]
        with override_settings(LANGUAGES=languages, LOCALE_PATHS=[name]):
            _forget()
            try:
                yield
            finally:
                _forget()


def _forget() -> None:
    trans_real._translations.clear()
    trans_real.get_languages.cache_clear()
