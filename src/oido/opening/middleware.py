"""An instance without a school answers every page with the way to set one up."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase
from django.shortcuts import redirect

from oido.opening.services import is_empty

ALWAYS = frozenset({"set-up", "words", "offline", "offline-worker", "style"})


class EmptyMiddleware:
    """Asked only of those who are signed out: whoever is signed in is of a school."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response
        self.has_school = False
        """Once there is one, it is not asked again: schools do not go."""

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, *_more: object) -> HttpResponseBase | None:
        match = request.resolver_match
        if self.has_school or request.user.is_authenticated or match is None or match.url_name in ALWAYS:
            return None
        self.has_school = not is_empty()
        return None if self.has_school else redirect("set-up")
