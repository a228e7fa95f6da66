"""Versions of an exercise's part: what was saved when, and what changed from one to the next."""

from dataclasses import dataclass
from datetime import datetime

from django.http import HttpRequest

from ear.drawing.boxes import PageView
from ear.editing.comparing import compare
from ear.notes import Part
from oido.bench.page import BenchView
from oido.bench.services import may_edit
from oido.bench.would import Would
from oido.exercises.models import Exercise

MAX_SHOWN = 30
"""Versions that are compared on one page, the newest first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Version:
    """One saved version. `changed` is None for the first of those that are shown."""

    number: int
    saved_at: datetime
    notes: int
    bars: int
    bpm: float
    changed: Would | None
    is_in_force: bool
    is_shown: bool


def versions_of(exercise: Exercise, look: BenchView, *, shown: int | None) -> dict[str, object]:
    """Return the versions, newest first, and the page of the requested one (or the newest) with the notes that
    its predecessor lacks marked.
    """
    rows = list(exercise.parts.defer("source_file").order_by("-number")[: MAX_SHOWN + 1])
    parts = [row.read() for row in rows]
    at = next((k for k, row in enumerate(rows) if row.number == shown), 0)
    versions = [
        Version(
            number=row.number,
            saved_at=row.created_at,
            notes=len(part.notes),
            bars=len(part.bars),
            bpm=part.tempos.first_bpm,
            changed=Would.between(parts[k + 1], part) if k + 1 < len(parts) else None,
            is_in_force=row.pk == exercise.part_id,
            is_shown=k == at,
        )
        for k, (row, part) in enumerate(zip(rows, parts, strict=True))
    ]
    before = parts[at + 1] if at + 1 < len(parts) else None
    return {"versions": versions[:MAX_SHOWN], "page": _page(parts[at], before, look), "shown": versions[at]}


def _page(part: Part, before: Part | None, look: BenchView) -> PageView:
    return look.page(part, new=compare(before, part).new if before is not None else ())


def versions_panel(request: HttpRequest, exercise: Exercise) -> dict[str, object]:
    """Return what the exercise page needs about versions: how many there are, for users who may restore one."""
    user = request.user
    is_own = user.is_authenticated and may_edit(user, exercise)
    return {"versions_count": exercise.parts.count() if is_own else 0}
