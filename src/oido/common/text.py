"""Texts that people type: without control characters, which XML, spreadsheets and terminals cannot carry."""

from typing import Any

from django.core.exceptions import ValidationError
from django.utils.translation import gettext_lazy as _

from ear.formats.characters import has_control_characters


def validate_printable(value: Any) -> None:
    """Refuse control characters in a form field. Raise ValidationError."""
    if isinstance(value, str) and has_control_characters(value):
        raise ValidationError(
            _("There is a character in this that cannot be printed. Please type it again."),
            code="control_character",
        )
