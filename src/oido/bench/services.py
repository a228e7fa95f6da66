"""Change a working copy, take changes back, keep what is good."""

import logging
from collections.abc import Collection
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from ear.editing.edited import ALL, Edited, Selection
from ear.labels import LabelKind
from ear.notes import Part
from oido.bench.models import Draft
from oido.bench.tools import VERSION
from oido.common.permissions import NotAllowed
from oido.exercises.history import Change, History
from oido.exercises.models import Exercise, TargetPart
from oido.exercises.services import replace_part
from oido.people.models import User

logger = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """What is worked on: the working copy, its part as it is, and the notes that are picked."""

    draft: History
    part: Part
    selected: Selection
    last_act: str | None
    """What could be undone; None where nothing was done, or it was too many steps ago."""
    next_act: str | None
    """What could be done again; None where nothing was taken back."""
    before: Part | None = None
    """The part as it was before what was just done."""

    @property
    def picked(self) -> str:
        """Notes that are picked, as the page's script reads them."""
        return as_numbers(self.selected)

    @property
    def first_tick(self) -> int:
        """Where the first of the notes that are picked begins; 0 where none is."""
        return self.part.notes[min(self.selected)].onset_tick if self.selected else 0

    @property
    def is_kept(self) -> bool:
        exercise = getattr(self.draft, "exercise", None)
        is_begun = exercise is not None and exercise.is_begun
        return not is_begun and self.draft.position == getattr(self.draft, "kept_position", None)


def as_numbers(selected: Selection) -> str:
    """Return notes as the lists that the page's scripts read."""
    return " ".join(map(str, sorted(selected)))


def may_edit(teacher: User, exercise: Exercise) -> bool:
    """Return whether the user may edit the part: the teacher who owns the exercise."""
    return teacher.is_teacher and exercise.owner_id == teacher.pk


@transaction.atomic
def open_draft(teacher: User, exercise: Exercise) -> Work:
    """Return the working copy of an exercise, made from its part if there is none yet."""
    return work_of(_locked(teacher, exercise))


@transaction.atomic
def change(teacher: User, exercise: Exercise, act: str, make: Change, *, seen: str = "") -> Work:
    """Do something to the part.

    What was undone before can no longer be redone. If the part stays the same, only the new selection is stored. Raise NotAsShown if `seen` is not what is on
    the Bench.
    """
    draft = _locked(teacher, exercise)
    was = draft.position
    before, part = draft.change(act, make, seen=seen)
    if draft.position != was and draft.kept_position is not None and draft.kept_position > was:
        draft.kept_position = None
        draft.save()
    return work_of(draft, part=part, before=before)


@transaction.atomic
def step(teacher: User, exercise: Exercise, *, by: int, seen: str = "") -> Work:
    """Undo (by -1) or redo (by 1); at either end nothing happens. Raise NotAsShown as `change` does."""
    draft = _locked(teacher, exercise)
    before = draft.step(by=by, seen=seen)
    return work_of(draft, before=before)


def part_on_bench(teacher: User, exercise: Exercise) -> Part | None:
    """Return the part on the Bench, saved or not, or None if the teacher has none there."""
    draft = Draft.objects.filter(exercise=exercise).first() if may_edit(teacher, exercise) else None
    return draft.state() if draft is not None else None


def stored(teacher: User, exercise: Exercise, state_id: int) -> Part | None:
    """Return a state of the working copy by its row, or None if it is no longer kept."""
    if not may_edit(teacher, exercise):
        raise NotAllowed
    draft = Draft.objects.filter(exercise=exercise).first()
    return draft.stored(state_id) if draft is not None else None


@transaction.atomic
def save_work(teacher: User, exercise: Exercise, *, seen: str = "") -> TargetPart:
    """Make the part on the Bench the exercise's own. Takes stay with the part they were recorded to.

    An empty page is not kept: students may have the exercise already. Raise NotAsShown as `change` does.
    """
    draft = _locked(teacher, exercise)
    made = draft.state()
    draft.check_shown(seen)
    if not made.notes:
        raise NotAllowed
    if exercise.is_begun:
        exercise.is_begun = False
        exercise.save(update_fields=["is_begun"])
        logger.info("exercise %s saved first by %s", exercise.pk, teacher.pk)
    if draft.position == draft.kept_position:
        return exercise.part_in_force
    # Only a tempo that was set here: the exercise's own may be another one by now.
    was = draft.earlier(draft.kept_position or 0) or exercise.part_in_force.read()
    begun, now = was.tempos.first_bpm, made.tempos.first_bpm
    part = replace_part(exercise, made, tempo_bpm=None if now == begun else Decimal(f"{now:.2f}"))
    draft.kept_position = draft.position
    draft.save()
    logger.info("part %s of exercise %s kept by %s", part.number, exercise.pk, teacher.pk)
    return part


@transaction.atomic
def discard_unsaved(teacher: User, exercise: Exercise) -> None:
    """Delete a working copy that was begun and never saved."""
    if not may_edit(teacher, exercise):
        raise NotAllowed
    locked = Exercise.objects.select_for_update().get(pk=exercise.pk)
    if not locked.is_begun:
        raise NotAllowed
    Exercise.objects.filter(pk=locked.pk).update(part=None)
    locked.delete()
    logger.info("begun exercise %s discarded by %s", exercise.pk, teacher.pk)


@transaction.atomic
def restore_version(teacher: User, exercise: Exercise, version: TargetPart) -> Work:
    """Put a version that was saved before on the Bench, as a step that can be undone. It is the exercise's once it is
    saved there."""
    if version.exercise_id != exercise.pk:
        raise NotAllowed
    return change(
        teacher, exercise, VERSION, lambda part, selected: Edited(part=version.read(), selected=ALL)
    )


@transaction.atomic
def set_labels(teacher: User, exercise: Exercise, kinds: Collection[str]) -> None:
    """Say which kinds of labels the exercise's page shows. Unknown ones are left out."""
    if not may_edit(teacher, exercise):
        raise NotAllowed
    exercise.labels = [kind.value for kind in LabelKind if kind.value in kinds]
    exercise.save(update_fields=["labels"])


def _locked(teacher: User, exercise: Exercise) -> Draft:
    if not may_edit(teacher, exercise):
        raise NotAllowed
    # The exercise is there in any case: whoever comes second waits here.
    Exercise.objects.select_for_update().values_list("pk").get(pk=exercise.pk)
    draft = Draft.objects.filter(exercise=exercise).first()
    if draft is None:
        draft = Draft.objects.create(exercise=exercise)
        draft.begin(exercise.part_in_force.read())
    draft.exercise = exercise
    return draft


def work_of(draft: History, *, part: Part | None = None, before: Part | None = None) -> Work:
    """Return a working copy with its part, which is read from the state unless it is passed in."""
    part = part if part is not None else draft.state()
    last_act, next_act = draft.acts()
    return Work(
        draft=draft,
        part=part,
        selected=draft.selection(part),
        last_act=last_act,
        next_act=next_act,
        before=before,
    )
