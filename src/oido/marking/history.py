"""What was done with a mark: kept, shown, undone. The one place that says which of a sheet's fields teachers change."""

import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from django.db.models import Max
from django.utils.dateparse import parse_datetime

from oido.common.permissions import NotAllowed
from oido.exercises.models import TargetPart
from oido.marking.models import MarkSheet, SheetChange
from oido.people.models import User
from oido.takes.models import Take

Kind = SheetChange.Kind
HISTORY_SHOWN = 20
MAX_DIGITS = 18
TIMES = ("accepted_at", "released_at", "asked_again_at")
FIELDS = ("changes", "help_step", "released_by_id", "asked_again_why", *TIMES)


class Overtaken(NotAllowed):
    """Something else was done since."""


class ChangedMeanwhile(NotAllowed):
    """The mark is not in the state that the page showed. `since` is what was done after that, the latest first."""

    def __init__(self, since: list[SheetChange]) -> None:
        super().__init__()
        self.since = since


class AlreadySeen(NotAllowed):
    """The student has read it: a release is taken back only before that."""


def state_of(take: Take) -> str:
    """Return the state of a take's mark as a short text, which pages carry so that nothing is done to a mark in another
    state than they showed: the last line of its history, its points, and the judgements that count or are proposed."""
    return states_of([take])[take.pk]


def states_of(takes: Sequence[Take]) -> dict[uuid.UUID, str]:
    """Return `state_of` each of several takes with one query."""
    lines = SheetChange.objects.filter(sheet__in=[take.sheet.pk for take in takes]).order_by()
    last = dict(lines.values_list("sheet").annotate(last=Max("pk")))
    return {
        take.pk: f"{last.get(take.sheet.pk, 0)}/{take.sheet.points:g}/{take.judgement_id or 0}/{take.proposed_id or 0}"
        for take in takes
    }


def check_state(take: Take, shown: str | None) -> None:
    """Compare a locked take's mark with the state that a page showed; None where no page is involved. Raises
    ChangedMeanwhile."""
    if shown is None or shown == state_of(take):
        return
    last_shown = shown.partition("/")[0]
    since = take.sheet.history.select_related("by")
    if last_shown.isascii() and last_shown.isdigit() and len(last_shown) < MAX_DIGITS:
        since = since.filter(pk__gt=int(last_shown))
    raise ChangedMeanwhile(list(since[:HISTORY_SHOWN]))


def standing_of(sheet: MarkSheet) -> dict[str, object]:
    """Return what can be changed of a sheet, as plain values."""
    fields = {name: getattr(sheet, name) for name in FIELDS}
    times = {name: fields[name].isoformat() if fields[name] else None for name in TIMES}
    return {**fields, **times, "settings": sheet.take.settings}


@contextmanager
def recording_change(
    sheet: MarkSheet,
    by: User,
    kind: str,
    *,
    criterion: str = "",
    why: str = "",
    part: TargetPart | None = None,
) -> Iterator[None]:
    """Record in the history what this block does to a locked sheet and what can be undone.

    With a part, also record what is accepted in all its takes. A block that changes nothing leaves no line. The
    line is then the sheet's `line`.
    """
    before, points = {**standing_of(sheet), **_accepted(part)}, sheet.points
    sheet.line = None
    yield
    after = {**standing_of(sheet), **_accepted(part)}
    if after != before or sheet.points != points:
        sheet.line = SheetChange.objects.create(
            sheet=sheet, by=by, kind=kind, criterion=criterion, why=why, before=before, after=after,
            points_before=points, points_after=sheet.points,
        )  # fmt: skip


def _accepted(part: TargetPart | None) -> dict[str, object]:
    return {} if part is None else {"accepted": dict(part.accepted)}


def put_back(sheet: MarkSheet, change: SheetChange, *, part: TargetPart | None = None) -> None:
    """Put a locked sheet back as it was before a change; and a locked part, if the change was for all takes of it.
    Raise Overtaken, AlreadySeen."""
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


def record_undo(sheet: MarkSheet, by: User, change: SheetChange, *, points_before: float) -> None:
    """Add a line to the history of a locked sheet that says who undid a change."""
    SheetChange.objects.create(
        sheet=sheet, by=by, kind=Kind.UNDONE, criterion=change.criterion, before=change.after, after=change.before,
        points_before=points_before, points_after=sheet.points, undoes=change,
    )  # fmt: skip


def last_change(sheet: MarkSheet, kind: str) -> SheetChange | None:
    """Return the latest change of a kind that has not been undone."""
    return sheet.history.filter(kind=kind, is_undone=False).first()


def history_of(sheet: MarkSheet) -> list[SheetChange]:
    """Return the changes to a mark, newest first."""
    return list(sheet.history.select_related("by", "undoes")[:HISTORY_SHOWN])
