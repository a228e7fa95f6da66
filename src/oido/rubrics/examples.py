"""What a rubric would give robot takes, in words."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext_lazy as _

from ear.criteria.levels import DEFAULT_LEVEL
from ear.judging.examples import examples
from ear.judging.judge import Rules
from ear.judging.rubric import Rubric
from ear.notes import Kind

NAMES = {
    "clean": _("clean"),
    "sd_25": _("uneven by 25 ms"),
    "sd_45": _("uneven by 45 ms"),
    "sd_80": _("uneven by 80 ms"),
    "wrong_5": _("5% wrong notes"),
    "wrong_10": _("10% wrong notes"),
    "wrong_25": _("25% wrong notes"),
    "one_hand": _("one hand alone"),
    "other_tempo": _("steady at 0.9 of the click"),
    "stops": _("stops after two thirds"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class WouldGive:
    name: Any
    points: float
    band: str


def would_give(kind: str, rubric: Rubric) -> list[WouldGive]:
    """Return the example marks in the order of the table, at the default level if the rubric leaves it to the
    exercise.
    """
    rules = Rules(rubric=rubric, level=DEFAULT_LEVEL)
    return [
        WouldGive(
            name=NAMES[e.code],
            points=e.judgement.points,
            band=e.judgement.band.name,
        )
        for e in examples(Kind(kind), rules)
    ]
