"""A list of people: looked at first, then taken in at one go, and undone.

Who is meant by a line: whoever has its id, else whoever has its sign-in name in this school. Somebody of the same name alone
is doubtful, and a person says which it is. Whoever is not on the list stays as they are.
"""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import timedelta
from enum import StrEnum
from typing import Any

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from ear.plain import from_plain, to_plain
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.models import STAFF, Membership, Role, School, SchoolClass, User
from oido.people.queries import classes_seen, teaches
from oido.roster.lists import ListedPerson, PeopleList
from oido.roster.models import ListImport
from oido.roster.people import sign_in_names
from oido.takes.models import Take

BATCH = 500
AT_ONCE = 200
"""People that are imported while somebody waits; longer lists are a job."""
KEPT = timedelta(days=30)
State = ListImport.State


class Status(StrEnum):
    NEW = "new"
    CHANGED = "changed"
    SAME = "same"
    DOUBTFUL = "doubtful"


LEAVE_OUT, AS_NEW = "leave", "new"
"""What is said of a doubtful line, besides the key of whoever it is."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """One line of a list, and what would be done."""

    number: int
    listed: ListedPerson
    status: Status
    person: User | None = None
    """Who it is, where that is sure."""
    candidates: tuple[User, ...] = ()
    """Who it may be, where it is doubtful."""
    changes: Mapping[str, tuple[str, str]] | None = None
    """Of each field that changes, what it was and what it becomes."""
    joins: tuple[str, ...] = ()
    """Names of classes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    rows: tuple[Planned, ...]
    new_classes: tuple[str, ...]
    not_listed: tuple[User, ...]
    """Students of the class, or of the classes named, who do not stand on the list. They stay."""

    def count(self, status: Status) -> int:
        return sum(row.status is status for row in self.rows)

    def of(self, status: Status) -> list[Planned]:
        return [row for row in self.rows if row.status is status]


def store_list(
    by: User, found: PeopleList, *, file_name: str, school_class: SchoolClass | None
) -> ListImport:
    """Keep what was read until it is said what to do. Raises NotAllowed."""
    if not _may_import(by, school_class):
        raise NotAllowed
    assert by.school is not None
    return ListImport.objects.create(
        school=by.school,
        made_by=by,
        file_name=file_name[:200],
        school_class=school_class,
        people=to_plain(found.people),
    )


def _may_import(by: User, school_class: SchoolClass | None) -> bool:
    """A head, anybody; a teacher, students of one of the own classes."""
    if school_class is None:
        return by.is_head
    return teaches(by, school_class) and school_class.archived_at is None


def listed_of(stored: ListImport) -> tuple[ListedPerson, ...]:
    found: tuple[ListedPerson, ...] = from_plain(
        stored.people, tuple[ListedPerson, ...], expected="a list of people"
    )
    return found


def plan_of(by: User, stored: ListImport) -> Plan:
    """What would be done, as things stand now."""
    school = stored.school
    people = [_for(by, one, stored.school_class) for one in listed_of(stored)]
    members = list(
        Membership.everywhere.filter(school=school, left_at=None).select_related("person").order_by("pk")
    )
    by_id = {one.source_id: one for one in members if one.source_id}
    by_username = {one.person.username.lower(): one for one in members}
    by_name: dict[str, list[Membership]] = {}
    for one in members:
        by_name.setdefault(_folded(one.person.first_name, one.person.last_name), []).append(one)
    attended = _attended(school)
    known_classes = {one.name.casefold(): one for one in classes_seen(by).filter(archived_at=None)}
    rows: list[Planned] = []
    meant: set[int] = set()
    taken: set[int] = set()
    times = Counter(_folded(one.first, one.last) for one in people)
    for number, listed in enumerate(people):
        member = by_id.get(listed.source_id) if listed.source_id else None
        member = member or (by_username.get(listed.username) if listed.username else None)
        if member is not None:
            meant.add(member.person_id)
            rows.append(_known(number, listed, member, attended))
            continue
        same = [
            one for one in by_name.get(_folded(listed.first, listed.last), []) if not _differs(one, listed)
        ]
        if same:
            meant.update(one.person_id for one in same)
            in_class = [one for one in same if set(listed.class_names) & attended.get(one.person_id, set())]
            # As many of the name stand on the list as are in the class: they are those, one after the other.
            if (
                in_class
                and not listed.source_id
                and times[_folded(listed.first, listed.last)] == len(in_class)
            ):
                member = next(one for one in in_class if one.person_id not in taken)
                taken.add(member.person_id)
                rows.append(_known(number, listed, member, attended))
                continue
            candidates = tuple(one.person for one in same)
            rows.append(
                Planned(
                    number=number,
                    listed=listed,
                    status=Status.DOUBTFUL,
                    candidates=candidates,
                    joins=listed.class_names,
                )
            )
        else:
            rows.append(Planned(number=number, listed=listed, status=Status.NEW, joins=listed.class_names))
    named = {name for one in people for name in one.class_names}
    new_classes = tuple(sorted(name for name in named if name.casefold() not in known_classes))
    listed_classes = [known_classes[name.casefold()] for name in named if name.casefold() in known_classes]
    missing = User.objects.filter(classes_attended__in=listed_classes).exclude(pk__in=meant).distinct()
    return Plan(
        rows=tuple(rows),
        new_classes=new_classes,
        not_listed=tuple(missing.order_by("last_name", "first_name")),
    )


