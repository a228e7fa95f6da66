"""Panels of the exercise page: an app above adds its own when it starts, so that this one need not know it."""

from collections.abc import Callable
from typing import NamedTuple

from django.http import HttpRequest

from oido.exercises.models import Exercise
from oido.people.requests import Request


class Panel(NamedTuple):
    template: str
    context: Callable[[HttpRequest, Exercise], dict[str, object]]
    place: int
    """Panels stand by their places, the least at the top."""


PANELS: list[Panel] = []


def panel_contexts(request: Request, exercise: Exercise) -> dict[str, object]:
    """Return the context of all panels' templates, with their names as `panels`."""
    contexts: dict[str, object] = {
        "panels": [panel.template for panel in sorted(PANELS, key=lambda panel: panel.place)]
    }
    for panel in PANELS:
        contexts |= panel.context(request, exercise)
    return contexts
