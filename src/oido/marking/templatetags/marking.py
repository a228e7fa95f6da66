from django import template

from ear.findings.kind import FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.reader import Reader
from oido.marking.sheets import first_heard as stored
from oido.takes.models import Take

register = template.Library()


@register.filter
def first_heard(take: Take, reader: Reader) -> str:
    """The ear note that costs a take most, for its teacher; empty where nothing was heard."""
    finding = stored(take.sheet)
    return render_finding(finding, FOR_TEACHER, reader) if finding else ""
