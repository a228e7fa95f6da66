from django import template

from ear.judging.rubric import Rubric
from oido.rubrics.labels import criterion_label

register = template.Library()


@register.filter
def criterion_name(name: str, rubric: Rubric) -> str:
    """What a criterion is called."""
    return criterion_label(name, rubric)
