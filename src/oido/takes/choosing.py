"""What a student does with takes: name, star, throw away, bring back."""

import logging

from django.db import transaction
from django.utils import timezone

from oido.common.permissions import NotAllowed
from oido.people.models import User
from oido.takes.models import Take

logger = logging.getLogger(__name__)


@transaction.atomic
def name_take(student: User, take: Take, name: str) -> Take:
    locked = _own(student, take)
    locked.name = name
    locked.save(update_fields=["name"])
    return locked


@transaction.atomic
def star_take(student: User, take: Take, *, is_starred: bool) -> Take:
    locked = _own(student, take)
    locked.is_starred = is_starred
    locked.save(update_fields=["is_starred"])
    return locked


@transaction.atomic
def delete_take(student: User, take: Take) -> Take:
    """Remove a take from the tray. The recording itself stays. A take that was handed in cannot be removed."""
    locked = _own(student, take)
    if locked.is_handed_in:
        raise NotAllowed
    if locked.deleted_at is None:
        locked.deleted_at = timezone.now()
        locked.save(update_fields=["deleted_at"])
        logger.info("take %s deleted", locked.pk)
    return locked


@transaction.atomic
def restore_take(student: User, take: Take) -> Take:
    locked = _own(student, take)
    locked.deleted_at = None
    locked.save(update_fields=["deleted_at"])
    return locked


def _own(student: User, take: Take) -> Take:
    if student.is_teacher or take.student_id != student.pk:
        raise NotAllowed
    return Take.objects.select_for_update().get(pk=take.pk)
