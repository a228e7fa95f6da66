"""Five minutes of practice for today: what the newest takes of a student's open exercises lost."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.utils import timezone

from ear.findings.finding import Finding, Practice
from ear.practice.plan import PracticePassage, plan
from oido.assignments.student_terms import StudentTermsTable
from oido.feedback.things_to_do import to_do_for
from oido.people.conventions import reader_of
from oido.people.models import User
from oido.takes.at_stand import PracticeRecord, practice_record
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.practice import ladder_of
from oido.takes.queries import assignments_of_student

MAX_TAKES = 6
"""Exercises that are looked at: those that are due first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanLine:
    """One thing to practise."""

    exercise: Any
    text: str
    bars: tuple[int, int]
    minutes: int
    url: str
    is_done: bool
    """Were these bars practised today?"""


@dataclass(frozen=True, slots=True, kw_only=True)
class FiveMinutes:
    """The plan, and how the student has practised so far."""

    lines: list[PlanLine]
    record: PracticeRecord


def five_minutes(student: User) -> FiveMinutes:
    """Return today's plan for a student: the passages that lost most points for the time, in the order in which to practise
    them.
    """
    record = practice_record(student)
    lines = []
    reader = reader_of(student)
    newest = _newest_takes(student)
    suggested = {passage: why for take in newest for passage, why in _passages(take)}
    climbs = {take: ladder_of(student, terms) for take, terms in newest.items()}
    for planned in plan(suggested):
        passage = planned.passage
        fault, practice = suggested[passage]
        take = passage.source
        terms = newest[take]
        to_do = to_do_for(1, fault, practice, take, climbs[take], reader)
        bars = (passage.first_bar, passage.last_bar)
        lines.append(
            PlanLine(
                exercise=terms.exercise,
                text=to_do.text,
                bars=bars,
                minutes=max(1, round(planned.seconds / 60)),
                url=to_do.practise,
                is_done=any(
                    pk == take.assignment_id and first <= bars[1] and bars[0] <= last
                    for pk, first, last in record.passages
                ),
            )
        )
    return FiveMinutes(lines=lines, record=record)


def _newest_takes(student: User) -> dict[Take, Any]:
    """Of each exercise that is still to be handed in the newest take that its student may read, with the student's terms."""
    now = timezone.now()
    known: list[Any] = list(assignments_of_student(student))
    assignments = [assignment for assignment in known if not assignment.is_handed_in]
    table = StudentTermsTable(assignments, student=student)
    terms = {a.pk: table.of(a.pk, student.pk) for a in assignments}
    open_ones = sorted(
        (a for a in assignments if terms[a.pk].is_asked and a.closed_at is None),
        key=lambda a: (terms[a.pk].due_at < now, terms[a.pk].due_at),
    )
    newest: dict[UUID, Any] = {}
    for assignment in open_ones:
        rules = terms[assignment.pk].rules
        takes = [take for take in assignment.own_takes if take.deleted_at is None]
        # What a student may not read before it is handed in is not told by a plan either.
        if takes and rules.shows_analysis and not rules.is_by_ear:
            newest[takes[0].pk] = terms[assignment.pk]
    chosen = list(newest)[:MAX_TAKES]
    takes_by_key = (
        Take.objects.select_related(
            "assignment", "part__exercise", "judgement__measurement", "judgement__rubric"
        )
        .defer("events", "part__source_file")
        .in_bulk(chosen)
    )
    return {takes_by_key[key]: newest[key] for key in chosen if key in takes_by_key}


def _passages(take: Take) -> list[tuple[PracticePassage[Take], tuple[Finding, Practice]]]:
    """What a take lost in bars that can be practised, with the ear note about it and the practice that it suggests."""
    judgement = judged(take)
    if not judgement.is_readable:
        return []
    part, target = take.part.read(), judgement.facts.target
    passages = []
    for fault in judgement.judgement.faults:
        practice = fault.finding.practice(last_bar=target.bars, targets=target.notes)
        if practice is None:
            continue
        first, last = practice.first_bar, practice.last_bar
        bars = [bar for bar in part.bars if first <= bar.number <= last]
        if not bars:
            continue
        begins, ends = (part.tempos.second_at(tick) for tick in (bars[0].start_tick, bars[-1].end_tick))
        loop_s = (ends - begins) / practice.tempo_share
        passage = PracticePassage(
            source=take, first_bar=first, last_bar=last, lost_points=fault.cost, loop_s=loop_s
        )
        passages.append((passage, (fault.finding, practice)))
    return passages
