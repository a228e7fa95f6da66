"""Wrong codes and passwords, counted by kind and by where they come from: each one makes the next wait longer.

A right code of a slip, a class or the set-up is let through however long the wait: these codes have 40 bits and more, so
nobody finds one by trying, and a class behind one address is not locked out by one of its pupils. Passwords are weaker.
Where too many were wrong, for however many names, only browsers that a person has signed in with before are let through.
"""

import math
from datetime import timedelta
from enum import StrEnum

from django.core.signing import BadSignature, Signer
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from oido.access.models import WrongGuesses
from oido.people.models import User

FORGET_AFTER = timedelta(minutes=15)
"""Without a wrong guess for so long, the count begins again."""
MAX_WAIT_S = 300.0
KNOWN_BROWSER = "oido_known"
KNOWN_FOR_S = 365 * 24 * 3600
MAX_KNOWN_PEOPLE = 40
"""Remembered by one browser: those of a shared computer in a classroom."""

SIGNER = Signer(salt="oido.known-browser")


class GuessKind(StrEnum):
    """What was guessed."""

    PASSWORD = "password"  # noqa: S105 - a kind, not a secret
    OWN_PASSWORD = "own_password"  # noqa: S105 - a kind, not a secret
    """Of somebody who is signed in and changes something about the account."""
    SLIP = "slip"
    CLASS_CODE = "class_code"
    SETUP_CODE = "setup_code"


FREE_GUESSES = {
    GuessKind.PASSWORD: 30,
    GuessKind.OWN_PASSWORD: 5,
    GuessKind.SLIP: 5,
    GuessKind.CLASS_CODE: 5,
    GuessKind.SETUP_CODE: 5,
}
"""Wrong ones before there is any wait. A whole class may mistype its passwords behind one address."""


def wait_s(kind: GuessKind, source: str) -> float:
    """Return the seconds until the next guess of this kind from this source; 0 where there is no wait.

    From the first one that is not free the wait is 1 s, and it doubles with each wrong guess.
    """
    row = WrongGuesses.objects.filter(kind=kind, source=source).first()
    now = timezone.now()
    if row is None or row.last_at < now - FORGET_AFTER:
        return 0.0
    excess = row.count - FREE_GUESSES[kind]
    if excess <= 0:
        return 0.0
    wait = MAX_WAIT_S if excess > 9 else min(MAX_WAIT_S, 2.0 ** (excess - 1))
    return max(0.0, wait - (now - row.last_at).total_seconds())


@transaction.atomic
def count_wrong(kind: GuessKind, source: str) -> float:
    """Count a wrong guess; return the seconds until the next one."""
    row, _is_new = WrongGuesses.objects.select_for_update().get_or_create(kind=kind, source=source)
    now = timezone.now()
    row.count = 1 if row.last_at < now - FORGET_AFTER else row.count + 1
    row.last_at = now
    row.save(update_fields=["count", "last_at"])
    return wait_s(kind, source)


def forget_old_guesses() -> int:
    """Delete counts that have run out; return how many."""
    return WrongGuesses.objects.filter(last_at__lt=timezone.now() - FORGET_AFTER).delete()[0]


def source_of_person(person: User) -> str:
    """Return the source of guesses at the own password of a person who is signed in."""
    return f"person {person.pk}"


def address_of(request: HttpRequest) -> str:
    return str(request.META.get("REMOTE_ADDR") or "")


def wait_minutes(seconds: float) -> int:
    """Return the wait in whole minutes, rounded up."""
    return math.ceil(seconds / 60)


def is_known_browser(request: HttpRequest, person: User | None) -> bool:
    """Return whether this person has signed in with this browser before."""
    return person is not None and person.pk in _known_people(request)


def remember_browser(request: HttpRequest, response: HttpResponse, person: User) -> None:
    """Let the browser know that this person has signed in with it, in a signed cookie."""
    known = [pk for pk in _known_people(request) if pk != person.pk]
    value = "-".join(map(str, [person.pk, *known][:MAX_KNOWN_PEOPLE]))
    response.set_cookie(
        KNOWN_BROWSER, SIGNER.sign(value), max_age=KNOWN_FOR_S, httponly=True, samesite="Lax",
        secure=request.is_secure(),
    )  # fmt: skip


def _known_people(request: HttpRequest) -> list[int]:
    try:
        value = SIGNER.unsign(request.COOKIES.get(KNOWN_BROWSER, ""))
    except BadSignature:
        return []
    return [int(pk) for pk in value.split("-")]
