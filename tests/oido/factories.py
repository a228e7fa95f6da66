"""Small makers of stored things, each with the least that it needs."""

import uuid
from collections.abc import Callable
from contextvars import copy_context
from datetime import timedelta
from decimal import Decimal
from itertools import count
from threading import Thread
from unittest import mock

from django.http import HttpResponse
from django.test import Client
from django.utils import timezone

from ear.formats.events import RawEvent, events_from_take
from ear.free.exercise import FreeSpec
from ear.notes import Kind, MeterMap, Part, TempoMap
from ear.players.robot import Habits, play
from ear.practice.rules import RecordingRules
from oido.assignments.models import Assignment
from oido.common.sources import Source
from oido.exercises.models import Exercise, TargetPart
from oido.exercises.services import NewExercise, create_exercise
from oido.jobs import services as jobs
from oido.jobs.models import Job
from oido.marking import remarking
from oido.marking.hand_in import hand_in
from oido.marking.models import Remarking
from oido.people.models import Membership, Role, School, SchoolClass, User
from oido.takes.models import Take
from oido.takes.services import NewPass, NewTake, receive_take
from tests.ear.parts import melody

PASSWORD = "quiet-anchor-12"
_numbers = count(1)


def school() -> School:
    return School.objects.get_or_create(name="Test school")[0]


def person(role: Role, *, at: School | None = None, first: str = "") -> User:
    n = next(_numbers)
    made = User.objects.create_user(
        username=f"{role}{n}", password=PASSWORD, first_name=first or f"Name{n}", last_name="Tester"
    )
    Membership.objects.create(school=at or school(), person=made, role=role)
    return made


def teacher(**more) -> User:
    return person(Role.TEACHER, **more)


def head(**more) -> User:
    return person(Role.HEAD, **more)


def student(**more) -> User:
    return person(Role.STUDENT, **more)


def school_class(*, teachers: list[User], students: list[User]) -> SchoolClass:
    made = SchoolClass.objects.create(school=teachers[0].school, name=f"Class {next(_numbers)}")
    made.teachers.add(*teachers)
    # From the beginning, whenever something was due.
    made.students.add(*students, through_defaults={"joined_at": None})
    return made


def exercise(owner: User, part: Part | None = None, *, count_in_bars: int = 1) -> Exercise:
    """An exercise that colleagues see, too."""
    part = part or melody()
    made = create_exercise(
        owner,
        NewExercise(
            title=f"Exercise {next(_numbers)}",
            kind=part.kind.value,
            instructions="Play it.",
            tempo_bpm=Decimal(str(part.tempos.first_bpm)),
            count_in_bars=count_in_bars,
            level="building",
            part=part,
        ),
    )
    made.is_shared = True
    made.save(update_fields=["is_shared"])
    return made


def free_exercise(owner: User, spec: FreeSpec | None = None) -> Exercise:
    spec = spec or FreeSpec(bars=4)
    page = spec.page(kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90.0))
    return create_exercise(
        owner,
        NewExercise(
            title=f"Exercise {next(_numbers)}", kind="keyboard", instructions="", tempo_bpm=Decimal(90),
            count_in_bars=1, level="building", part=page, free=spec,
        ),
    )  # fmt: skip


def assignment(of: Exercise, to: SchoolClass) -> Assignment:
    now = timezone.now()
    return Assignment.objects.create(
        school=to.school,
        exercise=of,
        school_class=to,
        given_by=of.owner,
        given_at=now,
        due_at=now + timedelta(days=3),
    )


def new_take(
    given: Assignment,
    *,
    habits: Habits | None = None,
    events: list[RawEvent] | None = None,
    part: TargetPart | None = None,
    **more,
) -> NewTake:
    part = part or given.exercise.part_in_force
    if events is None:
        # By the take's own number, so that a test plays the same whatever ran before it.
        nth = 1 + Take.objects.filter(assignment=given).count()
        played = play(part.read(), habits or Habits(spread_ms=8), seed=nth)
        events = events_from_take(played)
    return NewTake(
        id=uuid.uuid4(),
        part_id=part.pk,
        events=events,
        source=Source.MIDI,
        device="Test keys",
        latency_ms=0.0,
        recorded_at=timezone.now(),
        **more,
    )


def new_pass(events: list[RawEvent] | None = None, **more) -> NewPass:
    facts = {
        "way": "over", "from_ms": 0.0, "until_ms": 60_000.0, "pitches": [], "source": Source.MIDI, "device": "",
        "latency_ms": 0.0, "recorded_at": timezone.now(), "id": uuid.uuid4(),
    }  # fmt: skip
    return NewPass(events=events or [(0.0, 0x90, 60, 80), (90.0, 0x80, 60, 0)], **{**facts, **more})


def allow(given: Assignment, **rules) -> None:
    """Give an assignment's exercise these recording rules."""
    given.exercise.rules = RecordingRules(**rules).to_json()
    given.exercise.save(update_fields=["rules"])


def take(by: User, given: Assignment, **more) -> Take:
    return receive_take(by, given, new_take(given, **more))


def handed_in(by: User, given: Assignment, **more) -> Take:
    """A take that is handed in, as it is stored then."""
    made = take(by, given, **more)
    hand_in(by, made)
    return Take.objects.get(pk=made.pk)


def thread(*, target: Callable[..., object], args: tuple = ()) -> Thread:
    """A thread that looks at the same schools as the test: by itself a thread is in none."""
    return Thread(target=copy_context().run, args=(target, *args))


def work_all() -> None:
    """Do all that waits in the background, as a worker would; without signs of life, which would wait for the test's own
    transaction."""
    with mock.patch.object(jobs, "BEAT_S", 3600.0):
        _work_all()


def _work_all() -> None:
    for key in Job.objects.filter(state=Job.State.WAITING).order_by("made_at").values_list("pk", flat=True):
        jobs.do(str(key))


def made(client: Client, url: str) -> HttpResponse:
    """What is made in the background at an address: asked for, done, fetched."""
    asked = client.get(url)
    assert asked.status_code == 302, asked.status_code
    work_all()
    return client.get(f"{asked.url}file/")


def mark_next() -> bool:
    """The next few takes of the oldest trial of a rubric."""
    open_states = (Remarking.State.TRYING, Remarking.State.KEEPING)
    job = Remarking.objects.filter(state__in=open_states).order_by("pk").first()
    return job is not None and remarking.step(job.pk)
