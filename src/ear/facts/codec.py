"""Facts to JSON and back: the one place that reads stored facts, of every schema there has been.

Schema 2 is the value itself, field by field. Schema 1 is a result of the first release, `oido.measure/1`,
in which facts stood beside a mark; see `ear.facts.first_release`.
"""

from collections.abc import Mapping
from typing import Any

from ear.errors import FormatError
from ear.facts.facts import SCHEMA, Facts
from ear.facts.first_release import facts_of_first_release
from ear.plain import from_plain, to_plain
from ear.text import term


def facts_to_json(facts: Facts) -> dict[str, Any]:
    """Return facts as plain values for JSON, in the newest schema."""
    plain: dict[str, Any] = to_plain(facts)
    return plain


def facts_from_json(data: Any) -> Facts:
    """Return facts stored in any schema as today's values. Raises FormatError, which says where."""
    if not isinstance(data, Mapping):
        raise FormatError(expected=term("facts of a take"), actual=type(data).__name__)
    try:
        if data.get("schema") == SCHEMA:
            return from_plain(data, Facts, expected="facts of a take")
        return facts_of_first_release(data)
    except (KeyError, TypeError, ValueError, IndexError, AttributeError) as problem:
        raise FormatError(
            expected=term("facts of a take"), actual=f"{type(problem).__name__}: {problem}"
        ) from problem
