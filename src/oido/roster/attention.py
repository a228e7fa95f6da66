"""What a head should look at on the page of the school. Apps above roster add what they know."""

from collections.abc import Callable
from dataclasses import dataclass

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from oido.people.models import Membership, School
from oido.post.models import Email


@dataclass(frozen=True, slots=True, kw_only=True)
class Matter:
    """One thing to look at, in a sentence, and where that is done."""

    sentence: str
    address: str
    label: str
    """What the button that leads there says."""


MATTERS: list[Callable[[School], Matter | None]] = []
"""Each returns what it has to say about a school, or None."""


def matters_of(school: School) -> list[Matter]:
    """Return everything that a head should look at, in the order in which apps have registered it."""
    return [matter for look in MATTERS if (matter := look(school)) is not None]


def _never_signed_in(school: School) -> Matter | None:
    members = Membership.everywhere.filter(school=school, left_at=None, person__last_login=None)
    count = members.filter(person__erased_as="").count()
    sentence = ngettext(
        "One person has never signed in. Print a slip for them.",
        "%(n)s people have never signed in. Print slips for them.",
        count,
    ) % {"n": count}
    return (
        Matter(sentence=sentence, address=f"{reverse('people')}?show=never", label=_("See who they are"))
        if count
        else None
    )


def _unsent_letters(school: School) -> Matter | None:
    count = Email.everywhere.filter(school=school, state=Email.State.FAILED).count()
    sentence = ngettext("One e-mail could not be sent.", "%(n)s e-mails could not be sent.", count) % {
        "n": count
    }
    return Matter(sentence=sentence, address=reverse("outbox"), label=_("See the Outbox")) if count else None


MATTERS += [_never_signed_in, _unsent_letters]
