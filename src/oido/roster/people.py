"""Who is in a school and in its classes: added, renamed, moved, gone and back."""

import logging
import unicodedata
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from oido.access.emails import EmailRequest, request_email_changes
from oido.access.sessions import end_sessions
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.authority import Change, may_add, may_change
from oido.people.forms import SchoolForm
from oido.people.models import (
    STAFF,
    Attendance,
    Membership,
    Role,
    School,
    SchoolClass,
    User,
    usual_note_names,
)
from oido.people.queries import teaches
from oido.people.quotas import require_room_for_people

MAX_USERNAME_LENGTH = 150
logger = logging.getLogger(__name__)


class NameTaken(Exception):
    """Another person signs in with this name."""


class LastHead(Exception):
    """A school has one head at least."""


@transaction.atomic
def change_school(head: User, form: SchoolForm) -> None:
    """Store what the head's school is called, its language and its clock. `form` is valid. Raise NotAllowed.

    With another language, notes are named as is usual in it.
    """
    if not head.is_head or form.instance.pk != head.school_id:
        raise NotAllowed
    if "language" in form.changed_data:
        form.instance.note_names = usual_note_names(form.instance.language)
    form.save()
    remember("school_changed", actor=head)


def sign_in_names(wanted: list[str], *, taken: set[str] | None = None) -> list[str]:
    """Return unused sign-in names for as many people, made from first and last name, with a number where one is
    taken.
    """
    stems = [_plain(name) or "member" for name in wanted]
    known = set(taken or ())
    looked_for = Q()
    for stem in set(stems):
        looked_for |= Q(username__startswith=stem)
    if stems:
        known |= set(User.objects.filter(looked_for).values_list("username", flat=True))
    names: list[str] = []
    lasts: dict[str, int] = {}
    for stem in stems:
        name, number = stem, lasts.get(stem, 1)
        while name.lower() in known:
            number += 1
            name = f"{stem}{number}"
        lasts[stem] = number
        known.add(name)
        names.append(name)
    return names


def _plain(name: str) -> str:
    """Small letters without accents, joined by dots: “Ruža Kele-Man” is ruza.keleman."""
    letters = unicodedata.normalize(
        "NFKD", name.replace("ß", "ss").replace("ø", "o").replace("ł", "l")
    ).lower()
    words = [
        "".join(sign for sign in word if sign.isascii() and (sign.isalnum() or sign in ".-_"))
        for word in letters.split()
    ]
    return ".".join(word.strip(".") for word in words if word.strip("."))[: MAX_USERNAME_LENGTH - 10]


@transaction.atomic
def add_person(
    by: User, *, role: str, first: str, last: str, username: str = "", email: str = "",
    school_class: SchoolClass | None = None,
) -> User:  # fmt: skip
    """Add somebody new.

    They cannot sign in until they have a slip or an email. Raise NotAllowed, NameTaken or NoRoom.
    """
    if not may_add(by, role, school_class):
        raise NotAllowed
    assert by.school is not None
    name = username.strip().lower() or sign_in_names([f"{first} {last}"])[0]
    if User.objects.filter(username__iexact=name).exists():
        raise NameTaken
    require_room_for_people(by.school)
    made = User.objects.create_user(username=name, first_name=first, last_name=last, email=email)
    Membership.everywhere.create(school=by.school, person=made, role=role)
    remember("person_added", actor=by, person=made, role=role)
    if school_class is not None:
        _put_in(by, made, school_class, role)
    return made


@transaction.atomic
def change_details(by: User, person: User, *, first: str, last: str, username: str, email: str) -> None:
    """Change a person's names, and ask for the new e-mail address to be confirmed if it differs.

    The owner's address is left alone here: it is changed on the account page, with the password.
    Raise NotAllowed, NameTaken.
    """
    if not may_change(by, person, Change.NAME):
        raise NotAllowed
    locked = User.objects.select_for_update().get(pk=person.pk)
    if User.objects.filter(username__iexact=username).exclude(pk=locked.pk).exists():
        raise NameTaken
    locked.first_name, locked.last_name, locked.username = first, last, username
    locked.save(update_fields=["first_name", "last_name", "username"])
    remember("person_renamed", actor=by, person=locked)
    if by.pk != person.pk:
        request_email_changes(by, [EmailRequest(locked, email)])


@transaction.atomic
def change_role(head: User, person: User, role: str) -> None:
    """Change a person's role. Raise NotAllowed or LastHead."""
    heads = _locked_heads(head.school_id)
    member = _locked_member(head, person)
    if not may_change(head, person, Change.ROLE) or member is None:
        raise NotAllowed
    before = member.role
    if before == role:
        return
    if before == Role.HEAD and heads <= {person.pk}:
        raise LastHead
    _set_role(member, role)
    remember("role_changed", actor=head, person=person, role=role, before=before)


@transaction.atomic
def follow_role(member: Membership, role: str) -> None:
    """Set the role that the school's sign-in service gives a person. The last head of a school stays its head."""
    heads = _locked_heads(member.school_id)
    locked = Membership.everywhere.select_for_update().get(pk=member.pk)
    before = locked.role
    if before == role:
        return
    if before == Role.HEAD and heads <= {locked.person_id}:
        logger.warning("person %s stays head: the school would have none", locked.person_id)
        return
    _set_role(locked, role)
    remember("role_followed", actor=locked.person, school=locked.school, role=role, before=before)


