"""What a criterion is: a row of the table, to which each module of this package gives its own."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from ear.criteria.credits import FactsView
from ear.criteria.score import CriterionScore, LossReason, Timed, Verdict
from ear.criteria.working import LineWords
from ear.criterion import CriterionKey
from ear.facts.facts import Facts
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.notes import Instrument, Kind
from ear.text import Text

Rule = Callable[[Context], Iterator[Finding]]
"""Looks at a measured take, and yields what it finds."""
Column = Callable[[Context], Sequence[float | None]]
"""Returns a figure of each target note; None where a note has none."""
Praise = Callable[[Facts, set[int]], Iterator[Finding]]
"""Yields what went well, from facts and the rows that lost credit."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ScoringInput:
    """What criteria are scored from: facts as they are seen, timing drawn already, the level's floor, and what of Notes
    another key costs."""

    seen: FactsView
    timed: Timed
    floor_percent: float
    other_key_share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CeilingRule:
    """The whole is no more than `least` and `rate` times the criterion's score; `text` says so, of a score `by`."""

    least: float
    rate: float
    text: Text


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionKind:
    """A criterion: its name in words, how it is scored and told, and of which instruments it is asked."""

    key: CriterionKey
    title: Text
    score: Callable[[ScoringInput], CriterionScore]
    score_free: Callable[[ScoringInput], CriterionScore] | None = None
    """How it is scored where no notes are written; None where it makes no sense there."""
    needs: str = ""
    """A property of the instrument without which it makes no sense."""
    has_any: Callable[[Facts], bool] = lambda facts: True
    """Is there anything of it in the part? Else it is left out, and its weight goes to the others."""
    weights: Mapping[Kind, float] = field(default_factory=dict)
    """In the rubrics that come with Oido; a criterion that is not in them is there for teachers to choose."""
    speaks: int
    """Of a row that lost in several criteria, the one with the lowest number gives its verdict."""
    reported: int
    """The place of its verdicts and its praise in reports."""
    verdicts: Mapping[Verdict, Text]
    """What a row is called that has lost credit."""
    losses: Mapping[LossReason, Verdict] = field(default_factory=dict)
    """Reasons that are told by a verdict of another name."""
    of_whole: frozenset[LossReason] = frozenset()
    """Reasons for which the whole take has lost, and no row of it is called anything."""
    lines: Mapping[str, LineWords]
    """Lines of its sum, by code."""
    ceiling: CeilingRule | None = None
    """Where the whole mark can be no better than this criterion allows."""
    columns: Mapping[str, Column] = field(default_factory=dict)
    """What it alone has to know of each written note, by name: kept with the facts (`RowFacts.own`)."""
    findings: tuple[type[Finding], ...] = ()
    rules: tuple[Rule, ...] = ()
    """What finds them in a take of a written part,"""
    free_rules: tuple[Rule, ...] = ()
    """and in a take of an exercise without one."""
    praise: Praise = lambda facts, lost: iter(())

    def serves(self, instrument: Instrument) -> bool:
        """Return whether an instrument can be marked by this criterion."""
        return not self.needs or bool(getattr(instrument, self.needs))

    def is_asked(self, facts: Facts) -> bool:
        """Return whether this criterion counts for such a take."""
        return self.has_any(facts) if facts.free is None else self.score_free is not None
