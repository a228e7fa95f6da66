"""Facts to JSON and back: the one place that reads stored facts. What older versions stored is rewritten when Oido is
upgraded (`ear.extraction.upgrading`)."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ear.errors import FormatError
from ear.extraction.finding_codec import finding_from_json, finding_to_json
from ear.facts.facts import SCHEMA, Facts
from ear.plain import from_plain, to_plain
from ear.text import term


def facts_to_json(facts: Facts) -> dict[str, object]:
    """Return facts as plain values for JSON."""
    return {
        **to_plain(replace(facts, findings=())),
        "findings": [finding_to_json(finding) for finding in facts.findings],
    }


def facts_from_json(data: Any) -> Facts:
    """Return the facts that `facts_to_json` wrote. Raises FormatError, which says where."""
    if not isinstance(data, Mapping) or data.get("schema") != SCHEMA:
        raise FormatError(expected=term("facts of a take"), actual="another schema")
    try:
        findings = [finding_from_json(finding) for finding in data["findings"]]
        facts = from_plain({**data, "findings": ()}, Facts, expected="facts of a take")
    except (KeyError, TypeError, ValueError, AttributeError) as problem:
        raise FormatError(
            expected=term("facts of a take"), actual=f"{type(problem).__name__}: {problem}"
        ) from problem
    return replace(facts, findings=tuple(finding for finding in findings if finding is not None))
