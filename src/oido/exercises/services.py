"""Make exercises."""

import logging
from dataclasses import dataclass, field, replace
from datetime import timedelta
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from ear.formats.characters import without_control_characters
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.sandboxed_reader import PARTS
from ear.free.exercise import FreeSpec
from ear.labels import LabelKind
from ear.notes import Part
from ear.practice.ladder import Ladder
from ear.practice.rules import RecordingRules
from oido.common.permissions import NotAllowed
from oido.exercises.bundle import Bundled
from oido.exercises.models import Exercise, ImportedFile, TargetPart
from oido.jobs.models import Job
from oido.jobs.services import ask_for
from oido.people.models import User

OPENING = "exercises.open"
UPLOADS_KEPT = timedelta(days=1)
MAX_METERS = 80
logger = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class NewExercise:
    """All that a teacher says of a new exercise; the part as read from the file."""

    title: str
    kind: str
    instructions: str
    tempo_bpm: Decimal
    count_in_bars: int
    level: str
    part: Part
    source_name: str = ""
    source_file: bytes | None = None
    labels: tuple[LabelKind, ...] | None = None
    """None for what an exercise shows at first."""
    rules: RecordingRules = field(default_factory=RecordingRules)
    ladder: Ladder = field(default_factory=Ladder)
    backing: Part | None = None
    variation_of: TargetPart | None = None
    free: FreeSpec | None = None
    """Of a free exercise, whose part is its page."""
    ready_made: str = ""
    """The library's name of the piece, if it is one of those."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ExerciseFacts:
    """What an exercise says of itself, beside its part."""

    title: str
    instructions: str
    tempo_bpm: Decimal
    count_in_bars: int
    level: str


def from_bundle(bundled: Bundled) -> NewExercise:
    """Make an exercise from an archive of another Oido."""
    return NewExercise(
        title=bundled.title,
        kind=bundled.part.kind.value,
        instructions=bundled.instructions,
        tempo_bpm=bundled.tempo_bpm,
        count_in_bars=bundled.count_in_bars,
        level=bundled.level,
        part=bundled.part,
        labels=bundled.labels,
        rules=bundled.rules,
        ladder=bundled.ladder,
        backing=bundled.backing,
        free=bundled.free,
    )


@transaction.atomic
def create_exercise(teacher: User, new: NewExercise, *, is_begun: bool = False) -> Exercise:
    """Store an exercise with its target part, set to the exercise's tempo; begun only, it is nobody else's yet."""
    if not teacher.is_teacher or teacher.school is None:
        raise NotAllowed
    exercise = Exercise.objects.create(
        school=teacher.school,
        owner=teacher,
        title=new.title,
        kind=new.kind,
        instructions=new.instructions,
        tempo_bpm=new.tempo_bpm,
        count_in_bars=new.count_in_bars,
        level=new.level,
        rules=new.rules.to_json(),
        ladder=new.ladder.to_json(),
        backing=part_to_json(new.backing) if new.backing is not None else None,
        variation_of=new.variation_of,
        is_begun=is_begun,
        ready_made=new.ready_made,
        **({} if new.labels is None else {"labels": [kind.value for kind in new.labels]}),
    )
    exercise.part = TargetPart.objects.create(
        exercise=exercise,
        number=1,
        data=part_to_json(new.part.at_tempo(float(new.tempo_bpm))),
        source_name=new.source_name,
        source_file=new.source_file,
        free=new.free.to_json() if new.free is not None else None,
    )
    _put_in_force(exercise, new.part)
    logger.info("exercise %s made by %s", exercise.pk, teacher.pk)
    return exercise


def like(source: Exercise, *, title: str, part: Part) -> NewExercise:
    """Return the settings of another exercise for a new one with this part.

    The ladder is left out, because it names bars and notes.
    """
    return NewExercise(
        title=title,
        kind=source.kind,
        instructions=source.instructions,
        tempo_bpm=source.tempo_bpm,
        count_in_bars=source.count_in_bars,
        level=source.level,
        part=part,
        labels=tuple(kind for kind in LabelKind if kind in source.shown_labels),
        rules=source.recording_rules,
        backing=part_from_json(source.backing) if source.backing else None,
    )


@transaction.atomic
def begin_variation(teacher: User, source: Exercise, *, title: str, part: Part | None = None) -> Exercise:
    """Begin an exercise of the teacher's own from another, or from some of its bars, and store which part it
    came from.

    An excerpt has no backing, which would run on as before.
    """
    whole = source.part
    assert whole is not None
    new = like(source, title=title, part=whole.read() if part is None else part)
    return create_exercise(
        teacher, replace(new, variation_of=whole, backing=new.backing if part is None else None)
    )


@transaction.atomic
def set_rules(
    teacher: User, exercise: Exercise, facts: ExerciseFacts, rules: RecordingRules, backing: Part | None
) -> None:
    """Change what an exercise says of itself and of its recordings. A new tempo is put into its part."""
    _check_owner(teacher, exercise)
    for name in ("title", "instructions", "count_in_bars", "level", "tempo_bpm"):
        setattr(exercise, name, getattr(facts, name))
    exercise.rules = rules.to_json()
    exercise.backing = part_to_json(backing) if backing is not None else None
    exercise.task = exercise.current_task
    exercise.save(
        update_fields=[
            "title",
            "instructions",
            "count_in_bars",
            "level",
            "tempo_bpm",
            "rules",
            "backing",
            "task",
        ]
    )
    stored = exercise.part
    part = stored.read() if stored else None
    if stored is not None and part is not None and part.tempos.first_bpm != float(facts.tempo_bpm):
        replace_part(exercise, part, free=stored.spec)


@transaction.atomic
def set_free(
    teacher: User,
    exercise: Exercise,
    facts: ExerciseFacts,
    rules: RecordingRules,
    backing: Part | None,
    *,
    spec: FreeSpec,
    page: Part,
) -> None:
    """Change what a free exercise asks for. What was recorded before is read as it was asked for then."""
    set_rules(teacher, exercise, facts, rules, backing)
    replace_part(exercise, page, free=spec)


@transaction.atomic
def set_ladder(teacher: User, exercise: Exercise, ladder: Ladder) -> None:
    _check_owner(teacher, exercise)
    exercise.ladder = ladder.to_json()
    exercise.save(update_fields=["ladder"])


@transaction.atomic
def store_upload(owner: User, name: str, data: bytes) -> ImportedFile:
    """Keep a file until its owner has said what to take of it; older ones that nobody came back to go."""
    old = ImportedFile.objects.filter(owner=owner, created_at__lt=timezone.now() - UPLOADS_KEPT)
    old.delete()
    return ImportedFile.objects.create(
        school=owner.current_school, owner=owner, name=without_control_characters(name)[:200], data=data
    )


@transaction.atomic
def create_from_upload(teacher: User, stored: ImportedFile, new: NewExercise) -> Exercise:
    """Make an exercise from an uploaded file, once. Raise NotAllowed if one has been made from it meanwhile."""
    use_up(teacher, stored)
    return create_exercise(teacher, new)


def use_up(owner: User, stored: ImportedFile) -> None:
    """Drop an uploaded file from which something is made, in the same transaction.

    Raise NotAllowed if it is gone: something has been made from it already.
    """
    if not ImportedFile.objects.select_for_update().filter(pk=stored.pk, owner=owner).exists():
        raise NotAllowed
    drop_upload(stored)


def drop_upload(stored: ImportedFile) -> None:
    """Delete an uploaded file that is no longer needed, or that cannot be opened."""
    stored.delete()


def open_upload(owner: User, stored: ImportedFile, *, back: str, reader: str = PARTS) -> None:
    """Have one of the core's readers open a file in the background, apart from the web processes.

    Asking twice does it once. `back` is the page that waits for it.
    """
    ask_for(
        OPENING,
        owner=owner,
        key=str(stored.pk),
        title=stored.name,
        back=back,
        upload=stored.pk,
        reader=reader,
    )


def opening_of(stored: ImportedFile) -> Job | None:
    """Return the last job to open the file, or None."""
    asked = Job.objects.defer("file").filter(kind=OPENING, key=str(stored.pk), owner=stored.owner_id)
    return asked.first()


def _check_owner(teacher: User, exercise: Exercise) -> None:
    if not teacher.is_teacher or exercise.owner_id != teacher.pk:
        raise NotAllowed


@transaction.atomic
def replace_part(
    exercise: Exercise, part: Part, *, free: FreeSpec | None = None, tempo_bpm: Decimal | None = None
) -> TargetPart:
    """Put another part in force, its first tempo the exercise's, or the exercise's the new one that is given. The one
    before stays for its takes. Of a free exercise the part is the page of what it asks for."""
    locked = Exercise.objects.select_for_update().get(pk=exercise.pk)
    if tempo_bpm is not None and tempo_bpm != locked.tempo_bpm:
        locked.tempo_bpm = exercise.tempo_bpm = tempo_bpm
        locked.save(update_fields=["tempo_bpm"])
    last = locked.parts.order_by("-number").first()
    made = TargetPart.objects.create(
        exercise=locked,
        number=last.number + 1 if last else 1,
        data=part_to_json(part.at_tempo(float(locked.tempo_bpm))),
        free=free.to_json() if free is not None else None,
    )
    locked.part = exercise.part = made
    _put_in_force(locked, part)
    return made


def _put_in_force(exercise: Exercise, part: Part) -> None:
    """Its part is another one: what the exercise is found by is read from it."""
    for name, value in searchable_figures(part).items():
        setattr(exercise, name, value)
    exercise.task = exercise.current_task
    exercise.save(update_fields=["part", "task", *searchable_figures(part)])


def searchable_figures(part: Part) -> dict[str, object]:
    """Return the columns by which an exercise with this part is found."""
    meters = dict.fromkeys(f"{c.meter.numerator}/{c.meter.denominator}" for c in part.meters.changes)
    return {
        "meters": " ".join(meters)[:MAX_METERS],
        "fifths": part.fifths if part.instrument.has_key else None,
        "bars": part.last_bar,
    }
