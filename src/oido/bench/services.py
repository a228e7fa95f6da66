"""Change a working copy, take changes back, keep what is good."""

import logging
from collections.abc import Collection
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from ear.editing.edited import Selection
from ear.labels import LabelKind
from ear.notes import Part
from oido.bench.models import Draft
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
    last_act: str
    next_act: str | None
    """What could be done again; None where nothing was taken back."""
    before: Part | None = None
    """The part as it was before what was just done."""

    @property
    def can_undo(self) -> bool:
        return self.draft.position > 0

    @property
    def is_kept(self) -> bool:
        return self.draft.position == getattr(self.draft, "kept_position", None)


def may_edit(teacher: User, exercise: Exercise) -> bool:
    """A part is changed by the teacher whose exercise it is."""
    return teacher.is_teacher and exercise.owner_id == teacher.pk


@transaction.atomic
def open_draft(teacher: User, exercise: Exercise) -> Work:
    """The working copy of an exercise, made from its part if there is none yet."""
    return work_of(_locked(teacher, exercise))


@transaction.atomic
def change(teacher: User, exercise: Exercise, act: str, make: Change) -> Work:
    """Do something to the part. What had been taken back before is gone then.

    Where the change leaves the part as it is, nothing is stored but the new selection.
    """
    draft = _locked(teacher, exercise)
    was = draft.position
    before, part = draft.change(act, make)
    if draft.position != was and draft.kept_position is not None and draft.kept_position > was:
        draft.kept_position = None
        draft.save()
    return work_of(draft, part=part, before=before)


@transaction.atomic
def step(teacher: User, exercise: Exercise, *, by: int) -> Work:
    """Take back (by -1) or do again (by 1); at either end nothing happens."""
    draft = _locked(teacher, exercise)
    before = draft.step(by=by)
    return work_of(draft, before=before)


@transaction.atomic
def keep(teacher: User, exercise: Exercise) -> TargetPart:
    """Make the part on the Bench the exercise's own. Takes stay with the part they were recorded to.

    An empty page is not kept: students may have the exercise already.
    """
    draft = _locked(teacher, exercise)
    if draft.position == draft.kept_position:
        return exercise.part_in_force
    made = draft.state()
    if not made.notes:
        raise NotAllowed
    # Only a tempo that was set here: the exercise's own may be another one by now.
    begun = draft.states.get(number=draft.kept_position or 0).read().tempos.first_bpm
    now = made.tempos.first_bpm
    part = replace_part(exercise, made, tempo_bpm=None if now == begun else Decimal(f"{now:.2f}"))
    draft.kept_position = draft.position
    draft.save()
    logger.info("part %s of exercise %s kept by %s", part.number, exercise.pk, teacher.pk)
    return part


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
    Exercise.objects.select_for_update().get(pk=exercise.pk)
    draft = Draft.objects.filter(exercise=exercise).first()
    if draft is None:
        draft = Draft.objects.create(exercise=exercise)
        draft.begin(exercise.part_in_force.read())
    return draft


def work_of(draft: History, *, part: Part | None = None, before: Part | None = None) -> Work:
    """A working copy as it lies there; its part is read from the state unless it is at hand."""
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
