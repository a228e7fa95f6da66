"""Where somebody is signed in: remembered, listed, ended."""

import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from oido.access.models import SignedIn
from oido.audit.services import remember
from oido.people.models import User

SEEN = "seen"
SEEN_EVERY_S = 300.0
MAX_BROWSER = 200


@receiver(user_logged_in)
def _begun(sender: Any, request: HttpRequest, user: User, **more: Any) -> None:
    key = request.session.session_key
    if key is None:
        return
    SignedIn.objects.update_or_create(
        session_key=key,
        defaults={
            "person": user,
            "browser": request.META.get("HTTP_USER_AGENT", "")[:MAX_BROWSER],
            "address": request.META.get("REMOTE_ADDR") or None,
        },
    )
    request.session[SEEN] = time.time()
    remember("signed_in", actor=user)


@receiver(user_logged_out)
def _ended(sender: Any, request: HttpRequest, user: User | None, **more: Any) -> None:
    SignedIn.objects.filter(session_key=request.session.session_key).delete()


class SeenMiddleware:
    """When somebody was last here, to five minutes: no row is written for every page."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        now = time.time()
        seen = request.session.get(SEEN)
        if isinstance(seen, float) and now - seen > SEEN_EVERY_S and request.user.is_authenticated:
            SignedIn.objects.filter(session_key=request.session.session_key).update(seen_at=timezone.now())
            request.session[SEEN] = now
        return self.get_response(request)


def sessions_of(person: User) -> list[SignedIn]:
    """Return a person's valid sessions, the most recently seen first."""
    rows = list(SignedIn.objects.filter(person=person))
    known = set(
        Session.objects.filter(
            session_key__in=[row.session_key for row in rows], expire_date__gt=timezone.now()
        ).values_list("session_key", flat=True)
    )
    return [row for row in rows if row.session_key in known]


def keep_session(person: User, key: str | None) -> None:
    """Follow the only session of a person that is left to its new key."""
    SignedIn.objects.filter(person=person).update(session_key=key)


def end_session(row: SignedIn) -> None:
    """End a session. Whoever uses it is signed out at the next request."""
    Session.objects.filter(session_key=row.session_key).delete()
    row.delete()


def end_sessions(person: User, *, but: str | None = None) -> int:
    """End all of a person's sessions but one, and return how many were ended."""
    rows = SignedIn.objects.filter(person=person).exclude(session_key=but or "")
    keys = list(rows.values_list("session_key", flat=True))
    Session.objects.filter(session_key__in=keys).delete()
    return rows.delete()[0]


def forget_old_sessions() -> int:
    """Delete expired sessions and what was stored about them."""
    count = Session.objects.filter(expire_date__lt=timezone.now()).delete()[0]
    old = timezone.now() - timedelta(days=1)
    SignedIn.objects.filter(seen_at__lt=old).exclude(
        session_key__in=Session.objects.values("session_key")
    ).delete()
    return count
