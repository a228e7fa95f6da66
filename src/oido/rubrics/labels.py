"""What measured criteria are called."""

from django.utils.translation import gettext_lazy as _

from ear.criteria import CriterionName
from ear.judging.criteria import CRITERIA
from ear.judging.rubric import Rubric
from ear.notes import Kind

CRITERION_LABELS = {name.value: _(kind.title.singular) for name, kind in CRITERIA.items()}


def criteria_of(kind: Kind) -> tuple[CriterionName, ...]:
    """Return the criteria for an instrument, in the order of the table."""
    return tuple(name for name, row in CRITERIA.items() if row.serves(kind.instrument))


def criterion_label(name: str, rubric: Rubric) -> str:
    """Return the label of a measured criterion, or of one that the rubric adds."""
    own = rubric.criterion(name)
    return own.label if own else str(CRITERION_LABELS[name])
