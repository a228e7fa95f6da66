"""From where a request comes: remembered while it is answered, so that services need not be told."""

from collections.abc import Callable
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponseBase

_address: ContextVar[str | None] = ContextVar("address", default=None)


def address() -> str | None:
    """Return the address of the current request, or None outside a request."""
    return _address.get()


class WhereMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        token = _address.set(request.META.get("REMOTE_ADDR") or None)
        try:
            return self.get_response(request)
        finally:
            _address.reset(token)
