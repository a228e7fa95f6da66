"""Files that spreadsheets open."""

from collections.abc import Iterable
from typing import Any

from ear.formats.characters import without_control_characters

BOM = "\ufeff"
"""So that spreadsheets read the file as UTF-8."""
RISKY = ("=", "+", "-", "@", "\t", "\r")
"""A cell that begins so is a formula to a spreadsheet: it gets an apostrophe ahead."""


def plain_cell(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula or refuses for a control character."""
    text = without_control_characters(text)
    return f"'{text}" if text.startswith(RISKY) else text


def plain_row(values: Iterable[Any]) -> list[Any]:
    """Return a row whose texts are plain cells. Numbers stay numbers."""
    return [plain_cell(value) if isinstance(value, str) else value for value in values]
