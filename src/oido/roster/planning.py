"""What an import would do with each line of a list, as things are now.

A line means the member of the school who has its id, else the one who has its sign-in name. A line that shares only a name
with a member, or means somebody whom an earlier line means already, is doubtful, and a person decides. A teacher's list adds
students and changes students of the teacher's own classes; everything else on it is for a head to decide.
"""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from ear.plain import from_plain
from oido.access.models import EmailChange
from oido.people.authority import Authority, Change, Relation
from oido.people.models import STAFF, Membership, Role, School, SchoolClass, User
from oido.people.queries import classes_seen
from oido.roster.lists import ListedPerson
from oido.roster.models import ListImport


class Status(StrEnum):
    NEW = "new"
    CHANGED = "changed"
    SAME = "same"
    DOUBTFUL = "doubtful"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedRow:
    """One line of a list, and what would be done with it."""

    number: int
    listed: ListedPerson
    status: Status
    role: str
    """Of the member whom the line means; where it means nobody yet, as listed."""
    person: User | None = None
    """Whom the line means, where that is certain."""
    candidates: tuple[User, ...] = ()
    """Whom it may mean, where it is doubtful."""
    changes: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    """The value before and after, by the name of the field."""
    joins: tuple[str, ...] = ()
    """Names of the classes that the person would join."""
    needs_head: bool = False
    """Whoever imports the list may not decide this line; a head may."""

    @property
    def role_label(self) -> str:
        return str(Role(self.role).label)

    @property
    def keeps_other_role(self) -> bool:
        """The list gives a member another role than they have. No list changes a role."""
        return self.person is not None and self.role != self.listed.role


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    rows: tuple[PlannedRow, ...]
    new_classes: tuple[str, ...]
    not_listed: tuple[User, ...]
    """Students of the classes named who are not on the list. They stay."""

    def rows_for_head(self) -> list[PlannedRow]:
        return [row for row in self.rows if row.needs_head]

    def with_status(self, status: Status) -> list[PlannedRow]:
        """Return the rows of one status, for which the importer has to decide."""
        return [row for row in self.rows if row.status is status and not row.needs_head]


def read_listed(stored: ListImport) -> tuple[ListedPerson, ...]:
    listed: tuple[ListedPerson, ...] = from_plain(
        stored.people, tuple[ListedPerson, ...], expected="a list of people"
    )
    return listed


def plan_import(by: User, stored: ListImport) -> Plan:
    """Return what `by` would do by importing a list now."""
    return Planner(by, stored).plan()


def _as_imported(listed: ListedPerson, stored: ListImport) -> ListedPerson:
    """All of a plain list goes into the class that was chosen; an archive names its own classes."""
    if stored.school_class is None or stored.names_own_classes:
        return listed
    return replace(listed, class_names=(stored.school_class.name,))


