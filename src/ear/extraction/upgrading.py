"""Facts and ear notes that older versions stored, rewritten as they are stored today.

The second release kept an ear note's figures in one mapping, `values`, beside its rows; the first kept its sentences
(`ear.extraction.first_release`).
"""

from collections.abc import Mapping
from dataclasses import asdict, fields
from typing import Any

from ear.criteria.notes.wrong_notes import Confused, Confusion, commonest_of
from ear.criteria.table import FINDINGS
from ear.criteria.timing.columns import BESIDE, LOST, ROOM_MS
from ear.errors import FormatError
from ear.extraction.codec import facts_to_json
from ear.extraction.finding_codec import finding_from_json
from ear.extraction.first_release import SCHEMA as FIRST_RELEASE
from ear.extraction.first_release import facts_of_first_release
from ear.facts.facts import SCHEMA
from ear.plain import from_plain
from ear.text import term
from ear.units import TICKS_PER_QUARTER

SECOND_RELEASE = 2
OF_SIZE = (
    "size_ms", "size_steps", "ratio", "share", "in_time", "quarters",
)  # fmt: skip
"""Fields that hold what was the size of the ear note."""
RENAMED = {
    "error_ms": "error", "error_ms_per_bar": "error", "rate_ms_per_bar": "rate", "played_bpm": "bpm",
    "click_bpm": "click", "worst_ms": "most", "other_ms": "most", "first_bpm": "tempo_first",
    "last_bpm": "tempo_last", "semitones": "interval", "bars_left": "count", "in_all": "all", "is_guess": "guess",
    "before_ms": "before", "now_ms": "now", "noise_ms": "noise",
}  # fmt: skip
"""What other fields were called among the values."""


def upgrade_facts(data: Any) -> dict[str, object]:
    """Return facts that any version stored as they are stored today. Raises FormatError."""
    if not isinstance(data, Mapping):
        raise FormatError(expected=term("facts of a take"), actual=type(data).__name__)
    try:
        if data.get("schema") == SCHEMA:
            return dict(data)
        if data.get("schema") == FIRST_RELEASE:
            return facts_to_json(facts_of_first_release(data))
        if data.get("schema") != SECOND_RELEASE:
            raise FormatError(expected=term("facts of a take"), actual="another schema")
        findings = [
            upgraded for stored in data["findings"] if (upgraded := upgrade_finding(stored)) is not None
        ]
        rows = {**data["rows"], "own": _columns(data)}
        return {**data, "rows": rows, "findings": findings, "schema": SCHEMA}
    except (KeyError, TypeError, ValueError, IndexError, AttributeError) as problem:
        raise FormatError(
            expected=term("facts of a take"), actual=f"{type(problem).__name__}: {problem}"
        ) from problem


def _columns(data: Mapping[str, Any]) -> dict[str, list[float]]:
    """What Timing has to know of each note, as it was judged then: one window by the grid of the part, and who is beside
    the click has been there for long."""
    target = data["target"]
    grid_ms = 60_000.0 / target["bpm"] * target["grid_ticks"] / TICKS_PER_QUARTER
    notes = target["notes"]
    beside = {BESIDE: [1.0] * notes, LOST: [1.0] * notes}
    return {ROOM_MS: [round(grid_ms, 1)] * notes, **(beside if data["take"]["has_click"] else {})}


def upgrade_finding(data: Mapping[str, Any]) -> dict[str, object] | None:
    """Return an ear note that any version stored as it is stored today; None for a cause that is no longer known.

    Raises FormatError, KeyError or TypeError.
    """
    values = data.get("values")
    if values is None:
        return dict(data)
    common = {name: data[name] for name in ("code", "rows", "bars") if name in data}
    if "teacher" in values:
        return {
            **common, "cause": data["code"], "teacher": values["teacher"], "student": values["student"],
            "stored_size": data["size"], "stored_unit": data["unit"], "stored_place": data.get("place"),
            "stored_quarter": data.get("quarter"),
        }  # fmt: skip
    kind = FINDINGS.get(str(data["code"]))
    if kind is None:
        return None
    named = {field.name for field in fields(kind)}
    known = {
        **values, "count": values.get("count", 0), "of": values.get("of", values.get("count", 0)),
        "hand": values.get("hand", values.get("late")), "played": values.get("played", int(data["size"])),
        "quarter_in_part": data.get("quarter"), **dict.fromkeys(OF_SIZE, data["size"]),
        **{name: values[old] for name, old in RENAMED.items() if old in values},
    }  # fmt: skip
    known["is_guess"] = bool(known.get("is_guess"))
    if "beat" in values:
        known["at"] = {
            "beat": values["beat"], "into_ticks": values["into"], "beat_ticks": values["beat_ticks"],
            "is_compound": bool(values["compound"]),
        }  # fmt: skip
    if issubclass(kind, Confused):
        known |= _confusions(data, values)
    upgraded = {**{name: value for name, value in known.items() if name in named}, **common}
    finding_from_json(upgraded)
    return upgraded


def _confusions(data: Mapping[str, Any], values: Mapping[str, Any]) -> dict[str, object]:
    """The confusions of a wrong note; an early version kept the commonest alone."""
    confusions = from_plain(data.get("confusions", ()), tuple[Confusion, ...], expected="confusions")
    commonest = (
        commonest_of(confusions)
        if confusions
        else Confusion(
            row=next(iter(data["rows"]), 0), bar=values["where"], written=values.get("written", 0),
            played=values.get("played", 0), fifths=values.get("fifths"), name=values.get("name"),
            written_lane=values.get("written_lane", ""), played_lane=values.get("played_lane", ""),
        )
    )  # fmt: skip
    return {"confusions": [asdict(confusion) for confusion in confusions], "commonest": asdict(commonest)}
