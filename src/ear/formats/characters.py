"""Control characters: XML, spreadsheets and terminals cannot carry them, so no name and no text may have one."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

from ear.errors import FormatError
from ear.text import term

CONTROL_CHARACTERS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff\ud800-\udfff]")
"""All that XML 1.0 refuses, and those it discourages (section 2.2); tab and line ends may stay."""


def has_control_characters(text: str) -> bool:
    """Return whether a text contains a control character."""
    return CONTROL_CHARACTERS.search(text) is not None


def without_control_characters(text: str) -> str:
    """Return a text with all of them removed."""
    return CONTROL_CHARACTERS.sub("", text)


def refuse_control_characters(plain: Any) -> None:
    """Raise FormatError if a text somewhere in plain values (as JSON gives them) has one."""
    if any(map(has_control_characters, _texts(plain))):
        raise FormatError(expected=term("text that can be printed"), actual="a control character")


def _texts(plain: Any) -> Iterator[str]:
    if isinstance(plain, str):
        yield plain
    elif isinstance(plain, Mapping):
        for name, value in plain.items():
            yield str(name)
            yield from _texts(value)
    elif isinstance(plain, list | tuple):
        for value in plain:
            yield from _texts(value)
