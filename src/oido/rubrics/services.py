"""Make, change, copy and share rubrics."""

import logging

from django.db import transaction

from ear.judging.rubric import Rubric as EarRubric
from oido.common.permissions import NotAllowed
from oido.people.models import User
from oido.rubrics.models import Rubric, RubricVersion

logger = logging.getLogger(__name__)


@transaction.atomic
def make_rubric(teacher: User, *, name: str, kind: str, says: EarRubric) -> Rubric:
    if not teacher.is_teacher or teacher.school is None:
        raise NotAllowed
    rubric = Rubric.objects.create(school=teacher.school, owner=teacher, name=name, kind=kind)
    _add_version(rubric, says)
    logger.info("rubric %s made by %s", rubric.pk, teacher.pk)
    return rubric


@transaction.atomic
def change_rubric(teacher: User, rubric: Rubric, *, name: str, says: EarRubric) -> Rubric:
    """Store the rubric as its next version. What an older version marked stays as it is."""
    locked = Rubric.objects.select_for_update().get(pk=rubric.pk)
    _check_owner(teacher, locked)
    locked.name = name
    locked.save(update_fields=["name"])
    if locked.current is None or locked.current.data != says.to_json():
        _add_version(locked, says)
    return locked


@transaction.atomic
def copy_rubric(teacher: User, rubric: Rubric, *, name: str) -> Rubric:
    """Return the user's own copy of a rubric."""
    if rubric.school_id != teacher.school_id or not (rubric.is_shared or rubric.owner_id == teacher.pk):
        raise NotAllowed
    assert rubric.current is not None
    return make_rubric(teacher, name=name, kind=rubric.kind, says=rubric.current.read())


@transaction.atomic
def share_rubric(teacher: User, rubric: Rubric, *, is_shared: bool) -> None:
    _check_owner(teacher, rubric)
    Rubric.objects.filter(pk=rubric.pk).update(is_shared=is_shared)


def _check_owner(teacher: User, rubric: Rubric) -> None:
    if not teacher.is_teacher or rubric.owner_id != teacher.pk:
        raise NotAllowed


def _add_version(rubric: Rubric, says: EarRubric) -> None:
    last = rubric.versions.order_by("-number").first()
    rubric.current = RubricVersion.objects.create(
        rubric=rubric, number=last.number + 1 if last else 1, data=says.to_json()
    )
    rubric.save(update_fields=["current"])
