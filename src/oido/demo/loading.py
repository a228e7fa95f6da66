"""Make the demo school: people, classes, exercises, and weeks of takes."""

import uuid
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal
from functools import cache
from random import Random

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.utils import timezone

from ear.editing.bars import repeat_bars
from ear.editing.drawing import change_velocity
from ear.editing.edited import ALL, Edited, rebuilt
from ear.editing.quantise import QuantiseGrid, plan, quantise
from ear.editing.variations import RHYTHMS
from ear.formats.events import events_from_take
from ear.free.exercise import FreeSpec
from ear.free.improvising import improvised
from ear.judging.judgement import TeacherScore
from ear.notes import Part
from ear.players.robot import Habits, play
from ear.practice.proposals import propose_ladder
from ear.recording.shown import Place
from oido.assignments.models import Assignment
from oido.assignments.services import Terms, give_booklet, give_exercise
from oido.booklets.services import SetOf, make_set, variations
from oido.common.readers import PAGES
from oido.common.sources import Source
from oido.demo import people
from oido.demo.accounts import PASSWORD
from oido.demo.music import DRUM_PIECES, KEYBOARD_PIECES, DemoPiece
from oido.demo.tasks import A_WEEK, MENDED, TASKS, TEN_RHYTHMS, DemoTask
from oido.exercises.lifecycle import share
from oido.exercises.models import Exercise
from oido.exercises.services import NewExercise, create_exercise
from oido.feedback.remarks import reply, save_phrase, write_remark
from oido.jobs.kinds import Progress
from oido.marking.hand_in import hand_in, hand_in_answers
from oido.marking.services import give_score, release
from oido.marking.sheets import conclude_mark
from oido.people.models import Membership, Role, School, SchoolClass, User
from oido.rubrics.models import Rubric
from oido.rubrics.services import make_rubric, share_rubric
from oido.takes.copies import change_copy, open_copy
from oido.takes.judging import judged
from oido.takes.models import HandIn, Take
from oido.takes.services import NewTake, receive_take
from oido.takes.showing import faults_in_copy

SEED = 1107
NAMESPACE = uuid.UUID("6f1d0c3e-0d7a-4a5e-9f25-5a0b5c1f7e11")
EVENING = timedelta(hours=18, minutes=20)
GIVEN_DAYS_AGO = (30, 17, 6, 1)
DUE_IN_DAYS = (-20, -5, 3, 9)
"""For the class's four exercises, in order."""
ALL_RELEASED, HALF_RELEASED, COMING_IN, JUST_GIVEN = range(4)
BY_OWN_RUBRIC = (COMING_IN, JUST_GIVEN)
"""Exercises that are marked by the teacher's own rubric; the others by Oido's."""
HANDED_IN_EARLY = 6
"""Students who have handed in what is still to come."""
ROUGH = 2.4
"""How much rougher the school plays than the habits say: it is an evening school."""
ROUGH_LEAD = 1.5
BETTER_EACH_TAKE = 0.86
"""What a further take leaves of a habit."""
TAKES_AN_EVENING = 2
TASKS_GIVEN_DAYS_AGO, TASKS_DUE_IN_DAYS = 4, 5
TO_MEND = 0.15
"""Wrong keys where there is to be something to put right."""
EIGHTHS = QuantiseGrid(step=240)
DEMO_STUDENTS = ("maren", "joss")
TAKES_OF_DEMO_STUDENTS = (7, 6, 4)
"""For each stage: enough that progress can be told."""


def _untold(_done: int, _total: int) -> None:
    """Progress that nobody asks for."""


@transaction.atomic
def load_demo(progress: Progress = _untold) -> None:
    """Everything of the demo school, the same for the same day."""
    school = School.objects.create(name=people.SCHOOL, time_zone=people.TIME_ZONE)
    with school.within():
        _fill(school, progress)


def _fill(school: School, progress: Progress) -> None:
    done, total = 0, len(KEYBOARD_PIECES) + len(DRUM_PIECES) + len(TASKS)
    _person(school, people.OLWEN, Role.HEAD)
    for teacher, class_name, pupils, pieces in (
        (people.INES, people.KEYS_CLASS, people.KEYS_PUPILS, KEYBOARD_PIECES),
        (people.BRAM, people.KIT_CLASS, people.KIT_PUPILS, DRUM_PIECES),
    ):
        owner = _person(school, teacher, Role.TEACHER)
        school_class = SchoolClass.objects.create(school=school, name=class_name)
        school_class.teachers.add(owner)
        students = [(_person(school, pupil, Role.STUDENT), pupil) for pupil in pupils]
        school_class.students.add(*(student for student, _ in students), through_defaults={"joined_at": None})
        rubric = make_rubric(owner, name=people.RUBRIC_NAME, kind=pieces[0].part.kind.value, says=people.rubric(pieces[0].part.kind))  # fmt: skip
        share_rubric(owner, rubric, is_shared=True)
        for phrase in people.PHRASES:
            save_phrase(owner, phrase)
        for stage, piece in enumerate(pieces):
            exercise = _exercise(owner, piece)
            assignment = _assignment(owner, exercise, school_class, stage, rubric)
            if stage != JUST_GIVEN:
                _takes(owner, assignment, students, stage)
            done += 1
            progress(done, total)
        if teacher is people.INES:
            for task in TASKS:
                _task(owner, task, school_class, students)
                done += 1
                progress(done, total)
            _booklet(owner, school_class)


