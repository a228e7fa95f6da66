"""Keep a library in order: tags, copies, what is shared, retired, deleted and brought back."""

import logging
from collections.abc import Iterable
from dataclasses import replace
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.exercises.models import MAX_TAG_LENGTH, Exercise, Tag, TargetPart
from oido.exercises.services import create_exercise, like
from oido.people.models import User

BROUGHT_BACK_FOR = timedelta(days=30)
"""So long what was deleted can be brought back; then what nobody was given is gone."""
MAX_TAGS = 12
logger = logging.getLogger(__name__)


class StillAssigned(Exception):
    """It is given to somebody now: it is withdrawn first."""


class TooManyTags(Exception):
    """An exercise has so many tags as it may have."""


def may_manage(teacher: User, exercise: Exercise) -> bool:
    """Return whether the user may manage the exercise: its owner or a head."""
    if not teacher.is_teacher or exercise.school_id != teacher.school_id:
        return False
    return exercise.owner_id == teacher.pk or teacher.is_head


def _locked(teacher: User, exercises: Iterable[Exercise]) -> list[Exercise]:
    wanted = [exercise.pk for exercise in exercises]
    rows = list(Exercise.objects.select_for_update().filter(pk__in=wanted).order_by("pk"))
    if len(rows) != len(set(wanted)) or not all(may_manage(teacher, exercise) for exercise in rows):
        raise NotAllowed
    return rows


@transaction.atomic
def copy_exercise(teacher: User, source: Exercise, *, title: str) -> Exercise:
    """Return a copy of an exercise that belongs to the teacher."""
    part = source.part_in_force
    new = replace(
        like(source, title=title, part=part.read()),
        source_name=part.source_name,
        source_file=bytes(part.source_file) if part.source_file is not None else None,
        ladder=source.practice_ladder,
        free=part.spec,
    )
    made = create_exercise(teacher, new)
    made.tags.set(source.tags.all())
    return made


def named_tag(teacher: User, name: str) -> Tag:
    """Return the school's tag of that name, whatever its case, made if there is none."""
    plain = " ".join(name.split())[:MAX_TAG_LENGTH]
    tag, _ = Tag.objects.get_or_create(school=teacher.school, name__iexact=plain, defaults={"name": plain})
    return tag


@transaction.atomic
def add_tag(teacher: User, exercises: Iterable[Exercise], name: str) -> None:
    """Add a tag. Raise TooManyTags and change nothing if there are too many."""
    locked = _locked(teacher, exercises)
    tag = named_tag(teacher, name)
    for exercise in locked:
        exercise.tags.add(tag)
        if exercise.tags.count() > MAX_TAGS:
            raise TooManyTags


@transaction.atomic
def remove_tag(teacher: User, exercise: Exercise, tag: Tag) -> None:
    """Remove a tag from an exercise. A tag that is no longer used is deleted."""
    _locked(teacher, [exercise])
    exercise.tags.remove(tag)
    Tag.objects.filter(pk=tag.pk, exercises=None).delete()


@transaction.atomic
def share(teacher: User, exercises: Iterable[Exercise], *, is_shared: bool) -> None:
    for exercise in _locked(teacher, exercises):
        exercise.is_shared = is_shared
        exercise.save(update_fields=["is_shared"])


@transaction.atomic
def retire(teacher: User, exercises: Iterable[Exercise], *, is_retired: bool) -> None:
    """Stop an exercise from being given, or allow it again. Existing assignments go on."""
    for exercise in _locked(teacher, exercises):
        exercise.retired_at = (exercise.retired_at or timezone.now()) if is_retired else None
        exercise.save(update_fields=["retired_at"])


@transaction.atomic
def delete(teacher: User, exercises: Iterable[Exercise]) -> None:
    """Remove an exercise from every list; it can be restored for a month.

    Raise NotAllowed or StillGiven, and change nothing then.
    """
    now = timezone.now()
    for exercise in _locked(teacher, exercises):
        if exercise.assignments.filter(due_at__gt=now, withdrawn_at=None).exists():
            raise StillAssigned(exercise.title)
        if exercise.deleted_at is None:
            exercise.deleted_at = now
            exercise.save(update_fields=["deleted_at"])
            remember("exercise_deleted", actor=teacher, title=exercise.title)
            logger.info("exercise %s deleted by %s", exercise.pk, teacher.pk)


@transaction.atomic
def restore_exercises(teacher: User, exercises: Iterable[Exercise]) -> None:
    for exercise in _locked(teacher, exercises):
        if exercise.deleted_at is not None:
            exercise.deleted_at = None
            exercise.save(update_fields=["deleted_at"])
            remember("exercise_brought_back", actor=teacher, title=exercise.title)


@transaction.atomic
def sweep_deleted() -> int:
    """Delete for good what was deleted long ago, was never given and has no variation. Return how many."""
    long_ago = timezone.now() - BROUGHT_BACK_FOR
    gone = Exercise.everywhere.filter(
        deleted_at__lt=long_ago, assignments=None, parts__takes=None, in_booklets=None
    )
    keys = set(gone.values_list("pk", flat=True))
    keys -= set(
        TargetPart.objects.filter(exercise__in=keys, variations__isnull=False).values_list(
            "exercise", flat=True
        )
    )
    Exercise.everywhere.filter(pk__in=keys).update(part=None)
    Exercise.everywhere.filter(pk__in=keys).delete()
    return len(keys)
