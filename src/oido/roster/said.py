"""What is said of the lines of a list that cannot be taken."""

from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from oido.roster.lists import Wrong

WRONG: dict[str, Any] = {
    "no_name": gettext_lazy("there is no name"),
    "name_too_long": gettext_lazy("the name is too long"),
    "bad_email": gettext_lazy("“%(email)s” is no e-mail address"),
    "unknown_role": gettext_lazy("“%(role)s” is no role; write student, teacher or head"),
    "unknown_class": gettext_lazy("“%(class)s” is none of the classes in classes.csv"),
}


def said(wrong: Wrong) -> str:
    reason = str(WRONG[wrong.code]) % wrong.values
    if wrong.file:
        return _("%(file)s, line %(line)s: %(reason)s.") % {
            "file": wrong.file,
            "line": wrong.line,
            "reason": reason,
        }
    return _("Line %(line)s: %(reason)s.") % {"line": wrong.line, "reason": reason}