def _task(
    owner: User, task: DemoTask, school_class: SchoolClass, students: list[tuple[User, people.DemoStudent]]
) -> None:
    """One that is not a part to be played as written; the first students have handed in."""
    exercise = _exercise(owner, task, free=task.free, backing=task.backing)
    due = _day(TASKS_DUE_IN_DAYS) + timedelta(hours=23, minutes=59)
    assignment = give_exercise(owner, exercise, school_class, due_at=due)
    assignment.given_at = _day(-TASKS_GIVEN_DAYS_AGO)
    assignment.save(update_fields=["given_at"])
    for index, (student, pupil) in enumerate(students[: task.handed_in]):
        random = Random(f"{SEED} {task.title} {pupil.username}")
        answers = [(question, random.choice(people.ANSWERS)) for question in task.rules.questions]
        if task.rules.has_questions_only:
            hand_in_answers(student, assignment, answers=answers)
            continue
        when = _day(1 - TASKS_GIVEN_DAYS_AGO) + EVENING + timedelta(minutes=9 * index)
        takes = [
            _take(
                student,
                assignment,
                replace(pupil.habits, wrong_keys=TO_MEND) if task.rules.to_show else pupil.habits,
                random=random,
                attempt=attempt,
                recorded_at=min(when + timedelta(minutes=2 * attempt), timezone.now()),
            )
            for attempt in range(task.rules.handed_in_takes)
        ]
        if task.rules.to_show:
            _mend(student, takes[0])
        hand_in(student, *takes, answers=answers, explained=MENDED if task.rules.to_show else {})


def _mend(student: User, take: Take) -> None:
    """Change a copy of the take as a student would."""
    open_copy(student, take)
    wrong, _extra = faults_in_copy(take.read(), take.target(), judged(take).facts)
    change_copy(student, take, "note", lambda part, chosen: _put_right(part, wrong))
    change_copy(
        student, take, "quantise", lambda part, chosen: quantise(part, plan(part, ALL, EIGHTHS, strength=0.8))
    )
    change_copy(
        student,
        take,
        "velocity",
        lambda part, chosen: change_velocity(part, frozenset({len(part.notes) - 1}), steps=-12),
    )
    change_copy(student, take, "bars", lambda part, chosen: repeat_bars(part, first=3, last=3, times=1))


def _put_right(part: Part, wrong: Mapping[Place, int]) -> Edited:
    right = (n.at_pitch(wrong.get((n.onset_tick, n.pitch), n.pitch)) for n in part.notes)
    return rebuilt(part, ((note, True) for note in right))


def _booklet(owner: User, school_class: SchoolClass) -> None:
    """A set of the first piece's rhythms, two a week."""
    source = Exercise.objects.get(owner=owner, title=KEYBOARD_PIECES[0].title)
    made = variations(source, SetOf(rhythms=[rule.key for rule in RHYTHMS]), PAGES)
    booklet = make_set(owner, source, made, title=TEN_RHYTHMS, with_source=False)
    due = _day(TASKS_DUE_IN_DAYS) + timedelta(hours=23, minutes=59)
    give_booklet(owner, booklet, school_class, due_at=due, a_week=A_WEEK)


def _person(school: School, person: people.Person, role: Role) -> User:
    made = User.objects.create(
        username=person.username, password=_password_hash(), first_name=person.first, last_name=person.last
    )
    Membership.objects.create(school=school, person=made, role=role)
    return made


@cache
def _password_hash() -> str:
    """All demo accounts share one password: hashing it once is slow enough."""
    return make_password(PASSWORD)


def _exercise(
    owner: User, piece: DemoPiece, *, free: FreeSpec | None = None, backing: Part | None = None
) -> Exercise:
    exercise = create_exercise(
        owner,
        NewExercise(
            title=piece.title,
            kind=piece.part.kind.value,
            instructions=piece.instructions,
            tempo_bpm=Decimal(str(piece.part.tempos.first_bpm)),
            count_in_bars=piece.count_in_bars,
            level=piece.level,
            part=piece.part,
            ladder=propose_ladder(piece.part, is_free=free is not None),
            rules=piece.rules,
            free=free,
            backing=backing,
        ),
    )
    share(owner, [exercise], is_shared=True)
    return exercise


