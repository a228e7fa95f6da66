"""What the main pages read in a large school: `./oido bench scale [--takes 1200000]`."""

import time
from argparse import ArgumentParser
from collections.abc import Mapping, Sequence
from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection
from django.db.models import Model
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from benches.scene import Scene, sixteen_a_bar
from oido.assignments.models import Assignment
from oido.audit.models import Act
from oido.audit.services import remember
from oido.exercises.services import NewExercise, create_exercise
from oido.marking.models import MarkSheet
from oido.people.models import Attendance, Membership, Role, SchoolClass, User
from oido.people.scope import Scope, within
from oido.takes.models import HandIn, Judgement, Measurement, Take

CLASSES, STUDENTS_OF_CLASS, ASSIGNMENTS_OF_CLASS = 80, 25, 50
TAKES = 200_000
CLASSES_OF_TEACHER = 2
DAYS_APART, STILL_OPEN = 6, 5
NOTES = 8
MAX_ROWS, MAX_QUERIES = 10_000, 15
MAX_MS = 200.0
ROW = "{name:28} {rows:>9,} rows {queries:>4} queries {cpu_ms:>6.0f} ms of CPU{over}"


class Command(BaseCommand):
    help = "Builds a school of 2,000 students and many takes, and prints what the main pages read."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--takes", type=int, default=TAKES)

    def handle(self, *args: Any, takes: int, **options: Any) -> None:
        with within(Scope.EVERYWHERE):
            scene = Scene(students=1)
            began = time.monotonic()
            _fill(scene, round(takes / (CLASSES * STUDENTS_OF_CLASS * ASSIGNMENTS_OF_CLASS)))
            take_count = Take.objects.count()
            self.stdout.write(
                f"{User.objects.count():,} people, {Assignment.objects.count():,} assignments, {take_count:,} takes "
                f"in {time.monotonic() - began:.0f} s"
            )
            self.stdout.write(
                f"disk: {_bytes_stored() / take_count:,.0f} bytes for each take of {NOTES} notes"
            )
            pages = _pages(scene)
        over = sum(self._is_over(name, user, address) for name, user, address in pages)
        self.stdout.write(
            f"{over} of {len(pages)} over {MAX_ROWS:,} rows, {MAX_QUERIES} queries or {MAX_MS:.0f} ms"
        )

    def _is_over(self, name: str, user: User, address: str) -> bool:
        with within(Scope.EVERYWHERE):
            client = Client(headers={"host": "127.0.0.1"})
            client.force_login(user)
        # The first time templates are read and caches filled.
        client.get(address)
        before, cpu_before = _rows_read(), time.process_time()
        with CaptureQueriesContext(connection) as asked:
            answer = client.get(address)
        cpu_ms = 1000 * (time.process_time() - cpu_before)
        rows, queries = _rows_read() - before, len(asked)
        is_over = rows > MAX_ROWS or queries > MAX_QUERIES or cpu_ms > MAX_MS
        if answer.status_code != 200:
            raise RuntimeError(f"{address} answers {answer.status_code}")
        self.stdout.write(
            ROW.format(name=name, rows=rows, queries=queries, cpu_ms=cpu_ms, over="  over" if is_over else "")
        )
        return is_over


def _rows_read() -> int:
    """Rows that this connection has read so far, without those of temporary tables."""
    with connection.cursor() as cursor:
        cursor.execute("SHOW SESSION STATUS LIKE 'Rows_read'")
        return int(cursor.fetchone()[1])


