"""What a student takes away from a take: what went well, and at most three things to do."""

from dataclasses import dataclass

from django.http import QueryDict
from django.urls import reverse

from ear.findings.finding import Finding, Practice
from ear.findings.kind import FOR_STUDENT
from ear.findings.rendering import render_finding
from ear.practice.ladder import Rung
from ear.reader import Reader
from oido.assignments.student_terms import get_student_terms
from oido.people.models import User
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.practice import Climb, ladder_of

MAX_THINGS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class ToDo:
    """One thing to do: what was heard, its bars to hear, and where to practise it."""

    number: int
    text: str
    bars: tuple[int, int] | None
    practise: str
    """An address at the Stand; empty where practising bars is not the cure."""
    rung: str
    """The ladder's rung that it opens, by name; empty for bars of its own."""
    percent: int


def things_to_do(student: User, take: Take, reader: Reader) -> list[ToDo]:
    """Return the ear notes that cost most, those that can be practised first."""
    judgement = judged(take)
    target = judgement.facts.target
    faults = [
        (fault.finding, fault.finding.practice(last_bar=target.bars, targets=target.notes))
        for fault in judgement.judgement.faults
    ]
    faults.sort(key=lambda pair: pair[1] is None)
    climbs = ladder_of(student, get_student_terms(take.assignment, student)) if faults else []
    return [
        to_do_for(number, finding, practice, take, climbs, reader)
        for number, (finding, practice) in enumerate(faults[:MAX_THINGS], start=1)
    ]


def to_do_for(
    number: int, finding: Finding, practice: Practice | None, take: Take, climbs: list[Climb], reader: Reader
) -> ToDo:
    """Return what a finding asks a student to do: practise the bars that it suggests, on the rung that is about them if one
    is open.
    """
    text = render_finding(finding, FOR_STUDENT, reader, played_on=take.played_on)
    if practice is None:
        return ToDo(number=number, text=text, bars=finding.bars, practise="", rung="", percent=100)
    first, last, alone = practice.first_bar, practice.last_bar, practice.alone
    percent = round(100 * practice.tempo_share)
    climb = _rung_for(climbs, first=first, last=last, alone=alone)
    query = QueryDict(mutable=True)
    if climb is not None:
        rung = climb.rung
        query.update(
            {
                "from": str(rung.first_bar),
                "to": str(rung.last_bar),
                "percent": str(rung.tempo_percent),
                "rung": str(climb.number),
            }
        )
        percent = rung.tempo_percent
        if of := _voices(rung):
            query["of"] = of
    else:
        query.update({"from": str(first), "to": str(last), "percent": str(percent)})
        if alone:
            query["of"] = alone
    return ToDo(
        number=number,
        text=text,
        bars=finding.bars,
        practise=f"{reverse('stand', args=[take.assignment_id])}?{query.urlencode()}",
        rung=climb.rung.name if climb is not None else "",
        percent=percent,
    )


def _rung_for(climbs: list[Climb], *, first: int, last: int, alone: str | None) -> Climb | None:
    """The rung that is about just these bars, if it is open: the easiest of several."""
    for climb in climbs:
        rung = climb.rung
        is_same = (rung.first_bar, rung.last_bar) == (first, last) and not rung.moves
        if climb.is_open and is_same and (alone or "") in ("", _voices(rung)):
            return climb
    return None


def _voices(rung: Rung) -> str:
    return rung.hand.value if rung.hand else ",".join(rung.lanes)
