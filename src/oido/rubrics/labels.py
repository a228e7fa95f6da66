"""What measured criteria are called."""

from django.utils.translation import gettext_lazy as _

from ear.criteria import CriterionName
from ear.judging.rubric import Rubric

CRITERION_LABELS = {
    CriterionName.NOTES.value: _("Notes"),
    CriterionName.TIMING.value: _("Timing"),
    CriterionName.FLOW.value: _("Flow"),
    CriterionName.DYNAMICS.value: _("Dynamics"),
    CriterionName.LENGTH.value: _("Length"),
}


def criterion_label(name: str, rubric: Rubric) -> str:
    """Of a measured criterion, or of one that the rubric has of its own."""
    own = rubric.criterion(name)
    return own.label if own else str(CRITERION_LABELS[name])
