"""Recording rules: what an exercise asks of a recording, and what it allows."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from enum import StrEnum
from typing import Any

from ear.errors import FormatError, ValueOutOfRange
from ear.notes import Part
from ear.notes.part import MAX_FIFTHS
from ear.plain import from_plain, to_plain
from ear.practice.showing import PERCENTS, ToShow
from ear.text import term
from ear.units import MAX_BPM, MIN_BPM

MAX_LEVEL = 100
MAX_ATTEMPTS, MAX_TAKES, MAX_PASSES = 99, 20, 8
MAX_RANGE = 50
MAX_LISTENS = 50
MAX_SHORTEST_TAKE_BARS = 16
MAX_QUESTIONS, MAX_QUESTION_LENGTH = 6, 200
TEMPO_FINE = 0.01
"""Tempos are stored to a hundredth."""
STORED_NAMES = {
    "shows_analysis": "shows_reading", "listen_limit": "hears", "must_listen_first": "listen_first",
}  # fmt: skip
"""Fields that stored rules and exercise files have under the names of the first two releases."""


class ClickSound(StrEnum):
    """What the click sounds like."""

    TICK = "tick"
    WOOD = "wood"
    BELL = "bell"


class PlayingAid(StrEnum):
    """What is shown while somebody plays, beside the music."""

    TRACE = "trace"
    """What is played, on the music."""
    NEXT = "next"
    """The keys of the next moment."""
    BEATS = "beats"


class SoundChoice(StrEnum):
    """Sounds of the bank that a keyboard exercise may be played with."""

    PIANO = "piano"
    ELECTRIC_PIANO = "electric piano"
    ORGAN = "organ"
    STRINGS = "strings"
    BASS = "bass"


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingRules:
    """All but tempo and count-in, which every exercise has. As it stands here is as it is usually."""

    slower_percent: int = 0
    """How much slower than the tempo a take may be recorded."""
    faster_percent: int = 0
    has_click: bool = True
    click_sound: ClickSound = ClickSound.TICK
    click_level: int = 80
    """Per cent of full."""
    click_divides: int = 1
    """Clicks to a beat: 1 beats, 2 halves, 3 thirds, 4 quarters of it."""
    backing_level: int = 70
    backing_while_recording: bool = True
    sounds: tuple[SoundChoice, ...] = ()
    """Sounds allowed; none named means all."""
    passes: int = 1
    """Passes that may be laid over each other in one take."""
    allows_corrected_copies: bool = False
    withheld: tuple[PlayingAid, ...] = ()
    """What is not shown while the student plays, whatever the student would have."""
    least_bars: int = 2
    """A recording that is stopped before the end of this bar is a start that was broken off: no take, and no attempt."""
    attempts: int | None = None
    """Takes allowed; None for as many as wanted."""
    least_takes: int = 1
    """Takes to be recorded before one is handed in."""
    handed_in_takes: int = 1
    """Takes that are handed in together."""
    keys: tuple[int, ...] = ()
    """Key signatures besides the part's own in which a take may be recorded; sharps positive."""
    shows_analysis: bool = True
    """Students see what was heard in a take before a mark is released."""
    questions: tuple[str, ...] = ()
    """Put to the student when a take is handed in."""
    is_by_ear: bool = False
    """The part is heard, and shown nowhere until a take is handed in."""
    listen_limit: int | None = None
    """How often the part may be heard where it is played by ear; None for as often as wanted."""
    must_listen_first: bool = False
    """The part must be heard once before recording."""
    has_questions_only: bool = False
    """Nothing is recorded: the answers are handed in."""
    to_show: tuple[ToShow, ...] = ()
    """What a student shows in a copy of the take, and explains."""
    shown_percent: int = PERCENTS[-1]
    """What is shown and explained is so much of the mark; the rest is the take."""

    def __post_init__(self) -> None:
        for name, least, most in (
            ("slower_percent", 0, MAX_RANGE), ("faster_percent", 0, MAX_RANGE), ("click_level", 0, MAX_LEVEL),
            ("click_divides", 1, 4), ("backing_level", 0, MAX_LEVEL), ("passes", 1, MAX_PASSES),
            ("least_bars", 0, MAX_SHORTEST_TAKE_BARS),
            ("least_takes", 1, MAX_TAKES), ("handed_in_takes", 1, MAX_TAKES),
        ):  # fmt: skip
            if not least <= getattr(self, name) <= most:
                raise ValueOutOfRange(
                    "out_of_range", field=name, least=least, most=most, value=getattr(self, name)
                )
        if self.attempts is not None and not 1 <= self.attempts <= MAX_ATTEMPTS:
            raise ValueOutOfRange("attempts_out_of_range", field="attempts", attempts_most=MAX_ATTEMPTS)
        if self.attempts is not None and self.attempts < self.least_takes:
            raise ValueOutOfRange("handed_in_takes_above_attempts", field="attempts")
        if self.handed_in_takes > self.least_takes:
            raise ValueOutOfRange("handed_in_takes_above_recorded", field="handed_in_takes")
        if self.listen_limit is not None and not 1 <= self.listen_limit <= MAX_LISTENS:
            raise ValueOutOfRange(
                "out_of_range", field="listen_limit", least=1, most=MAX_LISTENS, value=self.listen_limit
            )
        if self.has_questions_only and not self.questions:
            raise ValueOutOfRange("questions_missing", field="questions")
        if self.to_show and (self.handed_in_takes > 1 or self.has_questions_only):
            raise ValueOutOfRange("showing_needs_one_take", field="handed_in_takes")
        if self.shown_percent not in PERCENTS:
            raise ValueOutOfRange("showing_share_not_a_quarter", field="shown_percent")
        if len({one.skill for one in self.to_show}) < len(self.to_show):
            raise ValueOutOfRange("shown_twice", field="to_show")
        if any(abs(key) > MAX_FIFTHS for key in self.keys):
            raise ValueOutOfRange("too_many_accidentals", fifths_max=MAX_FIFTHS)
        if len(self.questions) > MAX_QUESTIONS or any(
            not 0 < len(question) <= MAX_QUESTION_LENGTH for question in self.questions
        ):
            raise ValueOutOfRange(
                "questions_out_of_range", questions_most=MAX_QUESTIONS, question_most=MAX_QUESTION_LENGTH
            )

    @property
    def has_copies(self) -> bool:
        """Students may change copies of their takes."""
        return self.allows_corrected_copies or bool(self.to_show)

    def counts_after(self, bars: int) -> int:
        """Return the bar after whose end a recording is a take, however it ends; in a part of so many bars it
        is before the middle.
        """
        return min(self.least_bars, bars // 2)

    def tempo_range(self, bpm: float) -> tuple[float, float]:
        """Return the slowest and the fastest tempo of a take, in quarter notes a minute."""
        slowest, fastest = bpm * (1 - self.slower_percent / 100), bpm * (1 + self.faster_percent / 100)
        return max(MIN_BPM, slowest), min(MAX_BPM, fastest)

    def allows_tempo(self, asked_bpm: float, *, bpm: float) -> bool:
        """Return whether a take may be recorded at this tempo if the exercise asks for `bpm`, to a hundredth.

        Both are in quarter notes a minute.
        """
        slowest, fastest = self.tempo_range(bpm)
        return slowest - TEMPO_FINE <= asked_bpm <= fastest + TEMPO_FINE

    def allows_key(self, fifths: int, part: Part) -> bool:
        """Return whether a take may be handed in in a key. `fifths` is the key signature, sharps positive."""
        return fifths == part.fifths or (part.instrument.has_key and fifths in self.keys)

    def to_json(self) -> dict[str, object]:
        """Return the rules that differ from the defaults, as plain values for JSON."""
        usual = to_plain(RecordingRules())
        return {
            STORED_NAMES.get(name, name): value
            for name, value in to_plain(self).items()
            if value != usual[name]
        }

    @classmethod
    def from_json(cls, data: Any) -> "RecordingRules":
        """Return the value that `to_json` wrote; missing rules have their defaults. Raises FormatError."""
        name_of = {STORED_NAMES.get(f.name, f.name): f.name for f in fields(cls)}
        if not isinstance(data, Mapping) or set(data) - set(name_of):
            raise FormatError(expected=term("recording rules"), actual=f"{data!r:.60}")
        try:
            named = {name_of[name]: value for name, value in data.items()}
            return from_plain(named, cls, expected="recording rules")
        except ValueOutOfRange as problem:
            raise FormatError(expected=term("recording rules"), actual=f"{problem}") from problem
