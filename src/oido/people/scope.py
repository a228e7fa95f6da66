"""In whose school something is done. Root rows (`SchoolRow`) are found only in it.

A request is in the school of its person's membership, or in none; a job is in the school that it was asked for in. What is
outside (commands, migrations, tests) sees everything. Held in a context variable: each thread, and each request, has its own.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from enum import Enum

from django.utils import timezone


class Scope(Enum):
    EVERYWHERE = "everywhere"
    NOWHERE = "nowhere"


_scope: ContextVar[Scope | int] = ContextVar("school", default=Scope.EVERYWHERE)


def scope() -> Scope | int:
    """A school's key, or everywhere or nowhere."""
    return _scope.get()


@contextmanager
def within(found: Scope | int, *, time_zone: str | None = None) -> Iterator[None]:
    """Do something in a school, by its clock if it is told."""
    token = _scope.set(found)
    try:
        if time_zone is None:
            yield
        else:
            with timezone.override(time_zone):
                yield
    finally:
        _scope.reset(token)
