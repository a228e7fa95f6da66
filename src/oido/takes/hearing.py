"""What is played by ear: hidden until it is handed in, heard as often as the exercise allows."""

from datetime import timedelta
from uuid import UUID

from django.db import IntegrityError, transaction
from django.db.models import F, Q
from django.utils import timezone

from oido.assignments.student_terms import StudentTerms
from oido.common.permissions import NotAllowed
from oido.exercises import audio
from oido.exercises.models import PartSound, TargetPart
from oido.people.models import User
from oido.takes.models import Take, Visit

SOUND = "ogg"
SAME_HEARING_FOR = timedelta(minutes=10)
"""So long a hearing that was fetched and did not sound may be fetched again."""


class HeardEnough(NotAllowed):
    """It was heard as often as the exercise allows."""


def is_hidden(student: User, student_terms: StudentTerms) -> bool:
    """Return whether the part is still hidden from the student."""
    if not student_terms.rules.is_by_ear:
        return False
    if student_terms.is_trial:
        return True
    own = Take.objects.filter(
        assignment=student_terms.assignment, student=student, handed_in_at__isnull=False
    )
    return not own.exists()


def is_take_hidden(take: Take) -> bool:
    """Return whether this take may not be compared with its part yet."""
    return take.exercise.recording_rules.is_by_ear and not take.is_handed_in


def listens_left(student_terms: StudentTerms, heard: int) -> int | None:
    """Return how many times it may still be heard, or None if there is no limit."""
    most = student_terms.rules.listen_limit if student_terms.rules.is_by_ear else None
    return None if most is None else max(0, most - heard)


def hear(student: User, student_terms: StudentTerms, hearing: UUID | None = None) -> int:
    """Count that the part is heard; return how often it was by now. `hearing` is the page's number for it: the same
    number counts once, as a hearing that was fetched and never sounded is fetched again. Raise HeardEnough. Of a trial
    nothing is counted."""
    if student_terms.is_trial:
        return 1
    now = timezone.now()
    row, _ = Visit.objects.get_or_create(
        assignment=student_terms.assignment, student=student, defaults={"opened_at": now, "last_at": now}
    )
    rows = Visit.objects.filter(pk=row.pk)
    most = student_terms.rules.listen_limit if student_terms.rules.is_by_ear else None
    is_same = Q(hearing=hearing, hearing_at__gte=now - SAME_HEARING_FOR) if hearing else Q(pk=None)
    # Asked and counted in one go: two pages that listen at once are two.
    with transaction.atomic():
        open_rows = rows.exclude(is_same) if most is None else rows.exclude(is_same).filter(heard__lt=most)
        counted = open_rows.update(heard=F("heard") + 1, last_at=now, hearing=hearing, hearing_at=now)
        if not counted and not rows.filter(is_same).exists():
            raise HeardEnough
        return rows.get().heard


def sound_of(part: TargetPart) -> bytes:
    """Return a part as sound, made at the first request and then cached if the part is stored.

    Raise NoSound.
    """
    if part.pk is None:
        return audio.render(part.read(), SOUND)
    known = PartSound.objects.filter(part=part).first()
    if known is not None:
        return bytes(known.data)
    made = audio.render(part.read(), SOUND)
    try:
        with transaction.atomic():
            PartSound.objects.create(part=part, data=made)
    except IntegrityError:
        # Two who listen first at once: either's is as good.
        return made
    return made
