"""Small readers of single elements: numbers, words, tonics; None where there is none."""

from fractions import Fraction
from functools import lru_cache
from xml.etree.ElementTree import Element

from ear.notes.note import MAX_LABEL_LENGTH
from ear.patterns.modes import LETTER_PITCHES


def label_of(element: Element) -> str | None:
    """Return the first verse's words at a note."""
    lyric = element.find("lyric")
    if lyric is None:
        return None
    text = "".join((t.text or "") for t in lyric.findall("text")).strip()
    return text[:MAX_LABEL_LENGTH] or None


def tonic_of(element: Element, kind: str) -> str | None:
    """Return the note that a `root` or `bass` element names; None if it cannot be read."""
    step = (element.findtext(f"{kind}/{kind}-step") or "").strip()
    if step not in LETTER_PITCHES:
        return None
    alter = whole_of(element.findtext(f"{kind}/{kind}-alter")) or 0
    return step + {1: "♯", -1: "♭"}.get(alter, "")


@lru_cache(maxsize=4096)
def number_of(text: str | None) -> Fraction | None:
    """Return a decimal number exactly; None if the text is none.

    Huge numbers are refused as well: calculating with them would never end.
    """
    if text is None or len(text) > 40 or "e" in text.lower() or "/" in text:
        return None
    try:
        return Fraction(text.strip())
    except (ValueError, ZeroDivisionError):
        return None


def whole_of(text: str | None) -> int | None:
    """Return a whole number below a million; None for any other text."""
    number = number_of(text)
    return int(number) if number is not None and number.denominator == 1 and abs(number) < 1_000_000 else None