def _day(days: int) -> datetime:
    return timezone.now().replace(hour=0, minute=0, second=0, microsecond=0) + timedelta(days=days)


def _assignment(
    owner: User, exercise: Exercise, school_class: SchoolClass, stage: int, rubric: Rubric
) -> Assignment:
    due = _day(DUE_IN_DAYS[stage]) + timedelta(hours=23, minutes=59)
    by = rubric.current if stage in BY_OWN_RUBRIC else None
    assignment = give_exercise(owner, exercise, school_class, due_at=due, terms=Terms(rubric=by))
    assignment.given_at = _day(-GIVEN_DAYS_AGO[stage])
    assignment.save(update_fields=["given_at"])
    return assignment


def _takes(
    owner: User, assignment: Assignment, students: list[tuple[User, people.DemoStudent]], stage: int
) -> None:
    for index, (student, pupil) in enumerate(students):
        random = Random(f"{SEED} {stage} {pupil.username}")
        is_demo = pupil.username in DEMO_STUDENTS
        hands_in = stage < COMING_IN or (1 <= index <= HANDED_IN_EARLY)
        count = TAKES_OF_DEMO_STUDENTS[stage] if is_demo else random.randint(1, 2)
        if not hands_in and not is_demo and random.random() < 0.4:
            continue
        last = None
        for attempt in range(count):
            habits = _practised(pupil.habits, attempt=count - 1 - attempt, stage=stage)
            when = _day(-GIVEN_DAYS_AGO[stage] + 2 + attempt // TAKES_AN_EVENING) + EVENING
            when += timedelta(minutes=7 * attempt + index)
            last = _take(
                student,
                assignment,
                habits,
                random=random,
                attempt=attempt,
                recorded_at=min(when, timezone.now()),
            )
        if last is not None and hands_in:
            _hand_in(owner, student, last, stage=stage, index=index, random=random)


def _practised(habits: Habits, *, attempt: int, stage: int) -> Habits:
    """Earlier takes are rougher, later exercises a little better played."""
    earlier = (1 / BETTER_EACH_TAKE) ** attempt * 0.95**stage
    rough = ROUGH * earlier
    return replace(
        habits,
        spread_ms=habits.spread_ms * rough,
        lead_ms=habits.lead_ms * ROUGH_LEAD * earlier,
        wrong_keys=min(0.3, habits.wrong_keys * rough),
        misses=min(0.3, habits.misses * rough),
        velocity_spread=habits.velocity_spread * ROUGH,
    )


def _take(
    student: User,
    assignment: Assignment,
    habits: Habits,
    *,
    random: Random,
    attempt: int,
    recorded_at: datetime,
) -> Take:
    exercise = assignment.exercise
    part, spec, seed = exercise.part_in_force.read(), exercise.part_in_force.spec, random.randrange(10**9)
    if spec is not None:
        part = improvised(spec.exercise(part), part, seed=seed)
    played = play(part, habits, seed=seed)
    events = [(round(t, 3), status, a, b) for t, status, a, b in events_from_take(played)]
    return receive_take(
        student,
        assignment,
        NewTake(
            id=uuid.uuid5(NAMESPACE, f"{assignment.pk} {student.pk} {attempt}"),
            part_id=exercise.part_in_force.pk,
            events=events,
            source=Source.ROBOT,
            device="",
            latency_ms=0.0,
            recorded_at=recorded_at,
        ),
    )


def _hand_in(owner: User, student: User, take: Take, *, stage: int, index: int, random: Random) -> None:
    questions = take.exercise.recording_rules.questions
    hand_in(student, take, answers=[(question, random.choice(people.ANSWERS)) for question in questions])
    handed_in_at = min(take.recorded_at + timedelta(minutes=4), timezone.now())
    Take.objects.filter(pk=take.pk).update(handed_in_at=handed_in_at)
    HandIn.objects.filter(assignment=take.assignment_id, student=student).update(
        first_at=handed_in_at, changed_at=handed_in_at
    )
    # It was late by the day on which it is loaded, not by the one on which it is said to have come in.
    fresh = Take.objects.get(pk=take.pk)
    conclude_mark(fresh.sheet, fresh)
    is_released = stage == ALL_RELEASED or (stage == HALF_RELEASED and index % 2 == 0)
    if not is_released:
        return
    bar, beat, text = people.REMARKS[random.randrange(len(people.REMARKS))]
    write_remark(owner, take, text=text, bar=bar, beat=beat)
    if index % 4 == 0:
        give_score(owner, take, "flow", TeacherScore(score=90, why="Kept going bravely."))
    sheet = release(owner, take)
    sheet.released_at = min(handed_in_at + timedelta(days=2), timezone.now())
    sheet.accepted_at = sheet.released_at
    sheet.save(update_fields=["released_at", "accepted_at"])
    if student.username in DEMO_STUDENTS and stage == ALL_RELEASED:
        reply(student, take, people.QUESTION)
