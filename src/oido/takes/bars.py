"""How each bar of a take went, in one word: for small pictures and the class picture."""

from collections import defaultdict
from dataclasses import dataclass
from statistics import median
from typing import Any

from ear.notes import Part
from oido.exercises.pages import voice_of

FAULT_SHARES = (0.1, 0.3, 0.55)
"""Shares of a bar gone wrong that separate the four shades of the class picture."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BarState:
    """`state`: well, early, late, wrong or missed; `fault` is the share of notes gone wrong."""

    number: int
    state: str
    fault: float

    @property
    def shade(self) -> int:
        return sum(self.fault > share for share in FAULT_SHARES)


def bar_states(part: Part, result: dict[str, Any], voice: str | None = None) -> list[BarState]:
    """One entry for each bar that has notes (of one hand or lane, if it is named), from a measured result."""
    full_ms = result["window"]["full_ms"]
    forgiven = forgiven_ms(result)
    bars: dict[int, list[dict[str, Any]]] = defaultdict(list)
    for row in result["pairs"]:
        if row["target"] is not None and (
            voice is None or voice_of(part, part.notes[row["target"]]) == voice
        ):
            bars[part.meters.bar_at(part.notes[row["target"]].onset_tick).number].append(row)
    return [_state(number, rows, full_ms, forgiven) for number, rows in sorted(bars.items())]


def forgiven_ms(result: dict[str, Any], most: float = 30.0) -> float:
    """The constant lead or lag that the mark forgives."""
    bias = result["measures"]["bias_ms"] or 0.0
    return max(-most, min(most, bias))


def _state(number: int, rows: list[dict[str, Any]], full_ms: float, forgiven: float) -> BarState:
    off = [r["deviation_ms"] - forgiven for r in rows if r["deviation_ms"] is not None]
    missed = sum(r["outcome"] == "missed" for r in rows)
    wrong = sum(r["outcome"] == "wrong_pitch" for r in rows)
    untimely = [d for d in off if abs(d) > full_ms]
    fault = (missed + wrong + 0.7 * len(untimely)) / len(rows)
    if missed >= max(1, len(rows) / 2):
        state = "missed"
    elif len(untimely) > len(rows) / 4:
        state = "early" if median(untimely) < 0 else "late"
    elif wrong + missed:
        state = "wrong"
    else:
        state = "well"
    return BarState(number=number, state=state, fault=min(1.0, fault))