def _bytes_stored() -> int:
    """Bytes of all tables and indexes, as the database estimates them."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT SUM(data_length + index_length) FROM information_schema.tables WHERE table_schema = DATABASE()"
        )
        return int(cursor.fetchone()[0])


def _fill(scene: Scene, takes_of_student: int) -> None:
    """People, classes and assignments through the ORM; takes and what belongs to them are copies of real rows."""
    assignment = scene.assignment(NOTES)
    [take] = scene.takes(assignment)
    remember("exercise_given", actor=scene.teacher, school_class=scene.school_class, title="Bench")
    classes = _classes(scene)
    _assignments(scene, classes)
    for school_class in classes:
        # In parts: one statement for everything would keep all of it in one transaction.
        _copy_takes(take, school_class, takes_of_student)
    _run(
        "UPDATE takes_take c JOIN takes_measurement m ON m.take_id = c.id "
        "JOIN takes_judgement j ON j.measurement_id = m.id SET c.judgement_id = j.id WHERE c.judgement_id IS NULL"
    )
    for model in (Take, Measurement, Judgement, MarkSheet, HandIn, Act, Assignment, Attendance):
        _run(f"ANALYZE TABLE {model._meta.db_table}")


def _people(scene: Scene, role: Role, count: int) -> list[User]:
    made = User.objects.bulk_create(
        User(username=f"{role.value}-{k}", first_name=f"Given {k}", last_name=f"Family {k}")
        for k in range(count)
    )
    Membership.everywhere.bulk_create(
        Membership(school_id=scene.school_class.school_id, person=person, role=role) for person in made
    )
    return made


def _classes(scene: Scene) -> list[SchoolClass]:
    school = scene.school_class.school_id
    students = _people(scene, Role.STUDENT, CLASSES * STUDENTS_OF_CLASS)
    teachers = [scene.teacher, *_people(scene, Role.TEACHER, CLASSES // CLASSES_OF_TEACHER - 1)]
    classes = SchoolClass.objects.bulk_create(
        SchoolClass(school_id=school, name=f"Class {index}", position=index) for index in range(CLASSES)
    )
    for index, school_class in enumerate(classes):
        school_class.teachers.add(teachers[index // CLASSES_OF_TEACHER])
    Attendance.objects.bulk_create(
        Attendance(schoolclass=classes[index // STUDENTS_OF_CLASS], user=student)
        for index, student in enumerate(students)
    )
    Attendance.objects.filter(schoolclass__in=classes).update(joined_at=None)
    return classes


def _assignments(scene: Scene, classes: Sequence[SchoolClass]) -> None:
    """Each class has the same exercises, one due every six days; the last few are still open."""
    now = timezone.now()
    exercises = [
        create_exercise(
            scene.teacher,
            NewExercise(
                title=f"Study {k}", kind="keyboard", instructions="", tempo_bpm=Decimal(100), count_in_bars=1,
                level="building", part=sixteen_a_bar(NOTES),
            ),
        )
        for k in range(ASSIGNMENTS_OF_CLASS)
    ]  # fmt: skip
    Assignment.objects.bulk_create(
        Assignment(
            school_id=school_class.school_id, exercise=exercise, school_class=school_class, given_by=scene.teacher, given_at=now,
            due_at=now + timedelta(days=DAYS_APART * (k + 1 + STILL_OPEN - ASSIGNMENTS_OF_CLASS)),
        )
        for school_class in classes
        for k, exercise in enumerate(exercises)
    )  # fmt: skip


def _copy_takes(take: Take, school_class: SchoolClass, count: int) -> None:
    """So many takes of each student and assignment of a class, the last one handed in; what was due is released."""
    handed_in = "LEAST(a.due_at, NOW(6)) - INTERVAL 1 DAY"
    assignments = f"JOIN assignments_assignment a ON a.school_class_id = {school_class.pk}"
    numbers = " UNION ALL ".join(f"SELECT {k + 1} AS n" for k in range(count))
    _copy(
        Take,
        f"{assignments} JOIN exercises_targetpart p ON p.exercise_id = a.exercise_id "
        f"JOIN {Attendance._meta.db_table} s ON s.schoolclass_id = a.school_class_id JOIN ({numbers}) k",
        f"t.id = '{take.pk}'",
        id="UUID()", assignment_id="a.id", student_id="s.user_id", part_id="p.id", number="k.n", judgement_id="NULL",
        recorded_at=handed_in, received_at=handed_in,
        handed_in_at=f"IF(k.n = {count}, {handed_in}, NULL)",
    )  # fmt: skip
    copies = f"{assignments} JOIN takes_take c ON c.assignment_id = a.id AND c.handed_in_at IS NOT NULL"
    _copy(Measurement, copies, f"t.take_id = '{take.pk}'", id="NULL", take_id="c.id")
    measured = f"{copies} JOIN takes_measurement m ON m.take_id = c.id"
    _copy(Judgement, measured, f"t.id = {take.judgement_id}", id="NULL", measurement_id="m.id")
    released = "IF(a.due_at < NOW(6), a.due_at, NULL)"
    _copy(
        MarkSheet, copies, f"t.take_id = '{take.pk}'", id="NULL", take_id="c.id", accepted_at=released, released_at=released,
        released_by_id="IF(a.due_at < NOW(6), a.given_by_id, NULL)",
    )  # fmt: skip
    _copy(
        HandIn, copies, f"t.assignment_id = {take.assignment_id}", id="NULL", assignment_id="c.assignment_id",
        student_id="c.student_id",
        receipt="UUID()",
    )  # fmt: skip
    _copy(Act, copies, "t.id = (SELECT MIN(id) FROM audit_act)", id="NULL", at="c.handed_in_at")


def _copy(model: type[Model], joined: str, where: str, **changed: str) -> None:
    """Insert copies of a row `t`, one for each row of what is joined, with other values in some columns."""
    columns = [str(field.column) for field in model._meta.concrete_fields]
    _check(model, columns, changed)
    values = [changed.get(column, f"t.`{column}`") for column in columns]
    table = model._meta.db_table
    into = f"INSERT INTO {table} ({', '.join(f'`{column}`' for column in columns)})"
    selected = f"SELECT {', '.join(values)} FROM {table} t {joined} WHERE {where}"  # noqa: S608 - nothing from outside
    _run(f"{into} {selected}")


def _check(model: type[Model], columns: Sequence[str], changed: Mapping[str, str]) -> None:
    unknown = set(changed) - set(columns)
    if unknown:
        raise RuntimeError(f"{model.__name__} has no {', '.join(sorted(unknown))}")


def _run(command: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(command)
        if cursor.description is not None:
            cursor.fetchall()


def _pages(scene: Scene) -> list[tuple[str, User, str]]:
    head = User.objects.get(username="bench-head")
    school_class = SchoolClass.objects.get(name="Class 0")
    student = school_class.students.order_by("pk")[0]
    assignment = Assignment.objects.filter(school_class=school_class).order_by("-due_at")[STILL_OPEN - 1]
    of_class = [school_class.pk]
    return [
        ("Today of a teacher", scene.teacher, reverse("home")),
        ("Today of a student", student, reverse("home")),
        ("a class", scene.teacher, reverse("class", args=of_class)),
        ("its marks", scene.teacher, reverse("gradebook", args=of_class)),
        ("its progress", scene.teacher, reverse("class-progress", args=of_class)),
        ("marking", scene.teacher, reverse("marking")),
        ("an assignment", scene.teacher, reverse("assignment", args=[assignment.pk])),
        ("exercises", scene.teacher, reverse("exercises")),
        ("classes of a head", head, reverse("classes")),
        ("the trail", head, reverse("trail")),
    ]
