"""Loops played while practising: judged by the core, rungs climbed."""

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from ear.criteria.levels import level_named
from ear.formats.events import RawEvent, count_notes
from ear.practice.ladder import Rung
from ear.recording.loops import (
    LoopJudged,
    clean_in_a_row,
    events_of_loop,
    is_passed,
    judge,
    part_of_loop,
)  # fmt: skip
from ear.recording.own_pace import PaceWalk, walk
from oido.assignments.student_terms import StudentTerms
from oido.common.permissions import NotAllowed
from oido.people.models import User
from oido.people.queries import attends
from oido.takes.models import RungClimbed, rung_key
from oido.takes.sizes import MEASURED_AT_ONCE_NOTES

TEMPO_FINE = 0.5
"""Quarter notes a minute by which a loop may miss its rung's tempo."""
LOOPS_KEPT = 60


class LongLoop(Exception):
    """So many notes are not judged while somebody goes on playing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayedLoop:
    """A loop as the Stand sends it: what was played about it, in ms from its downbeat."""

    events: list[RawEvent]
    bpm: float
    fifths: int
    latency_ms: float
    has_touch: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Climb:
    """A rung with how it stands for a student."""

    number: int
    rung: Rung
    is_open: bool
    is_passed: bool
    loops: int
    best: float | None
    bpm: float
    """Of the rung as it begins, in quarter notes a minute."""
    asked_notes: tuple[int, ...]
    """Numbers of the part's notes that are played on this rung."""


def judge_loop(student_terms: StudentTerms, rung: Rung, played: PlayedLoop) -> LoopJudged:
    """Return the judgement of a loop.

    Raise EarError for bars or a tempo that do not exist, LongLoop for one that is too long.
    """
    stored = student_terms.exercise.part_in_force
    whole = stored.read()
    # What is made up has no other key.
    fifths = whole.fifths if stored.spec else played.fifths
    part = part_of_loop(whole, rung, bpm=played.bpm, fifths=fifths)
    if len(part.notes) + count_notes(played.events) > MEASURED_AT_ONCE_NOTES:
        raise LongLoop
    loop_s = part.tempos.second_at(part.bars[-1].end_tick)
    events = events_of_loop(played.events, loop_s=loop_s)
    level = level_named(student_terms.exercise.level)
    bars = rung.first_bar, rung.last_bar
    free = stored.spec.exercise(whole).of_bars(*bars, page=part) if stored.spec else None
    return judge(
        part,
        events,
        level=level,
        needed=rung.needed,
        latency_ms=played.latency_ms,
        has_touch=played.has_touch,
        free=free,
    )


def judge_pace(student_terms: StudentTerms, rung: Rung, events: list[RawEvent], *, fifths: int) -> PaceWalk:
    """Return how bars were played at one's own pace.

    Raise EarError for bars that do not exist, LongLoop for more than can be followed at once.
    """
    whole = student_terms.exercise.part_in_force.read()
    part = part_of_loop(whole, rung, bpm=whole.tempos.first_bpm, fifths=fifths)
    if len(part.notes) + count_notes(events) > MEASURED_AT_ONCE_NOTES:
        raise LongLoop
    return walk(part, events, first_bar=rung.first_bar)


def ladder_of(student: User, student_terms: StudentTerms) -> list[Climb]:
    """Return the exercise's rungs with their state.

    The first is open, and so is each one after a passed rung.
    """
    rows = (
        ()
        if student_terms.is_trial
        else RungClimbed.objects.filter(assignment=student_terms.assignment, student=student)
    )
    known = {row.key: row for row in rows}
    part = student_terms.exercise.part_in_force.read()
    climbs: list[Climb] = []
    for number, rung in enumerate(student_terms.exercise.practice_ladder.rungs, start=1):
        row = known.get(rung_key(rung))
        passed = row is not None and row.passed_at is not None
        climbs.append(
            Climb(
                number=number,
                rung=rung,
                is_open=passed or not climbs or climbs[-1].is_passed,
                is_passed=passed,
                loops=len(row.points) if row else 0,
                best=max(row.points, default=None) if row else None,
                asked_notes=rung.notes_of(part),
                bpm=part.tempos.bpm_at(part.meters.bar(rung.first_bar).start_tick) * rung.tempo_percent / 100,
            )
        )
    return climbs


def is_in_tempo(student_terms: StudentTerms, rung: Rung, bpm: float) -> bool:
    """Return whether a loop at so many quarters a minute is as fast as its rung asks."""
    return bpm >= float(student_terms.exercise.tempo_bpm) * rung.tempo_percent / 100 - TEMPO_FINE


@transaction.atomic
def climb(
    student: User,
    student_terms: StudentTerms,
    number: int,
    *,
    points: float,
    is_clean: bool,
    in_tempo: bool = True,
) -> int:
    """Count a loop of a rung, and return how many clean ones stand in a row then. Raise NotAllowed.

    Only at the rung's tempo or faster, and only on a rung that is open. Of a trial nothing is counted.
    """
    if student_terms.is_trial:
        return int(is_clean and in_tempo)
    if not attends(student, student_terms.assignment.school_class):
        raise NotAllowed
    climbs = ladder_of(student, student_terms)
    if not 1 <= number <= len(climbs) or not climbs[number - 1].is_open:
        raise NotAllowed
    rung = climbs[number - 1].rung
    row, _ = RungClimbed.objects.select_for_update().get_or_create(
        assignment=student_terms.assignment, student=student, key=rung_key(rung)
    )
    # A loop that is too slow breaks no row: it is not counted at all.
    if in_tempo:
        row.points = [*row.points, round(points, 1)][-LOOPS_KEPT:]
        if row.passed_at is None and is_passed(row.points, rung):
            row.passed_at = timezone.now()
        row.save()
    return clean_in_a_row(row.points, rung)