class Planner:
    """Members, classes and rights, read once for a whole list."""

    def __init__(self, by: User, stored: ListImport) -> None:
        self._by = by
        self._stored = stored
        members = list(
            Membership.everywhere.filter(school=stored.school, left_at=None, person__erased_as="")
            .select_related("person")
            .order_by("pk")
        )
        self._members = {member.person_id: member for member in members}
        self._by_id = {member.source_id: member for member in members if member.source_id}
        self._by_username = {member.person.username.lower(): member for member in members}
        self._by_name: dict[str, list[Membership]] = {}
        for member in members:
            self._by_name.setdefault(_folded(member.person.first_name, member.person.last_name), []).append(
                member
            )
        self._class_names = _class_names_by_person(stored.school)
        self._authority = Authority(by, list(self._members))
        self._pending = dict(
            EmailChange.objects.filter(person__in=list(self._members)).values_list("person", "address")
        )
        self._claimed: set[int] = set()
        """People whom a line means already."""
        self.known_classes: dict[str, SchoolClass] = {
            school_class.name.casefold(): school_class
            for school_class in classes_seen(by).filter(archived_at=None)
        }

    def plan(self) -> Plan:
        """Return the plan of all lines."""
        people = [_as_imported(listed, self._stored) for listed in read_listed(self._stored)]
        rows = self._rows(people)
        named = {name for listed in people for name in listed.class_names}
        new_classes = tuple(sorted(name for name in named if name.casefold() not in self.known_classes))
        folded = {name.casefold() for name in named}
        listed_classes = [self.known_classes[name] for name in folded & set(self.known_classes)]
        meant = {person.pk for row in rows for person in (row.person, *row.candidates) if person}
        missing = User.objects.filter(classes_attended__in=listed_classes).exclude(pk__in=meant).distinct()
        return Plan(
            rows=tuple(rows),
            new_classes=new_classes if self._by.is_head else (),
            not_listed=tuple(missing.order_by("last_name", "first_name")),
        )

    def decide(self, row: PlannedRow, person: User) -> PlannedRow:
        """Return a doubtful row as it is once somebody has decided that it means this person."""
        member = self._members[person.pk]
        return replace(row, person=person, role=member.role, changes=self._changes(row.listed, member))

    def _rows(self, people: list[ListedPerson]) -> list[PlannedRow]:
        """Lines that are certain go first, so that a line with nothing but a name claims nobody from them."""
        rows: dict[int, PlannedRow] = {}
        for number, listed in enumerate(people):
            member = self._certain_member(listed)
            if member is not None:
                rows[number] = self._known_row(number, listed, member)
        times = Counter(
            _folded(listed.first, listed.last) for number, listed in enumerate(people) if number not in rows
        )
        for number, listed in enumerate(people):
            if number not in rows:
                rows[number] = self._named_row(number, listed, times[_folded(listed.first, listed.last)])
        return [rows[number] for number in range(len(people))]

    def _certain_member(self, listed: ListedPerson) -> Membership | None:
        member = self._by_id.get(listed.source_id) if listed.source_id else None
        return member or (self._by_username.get(listed.username) if listed.username else None)

    def _named_row(self, number: int, listed: ListedPerson, times: int) -> PlannedRow:
        """A line without id or sign-in name: `times` lines of the list have its name."""
        name = _folded(listed.first, listed.last)
        same_name = [member for member in self._by_name.get(name, []) if not _has_other_id(member, listed)]
        if not same_name:
            return self._row(number, listed, Status.NEW, joins=listed.class_names)
        in_class = [
            member
            for member in same_name
            if set(listed.class_names) & self._class_names.get(member.person_id, set())
        ]
        # As many of the name are on the list as in the class: they are those, in turn.
        free = [member for member in in_class if member.person_id not in self._claimed]
        if free and not listed.source_id and times == len(in_class):
            return self._known_row(number, listed, free[0])
        return self._doubtful_row(number, listed, same_name)

    def _known_row(self, number: int, listed: ListedPerson, member: Membership) -> PlannedRow:
        if member.person_id in self._claimed or self._stored.for_head:
            return self._doubtful_row(number, listed, [member])
        self._claimed.add(member.person_id)
        changes = self._changes(listed, member)
        attended = {name.casefold() for name in self._class_names.get(member.person_id, set())}
        joins = tuple(name for name in listed.class_names if name.casefold() not in attended)
        status = Status.CHANGED if changes or joins else Status.SAME
        return self._row(number, listed, status, member=member, changes=changes, joins=joins)

    def _doubtful_row(self, number: int, listed: ListedPerson, members: list[Membership]) -> PlannedRow:
        candidates = tuple(member.person for member in members)
        return self._row(number, listed, Status.DOUBTFUL, candidates=candidates, joins=listed.class_names)

    def _row(
        self,
        number: int,
        listed: ListedPerson,
        status: Status,
        *,
        member: Membership | None = None,
        candidates: tuple[User, ...] = (),
        changes: Mapping[str, tuple[str, str]] | None = None,
        joins: tuple[str, ...],
    ) -> PlannedRow:
        person = member.person if member is not None else None
        meant = [person] if person is not None else list(candidates)
        needs_head = not self._by.is_head and not self._is_for_teacher(listed, meant)
        if needs_head or self._stored.for_head:
            status = Status.DOUBTFUL
        return PlannedRow(
            number=number,
            listed=listed,
            status=status,
            role=member.role if member is not None else listed.role,
            person=person,
            candidates=candidates,
            changes=changes or {},
            joins=joins,
            needs_head=needs_head,
        )

    def _is_for_teacher(self, listed: ListedPerson, meant: list[User]) -> bool:
        """May the teacher whose list it is decide the line? A student, into classes of the teacher's own."""
        return (
            listed.role not in STAFF
            and bool(listed.class_names)
            and all(name.casefold() in self.known_classes for name in listed.class_names)
            and all(self._authority.relation(person.pk) == Relation.CLASS_TEACHER for person in meant)
        )

    def _changes(self, listed: ListedPerson, member: Membership) -> dict[str, tuple[str, str]]:
        """What the line changes about a member, as far as whoever imports it may."""
        person = member.person
        wanted: dict[str, tuple[str, str]] = {}
        if self._authority.allows(Change.NAME, person.pk):
            wanted["first_name"] = (person.first_name, listed.first)
            wanted["last_name"] = (person.last_name, listed.last)
        # People change their own address with their password, not by a list.
        is_own = person.pk == self._by.pk
        if listed.email and not is_own and self._authority.allows(Change.EMAIL, person.pk):
            wanted["email"] = (self._pending.get(person.pk) or person.email, listed.email)
        if listed.source_id and self._by.is_head:
            wanted["source_id"] = (member.source_id, listed.source_id)
        return {name: (before, after) for name, (before, after) in wanted.items() if before != after}


def _folded(first: str, last: str) -> str:
    return " ".join(f"{first} {last}".casefold().split())


def _has_other_id(member: Membership, listed: ListedPerson) -> bool:
    """Two of one name are certainly two where each has an id."""
    return bool(member.source_id and listed.source_id and member.source_id != listed.source_id)


def _class_names_by_person(school: School) -> dict[int, set[str]]:
    names: dict[int, set[str]] = {}
    for rows in (SchoolClass.students.through, SchoolClass.teachers.through):
        pairs = rows.objects.filter(schoolclass__school=school).values_list("user_id", "schoolclass__name")
        for person, name in pairs:
            names.setdefault(person, set()).add(name)
    return names
