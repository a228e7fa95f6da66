"""What of the marking a head should look at: takes that have waited for long."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from oido.people.models import School
from oido.roster.attention import MATTERS, Matter
from oido.takes.models import Take

LONG = timedelta(days=7)


def _waiting_for_long(school: School) -> Matter | None:
    waiting = Take.everywhere.filter(
        school=school, handed_in_at__lt=timezone.now() - LONG, sheet__released_at=None, sheet__accepted_at=None,
        sheet__asked_again_at=None, assignment__school_class__archived_at=None, student__erased_as="",
    )  # fmt: skip
    count = waiting.count()
    sentence = ngettext(
        "One take has been waiting to be marked for more than a week.",
        "%(n)s takes have been waiting to be marked for more than a week.",
        count,
    ) % {"n": count}
    return (
        Matter(sentence=sentence, address=reverse("classes"), label=_("See your classes")) if count else None
    )


MATTERS.insert(0, _waiting_for_long)
