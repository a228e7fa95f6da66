"""A mark's working, ready to be read: every line in the reader's words, every sum with figures that add up."""

from dataclasses import dataclass
from typing import Any

from ear.criteria.working import LineText
from ear.extraction.codec import facts_from_json
from ear.judging.codec import scores_from_json
from ear.judging.judge import conclude
from ear.judging.judgement import Judgement
from ear.judging.working import describe_ceiling, describe_line
from ear.reader import Reader
from oido.common.readers import number
from oido.marking.sheets import changes_if_concluded
from oido.reports.analysed_take import AnalysedTake
from oido.takes.judging import rules_for


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkedCriterion:
    """`sum` is score × weight = points, as it is printed; empty where it has no score."""

    criterion: Any
    lines: tuple[LineText, ...]
    sum: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Worked:
    criteria: tuple[WorkedCriterion, ...]
    sum: str
    ceiling: LineText | None
    help: str
    late: str
    total: str


def working_of(mark: Judgement, reader: Reader) -> Worked:
    return Worked(
        criteria=tuple(
            WorkedCriterion(
                criterion=c,
                lines=tuple(describe_line(line, reader) for line in c.lines),
                sum="" if c.score is None else f"{number(c.score, 1)} × {c.weight}% = {number(c.points)}",
            )
            for c in mark.criteria
        ),
        sum=number(mark.sum),
        ceiling=describe_ceiling(mark.ceiling, reader) if mark.ceiling else None,
        help=number(mark.help_cost) if mark.help_cost else "",
        late=number(mark.late_cost) if mark.late_cost else "",
        total=number(mark.total),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """What a newer version of the measuring makes of a mark that students have seen."""

    before: float
    after: float
    band: str
    out_of: int

    @property
    def is_same(self) -> bool:
        return self.before == self.after


def proposal_of(analysed: AnalysedTake) -> Proposal | None:
    take = analysed.take
    row = take.proposed
    if row is None:
        return None
    facts = facts_from_json(row.measurement.facts)
    mark = conclude(
        facts, scores_from_json(row.scores), rules_for(take, row.rubric).rubric, changes_if_concluded(take)
    )
    return Proposal(
        before=take.sheet.points, after=mark.points, band=mark.band.name, out_of=mark.out_of
    )  # fmt: skip
