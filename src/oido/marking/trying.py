"""A take's mark by other settings, before anything is kept."""

from dataclasses import dataclass
from typing import Any

from ear.assess import assess
from ear.marking.levels import level_named
from ear.marking.marks import mark_again
from ear.marking.settings import TakeSettings
from ear.report_json import assessment_to_json
from oido.marking.forms import TryForm, pad_numbers
from oido.marking.sheets import sheet_from
from oido.rubrics.labels import criterion_label
from oido.rubrics.models import read_version
from oido.takes.models import Take
from oido.takes.services import rubric_of


@dataclass(frozen=True, slots=True, kw_only=True)
class TriedRow:
    label: str
    before: float | None
    after: float | None

    @property
    def is_other(self) -> bool:
        return self.before != self.after


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """Marks as they are written, each with its band; criteria side by side."""

    rows: tuple[TriedRow, ...]
    before: float
    after: float
    band_before: str
    band_after: str


def make_try_form(take: Take, data: Any) -> TryForm:
    """With what holds for the take now."""
    return TryForm(
        data, take=take, rubric=rubric_of(take), base=read_version(take.sheet.rubric, take.assignment.exercise.kind),
        level=level_named(take.assignment.exercise.level).key, numbers=pad_numbers(take, take.part.read()),
    )  # fmt: skip


def tried(take: Take, settings: TakeSettings) -> Tried:
    """Marked again; measured again only where other notes are heard, or the same ones elsewhere."""
    base = read_version(take.sheet.rubric, take.assignment.exercise.kind)
    rubric, level = settings.over(base), level_named(take.assignment.exercise.level)
    if settings.changes_what_is_heard or take.set_for_it.changes_what_is_heard:
        found = assess(
            take.target(), take.read(settings), level=level, rubric=rubric, has_click=take.asks_click
        )
        result = assessment_to_json(found)
    else:
        result = mark_again(take.measurement.result, level=level, rubric=rubric)
    now = sheet_from(take.measurement.result, rubric_of(take), take.sheet)
    then = sheet_from(result, rubric, take.sheet)
    names = list(dict.fromkeys([*(row.name for row in now.rows), *(row.name for row in then.rows)]))
    scores_now, scores_then = ({row.name: row.score for row in sheet.rows} for sheet in (now, then))
    return Tried(
        rows=tuple(
            TriedRow(label=criterion_label(name, base), before=scores_now.get(name), after=scores_then.get(name))
            for name in names
        ),
        before=now.points,
        after=then.points,
        band_before=now.band.name,
        band_after=then.band.name,
    )  # fmt: skip
