"""Refuse requests beyond a limit, on a page that says when to try again."""

import logging
import math
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import render
from django.utils.translation import ngettext

from oido.limits.rules import Limit, limit_of
from oido.limits.services import count_use

logger = logging.getLogger(__name__)
MINUTES_OF_HOUR = 60


class LimitsMiddleware:
    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: Any) -> HttpResponse | None:
        match = request.resolver_match
        limit = limit_of(match.url_name if match else None, request.method)
        if limit is None:
            return None
        wait = count_use(limit, _source_of(request), int(request.META.get("CONTENT_LENGTH") or 0))
        return None if wait is None else _refuse(request, limit, wait)


def _source_of(request: HttpRequest) -> str:
    user = request.user
    return str(user.pk) if user.is_authenticated else str(request.META.get("REMOTE_ADDR") or "")


def _refuse(request: HttpRequest, limit: Limit, wait: timedelta) -> HttpResponse:
    logger.warning("the limit %r is reached", limit.name)
    sentence = _when_to_try_again(wait)
    answer: HttpResponse
    if request.content_type == "application/json":
        answer = JsonResponse({"errors": {"limit": [sentence]}}, status=429)
    elif getattr(request, "htmx", False):
        answer = HttpResponse(sentence, status=429, content_type="text/plain; charset=utf-8")
    else:
        context = {"sentence": sentence, "is_sending": request.method == "POST"}
        answer = render(request, "limits/too_many.html", context, status=429)
    answer["Retry-After"] = str(math.ceil(wait.total_seconds()))
    return answer


def _when_to_try_again(wait: timedelta) -> str:
    minutes = math.ceil(wait.total_seconds() / 60)
    if minutes <= MINUTES_OF_HOUR:
        return ngettext(
            "That was too many requests in a short time. Try again in a minute.",
            "That was too many requests in a short time. Try again in %(minutes)s minutes.",
            minutes,
        ) % {"minutes": minutes}
    hours = math.ceil(minutes / MINUTES_OF_HOUR)
    return ngettext(
        "That is today’s limit. Try again in an hour.",
        "That is today’s limit. Try again in %(hours)s hours.",
        hours,
    ) % {"hours": hours}