def _set_role(member: Membership, role: str) -> None:
    """Change the role, leave classes in which it makes no sense, and end sessions with the old rights."""
    person = member.person
    member.role = role
    member.save(update_fields=["role"])
    end_sessions(person)
    for school_class in SchoolClass.objects.filter(school=member.school_id):
        # Who teaches attends nothing here, and the other way round.
        if role in STAFF:
            Attendance.objects.filter(schoolclass=school_class, user=person).delete()
        else:
            school_class.teachers.remove(person)


@transaction.atomic
def leave_school(by: User, person: User) -> None:
    """Remove a person from every class and sign them out.

    Takes and marks stay with their classes. Raise NotAllowed or LastHead.
    """
    heads = _locked_heads(by.school_id)
    member = _locked_member(by, person)
    is_allowed = may_change(by, person, Change.MEMBERSHIP)
    if not is_allowed or member is None or member.left_at is not None:
        raise NotAllowed
    if member.role == Role.HEAD and heads <= {person.pk}:
        raise LastHead
    member.left_at = timezone.now()
    member.save(update_fields=["left_at"])
    for school_class in SchoolClass.objects.filter(
        Q(students=person) | Q(teachers=person), school=by.school_id
    ).distinct():
        Attendance.objects.filter(schoolclass=school_class, user=person).delete()
        school_class.teachers.remove(person)
    if not Membership.everywhere.filter(person=person, left_at=None).exists():
        end_sessions(person)
    remember("person_left", actor=by, person=person)


@transaction.atomic
def return_to_school(by: User, person: User) -> None:
    """Let a person who left back in. Raise NotAllowed or NoRoom."""
    member = _locked_member(by, person)
    is_allowed = may_change(by, person, Change.MEMBERSHIP)
    if not is_allowed or member is None or member.left_at is None:
        raise NotAllowed
    require_room_for_people(member.school)
    member.left_at = None
    member.save(update_fields=["left_at"])
    remember("person_returned", actor=by, person=person)


def _locked_member(by: User, person: User) -> Membership | None:
    return Membership.everywhere.select_for_update().filter(school=by.school_id, person=person).first()


def _locked_heads(school: int | None) -> set[int]:
    """Keys of the heads of a school, held before anything else and in one order: so two who leave at once do not
    both find the other still there, nor wait for each other."""
    heads = Membership.everywhere.select_for_update().filter(school=school, role=Role.HEAD, left_at=None)
    return set(heads.order_by("pk").values_list("person_id", flat=True))


def members(school: School) -> QuerySet[Membership]:
    """Return all present members of a school, by name."""
    return (
        Membership.everywhere.filter(school=school, left_at=None, person__erased_as="")
        .select_related("person")
        .order_by("person__last_name", "person__first_name", "pk")
    )


@transaction.atomic
def join_class(by: User, person: User, school_class: SchoolClass) -> None:
    """Put a member of the school into a class: students attend it, staff teach it. Raise NotAllowed."""
    member = Membership.everywhere.filter(school=school_class.school_id, person=person, left_at=None).first()
    if member is None or not teaches(by, school_class) or not may_change(by, person, Change.CLASS):
        raise NotAllowed
    _put_in(by, person, school_class, member.role)


def _put_in(by: User, person: User, school_class: SchoolClass, role: str) -> None:
    is_staff = role in STAFF
    rows: Any = school_class.teachers if is_staff else school_class.students
    if rows.filter(pk=person.pk).exists():
        return
    rows.add(person)
    code = "teacher_joined_class" if is_staff else "student_joined_class"
    remember(code, actor=by, person=person, school_class=school_class)


@transaction.atomic
def leave_class(by: User, person: User, school_class: SchoolClass) -> None:
    """Remove a person from a class; takes stay with it. A class keeps one teacher, unless a head removes the last one.

    Raise NotAllowed.
    """
    if not teaches(by, school_class) or not may_change(by, person, Change.CLASS):
        raise NotAllowed
    locked = SchoolClass.objects.select_for_update().get(pk=school_class.pk)
    if locked.teachers.filter(pk=person.pk).exists():
        if not by.is_head and locked.teachers.count() == 1:
            raise NotAllowed
        locked.teachers.remove(person)
        remember("teacher_left_class", actor=by, person=person, school_class=school_class)
    elif locked.students.filter(pk=person.pk).exists():
        locked.students.remove(person)
        remember("student_left_class", actor=by, person=person, school_class=school_class)


@transaction.atomic
def move_student(by: User, student: User, *, out_of: SchoolClass, into: SchoolClass) -> None:
    """Move a student from one class into another in one step."""
    if not (teaches(by, out_of) and teaches(by, into)) or into.archived_at is not None:
        raise NotAllowed
    # Joined first: a teacher who leaves the only shared class may no longer move the student.
    join_class(by, student, into)
    leave_class(by, student, out_of)
