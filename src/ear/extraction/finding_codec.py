"""Ear notes to JSON and back: the fields of each, with the code that names its class."""

from collections.abc import Mapping
from typing import Any

from ear.criteria.table import FINDINGS
from ear.extraction.stored_sentences import StoredSentences
from ear.findings.finding import Finding
from ear.plain import from_plain, to_plain


def finding_to_json(finding: Finding) -> dict[str, object]:
    """Return an ear note as plain values for JSON."""
    return {"code": finding.code, **to_plain(finding)}


def finding_from_json(data: Mapping[str, Any]) -> Finding | None:
    """Return the ear note that `finding_to_json` wrote; None for a cause that this version does not know.

    Raises FormatError.
    """
    kind = StoredSentences if "cause" in data else FINDINGS.get(str(data.get("code")))
    return from_plain(data, kind, expected="an ear note") if kind is not None else None


def finding_values(finding: Finding) -> dict[str, object]:
    """Return what an ear note says in figures: its own fields, without rows, bars and the confusions of each row."""
    plain = to_plain(finding)
    return {name: value for name, value in plain.items() if name not in ("rows", "bars", "confusions")}
