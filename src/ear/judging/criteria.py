"""The table of criteria: for each what it is called, of which instruments it is asked, and how it is scored.

To add one is to write how it is scored and to add a row here.
"""

from collections.abc import Callable
from dataclasses import dataclass

from ear.criteria import CriterionName
from ear.facts.facts import Facts
from ear.judging.credits import FactsView, nothing_played
from ear.judging.flow import flow
from ear.judging.free import free_flow, free_notes
from ear.judging.judgement import CriterionScore
from ear.judging.notes import notes
from ear.judging.pedal import pedal
from ear.judging.timing import Timed
from ear.judging.touch import dynamics, length
from ear.notes import Instrument
from ear.text import Text, gettext_noop


@dataclass(frozen=True, slots=True, kw_only=True)
class ScoringInput:
    """What criteria are scored from: facts as they are seen, timing drawn already, and the level's floor."""

    seen: FactsView
    timed: Timed
    floor_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionKind:
    """A criterion: its name in words, how it is scored, and the property that an instrument must have (empty: none)."""

    title: Text
    score: Callable[[ScoringInput], CriterionScore]
    needs: str = ""
    """A property of the instrument without which it makes no sense."""
    has_any: Callable[[Facts], bool] = lambda facts: True
    """Is there anything of it in the part? Else it is left out, and its weight goes to the others."""
    score_free: Callable[[ScoringInput], CriterionScore] | None = None
    """How it is scored where no notes are written; None where it makes no sense there."""

    def serves(self, instrument: Instrument) -> bool:
        """Return whether an instrument can be marked by this criterion."""
        return not self.needs or bool(getattr(instrument, self.needs))

    def is_asked(self, facts: Facts) -> bool:
        """Return whether this criterion counts for such a take."""
        return self.has_any(facts) if facts.free is None else self.score_free is not None


CRITERIA: dict[CriterionName, CriterionKind] = {
    CriterionName.NOTES: CriterionKind(
        title=gettext_noop("Notes"), score=lambda s: notes(s.seen, floor_percent=s.floor_percent),
        score_free=lambda s: free_notes(s.seen),
    ),
    CriterionName.TIMING: CriterionKind(
        title=gettext_noop("Timing"), score=lambda s: s.timed.scored, score_free=lambda s: s.timed.scored
    ),
    CriterionName.FLOW: CriterionKind(
        title=gettext_noop("Flow"), score=lambda s: flow(s.seen), score_free=lambda s: free_flow(s.seen)
    ),
    CriterionName.DYNAMICS: CriterionKind(title=gettext_noop("Dynamics"), score=lambda s: dynamics(s.seen)),
    CriterionName.LENGTH: CriterionKind(
        title=gettext_noop("Length"), score=lambda s: length(s.seen), needs="has_length"
    ),
    CriterionName.PEDAL: CriterionKind(
        title=gettext_noop("Pedal"), score=lambda s: pedal(s.seen), needs="has_pedal",
        has_any=lambda facts: bool(facts.pedal),
    ),
}  # fmt: skip


def score_criterion(name: CriterionName, setting: ScoringInput | None, *, seen: FactsView) -> CriterionScore:
    """Return the score of a criterion, 0 to 100, by its row of the table; 0 if nothing of the part was played
    (`setting` is None).
    """
    if setting is None:
        return nothing_played(seen, name)
    kind = CRITERIA[name]
    is_free = seen.facts.free is not None and kind.score_free is not None
    return kind.score_free(setting) if is_free and kind.score_free else kind.score(setting)
