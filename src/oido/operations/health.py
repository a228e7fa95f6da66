"""`/health/`: is the process alive? `/ready/`: can it serve pages, and is what it needs beside it there? `/metrics/`: figures.

They are answered before any other middleware: by whichever name the machine is called, without a session, over HTTP too,
because they are asked from beside it. With the token of the installation `/ready/` tells figures as well.
"""

import json
import secrets
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.utils import timezone

from oido.operations.metrics import CONTENT_TYPE, metrics
from oido.operations.state import conditions

ALIVE = "/health/"
READY = "/ready/"
METRICS = "/metrics/"


class HealthMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if request.path_info == ALIVE:
            return _unkept(HttpResponse("alive\n", content_type="text/plain; charset=utf-8"))
        if request.path_info == READY:
            return _unkept(_ready(request))
        if request.path_info == METRICS and brings_token(request):
            return _unkept(HttpResponse(metrics(), content_type=CONTENT_TYPE))
        return self.get_response(request)


def _unkept(response: HttpResponse) -> HttpResponse:
    response["Cache-Control"] = "no-store"
    # It is asked every few seconds: that it says no is no news for the log, which has the reason already.
    response._has_been_logged = True  # type: ignore[attr-defined]
    return response


def brings_token(request: HttpRequest) -> bool:
    """Does the request bring the token of the installation? Without one set, nobody is told."""
    sent = request.headers.get("Authorization", "").removeprefix("Bearer ")
    token = settings.STATUS_TOKEN
    return bool(token) and secrets.compare_digest(sent.encode(), token.encode())


def _ready(request: HttpRequest) -> HttpResponse:
    has_token = brings_token(request)
    now = conditions(with_mail=has_token)
    ill = [condition for condition in now if not condition.is_well]
    state = "not ready" if any(condition.is_vital for condition in ill) else "in trouble" if ill else "ready"
    answer: dict[str, object] = {
        "state": state,
        "well": {condition.name: condition.is_well for condition in now},
    }
    if has_token:
        answer |= {
            "words": {condition.name: condition.words for condition in now},
            "time": timezone.now().isoformat(),
        }
    response = HttpResponse(json.dumps(answer, indent=1) + "\n", content_type="application/json")
    response.status_code = 503 if state == "not ready" else 200
    return response
