"""The tray: a student's takes of an assignment, each as it is read at a glance."""

from dataclasses import dataclass
from typing import Any

from django.db.models import Prefetch

from ear.criteria.timing.ear_notes import Lag, Lead
from ear.findings.kind import FOR_STUDENT, PlayedOn
from ear.findings.rendering import render_finding
from ear.judging.judgement import Judgement
from ear.notes import Part
from ear.practice.rules import RecordingRules
from ear.reader import Reader
from oido.assignments.models import Assignment
from oido.assignments.student_terms import StudentTerms
from oido.people.conventions import reader_of
from oido.people.models import User
from oido.takes.bar_states import BarState, bar_states, describe_bar_states
from oido.takes.doubts import DoubtText, is_of_exercise, list_doubts, submission_blocker
from oido.takes.judging import judged
from oido.takes.models import Take, TakePass

READ_AT_ONCE = 2
"""Ear notes of a quick reading."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TrayRow:
    take: Take
    is_readable: bool
    """False where what was measured cannot be read: it is to be measured again."""
    bars: list[BarState]
    bars_in_words: str
    ear_notes: list[str]
    played_bpm: float | None
    doubts: list[DoubtText]
    passes: list[TakePass]
    submission_blocker: Any
    """Why it cannot be handed in; empty if it can."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tray:
    rows: list[TrayRow]
    deleted: list[Take]
    handed_in: list[Take]
    is_closed: bool
    """A teacher has released a mark, or has withdrawn the exercise: nothing more can be handed in."""
    is_withdrawn: bool
    attempts_left: int | None
    takes_missing: int
    """So many takes are still to be recorded before one is handed in."""
    shows_analysis: bool
    calls_for_latency: bool
    """The newest take was early or late throughout, which a latency that is not measured causes."""
    rules: RecordingRules

    @property
    def asks_for_more(self) -> bool:
        """One take is asked for in any case; more than that is said."""
        return self.takes_missing > 0 and self.rules.least_takes > 1

    @property
    def is_measuring(self) -> bool:
        """A take is being measured in the background: the tray is soon another one."""
        return any(row.take.is_being_measured for row in self.rows)

    @property
    def can_hand_in(self) -> bool:
        return not self.is_closed and not self.takes_missing


def own_takes(student: User, assignment: Assignment) -> list[Take]:
    """Return all of a student's takes, newest first, without their events."""
    return list(
        Take.objects.filter(assignment=assignment, student=student)
        .select_related(
            "judgement__measurement",
            "judgement__rubric",
            "sheet",
            "part__exercise",
            "corrected",
            "assignment",
            "assignment__rubric",
        )
        .prefetch_related(Prefetch("passes", TakePass.objects.defer("events")))
        .defer("events", "part__source_file")
        .order_by("-number")
    )


def _describe_mark(mark: Judgement, reader: Reader, played_on: PlayedOn) -> list[str]:
    """What is read at once; praise where nothing is amiss."""
    heard = [one.finding for one in mark.faults] or list(mark.praise)
    return [
        render_finding(finding, FOR_STUDENT, reader, played_on=played_on) for finding in heard[:READ_AT_ONCE]
    ]


def read_tray(student: User, student_terms: StudentTerms) -> Tray:
    reader = reader_of(student)
    takes = [] if student_terms.is_trial else own_takes(student, student_terms.assignment)
    rules = student_terms.rules
    handed_in = [take for take in takes if take.is_handed_in]
    sheets = [take.sheet for take in handed_in if hasattr(take, "sheet")]
    parts: dict[int, Part] = {}
    rows: list[TrayRow] = []
    calls_for_latency = False
    for take in takes:
        if take.deleted_at is not None:
            continue
        part = parts.get(take.part_id)
        if part is None:
            part = parts[take.part_id] = take.part.read()
        judgement = judged(take)
        # What was measured before a pass was laid into it is out of date.
        is_readable = judgement.is_readable and not take.is_being_measured
        if is_readable and not rows:
            calls_for_latency = any(
                isinstance(fault.finding, Lead | Lag) for fault in judgement.judgement.faults
            )
        bars = bar_states(part, judgement.facts, judgement.judgement) if is_readable else []
        rows.append(
            TrayRow(
                take=take,
                is_readable=is_readable,
                bars=bars,
                bars_in_words=describe_bar_states(bars),
                ear_notes=_describe_mark(judgement.judgement, reader, take.played_on) if is_readable else [],
                played_bpm=judgement.facts.figures.played_bpm if is_readable else None,
                doubts=list_doubts(take),
                passes=list(take.passes.all()),
                submission_blocker=submission_blocker(take, student_terms, part=part),
            )
        )
    return Tray(
        rows=rows,
        deleted=[take for take in takes if take.deleted_at is not None],
        handed_in=handed_in,
        is_closed=any(sheet.is_settled for sheet in sheets)
        or student_terms.assignment.withdrawn_at is not None,
        is_withdrawn=student_terms.assignment.withdrawn_at is not None,
        attempts_left=None if rules.attempts is None else max(0, rules.attempts - len(takes)),
        calls_for_latency=calls_for_latency,
        takes_missing=max(0, rules.least_takes - sum(is_of_exercise(take, student_terms) for take in takes)),
        shows_analysis=(rules.shows_analysis and (bool(handed_in) or not rules.is_by_ear))
        or any(sheet.is_released for sheet in sheets),
        rules=rules,
    )
