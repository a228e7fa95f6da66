"""Characters that no name and no text may have: XML, spreadsheets and terminals cannot carry them."""

import re
from typing import Any

from django.core.exceptions import ValidationError
from django.utils.translation import gettext_lazy as _

CONTROL_CHARACTERS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\x80-\x9f\ufffe\uffff]|[\ud800-\udfff]")
"""All that XML 1.0 refuses, and those it discourages; tab and line ends may stay."""
ESCAPED_IN_JSON = re.compile(
    rb"(?<!\\)(?:\\\\)*\\(?:[bf]|u00(?:0[0-8bcefBCEF]|1[0-9a-fA-F]|7[fF]|[89][0-9a-fA-F])|u[fF]{3}[eEfF])"
)
"""The same characters as JSON escapes them."""


def has_control_characters(text: str) -> bool:
    return CONTROL_CHARACTERS.search(text) is not None


def without_control_characters(text: str) -> str:
    return CONTROL_CHARACTERS.sub("", text)


def refuse_control_characters(value: Any) -> None:
    """Validate a field of a form. Raises ValidationError."""
    if isinstance(value, str) and has_control_characters(value):
        raise ValidationError(
            _("There is a character in this that cannot be printed. Please type it again."),
            code="control_character",
        )
