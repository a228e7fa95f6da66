"""What measured criteria are called."""

from django.utils.translation import gettext

from ear.criteria.table import CRITERIA
from ear.criterion import CriterionKey
from ear.judging.rubric import Rubric
from ear.notes import Kind
from oido.common.readers import promise

CRITERION_LABELS = {str(name): promise(kind.title) for name, kind in CRITERIA.items()}


def criteria_of(kind: Kind) -> tuple[CriterionKey, ...]:
    """Return the criteria for an instrument, in the order of the table."""
    return tuple(name for name, row in CRITERIA.items() if row.serves(kind.instrument))


def criterion_label(name: str, rubric: Rubric) -> str:
    """Return the label of a measured criterion, or of one that the rubric adds."""
    own = rubric.criterion(name)
    return gettext(own.label) if own else str(CRITERION_LABELS[name])
