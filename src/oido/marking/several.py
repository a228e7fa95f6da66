"""Accept or release several marks at once, each in the state that a page showed."""

import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from django.db import transaction

from oido.marking.history import ChangedMeanwhile
from oido.marking.models import MarkSheet
from oido.marking.services import accept, locked_to_mark
from oido.people.models import User
from oido.takes.models import Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Released:
    """The result of releasing several marks: sheets that are released, takes in whose marks something is missing, and
    takes that are not as the page showed them and were left."""

    done: tuple[MarkSheet, ...]
    unmarked: tuple[Take, ...]
    changed: tuple[Take, ...]


@transaction.atomic
def release_all(teacher: User, takes: Iterable[Take], shown: Mapping[uuid.UUID, str]) -> Released:
    """Release all of these that are accepted and in the states that a page showed. Where a rubric asks for something
    that nobody has marked yet, the take waits to be marked again."""
    done, unmarked, changed = [], [], []
    for take in takes:
        if take.sheet.accepted_at is None or take.sheet.is_released:
            continue
        try:
            locked_to_mark(teacher, take, shown=shown.get(take.pk, ""))
        except ChangedMeanwhile:
            changed.append(take)
            continue
        if not take.sheet.is_whole:
            MarkSheet.objects.filter(pk=take.sheet.pk, released_at=None).update(accepted_at=None)
            unmarked.append(take)
        else:
            done.append(accept(teacher, take, and_release=True))
    return Released(done=tuple(done), unmarked=tuple(unmarked), changed=tuple(changed))


@transaction.atomic
def accept_all(
    teacher: User, takes: Iterable[Take], shown: Mapping[uuid.UUID, str]
) -> tuple[list[MarkSheet], list[Take]]:
    """Accept those of these that are in the states that a page showed; return their sheets, and the takes that were
    left."""
    done, changed = [], []
    for take in takes:
        try:
            done.append(accept(teacher, take, shown=shown.get(take.pk, "")))
        except ChangedMeanwhile:
            changed.append(take)
    return done, changed
