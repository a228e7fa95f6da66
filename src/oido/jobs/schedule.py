"""What a worker begins when it starts."""

from collections.abc import Callable

DUE: list[Callable[[], object]] = []
"""Apps add theirs: each asks for a job if there is something to do."""


def begin_what_is_due() -> None:
    for begin in DUE:
        begin()
