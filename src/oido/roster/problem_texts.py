"""What is said of the lines of a list that cannot be taken."""

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from oido.roster.lists import LeftOut, Wrong

WRONG: dict[str, object] = {
    "no_name": gettext_lazy("there is no name"),
    "name_too_long": gettext_lazy("the name is too long"),
    "control_character": gettext_lazy("there is a character in it that cannot be printed"),
    "bad_email": gettext_lazy("“%(email)s” is not an e-mail address"),
    "unknown_role": gettext_lazy("“%(role)s” is not a role; write student, teacher or head"),
    "no_role": gettext_lazy("neither roles.csv, users.csv nor enrollments.csv gives a role for %(name)s"),
    "unknown_class": gettext_lazy("“%(class)s” is not one of the classes in classes.csv"),
}
LEFT_OUT: dict[str, object] = {
    "deleted": gettext_lazy("%(name)s (line %(line)s): marked as no longer active"),
    "disabled": gettext_lazy("%(name)s (line %(line)s): the archive says they may not sign in"),
    "other_role": gettext_lazy("%(name)s (line %(line)s): neither student nor staff"),
}


def describe_left_out(left_out: LeftOut) -> str:
    return str(LEFT_OUT[left_out.code]) % {"name": left_out.name, "line": left_out.line}


def describe_problem(wrong: Wrong) -> str:
    reason = str(WRONG[wrong.code]) % wrong.values
    if wrong.file:
        return _("%(file)s, line %(line)s: %(reason)s.") % {
            "file": wrong.file,
            "line": wrong.line,
            "reason": reason,
        }
    return _("Line %(line)s: %(reason)s.") % {"line": wrong.line, "reason": reason}
