"""What every ear note has: whose cost it tells, its tone and colour, its cure, its two sentences."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from ear.criterion import CriterionKey
from ear.text import Text

FOR_TEACHER, FOR_STUDENT = "teacher", "student"


class Tone(StrEnum):
    """What a finding is to a student."""

    FAULT = "fault"
    """Told if it costs something."""
    FACT = "fact"
    """Told whatever it costs."""
    PRAISE = "praise"


class Hue(StrEnum):
    """How it is coloured where it is bracketed in the music."""

    EARLY = "early"
    LATE = "late"
    WRONG = "wrong"
    PLAIN = "plain"


class PlayedOn(StrEnum):
    """What a take was played on, as far as advice to a student depends on it."""

    KEYS = "keys"
    PADS = "pads"
    TYPING = "typing"
    SCREEN = "screen"


SLOW, EASY, FULL = 0.75, 0.85, 1.0
"""Shares of the tempo at which it is practised: to find the notes, to make them sure, to feel the time."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """What of a take's losses a finding explains: those of some rows or (None) of all, in one criterion or (None) in all,
    for some reasons or (none named) for any."""

    rows: tuple[int, ...] | None
    criterion: CriterionKey | None = None
    why: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingKind:
    """`criterion` is whose cost its rows have, `why` for which reasons alone; None with `takes_all` for all that they
    cost."""

    code: str
    teacher: Text
    student: Text
    criterion: CriterionKey | None = None
    why: tuple[str, ...] = ()
    takes_all: bool = False
    is_of_whole: bool = False
    """It explains what all rows lost for its reasons: one finger too loud makes the others too soft."""
    claims_first: bool = False
    """What it explains belongs to it whatever else would explain it, too: a break of the music, trouble of a set-up."""
    tone: Tone = Tone.FAULT
    hue: Hue = Hue.PLAIN
    share: float | None = EASY
    """None where practising bars is not the cure."""
    joins: bool = False
    """Practised with the bar before: the trouble is the way into the place."""
    alone: bool = False
    """Practised with its hand or lane alone."""
    is_overall: bool = False
    """Told only if no nearer cause has been found for most of its cost."""
    is_flagged: bool = False
    """A teacher should look at the take."""
    student_on: Mapping[PlayedOn, Text] = field(default_factory=dict)
    """Sentences for a student where the advice depends on what was played on; `student` holds for the others."""
