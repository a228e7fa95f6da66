"""Views that are sent to and never looked at; those who come after signing in are not led there."""

from typing import Any

from django.urls import Resolver404, resolve
from django.views.decorators.http import require_POST

from oido.common.permissions import View


def only_post(view: View) -> View:
    """Let the view answer POST alone."""
    guarded: Any = require_POST(view)
    guarded.is_only_post = True
    view_guarded: View = guarded
    return view_guarded


def can_be_looked_at(path: str) -> bool:
    """Return whether there is a page at a path, as far as the address tells."""
    try:
        view: Any = resolve(path.split("?")[0].split("#")[0]).func
    except Resolver404:
        return False
    methods = getattr(getattr(view, "view_class", None), "http_method_names", ["get"])
    return "get" in methods and not getattr(view, "is_only_post", False)