def _for(by: User, one: ListedPerson, school_class: SchoolClass | None) -> ListedPerson:
    """As it counts for whoever imports it: into one class, or as the list says."""
    if school_class is None:
        return one
    return replace(one, class_names=(school_class.name,), role=one.role if by.is_head else Role.STUDENT.value)


def _folded(first: str, last: str) -> str:
    return " ".join(f"{first} {last}".casefold().split())


def _differs(member: Membership, listed: ListedPerson) -> bool:
    """Two of one name who are surely two: each has an id of its own."""
    return bool(member.source_id and listed.source_id and member.source_id != listed.source_id)


def _attended(school: School) -> dict[int, set[str]]:
    found: dict[int, set[str]] = {}
    for rows in (SchoolClass.students.through, SchoolClass.teachers.through):
        pairs = rows.objects.filter(schoolclass__school=school).values_list("user_id", "schoolclass__name")
        for person, name in pairs:
            found.setdefault(person, set()).add(name)
    return found


def _known(
    number: int, listed: ListedPerson, member: Membership, attended: Mapping[int, set[str]]
) -> Planned:
    person = member.person
    wanted = {"first_name": listed.first, "last_name": listed.last}
    if listed.email:
        wanted["email"] = listed.email
    changes = {
        name: (getattr(person, name), value)
        for name, value in wanted.items()
        if getattr(person, name) != value
    }
    if listed.source_id and member.source_id != listed.source_id:
        changes["source_id"] = (member.source_id, listed.source_id)
    folded = {name.casefold() for name in attended.get(person.pk, set())}
    joins = tuple(name for name in listed.class_names if name.casefold() not in folded)
    status = Status.CHANGED if changes or joins else Status.SAME
    return Planned(number=number, listed=listed, status=status, person=person, changes=changes, joins=joins)


@transaction.atomic
def do_import(by: User, stored: ListImport, decided: Mapping[int, str]) -> ListImport:
    """Take it in. `decided` says of doubtful lines, by number, whether they are somebody's (a key), new, or left out.

    Raises NotAllowed. Done a second time it does nothing.
    """
    locked = ListImport.objects.select_for_update().get(pk=stored.pk)
    if not _may_import(by, locked.school_class) or locked.made_by_id != by.pk:
        raise NotAllowed
    if locked.state != State.LOOKED:
        return locked
    plan = plan_of(by, locked)
    new, known = [], []
    for row in plan.rows:
        if row.status is Status.NEW:
            new.append(row)
        elif row.status is Status.CHANGED:
            known.append((row, row.person))
        elif row.status is Status.DOUBTFUL:
            said = decided.get(row.number, LEAVE_OUT)
            if said == AS_NEW:
                new.append(row)
            else:
                chosen = next((one for one in row.candidates if str(one.pk) == said), None)
                if chosen is not None:
                    known.append((row, chosen))
    classes = _classes(by, locked.school, plan.new_classes)
    made = _make(locked.school, new)
    before = {
        str(person.pk): _change(locked.school, row, person) for row, person in known if person is not None
    }
    joined = _join(
        classes, [*zip(new, made, strict=True), *((row, person) for row, person in known if person)]
    )
    locked.state, locked.done = State.DONE, {
        "made": [one.pk for one in made], "before": before, "joined": joined,
        "classes": [classes[name.casefold()].pk for name in plan.new_classes],
    }  # fmt: skip
    locked.save(update_fields=["state", "done"])
    remember("list_imported", actor=by, new=len(made), changed=len(known))
    return locked


def _classes(by: User, school: School, new: tuple[str, ...]) -> dict[str, SchoolClass]:
    found = {one.name.casefold(): one for one in classes_seen(by).filter(archived_at=None)}
    if new and not by.is_head:
        raise NotAllowed
    last = max((one.position for one in found.values()), default=0)
    for number, name in enumerate(new, 1):
        found[name.casefold()] = SchoolClass.objects.create(
            school=school, name=name[:80], position=last + number
        )
    return found


