"""Mark sheets of stored takes."""

from collections.abc import Mapping
from typing import Any

from ear.marking.criteria import WorkingLine
from ear.marking.levels import Window
from ear.marking.rubric import Rubric
from ear.marking.sheet import Given, Measured, Sheet, make_sheet
from oido.marking.models import MarkSheet
from oido.takes.models import Take
from oido.takes.services import rubric_of


def sheet_of(take: Take, stored: MarkSheet) -> Sheet:
    """The machine's criteria of a take with the teacher's changes over them."""
    take.sheet = stored
    return sheet_from(take.measurement.result, rubric_of(take), stored)


def sheet_from(result: Mapping[str, Any], rubric: Rubric, stored: MarkSheet) -> Sheet:
    """The same for any measured result."""
    return make_sheet(
        [
            Measured(
                name=c["name"],
                score=c["score"],
                weight=c["set_weight"],
                working=tuple(WorkingLine(label=w["label"], figure=w["figure"]) for w in c["working"]),
            )
            for c in result["criteria"]
        ],
        rubric=rubric,
        window=Window(**result["window"]),
        given={name: Given.from_json(said) for name, said in stored.changes.items()},
        help_step=stored.help_step,
    )


def store(stored: MarkSheet, made: Sheet) -> None:
    """Put the figures that lists show into what is stored of a sheet."""
    stored.total, stored.points, stored.out_of = made.total, made.points, made.out_of
    stored.band = made.band.name
