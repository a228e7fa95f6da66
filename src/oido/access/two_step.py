"""Schools that require two-step sign-in of their staff: until it is switched on, they reach only the page where it is."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponseBase
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from oido.access.services import second_factor_of
from oido.common.permissions import NotAllowed
from oido.people.models import User

PASSED = "two_step"
"""In the session: its person has a second step, or was let in by the school's own sign-in service."""
REACHED_WITHOUT = frozenset(
    {"set-up-second-factor", "sign-out", "words", "offline", "offline-worker", "style", "choose-school", "change-password", "end-session", "end-sessions"}
)  # fmt: skip


def pass_two_step(request: HttpRequest) -> None:
    """Remember in the session that its person need not be asked again."""
    request.session[PASSED] = True


class TwoStepMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: Any, args: Any, kwargs: Any
    ) -> HttpResponseBase | None:
        user = request.user
        match = request.resolver_match
        if (
            not isinstance(user, User)
            or not user.is_teacher
            or match is None
            or match.url_name in REACHED_WITHOUT
        ):
            return None
        if not user.current_school.staff_need_two_step or request.session.get(PASSED):
            return None
        if second_factor_of(user) is not None:
            # It was switched on in another browser.
            pass_two_step(request)
            return None
        if request.method != "GET" or getattr(request, "htmx", False):
            raise NotAllowed
        messages.info(request, _("Your school requires two-step sign-in for staff. Set it up to continue."))
        return redirect("set-up-second-factor")
