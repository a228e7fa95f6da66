"""The desk's queue: which takes wait for a teacher, in what order, and which of them are clear cases."""

import hashlib
from dataclasses import dataclass
from math import isqrt
from typing import Any

from django.db.models import Exists, OuterRef, QuerySet
from django.http import QueryDict
from django.utils.translation import gettext_lazy as _

from oido.assignments.models import Assignment
from oido.common.numbers import whole
from oido.marking.models import Reply
from oido.people.models import User
from oido.people.queries import classes_of
from oido.takes.doubts import list_doubts
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.queries import visible_takes

WAITING, ACCEPTED, ASKED_AGAIN, QUESTIONS = "waiting", "accepted", "asked", "questions"
STATES = {
    WAITING: _("to be marked"),
    ACCEPTED: _("accepted, not released"),
    ASKED_AGAIN: _("another take asked for"),
    QUESTIONS: _("with unread replies"),
}
LATE, IN_TIME = "late", "in-time"
BORDER = 2.0
"""Points of 100 about a band's border within which a mark is looked at by a person."""
MIN_RIGHT = 0.6
"""Share of right notes below which a take is no clear case."""
FLAGGED = {
    "foreign": _("something else was played"),
    "empty": _("nothing was played"),
    "transposed": _("in another key or octave"),
    "looks_quantised": _("looks quantised"),
    "same_recording": _("the same recording as another’s"),
    "restart": _("stops and starts again"),
}
"""Short words for the ear notes that the core's table flags."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Queue:
    """What of the takes handed in is looked at; it stands in the address."""

    state: str = WAITING
    assignment: int | None = None
    school_class: int | None = None
    late: str = ""

    @classmethod
    def of(cls, query: QueryDict) -> "Queue":
        """Return the queue that an address names. Missing or wrong values take their defaults."""
        state, late = str(query.get("state", "")), str(query.get("late", ""))
        return cls(
            state=state if state in STATES else WAITING,
            assignment=whole(query.get("assignment", "")),
            school_class=whole(query.get("class", "")),
            late=late if late in (LATE, IN_TIME) else "",
        )

    @property
    def query(self) -> str:
        query = QueryDict(mutable=True)
        for name, value in (
            ("state", "" if self.state == WAITING else self.state), ("assignment", self.assignment),
            ("class", self.school_class), ("late", self.late),
        ):  # fmt: skip
            if value:
                query[name] = str(value)
        return query.urlencode()

    @property
    def address(self) -> str:
        """To be put behind an address, so that it goes on in this queue."""
        return f"?{self.query}" if self.query else ""

    @property
    def is_narrowed(self) -> bool:
        return bool(self.query)


def queued(teacher: User, queue: Queue) -> QuerySet[Take]:
    """Return the takes in a queue, the earliest due first, then by when they were handed in."""
    takes = visible_takes(teacher).prefetch_related(None)
    if teacher.is_head and not (queue.assignment or queue.school_class):
        # The whole school is a head's to see, but what waits for her is what her own classes handed in.
        takes = takes.filter(assignment__school_class__in=classes_of(teacher))
    if queue.state == QUESTIONS:
        unread = Reply.objects.filter(take=OuterRef("pk"), author=OuterRef("student"), seen_at__isnull=True)
        takes = takes.filter(Exists(unread))
    else:
        takes = takes.filter(
            sheet__released_at__isnull=True,
            sheet__accepted_at__isnull=queue.state != ACCEPTED,
            sheet__asked_again_at__isnull=queue.state != ASKED_AGAIN,
        )
    if queue.assignment:
        takes = takes.filter(assignment_id=queue.assignment)
    if queue.school_class:
        takes = takes.filter(assignment__school_class_id=queue.school_class)
    if queue.late == LATE:
        takes = takes.filter(sheet__late_days__gt=0)
    elif queue.late == IN_TIME:
        takes = takes.filter(sheet__late_days=0)
    return takes.order_by("assignment__due_at", "assignment_id", "handed_in_at", "pk")


def light(takes: QuerySet[Take]) -> QuerySet[Take]:
    """Return the takes without their events and parts, for lists."""
    return takes.defer(
        "events", "part__data", "part__source_file", "judgement__measurement__facts", "judgement__scores"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """Where a take stands in its queue; `number` counts from 1, None where it stands in it no more."""

    before: Any
    after: Any
    number: int | None
    count: int


def beside(teacher: User, queue: Queue, take: Take) -> Beside:
    keys = list(queued(teacher, queue).values_list("pk", flat=True))
    if take.pk in keys:
        at = keys.index(take.pk)
        return Beside(
            before=keys[at - 1] if at else None, after=keys[at + 1] if at + 1 < len(keys) else None,
            number=at + 1, count=len(keys),
        )  # fmt: skip
    return Beside(before=None, after=keys[0] if keys else None, number=None, count=len(keys))


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """A take that waits, and why a person should look at it; clear where there is no reason."""

    take: Take
    reasons: tuple[Any, ...]
    is_spot: bool = False
    """One of those that are looked at before the others are accepted together."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sorted:
    """The takes of an assignment that are not released, by whether they are clear."""

    clear: tuple[Case, ...]
    others: tuple[Case, ...]

    @property
    def spots(self) -> tuple[Case, ...]:
        return tuple(case for case in self.clear if case.is_spot)

    @property
    def spots_open(self) -> tuple[Case, ...]:
        """Spot checks that nobody has made yet."""
        return tuple(case for case in self.spots if case.take.sheet.accepted_at is None)

    @property
    def to_accept(self) -> tuple[Case, ...]:
        return tuple(c for c in self.clear if c.take.sheet.accepted_at is None and not c.is_spot)


def sort_cases(teacher: User, assignment: Assignment) -> Sorted:
    takes = (
        visible_takes(teacher)
        .prefetch_related(None)
        .filter(assignment=assignment, sheet__released_at__isnull=True, sheet__asked_again_at__isnull=True)
        .defer("events", "part__data", "part__source_file")
        .order_by("student__last_name", "student__first_name", "pk")
    )
    clear: list[tuple[Take, list[Any]]] = []
    others: list[tuple[Take, list[Any]]] = []
    for take in takes:
        reasons = _reasons(take)
        (others if reasons else clear).append((take, reasons))
    # By a hash, so that nobody knows beforehand whose take is looked at, and it stays the same.
    ordered = sorted(clear, key=lambda pair: hashlib.sha256(pair[0].pk.bytes).digest())
    spots = {take.pk for take, _ in ordered[: isqrt(len(clear))]}
    return Sorted(
        clear=tuple(Case(take=take, reasons=(), is_spot=take.pk in spots) for take, _ in clear),
        others=tuple(Case(take=take, reasons=tuple(reasons)) for take, reasons in others),
    )


def _reasons(take: Take) -> list[Any]:
    judgement = judged(take)
    if not judgement.is_readable:
        return [_("its measurement cannot be read")]
    mark, counts = judgement.judgement, judgement.facts.counts
    reasons: list[Any] = [FLAGGED[one.finding.code] for one in mark.faults if one.finding.kind.is_flagged]
    reasons += [doubt.text for doubt in list_doubts(take)]
    if mark.to_be_marked:
        reasons.append(_("something is marked by hand"))
    if counts.matched < MIN_RIGHT * counts.target:
        reasons.append(_("few notes are right"))
    borders = [band.least for band in judgement.rubric.bands if band.least > 0]
    if any(abs(mark.total - border) <= BORDER for border in borders):
        reasons.append(_("close to the next band"))
    return reasons
