"""The table of criteria: for each what it is called, of which instruments it is asked, and how it is scored.

To add one is to write how it is scored and to add a row here.
"""

from collections.abc import Callable
from dataclasses import dataclass

from ear.criteria import CriterionName
from ear.facts.facts import Facts
from ear.judging.credits import Seen, nothing_played
from ear.judging.flow import flow
from ear.judging.judgement import CriterionScore
from ear.judging.notes import notes
from ear.judging.pedal import pedal
from ear.judging.timing import Timed
from ear.judging.touch import dynamics, length
from ear.notes import Instrument
from ear.text import Text, gettext_noop


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """What criteria are scored from: facts as they are seen, timing drawn already, and the level's floor."""

    seen: Seen
    timed: Timed
    floor_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionKind:
    """A criterion: its name in words, how it is scored, and the property that an instrument must have (empty: none)."""

    title: Text
    score: Callable[[Setting], CriterionScore]
    needs: str = ""
    """A property of the instrument without which it makes no sense."""
    is_asked: Callable[[Facts], bool] = lambda facts: True
    """Is there anything of it in the part? Else it is left out, and its weight goes to the others."""

    def serves(self, instrument: Instrument) -> bool:
        """Can an instrument be marked by it?"""
        return not self.needs or bool(getattr(instrument, self.needs))


CRITERIA: dict[CriterionName, CriterionKind] = {
    CriterionName.NOTES: CriterionKind(
        title=gettext_noop("Notes"), score=lambda s: notes(s.seen, floor_percent=s.floor_percent)
    ),
    CriterionName.TIMING: CriterionKind(title=gettext_noop("Timing"), score=lambda s: s.timed.scored),
    CriterionName.FLOW: CriterionKind(title=gettext_noop("Flow"), score=lambda s: flow(s.seen)),
    CriterionName.DYNAMICS: CriterionKind(title=gettext_noop("Dynamics"), score=lambda s: dynamics(s.seen)),
    CriterionName.LENGTH: CriterionKind(
        title=gettext_noop("Length"), score=lambda s: length(s.seen), needs="has_length"
    ),
    CriterionName.PEDAL: CriterionKind(
        title=gettext_noop("Pedal"), score=lambda s: pedal(s.seen), needs="has_pedal",
        is_asked=lambda facts: bool(facts.pedal),
    ),
}  # fmt: skip


def score_criterion(name: CriterionName, setting: Setting | None, *, seen: Seen) -> CriterionScore:
    """By its row of the table; 0 where nothing of the part was played (`setting` is None)."""
    return nothing_played(seen, name) if setting is None else CRITERIA[name].score(setting)
