"""Say that something is done, with a way to take it back beside it."""

from collections.abc import Iterable, Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpRequest
from django.template.loader import render_to_string


def with_undo(request: HttpRequest, message: str, url: str, fields: Mapping[str, Any] | None = None) -> None:
    """Announce a change on the next page, with an undo button.

    An empty `url` means no button. `fields` are sent with it; lists become repeated fields.
    """
    if not url:
        messages.success(request, message)
        return
    pairs = [
        (name, value)
        for name, values in (fields or {}).items()
        for value in (values if isinstance(values, Iterable) and not isinstance(values, str) else [values])
    ]
    messages.success(
        request, render_to_string("ui/undo.html", {"said": message, "url": url, "pairs": pairs}, request)
    )
