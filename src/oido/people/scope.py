"""In whose school something is done. Root rows (`SchoolRow`) are found only in it.

A request is in the school of its person's membership, or in none. A job and a command name theirs with `School.within()`, or go
through all schools with `each_school()`. Where nobody has named one, asking for root rows is an error: a forgotten scope must
neither show everything nor quietly find nothing. Held in a context variable: each thread, and each request, has its own.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from enum import Enum

from django.utils import timezone


class Scope(Enum):
    UNNAMED = "unnamed"
    """Nobody has said in whose school this is done."""
    NOWHERE = "nowhere"
    """Somebody who is signed out, or belongs to no school."""
    EVERYWHERE = "everywhere"
    """For tests and benches, which look at what is stored from outside."""


class SchoolNotNamed(RuntimeError):
    """Root rows were asked for outside of any school."""


_scope: ContextVar[Scope | int] = ContextVar("school", default=Scope.UNNAMED)


def scope() -> Scope | int:
    """Return the key of the school, or which other scope holds."""
    return _scope.get()


@contextmanager
def within(scope: Scope | int, *, time_zone: str | None = None) -> Iterator[None]:
    """Make a school the current one for a block, with its clock if it is passed."""
    token = _scope.set(scope)
    try:
        if time_zone is None:
            yield
        else:
            with timezone.override(time_zone):
                yield
    finally:
        _scope.reset(token)
