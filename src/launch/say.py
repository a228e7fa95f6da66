"""What the launcher says, and how it gives up."""

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event, Thread

from launch.progress import Share

LOOK_S, SAY_EVERY_S = 0.1, 10.0
TELL_EVERY_S = 5.0


class GiveUp(Exception):
    """Something is in the way; the message is one line that says what to do."""


def say(text: str) -> None:
    print(text, flush=True)


@contextmanager
def step(text: str, share: Share | None = None) -> Iterator[None]:
    """Say what is being done and how long it took; every five seconds also how much of it is done, and how long the rest
    will take if it goes on as fast."""
    started = time.monotonic()
    print(f"  {text} …", end="", flush=True)
    is_over = Event()
    telling = Thread(target=_tell, args=(share, is_over), daemon=True) if share is not None else None
    if telling is not None:
        telling.start()
    try:
        yield
    except BaseException:
        print(" failed", flush=True)
        raise
    finally:
        is_over.set()
        if telling is not None:
            telling.join()
    print(f" {time.monotonic() - started:.0f} s", flush=True)


def _tell(share: Share, is_over: Event) -> None:
    started = time.monotonic()
    while not is_over.wait(TELL_EVERY_S):
        done = share()
        if 0.0 < done < 1.0:
            left_s = (time.monotonic() - started) * (1.0 - done) / done
            print(f" {done:.0%}, about {left_s:.0f} s left …", end="", flush=True)


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
