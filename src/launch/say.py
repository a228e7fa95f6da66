"""What the launcher says, and how it gives up."""

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

LOOK_S, SAY_EVERY_S = 0.1, 10.0


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


def patiently(awaited: str) -> Iterator[None]:
    """Look ten times a second, without end; every ten seconds it says what is still awaited."""
    started = time.monotonic()
    lines = 1
    while True:
        yield
        time.sleep(LOOK_S)
        waited_s = time.monotonic() - started
        if waited_s >= lines * SAY_EVERY_S:
            say(f"  {awaited}: {waited_s:.0f} s so far …")
            lines = int(waited_s / SAY_EVERY_S) + 1


def complain(text: str) -> None:
    print(f"oido: {text}", file=sys.stderr, flush=True)
