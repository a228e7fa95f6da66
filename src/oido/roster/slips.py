"""Slips: one for each person, with a name to sign in with and a code that works once, to be cut apart."""

from collections.abc import Sequence
from dataclasses import dataclass

import segno
from django.conf import settings
from django.db import transaction
from django.template.loader import render_to_string
from django.urls import reverse

from oido.access.models import CODE_KEPT
from oido.access.services import make_code
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.exercises.printed import fonts_url, write_pdf
from oido.people.authority import Authority
from oido.people.models import User

MAX_SLIPS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SignInSlip:
    person: User
    code: str
    address: str
    picture: str
    """A square code of the address, as a picture's own text."""


@transaction.atomic
def make_slips(by: User, people: Sequence[User]) -> list[SignInSlip]:
    """Make new codes for all and end their earlier ones.

    Raise NotAllowed if the user may not help one of them.
    """
    authority = Authority(by, [person.pk for person in people])
    if not people or len(people) > MAX_SLIPS:
        raise NotAllowed
    if not all(authority.may_issue_slip(person.pk) for person in people):
        raise NotAllowed
    made = []
    for person in people:
        code = make_code(by, person)
        address = settings.OWN_ADDRESS + reverse("slip-by-picture", args=[code])
        picture = segno.make(address, error="m").svg_data_uri(border=1)
        made.append(SignInSlip(person=person, code=code, address=address, picture=picture))
    remember("slips_printed", actor=by, n=len(made))
    return made


def slips_pdf(by: User, people: Sequence[User]) -> bytes:
    """Return the slips as a PDF on A4, ten to a page."""
    slips = make_slips(by, people)
    context: dict[str, object] = {
        "slips": slips,
        "school": by.school,
        "fonts": fonts_url(),
        "sign_in": settings.OWN_ADDRESS + reverse("slip"),
        "days": CODE_KEPT.days,
    }
    return write_pdf(render_to_string("roster/slips.html", context))
