"""What the benches of reports and marking are run on: a class, and takes of parts of any length."""

import uuid
from datetime import timedelta
from decimal import Decimal
from random import Random

from django.utils import timezone

from ear.formats.events import events_from_take
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.players.robot import Habits, play
from oido.assignments.models import Assignment
from oido.common.sources import Source
from oido.exercises.services import NewExercise, create_exercise
from oido.marking.hand_in import hand_in
from oido.people.models import Role, School, SchoolClass
from oido.people.services import new_member
from oido.takes.models import Take
from oido.takes.services import NewTake, receive_take

SEED = 6
HABITS = Habits(lead_ms=-12, spread_ms=18, wrong_keys=0.03, misses=0.02, doubles=0.01, velocity_spread=8)


def sixteen_a_bar(notes: int) -> Part:
    """Return a part of quavers in two hands: 1,000 notes take 63 bars."""
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
    """A class with so many students and teachers."""

    def __init__(self, *, students: int, teachers: int = 1, password: str | None = None) -> None:
        school = School.objects.create(name="Bench")
        self.teachers = [
            new_member(school, Role.TEACHER, username=f"bench-teacher-{k}", password=password)
            for k in range(teachers)
        ]
        self.teacher = self.teachers[0]
        self.head = new_member(school, Role.HEAD, username="bench-head")
        self.students = [
            new_member(school, Role.STUDENT, username=f"bench-{k}", password=password)
            for k in range(students)
        ]
        self.school_class = SchoolClass.objects.create(school=school, name="Bench")
        self.school_class.teachers.add(*self.teachers)
        self.school_class.students.add(*self.students)

    def assignment(self, size: int) -> Assignment:
        new = NewExercise(
            title=f"{size} notes", kind="keyboard", instructions="", tempo_bpm=Decimal(100), count_in_bars=1,
            level="building", part=sixteen_a_bar(size),
        )  # fmt: skip
        now = timezone.now()
        return Assignment.objects.create(
            school=self.school_class.school, exercise=create_exercise(self.teacher, new), school_class=self.school_class, given_by=self.teacher,
            given_at=now, due_at=now + timedelta(days=1),
        )  # fmt: skip

    def takes(self, assignment: Assignment) -> list[Take]:
        """Return one handed-in take of each student."""
        part = assignment.exercise.part_in_force.read()
        made = []
        for seed, student in enumerate(self.students):
            new = NewTake(
                id=uuid.uuid4(), part_id=assignment.exercise.part_in_force.pk, source=Source.MIDI, device="", latency_ms=0.0,
                events=[(round(t, 2), s, a, b) for t, s, a, b in events_from_take(play(part, HABITS, seed=seed))],
                recorded_at=timezone.now(),
            )  # fmt: skip
            take = receive_take(student, assignment, new)
            hand_in(student, take)
            made.append(take)
        return made
