"""What makes one mark of a take differ from another."""

import math
from collections.abc import Mapping
from enum import StrEnum

from ear.judging.judgement import Judgement


class Deduction(StrEnum):
    """What a total loses after its criteria are summed."""

    CEILING = "ceiling"
    HELP = "help"
    LATE = "late"
    FLOOR = "floor"
    """A total is never below 0: this gives back what would lie under it."""


def total_changes(before: Judgement, after: Judgement) -> list[tuple[str, float]]:
    """Return what the total changed by, in points of 100, each part with what changed it: the name of a criterion or a
    `Deduction`. The parts add up to the difference between the two totals; parts of 0 are left out.
    """
    parts_before, parts_after = _parts(before), _parts(after)
    names = dict.fromkeys([*parts_before, *parts_after])
    changes = {name: round(parts_after.get(name, 0.0) - parts_before.get(name, 0.0), 3) for name in names}
    return [(name, change) for name, change in changes.items() if change]


def _parts(mark: Judgement) -> Mapping[str, float]:
    parts = {criterion.name: criterion.points for criterion in mark.criteria}
    parts[Deduction.CEILING] = min(0.0, mark.ceiling.most - mark.sum) if mark.ceiling else 0.0
    parts[Deduction.HELP] = -mark.help_cost
    parts[Deduction.LATE] = -mark.late_cost
    parts[Deduction.FLOOR] = mark.total - math.fsum(parts.values())
    return parts
