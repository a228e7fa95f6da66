"""Scores to JSON and back: the one place that reads stored scores."""

from collections.abc import Mapping
from typing import Any

import msgspec

from ear.errors import FormatError
from ear.judging.judgement import SCHEMA, Scores


def scores_to_json(scores: Scores) -> dict[str, Any]:
    """Scores as plain values for JSON."""
    built: dict[str, Any] = msgspec.to_builtins(scores)
    return built


def scores_from_json(data: Any) -> Scores:
    """Raises FormatError, which says where."""
    if not isinstance(data, Mapping) or data.get("schema") != SCHEMA:
        raise FormatError(expected="scores of a take", found="another schema")
    try:
        return msgspec.convert(data, Scores)
    except msgspec.ValidationError as problem:
        raise FormatError(expected="scores of a take", found=f"{problem}") from problem
