"""Classes: made, renamed, ordered, put away, brought forward."""

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen, teaches
from oido.roster.people import NameTaken


def _check_name(teacher: User, name: str, *, but: SchoolClass | None = None) -> None:
    same = SchoolClass.objects.filter(school=teacher.school_id, name__iexact=name)
    if same.exclude(pk=but.pk if but else None).exists():
        raise NameTaken


@transaction.atomic
def make_class(teacher: User, name: str) -> SchoolClass:
    """Its maker teaches it. Raises NotAllowed, NameTaken."""
    if not teacher.is_teacher or teacher.school is None:
        raise NotAllowed
    _check_name(teacher, name)
    last = SchoolClass.objects.filter(school=teacher.school).aggregate(last=Max("position"))["last"] or 0
    made = SchoolClass.objects.create(school=teacher.school, name=name, position=last + 1)
    made.teachers.add(teacher)
    remember("class_made", actor=teacher, school_class=made)
    return made


@transaction.atomic
def rename_class(teacher: User, school_class: SchoolClass, name: str) -> None:
    if not teaches(teacher, school_class):
        raise NotAllowed
    _check_name(teacher, name, but=school_class)
    before, school_class.name = school_class.name, name
    school_class.save(update_fields=["name"])
    if before != name:
        remember("class_renamed", actor=teacher, school_class=school_class, before=before)


@transaction.atomic
def put_away(teacher: User, school_class: SchoolClass, *, is_away: bool) -> None:
    """Into the archive: to be read, given nothing; or back from it."""
    if not teaches(teacher, school_class):
        raise NotAllowed
    school_class.archived_at = timezone.now() if is_away else None
    school_class.save(update_fields=["archived_at"])
    remember("class_archived" if is_away else "class_restored", actor=teacher, school_class=school_class)


@transaction.atomic
def bring_forward(teacher: User, school_class: SchoolClass, name: str) -> SchoolClass:
    """Another class of the same people, given nothing yet; the one before goes into the archive."""
    if not teaches(teacher, school_class):
        raise NotAllowed
    _check_name(teacher, name)
    made = SchoolClass.objects.create(
        school_id=school_class.school_id, name=name, position=school_class.position
    )
    made.teachers.set(school_class.teachers.all())
    made.students.set(school_class.students.all())
    school_class.archived_at = school_class.archived_at or timezone.now()
    school_class.save(update_fields=["archived_at"])
    remember("class_brought_forward", actor=teacher, school_class=made, before=school_class.name)
    return made


@transaction.atomic
def move_in_order(teacher: User, school_class: SchoolClass, *, by: int) -> None:
    """One place up (-1) or down (1) among the classes that are shown."""
    if not teaches(teacher, school_class):
        raise NotAllowed
    shown = list(classes_seen(teacher).filter(archived_at=None).select_for_update())
    at = next((k for k, one in enumerate(shown) if one.pk == school_class.pk), None)
    if at is None or not 0 <= at + by < len(shown):
        return
    shown.insert(at + by, shown.pop(at))
    for position, one in enumerate(shown, 1):
        SchoolClass.objects.filter(pk=one.pk).update(position=position)
