"""Takes of past terms go, as the school has said."""

from dataclasses import dataclass
from datetime import date

from django.db import transaction

from oido.audit.services import remember
from oido.common.days import begin_of, end_of
from oido.common.permissions import NotAllowed
from oido.leaving.forms import RetentionForm, TermForm
from oido.leaving.models import Term
from oido.people.models import School, User
from oido.takes.models import HandIn, Take

AT_ONCE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """A term whose takes go, and how many there are."""

    term: Term
    goes_on: date
    takes: int


@transaction.atomic
def change_terms(head: User, form: TermForm | RetentionForm) -> None:
    """Add a term to the head's school, or set how long its takes are kept. `form` is valid. Raise NotAllowed."""
    school = form.instance.school_id if isinstance(form, TermForm) else form.instance.pk
    if not head.is_head or school != head.school_id:
        raise NotAllowed
    form.save()
    remember("school_changed", actor=head)


def delete_term(head: User, term: Term) -> None:
    """Delete a term of the head's school. Takes of it stay. Raise NotAllowed."""
    if not head.is_head or term.school_id != head.school_id:
        raise NotAllowed
    term.delete()
    remember("school_changed", actor=head)


def months_after(day: date, months: int) -> date:
    """Return the same day some months later, or the last day of that month if it has no such day."""
    years, month = divmod(day.month - 1 + months, 12)
    for last in (day.day, 30, 29, 28):
        try:
            return date(day.year + years, month + 1, last)
        except ValueError:
            continue
    raise AssertionError


def takes_of(term: Term) -> "list[Take]":
    """Return the takes of what was given in the term, by the school's clock."""
    with term.school.within():
        begins, ends = begin_of(term.begins_on), end_of(term.ends_on)
    return list(
        Take.everywhere.filter(
            school=term.school, assignment__given_at__gte=begins, assignment__given_at__lte=ends
        ).only("pk", "assignment", "student")
    )


def due(school: School, *, today: date) -> list[Due]:
    """Return the terms whose retention time is over or will be, the earliest first."""
    if school.keep_months is None:
        return []
    terms_due = [
        Due(term=term, goes_on=months_after(term.ends_on, school.keep_months), takes=len(takes_of(term)))
        for term in Term.everywhere.filter(school=school).select_related("school")
    ]
    return sorted(
        (term_due for term_due in terms_due if term_due.takes), key=lambda term_due: term_due.goes_on
    )


def delete_expired_takes(school: School, *, today: date) -> int:
    """Delete what is over, some at a time, so that a worker that is stopped goes on where it was; how many."""
    count = 0
    for term_due in due(school, today=today):
        if term_due.goes_on > today:
            continue
        takes = takes_of(term_due.term)
        for begin in range(0, len(takes), AT_ONCE):
            some = takes[begin : begin + AT_ONCE]
            with transaction.atomic():
                for take in some:
                    HandIn.objects.filter(assignment=take.assignment_id, student=take.student_id).delete()
                Take.everywhere.filter(pk__in=[take.pk for take in some]).delete()
                remember("retention_done", actor=None, school=school, n=len(some))
            count += len(some)
    return count
