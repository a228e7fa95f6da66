"""What was done with a mark: kept, shown, undone. The one place that says which of a sheet's fields teachers change."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.utils import timezone
from django.utils.dateparse import parse_datetime

from oido.common.permissions import NotAllowed
from oido.exercises.models import TargetPart
from oido.marking.models import MarkSheet, SheetChange
from oido.people.models import User

What = SheetChange.What
HISTORY_SHOWN = 20
TIMES = ("accepted_at", "released_at", "asked_again_at")
FIELDS = ("changes", "help_step", "released_by_id", "asked_again_why", *TIMES)


class Overtaken(NotAllowed):
    """Something else was done since."""


class AlreadySeen(NotAllowed):
    """The student has read it: a release is taken back only before that."""


def standing_of(sheet: MarkSheet) -> dict[str, Any]:
    """What can be changed of it, as plain values."""
    found = {name: getattr(sheet, name) for name in FIELDS}
    times = {name: found[name].isoformat() if found[name] else None for name in TIMES}
    return {**found, **times, "settings": sheet.take.settings}


@contextmanager
def kept(
    sheet: MarkSheet,
    by: User,
    what: str,
    *,
    criterion: str = "",
    why: str = "",
    part: TargetPart | None = None,
) -> Iterator[None]:
    """Remember what is done with a locked sheet in this block, and what of it can be undone; with a part, also what is
    accepted in all takes of it. What changes nothing leaves no line."""
    before, points = {**standing_of(sheet), **_accepted(part)}, sheet.points
    yield
    after = {**standing_of(sheet), **_accepted(part)}
    if after != before or sheet.points != points:
        SheetChange.objects.create(
            sheet=sheet, by=by, what=what, criterion=criterion, why=why, before=before, after=after,
            points_before=points, points_after=sheet.points,
        )  # fmt: skip


def _accepted(part: TargetPart | None) -> dict[str, Any]:
    return {} if part is None else {"accepted": dict(part.accepted)}


def put_back(sheet: MarkSheet, change: SheetChange, *, part: TargetPart | None = None) -> None:
    """Put a locked sheet back as it was before a change; and a locked part, if the change was for all takes of it.
    Raises Overtaken, AlreadySeen."""
    now = {**standing_of(sheet), **_accepted(part)}
    if change.is_undone or now != change.after:
        raise Overtaken
    was_shown = change.before["released_at"] is None and change.after["released_at"] is not None
    if was_shown and sheet.seen_at is not None:
        raise AlreadySeen
    sheet.take.settings = change.before["settings"]
    sheet.take.save(update_fields=["settings"])
    if part is not None:
        part.accepted = change.before["accepted"]
        part.save(update_fields=["accepted"])
    for name in FIELDS:
        value = change.before[name]
        setattr(sheet, name, parse_datetime(value) if name in TIMES and value else value)
    sheet.save(update_fields=[name.removesuffix("_id") for name in FIELDS])
    change.is_undone = True
    change.save(update_fields=["is_undone"])


def last_change(sheet: MarkSheet, what: str) -> SheetChange | None:
    """The one that is to be undone where somebody undoes the last of its kind."""
    return sheet.history.filter(what=what, is_undone=False, made_at__lte=timezone.now()).first()


def history_of(sheet: MarkSheet) -> list[SheetChange]:
    """What was done with a mark, the last ahead."""
    return list(sheet.history.select_related("by")[:HISTORY_SHOWN])
