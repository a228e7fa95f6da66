"""Somebody who is signed out in the middle of something: nothing of it is lost, and no page is drawn inside another."""

from typing import Any

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import redirect_to_login
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import activate
from django.utils.translation import gettext as _
from structlog.contextvars import bind_contextvars

from oido.common.methods import can_be_looked_at
from oido.common.refusals import stale_form
from oido.people.scope import Scope, within

NAVIGATION = ("navigate", None)
"""`Sec-Fetch-Mode` of a page that is opened; who sends none opens pages, too."""


def _is_script(request: HttpRequest) -> bool:
    return bool(getattr(request, "htmx", False)) or request.headers.get("Sec-Fetch-Mode") not in NAVIGATION


def _signed_out() -> HttpResponse:
    return HttpResponse(_("You are signed out."), status=401, content_type="text/plain; charset=utf-8")


def refuse_stale_token(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Answer a request whose form token is not that of the session.

    A script is told that it is signed out, because signing in again in another tab mends both.
    """
    return _signed_out() if _is_script(request) else stale_form(request)


class SignedOutMiddleware(LoginRequiredMiddleware):
    def handle_no_permission(self, request: HttpRequest, view_func: Any) -> Any:
        """Answer a request from somebody who is signed out.

        Scripts get a code and ask again later; a posted form is kept on a page until it can be sent again; a
        page is opened after signing in, if there is one.
        """
        if _is_script(request) or request.content_type == "application/json":
            return _signed_out()
        if request.method in ("GET", "HEAD"):
            path = request.get_full_path()
            return redirect_to_login(path if can_be_looked_at(path) else reverse("home"))
        sent = [
            (name, value)
            for name, values in request.POST.lists()
            for value in values
            if name != "csrfmiddlewaretoken"
        ]
        context = {
            "sent": sent,
            "files": [str(getattr(one, "name", "")) for one in request.FILES.values()],
            "path": request.get_full_path(),
        }
        return render(request, "people/signed_out.html", context, status=401)


CHOSEN = "membership"
"""In the session: as which member of which school they work here."""


class SchoolMiddleware:
    """Each request is in one school, that of the membership which its person chose or was last in, and in the language
    that its person reads. Whoever is signed out is in none; whoever has left every school finds only the page that says so."""

    def __init__(self, get_response: Any) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> Any:
        if not request.user.is_authenticated:
            with within(Scope.NOWHERE):
                return self.get_response(request)
        chosen, mine = request.session.get(CHOSEN), request.user.member_of
        membership = next((member for member in mine if member.pk == chosen), mine[0] if mine else None)
        request.user.membership = membership
        if request.user.reads:
            activate(request.user.reads)
        if membership is None:
            with within(Scope.NOWHERE):
                return self.get_response(request)
        bind_contextvars(person=request.user.pk, school=membership.school_id)
        with membership.school.within():
            return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: Any) -> Any:
        is_of_no_school = request.user.is_authenticated and request.user.membership is None
        match = request.resolver_match
        if is_of_no_school and match is not None and match.url_name not in WITHOUT_SCHOOL:
            return render(request, "people/no_school.html", status=403)
        return None


WITHOUT_SCHOOL = frozenset(
    {
        "sign-out",
        "words",
        "offline",
        "offline-worker",
        "style",
        "account",
        "enter-code",
        "join-class",
        "invitation",
        "choose-school",
        "change-password",
        "end-session",
        "end-sessions",
    }
)
