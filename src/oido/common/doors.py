"""Doors: pages that an app leads to although an app above it answers them.

An app names its own in its AppConfig, as `doors`, and leads to those of the apps below it, too. What the names stand for is
theirs; that somebody answers them is checked when Oido starts.
"""

from collections.abc import Iterator, Sequence
from typing import Any

from django.apps import AppConfig, apps
from django.core.checks import CheckMessage, Error, register
from django.urls import URLResolver, get_resolver


def doors_of(app: AppConfig) -> tuple[str, ...]:
    """Return the names of the pages that an app leads to."""
    return tuple(getattr(app, "doors", ()))


def answered_names(resolver: URLResolver | None = None) -> Iterator[tuple[str, str]]:
    """Yield the name of each address with the module that lists it."""
    resolver = resolver or get_resolver()
    for pattern in resolver.url_patterns:
        if isinstance(pattern, URLResolver):
            yield from answered_names(pattern)
        elif pattern.name:
            yield pattern.name, getattr(resolver.urlconf_module, "__name__", "")


@register()
def check_doors(app_configs: Sequence[AppConfig] | None, **options: Any) -> list[CheckMessage]:
    """Return an error for each door that leads nowhere."""
    answered = {name for name, _module in answered_names()}
    return [
        Error(f"{app.label} leads to “{door}”, which no app answers.", obj=app, id="oido.E001")
        for app in app_configs or apps.get_app_configs()
        for door in doors_of(app)
        if door not in answered
    ]
