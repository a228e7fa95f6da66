"""What a teacher sets for one take alone: how strictly it is marked, its latency, what its pads mean."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

import msgspec

from ear.criteria.levels import Level, level_named
from ear.criterion import CriterionKey
from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.judging.rubric import Rubric
from ear.measuring.copies import DISTANCES
from ear.note_place import NotePlace
from ear.numerals import decimal
from ear.plain import from_plain, to_plain
from ear.text import term
from ear.units import MAX_PITCH, MIN_PITCH

MAX_LATENCY_MS = 500.0


class NoteOverride(StrEnum):
    """What a teacher says of a note or a bar."""

    RIGHT = "right"
    NOT_COUNTED = "not_counted"


class Reason(StrEnum):
    """Why a teacher says it."""

    ORNAMENT = "ornament"
    FINGERING = "fingering"
    MISPRINT = "misprint"
    OTHER = "other"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeSettings:
    """None, or empty: as it is otherwise."""

    level: Level | None = None
    weights: Mapping[CriterionKey, float] | None = None
    forgiven_ms: float | None = None
    latency_ms: float | None = None
    """Of the first pass, taken off instead of what was measured; further passes move with it."""
    pads: Mapping[int, int] = field(default_factory=dict)
    """Percussion numbers as they came, and those that they are to count as."""
    overrides: Mapping[NotePlace, NoteOverride] = field(default_factory=dict)
    """Notes and bars that are said to be right, or not to count."""
    reasons: Mapping[NotePlace, Reason] = field(default_factory=dict)
    """Why each of them is said, by the same places."""
    again: tuple[int, ...] = ()
    """Bars, by number, that are measured once more by themselves."""
    landings: Mapping[int, int] = field(default_factory=dict)
    """Of jumps whose place is a guess, by the first of the notes that they could land on: the one on which they do."""
    without_copies: int | None = None
    """So many semitones above their notes are copies that a set-up has sent, and that do not count; None where nothing is
    left out."""
    why: str = ""

    def __post_init__(self) -> None:
        if any(bar < 0 for bar in self.again):
            raise ValueOutOfRange("part_without_bars")
        if self.latency_ms is not None and abs(self.latency_ms) > MAX_LATENCY_MS:
            raise ValueOutOfRange("latency_out_of_range", latency_most_ms=decimal(MAX_LATENCY_MS))
        if self.without_copies is not None and self.without_copies not in DISTANCES:
            raise ValueOutOfRange("copies_out_of_range")
        if not all(MIN_PITCH <= n <= MAX_PITCH for pair in self.pads.items() for n in pair):
            raise ValueOutOfRange("pad_number_out_of_range", pitch_min=MIN_PITCH, pitch_max=MAX_PITCH)

    @property
    def is_plain(self) -> bool:
        """Do they change nothing?"""
        return self == TakeSettings(why=self.why)

    @property
    def heard(self) -> tuple[object, ...]:
        """Of these what the measuring depends on: where it is another, the take has to be measured again, not only
        marked."""
        return (
            self.latency_ms,
            tuple(sorted(self.pads.items())),
            self.again,
            tuple(sorted(self.landings.items())),
            self.without_copies,
        )

    def with_override(
        self, place: NotePlace, override: NoteOverride | None, reason: Reason | None = None
    ) -> "TakeSettings":
        """Return settings with a place overridden, in place of any override it had; None removes that."""
        overrides = {key: value for key, value in self.overrides.items() if key != place}
        reasons = {key: value for key, value in self.reasons.items() if key != place}
        if override is not None:
            overrides[place] = override
            if reason is not None:
                reasons[place] = reason
        return replace(self, overrides=overrides, reasons=reasons)

    def measuring(self, bar: int, *, again: bool) -> "TakeSettings":
        """Return settings with a bar measured once more, or no longer so."""
        bars = {*self.again, bar} if again else {*self.again} - {bar}
        return replace(self, again=tuple(sorted(bars)))

    def landing(self, first: int, chosen: int | None) -> "TakeSettings":
        """Return settings with a jump that lands on a chosen note; None leaves it where Oido heard it."""
        known = {key: value for key, value in self.landings.items() if key != first}
        return replace(self, landings=known if chosen is None else {**known, first: chosen})

    def over(self, rubric: Rubric) -> Rubric:
        """Return the rubric with these settings in place of its own.

        Raises ValueOutOfRange if that is no valid rubric.
        """
        return replace(
            rubric,
            level=self.level or rubric.level,
            weights=tuple(self.weights.items()) if self.weights is not None else rubric.weights,
            forgiven_bias_ms=rubric.forgiven_bias_ms if self.forgiven_ms is None else self.forgiven_ms,
        )

    def to_json(self) -> dict[str, object]:
        """Return the settings that are set, as plain values for JSON."""
        stored = _StoredSettings(
            level=self.level.key if self.level else None,
            weights=None if self.weights is None else dict(self.weights),
            forgiven_ms=self.forgiven_ms, latency_ms=self.latency_ms, pads=dict(self.pads),
            sayings={str(place): override for place, override in self.overrides.items()},
            reasons={str(place): reason for place, reason in self.reasons.items()}, again=self.again,
            landings=dict(self.landings), without_copies=self.without_copies, why=self.why,
        )  # fmt: skip
        plain: dict[str, object] = to_plain(stored)
        return plain

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> "TakeSettings":
        """Return the value that `to_json` wrote. Raises FormatError."""
        stored = from_plain(data, _StoredSettings, expected="settings of a take")
        try:
            level = level_named(stored.level) if stored.level else None
            return cls(
                level=level, weights=stored.weights, forgiven_ms=stored.forgiven_ms, latency_ms=stored.latency_ms,
                pads=stored.pads, overrides={NotePlace.read(place): override for place, override in stored.sayings.items()},
                reasons={NotePlace.read(place): reason for place, reason in stored.reasons.items()}, again=stored.again,
                landings=stored.landings, without_copies=stored.without_copies, why=stored.why,
            )  # fmt: skip
        except EarError as problem:
            raise FormatError(expected=term("settings of a take"), actual=f"{problem}") from problem


class _StoredSettings(msgspec.Struct, kw_only=True, omit_defaults=True):
    level: str | None = None
    weights: dict[CriterionKey, float] | None = None
    forgiven_ms: float | None = None
    latency_ms: float | None = None
    pads: dict[int, int] = {}
    sayings: dict[str, NoteOverride] = {}
    reasons: dict[str, Reason] = {}
    again: tuple[int, ...] = ()
    landings: dict[int, int] = {}
    without_copies: int | None = None
    why: str = ""
