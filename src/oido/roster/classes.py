"""Classes: made, renamed, ordered, put away, brought forward."""

from dataclasses import dataclass

from django.db import transaction
from django.db.models import Count, Max, Q
from django.utils import timezone

from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen, teaches
from oido.roster.people import NameTaken
from oido.takes.models import Take


def _check_name(teacher: User, name: str, *, but: SchoolClass | None = None) -> None:
    same = SchoolClass.objects.filter(school=teacher.current_school, name__iexact=name)
    if but is not None:
        same = same.exclude(pk=but.pk)
    if same.exists():
        raise NameTaken


@transaction.atomic
def make_class(teacher: User, name: str) -> SchoolClass:
    """Make a class that its maker teaches. Raise NotAllowed or NameTaken."""
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


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenWork:
    """Takes of a class that wait for a teacher: to be marked, and accepted but not released."""

    to_mark: int
    to_release: int

    def __bool__(self) -> bool:
        return self.to_mark + self.to_release > 0


class StillOpen(NotAllowed):
    """A class is about to be archived while takes in it wait for a teacher."""

    def __init__(self, work: OpenWork) -> None:
        super().__init__()
        self.work = work


def open_work(school_class: SchoolClass) -> OpenWork:
    """Count the takes of a class that wait for a teacher."""
    takes = Take.objects.filter(
        assignment__school_class=school_class, handed_in_at__isnull=False, student__erased_as="",
        sheet__released_at=None, sheet__asked_again_at=None,
    )  # fmt: skip
    counts = takes.aggregate(
        all=Count("pk"), accepted=Count("pk", filter=Q(sheet__accepted_at__isnull=False))
    )
    return OpenWork(to_mark=counts["all"] - counts["accepted"], to_release=counts["accepted"])


def _check_open_work(school_class: SchoolClass, *, even_so: bool) -> None:
    work = open_work(school_class)
    if work and not even_so:
        raise StillOpen(work)


@transaction.atomic
def put_away(teacher: User, school_class: SchoolClass, *, is_away: bool, even_so: bool = False) -> None:
    """Archive a class or restore it. Raise StillOpen where takes wait for a teacher, unless it is archived `even_so`."""
    if not teaches(teacher, school_class):
        raise NotAllowed
    if is_away:
        _check_open_work(school_class, even_so=even_so)
    school_class.archived_at = timezone.now() if is_away else None
    school_class.save(update_fields=["archived_at"])
    remember("class_archived" if is_away else "class_restored", actor=teacher, school_class=school_class)


@transaction.atomic
def bring_forward(
    teacher: User, school_class: SchoolClass, name: str, *, even_so: bool = False
) -> SchoolClass:
    """Make another class of the same people, given nothing yet, and archive the one before. Raise NameTaken, and
    StillOpen as `put_away` does."""
    if not teaches(teacher, school_class):
        raise NotAllowed
    _check_name(teacher, name)
    _check_open_work(school_class, even_so=even_so)
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
    """Move a class one place up (-1) or down (1) among those shown."""
    if not teaches(teacher, school_class):
        raise NotAllowed
    shown = list(classes_seen(teacher).filter(archived_at=None).select_for_update())
    at = next((k for k, row in enumerate(shown) if row.pk == school_class.pk), None)
    if at is None or not 0 <= at + by < len(shown):
        return
    shown.insert(at + by, shown.pop(at))
    for position, row in enumerate(shown, 1):
        SchoolClass.objects.filter(pk=row.pk).update(position=position)
