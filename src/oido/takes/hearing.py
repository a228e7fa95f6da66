"""What is played by ear: hidden until it is handed in, heard as often as the exercise allows."""

from django.db import IntegrityError, transaction
from django.db.models import F
from django.utils import timezone

from oido.assignments.deals import Deal
from oido.common.permissions import NotAllowed
from oido.exercises import audio
from oido.exercises.models import PartSound, TargetPart
from oido.people.models import User
from oido.takes.models import Take, Visit

SOUND = "ogg"


class HeardEnough(NotAllowed):
    """It was heard as often as the exercise allows."""


def is_hidden(student: User, deal: Deal) -> bool:
    """Is the part still to be kept from the student's eyes?"""
    if not deal.rules.is_by_ear:
        return False
    if deal.is_trial:
        return True
    own = Take.objects.filter(assignment=deal.assignment, student=student, handed_in_at__isnull=False)
    return not own.exists()


def is_take_hidden(take: Take) -> bool:
    """May this take not be compared with its part yet?"""
    return take.exercise.recording_rules.is_by_ear and not take.is_handed_in


def hears_left(deal: Deal, heard: int) -> int | None:
    """Times that it may be heard yet; None for as often as wanted."""
    most = deal.rules.hears if deal.rules.is_by_ear else None
    return None if most is None else max(0, most - heard)


def hear(student: User, deal: Deal) -> int:
    """Count that the part is heard; how often it was by now. Raises HeardEnough. Of a trial nothing is counted."""
    if deal.is_trial:
        return 1
    now = timezone.now()
    row, _ = Visit.objects.get_or_create(
        assignment=deal.assignment, student=student, defaults={"opened_at": now, "last_at": now}
    )
    rows = Visit.objects.filter(pk=row.pk)
    most = deal.rules.hears if deal.rules.is_by_ear else None
    # Asked and counted in one go: two pages that listen at once are two.
    with transaction.atomic():
        open_rows = rows if most is None else rows.filter(heard__lt=most)
        if not open_rows.update(heard=F("heard") + 1, last_at=now):
            raise HeardEnough
        return rows.get().heard


def sound_of(part: TargetPart) -> bytes:
    """A part as sound; made when it is first asked for, then kept if the part is. Raises NoSound."""
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
