"""The tray: a student's takes of an assignment, each as it is read at a glance."""

from dataclasses import dataclass
from math import ceil, floor
from typing import Any

from django.db.models import Prefetch
from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

from ear.findings.said import FOR_STUDENT, said
from ear.judging.judgement import Judgement
from ear.notes import Part
from ear.practice.rules import RecordingRules
from ear.recording.against_click import ClickDoubt, Doubt, click_doubts
from ear.words.reader import Reader
from oido.assignments.models import Assignment
from oido.people.conventions import reader_of
from oido.people.models import User
from oido.takes.bars import BarState, bar_states
from oido.takes.judging import judged
from oido.takes.models import Take, TakePass

READ_AT_ONCE = 2
"""Ear notes of a quick reading."""

DOUBTS: dict[Doubt, tuple[Any, Any]] = {
    Doubt.OTHER_TEMPO: (
        _("Played at %(played)s while the click was at %(click)s."),
        _("Record again: listen to two bars of click, then move with it. Or set the tempo to what you can play."),
    ),
    Doubt.STARTED_LATE: (
        _("Came in %(played)s beats late."),
        _("Record again and count the whole count-in aloud: the first note is the very next “one”."),
    ),
    Doubt.STARTED_EARLY: (
        _("Came in %(played)s beats early."),
        _("Record again and wait until the count-in is through."),
    ),
    Doubt.CLICK_OFF: (
        _("Recorded without the click (%(click)s), which this exercise asks for; played at %(played)s."),
        _("Record again: here the click sounds by itself."),
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """A doubt in words: what it is, with both figures, and how to mend it."""

    what: str
    mend: Promise


@dataclass(frozen=True, slots=True, kw_only=True)
class TrayRow:
    take: Take
    is_readable: bool
    """False where what was measured cannot be read: it is to be measured again."""
    bars: list[BarState]
    said: list[str]
    played_bpm: float | None
    doubts: list[Told]
    passes: list[TakePass]
    hindrance: Any
    """Why it cannot be handed in; empty if it can."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tray:
    rows: list[TrayRow]
    thrown_away: list[Take]
    handed_in: list[Take]
    is_closed: bool
    """A teacher has released a mark: nothing more can be handed in."""
    attempts_left: int | None
    takes_missing: int
    """So many takes are still to be recorded before one is handed in."""
    shows_reading: bool
    rules: RecordingRules

    @property
    def asks_for_more(self) -> bool:
        """One take is asked for in any case; more than that is said."""
        return self.takes_missing > 0 and self.rules.least_takes > 1

    @property
    def can_hand_in(self) -> bool:
        return not self.is_closed and not self.takes_missing


def own_takes(student: User, assignment: Assignment) -> list[Take]:
    """All of a student's takes, newest first, without the weight of their events."""
    return list(
        Take.objects.filter(assignment=assignment, student=student)
        .select_related(
            "judgement__measurement",
            "judgement__rubric",
            "sheet",
            "part",
            "corrected",
            "assignment__exercise",
            "assignment__rubric",
        )
        .prefetch_related(Prefetch("passes", TakePass.objects.defer("events")))
        .defer("events", "part__source_file")
        .order_by("-number")
    )


def _said(mark: Judgement, reader: Reader) -> list[str]:
    """What is read at once; praise where nothing is amiss."""
    heard = [one.finding for one in mark.faults] or list(mark.praise)
    return [said(finding, FOR_STUDENT, reader) for finding in heard[:READ_AT_ONCE]]


def read_tray(student: User, assignment: Assignment) -> Tray:
    reader = reader_of(student)
    takes = own_takes(student, assignment)
    rules = assignment.exercise.recording_rules
    bpm = float(assignment.exercise.tempo_bpm)
    handed_in = [take for take in takes if take.is_handed_in]
    sheets = [take.sheet for take in handed_in if hasattr(take, "sheet")]
    parts: dict[int, Part] = {}
    rows = []
    for take in takes:
        if take.thrown_away_at is not None:
            continue
        part = parts.get(take.part_id)
        if part is None:
            part = parts[take.part_id] = take.part.read()
        found = judged(take)
        is_readable = found.is_readable
        rows.append(
            TrayRow(
                take=take,
                is_readable=is_readable,
                bars=bar_states(part, found.facts, found.judgement) if is_readable else [],
                said=_said(found.judgement, reader) if is_readable else [],
                played_bpm=found.facts.figures.played_bpm if is_readable else None,
                doubts=doubts_told(take),
                passes=list(take.passes.all()),
                hindrance=hindrance(take, rules, part=part, bpm=bpm),
            )
        )
    return Tray(
        rows=rows,
        thrown_away=[take for take in takes if take.thrown_away_at is not None],
        handed_in=handed_in,
        is_closed=any(sheet.is_settled for sheet in sheets),
        attempts_left=None if rules.attempts is None else max(0, rules.attempts - len(takes)),
        takes_missing=max(0, rules.least_takes - len(takes)),
        shows_reading=rules.shows_reading or any(sheet.is_released for sheet in sheets),
        rules=rules,
    )


def hindrance(take: Take, rules: RecordingRules, *, part: Part, bpm: float) -> Any:
    """Why a take cannot be handed in, in words; empty if it can."""
    if take.thrown_away_at is not None:
        return _("thrown away")
    if not rules.allows_tempo(float(take.tempo_bpm), bpm=bpm):
        slowest, fastest = (fit(t) for fit, t in zip((ceil, floor), rules.tempo_range(bpm), strict=True))
        asked = _("%(a)s to %(b)s") % {"a": slowest, "b": fastest} if slowest < fastest else f"{bpm:g}"
        return _("at practice tempo; %(tempo)s may be handed in") % {"tempo": asked}
    if take.fifths is not None and not rules.allows_key(take.fifths, part):
        return _("in a key that this exercise does not ask for")
    return ""


def doubts_told(take: Take) -> list[Told]:
    judgement = judged(take)
    if not judgement.is_readable:
        return []
    found = click_doubts(judgement.facts, heard_click=take.heard_click, asks_click=take.asks_click)
    return [_told(doubt) for doubt in found]


def _told(doubt: ClickDoubt) -> Told:
    what, mend = DOUBTS[doubt.doubt]
    in_beats = doubt.doubt in (Doubt.STARTED_LATE, Doubt.STARTED_EARLY)
    played = f"{doubt.played:.2g}" if in_beats else f"{doubt.played:.0f}"
    figures = {"click": f"{doubt.click:g}", "played": played}
    return Told(what=str(what) % figures, mend=mend)
