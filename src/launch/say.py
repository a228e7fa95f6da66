"""What the launcher says, and how it gives up."""

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager


class GiveUp(Exception):
    """Something is in the way; the message is one line that says what to do."""


def say(text: str) -> None:
    print(text, flush=True)


@contextmanager
def step(text: str) -> Iterator[None]:
    """Say what is being done and how long it took."""
    started = time.monotonic()
    print(f"  {text} …", end="", flush=True)
    try:
        yield
    except BaseException:
        print(" failed", flush=True)
        raise
    print(f" {time.monotonic() - started:.0f} s", flush=True)


def complain(text: str) -> None:
    print(f"oido: {text}", file=sys.stderr, flush=True)
