"""Corrected copies: begun from a take, changed with the core's tools, dropped again."""

import logging

from django.db import transaction
from django.db.models import F

from ear.editing.edited import ALL
from ear.notes import Part
from ear.recording.corrected import copy_of
from oido.bench.services import Work, work_of
from oido.bench.tools.shaping import BarsTool
from oido.common.permissions import NotAllowed
from oido.exercises.history import Change
from oido.people.models import User
from oido.takes.models import CopyState, CorrectedCopy, Take

logger = logging.getLogger(__name__)


class IsHandedIn(NotAllowed):
    """What is handed in stays as it is."""


def may_correct(student: User, take: Take) -> bool:
    """Return whether the student may correct a copy of the take: their own, where the exercise allows it."""
    return take.student_id == student.pk and take.exercise.recording_rules.has_copies


@transaction.atomic
def open_copy(student: User, take: Take) -> Work:
    """Return the take's copy, made from it if there is none yet."""
    return work_of(_locked(student, take))


@transaction.atomic
def change_copy(student: User, take: Take, act: str, make: Change, *, seen: str = "") -> Work:
    """Change the copy. Raise NotAsShown if `seen` is not its current state."""
    copy = _locked(student, take, to_change=True)
    before, part = copy.change(act, make, seen=seen)
    return work_of(copy, part=part, before=before)


def stored(student: User, take: Take, state_id: int) -> Part | None:
    """Return a state of the take's copy, for notes that were copied from it; None if it is not there any more."""
    copy = CorrectedCopy.objects.filter(take=take, take__student=student).first()
    return copy.stored(state_id) if copy is not None else None


@transaction.atomic
def step_copy(student: User, take: Take, *, by: int, seen: str = "") -> Work:
    """Undo (by -1) or redo (by 1). Raise NotAsShown as `change_copy` does."""
    copy = _locked(student, take, to_change=True)
    return work_of(copy, before=copy.step(by=by, seen=seen))


@transaction.atomic
def discard_copy(student: User, take: Take) -> None:
    """Delete the copy and return to the take as it was recorded."""
    _locked(student, take, to_change=True).delete()


def raw_and_copy(take: Take) -> tuple[Part, Part] | None:
    """Return the take as it was when the copy was begun, and the copy, or None if there is none."""
    copy = getattr(take, "corrected", None)
    if copy is None:
        return None
    states = copy.parts({0, copy.position})
    return states[0], states[copy.position]


def were_bars_changed(take: Take) -> bool:
    """Return whether the tool for whole bars made one of the states that led to the copy."""
    states = CopyState.objects.filter(history__take=take, act=BarsTool.slug)
    return states.filter(number__lte=F("history__position")).exists()


def fresh(take: Take) -> Take:
    """Return the take with its copy as stored now."""
    return Take.objects.select_related("corrected").defer("events").get(pk=take.pk)


def _locked(student: User, take: Take, *, to_change: bool = False) -> CorrectedCopy:
    if not may_correct(student, take):
        raise NotAllowed
    locked = Take.objects.select_for_update().get(pk=take.pk)
    if to_change and locked.is_handed_in:
        raise IsHandedIn
    copy = CorrectedCopy.objects.filter(take=locked).first()
    if copy is None:
        copy = CorrectedCopy.objects.create(take=locked, selected=sorted(ALL))
        copy.begin(copy_of(locked.read(), locked.target()))
        logger.info("corrected copy of take %s begun", locked.pk)
    return copy