def _make(school: School, rows: list[Planned]) -> list[User]:
    wanted = [row.listed.username or f"{row.listed.first} {row.listed.last}" for row in rows]
    names = sign_in_names(wanted)
    unusable = make_password(None)
    people = User.objects.bulk_create(
        [
            User(
                username=name, first_name=row.listed.first, last_name=row.listed.last, email=row.listed.email,
                password=unusable,
            )
            for name, row in zip(names, rows, strict=True)
        ],
        batch_size=BATCH,
    )  # fmt: skip
    # MariaDB gives keys with the rows; Django reads them where it can. Where not, names are unique.
    keys = dict(User.objects.filter(username__in=names).values_list("username", "pk"))
    for person in people:
        person.pk = keys[person.username]
    Membership.everywhere.bulk_create(
        [
            Membership(school=school, person=person, role=row.listed.role, source_id=row.listed.source_id)
            for person, row in zip(people, rows, strict=True)
        ],
        batch_size=BATCH,
    )
    return people


def _change(school: School, row: Planned, person: User) -> dict[str, str]:
    """Make somebody as the list says; what was before, to undo it."""
    wanted = {"first_name": row.listed.first, "last_name": row.listed.last}
    if row.listed.email:
        wanted["email"] = row.listed.email
    before = {name: getattr(person, name) for name in wanted}
    if Membership.everywhere.filter(person=person).exclude(school=school).exists():
        # Of another school, too: the name is not this school's to change.
        before, wanted = {}, {}
    if wanted:
        User.objects.filter(pk=person.pk).update(**wanted)
    if row.listed.source_id:
        member = Membership.everywhere.filter(school=school, person=person)
        before["source_id"] = member.values_list("source_id", flat=True)[0]
        member.update(source_id=row.listed.source_id)
    return before


def _join(classes: Mapping[str, SchoolClass], pairs: list[tuple[Planned, User]]) -> list[list[Any]]:
    """Put people into classes; what was new of it."""
    wanted: dict[str, set[tuple[int, int]]] = {"students": set(), "teachers": set()}
    for row, person in pairs:
        for name in row.joins:
            rows = "teachers" if row.listed.role in STAFF else "students"
            wanted[rows].add((classes[name.casefold()].pk, person.pk))
    joined: list[list[Any]] = []
    for rows, keys in wanted.items():
        through = getattr(SchoolClass, rows).through
        there = set(
            through.objects.filter(schoolclass__in={key for key, _ in keys}).values_list(
                "schoolclass_id", "user_id"
            )
        )
        new = sorted(keys - there)
        through.objects.bulk_create(
            [through(schoolclass_id=school_class, user_id=person) for school_class, person in new],
            batch_size=BATCH,
        )
        joined += [[rows, school_class, person] for school_class, person in new]
    return joined


@dataclass(frozen=True, slots=True, kw_only=True)
class Undone:
    removed: int
    kept: tuple[str, ...]
    """Names of those who have signed in or recorded since: they stay."""


@transaction.atomic
def undo_import(by: User, stored: ListImport) -> Undone:
    """As it was before, but for whoever has signed in or recorded something since. Raises NotAllowed."""
    locked = ListImport.objects.select_for_update().get(pk=stored.pk)
    if (
        locked.state != State.DONE
        or not (by.is_head or locked.made_by_id == by.pk)
        or locked.school_id != by.school_id
    ):
        raise NotAllowed
    done = locked.done
    busy = Q(last_login__isnull=False) | Q(
        pk__in=Take.objects.filter(student__in=done["made"]).values("student")
    )
    kept = list(User.objects.filter(busy, pk__in=done["made"]))
    gone = [pk for pk in done["made"] if pk not in {one.pk for one in kept}]
    staying = {one.pk for one in kept}
    came: dict[tuple[str, int], list[int]] = {}
    for rows, school_class, person in done["joined"]:
        if person not in staying:
            came.setdefault((rows, school_class), []).append(person)
    for (rows, school_class), persons in came.items():
        through = getattr(SchoolClass, rows).through
        through.objects.filter(schoolclass_id=school_class, user_id__in=persons).delete()
    User.objects.filter(pk__in=gone).delete()
    for pk, before in done["before"].items():
        source = before.pop("source_id", None)
        if before:
            User.objects.filter(pk=pk).update(**before)
        if source is not None:
            Membership.everywhere.filter(school=locked.school, person_id=pk).update(source_id=source)
    SchoolClass.objects.filter(
        pk__in=done["classes"], students=None, teachers=None, assignments=None
    ).delete()
    locked.state, locked.people, locked.done = State.UNDONE, [], {}
    locked.save(update_fields=["state", "people", "done"])
    remember("import_undone", actor=by, new=len(gone))
    return Undone(removed=len(gone), kept=tuple(one.name for one in kept))


def forget_lists() -> int:
    """Lists hold names: after a month nothing is undone any more, and they are emptied."""
    old = timezone.now() - KEPT
    return ListImport.objects.filter(made_at__lt=old).exclude(people=[], done={}).update(people=[], done={})
