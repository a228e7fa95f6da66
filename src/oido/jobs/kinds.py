"""The table of jobs: for each kind how it is done. Apps add theirs in a module `background`."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple

TRIES = 3
MAX_S = 900.0


class MadeFile(NamedTuple):
    """A file that a job made, to be fetched by its owner."""

    data: bytes
    name: str
    content_type: str


class JobProblem(Exception):
    """Why a job cannot be done, in words for its owner: it is not tried again."""


Progress = Callable[[int, int], None]
"""Called with how many are done, and of how many."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobKind:
    """`run` takes a progress and the job's arguments by name; it may be begun again where it was stopped."""

    name: str
    run: Callable[..., MadeFile | None]
    tries: int = TRIES
    max_s: float = MAX_S
    """A job that runs for longer is stopped and has failed."""


KINDS: dict[str, JobKind] = {}


def job_kind(
    name: str, *, tries: int = TRIES, max_s: float = MAX_S
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Put a function into the table."""

    def register(run: Callable[..., Any]) -> Callable[..., Any]:
        KINDS[name] = JobKind(name=name, run=run, tries=tries, max_s=max_s)
        return run

    return register
