from django import template
from django.utils.translation import gettext as _

from ear.conventions import Conventions

register = template.Library()


@register.simple_tag
def naming_example(conventions: Conventions) -> str:
    """The conventions at work, in a line."""
    return _("Middle C is written %(c)s, the key above it %(black)s; one beat of 4/4 is a %(beat)s.") % {
        "c": conventions.pitch(60, fifths=0),
        "black": conventions.pitch(61, fifths=0),
        "beat": _(conventions.value_name("crotchet")),
    }
