"""Who may change what about a person: one table, which every service asks.

Two rules go with the table. Whoever belongs to another school as well changes their own names, e-mail address and password;
no school does it for them. And a teacher answers for the students of classes that are not archived.
"""

from collections.abc import Collection, Mapping
from enum import StrEnum

from oido.people.models import STAFF, Attendance, Membership, Role, SchoolClass, User


class Change(StrEnum):
    """What can be changed about a person."""

    NAME = "name"
    """First name, last name and sign-in name."""
    EMAIL = "email"
    PASSWORD = "password"  # noqa: S105 - a kind of change, not a secret
    """By the person: a new password. By others: a sign-in slip, with which the person chooses one."""
    SECOND_FACTOR = "second_factor"
    """Switching it off."""
    CLASS = "class"
    """Putting the person into a class that the actor teaches, or taking them off it."""
    ROLE = "role"
    MEMBERSHIP = "membership"
    """Leaving the school and coming back to it."""


class Relation(StrEnum):
    """What the actor is to the person, within the school in which the actor works."""

    OWNER = "owner"
    CLASS_TEACHER = "class_teacher"
    OTHER_TEACHER = "other_teacher"
    HEAD = "head"
    NONE = "none"
    """A student, or somebody from another school."""


_O, _C, _T, _H = Relation.OWNER, Relation.CLASS_TEACHER, Relation.OTHER_TEACHER, Relation.HEAD
OF_STUDENTS: Mapping[Change, frozenset[Relation]] = {
    Change.NAME: frozenset({_C, _H}),
    Change.EMAIL: frozenset({_O, _C, _H}),
    Change.PASSWORD: frozenset({_O, _C, _H}),
    Change.SECOND_FACTOR: frozenset({_O, _H}),
    Change.CLASS: frozenset({_C, _H}),
    Change.ROLE: frozenset({_H}),
    Change.MEMBERSHIP: frozenset({_H}),
}
OF_STAFF: Mapping[Change, frozenset[Relation]] = {
    Change.NAME: frozenset({_H}),
    Change.EMAIL: frozenset({_O, _H}),
    Change.PASSWORD: frozenset({_O, _H}),
    Change.SECOND_FACTOR: frozenset({_O, _H}),
    Change.CLASS: frozenset({_O, _T, _H}),
    Change.ROLE: frozenset({_H}),
    Change.MEMBERSHIP: frozenset({_H}),
}
"""A teacher never is a colleague's class teacher: teachers of the school share classes as OTHER_TEACHER."""
OWNERS_ALONE_IN_TWO_SCHOOLS = frozenset({Change.NAME, Change.EMAIL, Change.PASSWORD, Change.SECOND_FACTOR})


class Authority:
    """What one actor may change about each of a group of people. Reads all it needs in four queries."""

    def __init__(self, actor: User, people: Collection[int]) -> None:
        self._actor = actor
        here = Membership.everywhere.filter(school=actor.school_id, person__in=people)
        self._roles: dict[int, str] = dict(here.values_list("person", "role"))
        self._present = set(here.filter(left_at=None).values_list("person", flat=True))
        self._in_two_schools = set(
            Membership.everywhere.filter(person__in=people, left_at=None)
            .exclude(school=actor.school_id)
            .values_list("person", flat=True)
        )
        self._taught: set[int] = set()
        if actor.is_teacher and not actor.is_head:
            self._taught = set(
                Attendance.objects.filter(
                    schoolclass__school=actor.school_id,
                    schoolclass__archived_at=None,
                    schoolclass__teachers=actor,
                    user__in=people,
                ).values_list("user", flat=True)
            )

    def relation(self, person: int) -> Relation:
        """Return how the actor is related to the person with this key."""
        if person == self._actor.pk:
            return Relation.OWNER
        if person not in self._roles or not self._actor.is_teacher:
            return Relation.NONE
        if self._actor.is_head:
            return Relation.HEAD
        if person in self._taught and self._roles[person] not in STAFF:
            return Relation.CLASS_TEACHER
        return Relation.OTHER_TEACHER

    def allows(self, change: Change, person: int) -> bool:
        """Return whether the actor may make this change to the person with this key."""
        relations = {self.relation(person)}
        if relations == {Relation.OWNER} and self._actor.is_head:
            relations.add(Relation.HEAD)
        if person in self._in_two_schools and change in OWNERS_ALONE_IN_TWO_SCHOOLS:
            relations -= {Relation.HEAD, Relation.CLASS_TEACHER, Relation.OTHER_TEACHER}
        is_staff = self._roles.get(person, Role.STUDENT.value) in STAFF
        return bool(relations & (OF_STAFF if is_staff else OF_STUDENTS)[change])

    def may_issue_slip(self, person: int) -> bool:
        """Return whether the actor may give another present member of the school a way to choose a new
        password.
        """
        return person != self._actor.pk and person in self._present and self.allows(Change.PASSWORD, person)


def may_change(actor: User, person: User, change: Change) -> bool:
    """Return whether the actor may make this change to the person."""
    return Authority(actor, [person.pk]).allows(change, person.pk)


def may_issue_slip(actor: User, person: User) -> bool:
    """Return whether the actor may give the person a way to choose a new password."""
    return Authority(actor, [person.pk]).may_issue_slip(person.pk)


def may_add(actor: User, role: str, school_class: SchoolClass | None = None) -> bool:
    """Return whether the actor may add a new person in this role.

    A head may add anybody; a teacher may add students to their own class.
    """
    if actor.is_head:
        return school_class is None or school_class.school_id == actor.school_id
    return (
        actor.is_teacher
        and role == Role.STUDENT
        and school_class is not None
        and school_class.school_id == actor.school_id
        and school_class.teachers.filter(pk=actor.pk).exists()
    )
