"""The catalogue of what scripts say, under an address of its own for each version of it, so that browsers keep it."""

import hashlib
from functools import cache
from typing import Any

from django.http import HttpRequest, HttpResponseBase
from django.urls import reverse
from django.utils.translation import get_language, override
from django.views.i18n import JavaScriptCatalog

VERSION_CHARACTERS = 12
KEPT_S = 365 * 24 * 3600


@cache
def _version(language: str) -> str:
    request = HttpRequest()
    request.method = "GET"
    with override(language):
        answer: Any = JavaScriptCatalog.as_view()(request)
    return hashlib.sha256(answer.content).hexdigest()[:VERSION_CHARACTERS]


def words_address() -> str:
    """Return the address of the catalogue in the active language, with its version."""
    return f"{reverse('words')}?v={_version(get_language() or '')}"


def words(request: HttpRequest) -> HttpResponseBase:
    """Answer with the message catalogue. It is cached for a year if the address names a version."""
    response: Any = JavaScriptCatalog.as_view()(request)
    response["Cache-Control"] = f"public, max-age={KEPT_S}, immutable" if "v" in request.GET else "no-cache"
    answer: HttpResponseBase = response
    return answer
