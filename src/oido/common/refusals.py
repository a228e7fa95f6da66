"""Pages for requests that are refused or fail: what happened, what to do next, and a reference that is also in the log."""

import logging
import sys
from typing import Any

from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.translation import gettext as _

from oido.common.request_log import reference_of, route_of

logger = logging.getLogger(__name__)
RETRY_AFTER_S = 5
MAX_KEPT = 100_000
"""Characters of a form that a page of an error keeps."""
DATABASE_AWAY = frozenset({1053, 1927, 2002, 2003, 2006, 2013})
"""MariaDB's error codes for a server that shuts down, or that cannot be reached, or whose connection is lost."""
DATABASE_BUSY = frozenset({1021, 1040, 1114, 1205, 1213, 1290})
"""For a full disk or table, too many connections, a lock that another transaction keeps, a deadlock, and a server that only reads."""


def _logged(request: HttpRequest, status: int) -> str:
    """Log a refusal and return its reference."""
    reference = reference_of(request)
    level = {500: logging.ERROR, 503: logging.WARNING}.get(status, logging.INFO)
    logger.log(
        level, "%s answered to %s %s, reference %s", status, request.method, route_of(request), reference,
        # A database that is away says so in each request: there is nothing to be found in the code.
        exc_info=sys.exc_info() if level == logging.ERROR else None,
    )  # fmt: skip
    return reference


def _page(request: HttpRequest, name: str, status: int, **more: Any) -> HttpResponse:
    context = {"reference": _logged(request, status), **more}
    return render(request, f"refusals/{name}.html", context, status=status)


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return _page(request, "bad_request", 400)


def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return _page(request, "forbidden", 403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return _page(request, "not_found", 404)


def failed(request: HttpRequest) -> HttpResponse:
    """Answer to an error in the code, or to a database that cannot be reached and is being restarted."""
    code = _database_code(sys.exc_info()[1])
    is_away, is_busy = code in DATABASE_AWAY, code in DATABASE_BUSY
    status = 503 if is_away or is_busy else 500
    context = {
        "reference": _logged(request, status),
        "path": request.get_full_path(),
        "is_read": request.method in ("GET", "HEAD"),
        "sent": _sent(request),
        "heading": _("Oido is restarting") if is_away
        else _("Oido can’t save anything at the moment") if is_busy
        else _("Something went wrong"),
        "said": _("The page is back in a few seconds. Nothing that has been saved is lost.") if is_away
        else _("Try again in a few seconds. Nothing you have saved is lost.") if is_busy
        else _("Nothing that has been saved is lost. Try again. If it happens again, tell your school’s Oido administrator."),
    }  # fmt: skip
    response = HttpResponse(render_to_string("refusals/failed.html", context), status=status)
    if status == 503:
        response["Retry-After"] = str(RETRY_AFTER_S)
    return response


def _sent(request: HttpRequest) -> list[tuple[str, str]]:
    """Return what a form sent, to be sent once more by its own token; nothing where there are files or passwords, or too much."""
    if request.method != "POST" or request.FILES:
        return []
    fields = [(name, str(value)) for name, values in request.POST.lists() for value in values]
    is_secret = any("password" in name or "code" in name for name, _value in fields)
    size = sum(len(name) + len(value) for name, value in fields)
    return [] if is_secret or size > MAX_KEPT else fields


def _database_code(problem: BaseException | None) -> object:
    """Return MariaDB's code for what went wrong, or None if it was not the database."""
    return problem.args[0] if isinstance(problem, DatabaseError) and problem.args else None


def stale_form(request: HttpRequest) -> HttpResponse:
    """Answer to a form whose token is not that of the session."""
    return _page(request, "stale_form", 403, page=request.get_full_path())
