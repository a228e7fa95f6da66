"""Pages for requests that are refused or fail: what happened, what to do next, and a reference that is also in the log."""

import logging
import secrets
import sys
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

logger = logging.getLogger(__name__)
REFERENCE_BYTES = 4


def _page(request: HttpRequest, name: str, status: int, **more: Any) -> HttpResponse:
    reference = secrets.token_hex(REFERENCE_BYTES).upper()
    logger.log(
        logging.ERROR if status >= 500 else logging.INFO,
        "%s answered to %s %s, reference %s", status, request.method, request.path, reference,
        exc_info=sys.exc_info() if status >= 500 else None,
    )  # fmt: skip
    return render(request, f"refusals/{name}.html", {"reference": reference, **more}, status=status)


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return _page(request, "bad_request", 400)


def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return _page(request, "forbidden", 403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return _page(request, "not_found", 404)


def failed(request: HttpRequest) -> HttpResponse:
    """Answer to an error in the code. The page reads nothing from the database, which may be what failed."""
    again = request.get_full_path() if request.method == "GET" else ""
    return _page(request, "failed", 500, again=again)


def stale_form(request: HttpRequest) -> HttpResponse:
    """Answer to a form whose token is not that of the session."""
    return _page(request, "stale_form", 403, page=request.get_full_path())
