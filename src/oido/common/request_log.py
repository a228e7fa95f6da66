"""A line in the log for each request, and what every other line says of the request that it belongs to.

Lines name things by their keys: no names of people, no text, and no address as it was asked for, because addresses hold tokens that let
somebody in, and what was searched for. The address's pattern stands there instead.
"""

import logging
import secrets
import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase
from structlog.contextvars import bind_contextvars, clear_contextvars

REFERENCE_BYTES = 4
NOWHERE = "(no such page)"
logger = logging.getLogger("oido.requests")


def reference_of(request: HttpRequest) -> str:
    """Return what a request is called in the log and on error pages."""
    known: str | None = getattr(request, "reference", None)
    if known is None:
        known = request.reference = secrets.token_hex(REFERENCE_BYTES).upper()  # type: ignore[attr-defined]
    return known


def route_of(request: HttpRequest) -> str:
    """Return the pattern of a request's address: without keys, tokens and what was searched for."""
    match = request.resolver_match
    return f"/{match.route}" if match is not None else NOWHERE


class RequestLogMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        # A thread of the server takes one request after the other.
        clear_contextvars()
        bind_contextvars(request=reference_of(request))
        begun = time.perf_counter()
        response = self.get_response(request)
        about = {
            "method": request.method, "route": route_of(request), "status": response.status_code,
            "ms": round(1000 * (time.perf_counter() - begun)),
        }  # fmt: skip
        logger.info("answered", extra=about)
        return response
