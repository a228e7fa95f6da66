"""How long reports take to be written, and how long they are: `./oido bench report`."""

import time
import uuid
from collections.abc import Callable
from datetime import timedelta
from decimal import Decimal
from random import Random
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection, transaction
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from ear.formats.events import events_from_take
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.players.robot import Habits, play
from oido.assignments.models import Assignment
from oido.exercises.services import NewExercise, create_exercise
from oido.marking.handing import hand_in
from oido.people.models import Role, School, SchoolClass, User
from oido.takes.models import Source, Take
from oido.takes.services import NewTake, receive_take

SIZES = (100, 1000, 4000)
REPEATS = 9
SEED = 6
NOTES_A_BAR = 16
HABITS = Habits(lead_ms=-12, spread_ms=18, wrong_keys=0.03, misses=0.02, doubles=0.01, velocity_spread=8)


def sixteen_a_bar(notes: int) -> Part:
    """Eighths in two hands: 1,000 notes are 63 bars."""
    chance = Random(SEED)
    return Part.of(
        (
            Note(
                onset_tick=240 * (k // 2), length_tick=200, velocity=60 + 4 * (k % 11), hand=Hand.RIGHT if k % 2 else Hand.LEFT,
                pitch=chance.randrange(60, 80) if k % 2 else chance.randrange(40, 58),
            )
            for k in range(notes)
        ),
        kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(100),
    )  # fmt: skip


class Scene:
    """A class with one teacher, and takes of parts of any length."""

    def __init__(self) -> None:
        school = School.objects.create(name="Bench")
        self.teacher = User.objects.create_user(username="bench-teacher", school=school, role=Role.TEACHER)
        self.students = [
            User.objects.create_user(username=f"bench-{k}", school=school, role=Role.STUDENT)
            for k in range(2)
        ]
        self.school_class = SchoolClass.objects.create(school=school, name="Bench")
        self.school_class.teachers.add(self.teacher)
        self.school_class.students.add(*self.students)

    def assignment(self, size: int) -> Assignment:
        new = NewExercise(
            title="long", kind="keyboard", instructions="", tempo_bpm=Decimal(100), count_in_bars=1, level="building",
            part=sixteen_a_bar(size),
        )  # fmt: skip
        now = timezone.now()
        return Assignment.objects.create(
            exercise=create_exercise(self.teacher, new), school_class=self.school_class, given_by=self.teacher,
            given_at=now, due_at=now + timedelta(days=1),
        )  # fmt: skip

    def take(self, given: Assignment, student: User, *, seed: int) -> Take:
        played = play(given.exercise.part.read(), HABITS, seed=seed)
        new = NewTake(
            id=uuid.uuid4(), part_id=given.exercise.part_id, events=events_from_take(played), source=Source.MIDI,
            device="", latency_ms=0.0, recorded_at=timezone.now(),
        )  # fmt: skip
        take = receive_take(student, given, new)
        hand_in(student, take)
        return take


class Command(BaseCommand):
    help = "Times a take's report and the desk, and weighs the report, for 100, 1,000 and 4,000 notes."

    def handle(self, *args: Any, **options: Any) -> None:
        with transaction.atomic():
            scene = Scene()
            client = Client(HTTP_HOST="127.0.0.1")
            client.force_login(scene.teacher)
            self.stdout.write(f"best of {REPEATS}{'':31}" + "".join(f"{n:>9,}" for n in SIZES))
            rows: dict[str, list[float]] = {}
            for size in SIZES:
                given = scene.assignment(size)
                take, _other = [scene.take(given, s, seed=k) for k, s in enumerate(scene.students)]
                for name, figure in self.figures(client, take).items():
                    rows.setdefault(name, []).append(figure)
            for name, row in rows.items():
                self.stdout.write(f"{name:40}" + "".join(f"{figure:9,.0f}" for figure in row))
            transaction.set_rollback(True)

    def figures(self, client: Client, take: Take) -> dict[str, float]:
        def report() -> Any:
            return client.get(f"/takes/{take.pk}/")

        seconds = _best(report)
        with CaptureQueriesContext(
            connection,
        ) as queries:
            page = report()
        return {
            "report, ms on the server": seconds * 1000,
            "report, KB": len(page.content) / 1000,
            "report, queries": len(queries),
        }


def _best(act: Callable[[], Any]) -> float:
    found = []
    for _ in range(REPEATS):
        start = time.perf_counter()
        response = act()
        found.append(time.perf_counter() - start)
        assert response.status_code in (200, 302), response.status_code
    return min(found)
