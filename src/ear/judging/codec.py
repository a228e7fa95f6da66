"""Scores to JSON and back: the one place that reads stored scores."""

from collections.abc import Mapping
from typing import Any

from ear.errors import FormatError
from ear.judging.judgement import SCHEMA, Scores
from ear.plain import from_plain, to_plain
from ear.text import term


def scores_to_json(scores: Scores) -> dict[str, object]:
    """Return scores as plain values for JSON."""
    plain: dict[str, object] = to_plain(scores)
    return plain


def scores_from_json(data: Any) -> Scores:
    """Return the scores that `scores_to_json` wrote. Raises FormatError, which says where."""
    if not isinstance(data, Mapping) or data.get("schema") != SCHEMA:
        raise FormatError(expected=term("scores of a take"), actual="another schema")
    return from_plain(data, Scores, expected="scores of a take")
