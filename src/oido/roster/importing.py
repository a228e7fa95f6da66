"""A list of people: previewed first, then imported in one go; an import can be undone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from ear.formats.characters import without_control_characters
from ear.plain import to_plain
from oido.access.emails import EmailRequest, request_email_changes
from oido.access.models import EmailChange
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.authority import Authority, Change
from oido.people.models import STAFF, Membership, School, SchoolClass, User
from oido.people.queries import classes_seen, teaches
from oido.people.quotas import require_room_for_people
from oido.roster.lists import PeopleList
from oido.roster.models import ListImport
from oido.roster.people import sign_in_names
from oido.roster.planning import PlannedRow, Planner, Status
from oido.takes.models import Take

BATCH = 500
IMPORTED_AT_ONCE = 200
"""People that are imported while somebody waits; longer lists are a job."""
UNDO_WITHIN = timedelta(days=30)
LEAVE_OUT, AS_NEW = "leave", "new"
"""What can be decided about a doubtful line, besides the key of the person whom it means."""
State = ListImport.State


def store_list(
    by: User, people_list: PeopleList, *, file_name: str, school_class: SchoolClass | None
) -> ListImport:
    """Store what was read, until somebody decides what to do with it. Raise NotAllowed."""
    if not by.is_head and school_class is None:
        raise NotAllowed
    if school_class is not None and not _is_open_to(by, school_class):
        raise NotAllowed
    assert by.school is not None
    return ListImport.objects.create(
        school=by.school,
        made_by=by,
        file_name=without_control_characters(file_name)[:200],
        school_class=school_class,
        names_own_classes=people_list.is_archive,
        people=to_plain(people_list.people),
        left_out=to_plain(people_list.left_out),
    )


def lists_in_reach(user: User) -> QuerySet[ListImport]:
    """Return the lists that a user may open: a head, all of the school; a teacher, their own that were not
    passed to a head.
    """
    lists = ListImport.objects.filter(school=user.school_id)
    return lists if user.is_head else lists.filter(made_by=user, for_head=False)


def _is_open_to(by: User, school_class: SchoolClass) -> bool:
    return teaches(by, school_class) and school_class.archived_at is None


def _may_import(by: User, stored: ListImport) -> bool:
    """A head imports any list of the school; a teacher, a list of their own into a class of their own."""
    if stored.school_id != by.school_id or not by.is_teacher:
        return False
    if by.is_head:
        return stored.school_class is None or stored.school_class.archived_at is None
    is_own = stored.made_by_id == by.pk and not stored.for_head
    return is_own and stored.school_class is not None and _is_open_to(by, stored.school_class)


@transaction.atomic
def import_list(by: User, stored: ListImport, decided: Mapping[int, str]) -> ListImport:
    """Import a list. Lines that only a head may decide go into a list of their own, which waits for one.

    `decided` says of doubtful lines, by number, whom they mean: the key of a person, AS_NEW or LEAVE_OUT.
    Raise NotAllowed or NoRoom. Done a second time it does nothing.
    """
    locked = ListImport.objects.select_for_update().get(pk=stored.pk)
    if not _may_import(by, locked):
        raise NotAllowed
    if locked.state != State.LOOKED:
        return locked
    planner = Planner(by, locked)
    plan = planner.plan()
    new = plan.with_status(Status.NEW)
    known = plan.with_status(Status.CHANGED)
    for row in plan.with_status(Status.DOUBTFUL):
        decision = decided.get(row.number, LEAVE_OUT)
        if decision == AS_NEW:
            new.append(row)
        known += [planner.decide(row, person) for person in row.candidates if str(person.pk) == decision]
    require_room_for_people(locked.school, len(new))
    classes = _make_classes(by, locked.school, plan.new_classes)
    made = _make_people(locked.school, new)
    emails = _request_emails(by, known)
    before = _apply_changes(locked.school, known)
    people = [*zip(new, made, strict=True), *((row, row.person) for row in known if row.person)]
    joined = _join_classes(classes, people)
    locked.state, locked.done = State.DONE, {
        "made": [person.pk for person in made], "before": before, "joined": joined, "emails": emails,
        "classes": [classes[name.casefold()].pk for name in plan.new_classes],
    }  # fmt: skip
    locked.save(update_fields=["state", "done"])
    _pass_to_head(locked, plan.rows_for_head())
    remember("list_imported", actor=by, new=len(made), changed=len(known))
    return locked


def _pass_to_head(stored: ListImport, rows: Sequence[PlannedRow]) -> None:
    if not rows:
        return
    ListImport.objects.create(
        school=stored.school,
        made_by=stored.made_by,
        file_name=stored.file_name,
        school_class=stored.school_class,
        names_own_classes=stored.names_own_classes,
        for_head=True,
        split_from=stored,
        people=[stored.people[row.number] for row in rows],
    )


def _make_classes(by: User, school: School, new: Sequence[str]) -> dict[str, SchoolClass]:
    """All classes that can be joined, by folded name, with the new ones."""
    classes = {
        school_class.name.casefold(): school_class
        for school_class in classes_seen(by).filter(archived_at=None)
    }
    last = max((school_class.position for school_class in classes.values()), default=0)
    for number, name in enumerate(new, 1):
        classes[name.casefold()] = SchoolClass.objects.create(
            school=school, name=name[:80], position=last + number
        )
    return classes


def _make_people(school: School, rows: Sequence[PlannedRow]) -> list[User]:
    """Add new people, who cannot sign in yet."""
    wanted = [row.listed.username or f"{row.listed.first} {row.listed.last}" for row in rows]
    names = sign_in_names(wanted)
    unusable = make_password(None)
    made = User.objects.bulk_create(
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
    for person in made:
        person.pk = keys[person.username]
    Membership.everywhere.bulk_create(
        [
            Membership(school=school, person=person, role=row.listed.role, source_id=row.listed.source_id)
            for person, row in zip(made, rows, strict=True)
        ],
        batch_size=BATCH,
    )
    return made


def _request_emails(by: User, rows: Sequence[PlannedRow]) -> list[int]:
    """Ask for new addresses to be confirmed; return the keys of those who have to."""
    wanted = {
        row.person.pk: EmailRequest(row.person, row.changes["email"][1])
        for row in rows
        if row.person is not None and "email" in row.changes
    }
    return [request.person.pk for request in request_email_changes(by, list(wanted.values()))]


def _apply_changes(school: School, rows: Sequence[PlannedRow]) -> dict[str, dict[str, str]]:
    """Give members the names and ids of the list; return what was before, by person, to undo it."""
    before: dict[str, dict[str, str]] = {}
    for row in rows:
        changes = {name: change for name, change in row.changes.items() if name != "email"}
        if row.person is None:
            continue
        names = {name: after for name, (_, after) in changes.items() if name != "source_id"}
        if names:
            User.objects.filter(pk=row.person.pk).update(**names)
        if "source_id" in changes:
            members = Membership.everywhere.filter(school=school, person=row.person)
            members.update(source_id=changes["source_id"][1])
        # Where two lines mean one person, what was before the first of them counts.
        earlier = before.get(str(row.person.pk), {})
        before[str(row.person.pk)] = {name: value for name, (value, _) in changes.items()} | earlier
    return before


def _join_classes(
    classes: Mapping[str, SchoolClass], people: Sequence[tuple[PlannedRow, User]]
) -> list[list[Any]]:
    """Put people into classes, as what they are in the school; return what was new of it."""
    wanted: dict[str, set[tuple[int, int]]] = {"students": set(), "teachers": set()}
    for row, person in people:
        for name in row.joins:
            rows = "teachers" if row.role in STAFF else "students"
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
    """Names of people who stay as they are: they have signed in or recorded since, or are no longer in reach."""


@transaction.atomic
def undo_import(by: User, stored: ListImport) -> Undone:
    """Restore what was before, except for people who have signed in or recorded something since.

    A head undoes anybody's import; a teacher, their own, as far as the students still are in the teacher's classes.
    Raise NotAllowed.
    """
    locked = ListImport.objects.select_for_update().get(pk=stored.pk)
    is_in_reach = by.is_head or (by.is_teacher and locked.made_by_id == by.pk and not locked.for_head)
    if locked.state != State.DONE or not is_in_reach or locked.school_id != by.school_id:
        raise NotAllowed
    done = locked.done
    busy = Q(last_login__isnull=False) | Q(
        pk__in=Take.objects.filter(student__in=done["made"]).values("student")
    )
    kept = list(User.objects.filter(busy, pk__in=done["made"]))
    staying = {person.pk for person in kept}
    gone = [pk for pk in done["made"] if pk not in staying]
    changed = [int(pk) for pk in done["before"]]
    authority = Authority(by, changed)
    in_reach = {pk for pk in changed if by.is_head or authority.allows(Change.NAME, pk)}
    kept += list(User.objects.filter(pk__in=set(changed) - in_reach))
    staying |= set(changed) - in_reach
    joined: dict[tuple[str, int], list[int]] = {}
    for rows, school_class, person in done["joined"]:
        if person not in staying:
            joined.setdefault((rows, school_class), []).append(person)
    for (rows, school_class), persons in joined.items():
        through = getattr(SchoolClass, rows).through
        through.objects.filter(schoolclass_id=school_class, user_id__in=persons).delete()
    User.objects.filter(pk__in=gone).delete()
    EmailChange.objects.filter(person__in=in_reach & set(done.get("emails", ()))).delete()
    for pk in in_reach:
        before = done["before"][str(pk)]
        source = before.pop("source_id", None)
        if before:
            User.objects.filter(pk=pk).update(**before)
        if source is not None:
            Membership.everywhere.filter(school=locked.school, person_id=pk).update(source_id=source)
    SchoolClass.objects.filter(
        pk__in=done["classes"], students=None, teachers=None, assignments=None
    ).delete()
    ListImport.objects.filter(split_from=locked, state=State.LOOKED).delete()
    locked.state, locked.people, locked.left_out, locked.done = State.UNDONE, [], [], {}
    locked.save(update_fields=["state", "people", "left_out", "done"])
    remember("import_undone", actor=by, new=len(gone))
    return Undone(removed=len(gone), kept=tuple(person.name for person in kept))


def forget_lists() -> int:
    """Empty the lists that are too old to undo, because they hold names. Return how many."""
    old = ListImport.objects.filter(made_at__lt=timezone.now() - UNDO_WITHIN)
    return old.exclude(people=[], done={}).update(people=[], left_out=[], done={})
