"""The sorts of page: for teachers, for heads, for students."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponseBase

View = Callable[..., HttpResponseBase]


class NotAllowed(PermissionDenied):
    """Raised by services: this person may not do this."""


def _only(allowed: Callable[[Any], bool]) -> Callable[[View], View]:
    def decorate(view: View) -> View:
        @wraps(view)
        def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
            if not allowed(request.user):
                raise PermissionDenied
            return view(request, *args, **kwargs)

        return guarded

    return decorate


for_teachers = _only(lambda user: user.is_teacher)
for_heads = _only(lambda user: user.is_head)
for_students = _only(lambda user: not user.is_teacher)
