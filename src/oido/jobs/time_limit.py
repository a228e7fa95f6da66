"""Stop what runs for too long."""

import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType


class OutOfTime(BaseException):
    """The time of a job is over. Not an Exception, so that no handler inside the job mistakes it for a failure of its own."""


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """Raise OutOfTime inside the block once it has run for so long.

    Only a process's main thread gets signals, and a worker does its jobs there; elsewhere the block is not limited.
    """
    if threading.current_thread() is not threading.main_thread():
        yield
        return

    def stop(number: int, frame: FrameType | None) -> None:
        raise OutOfTime

    before = signal.signal(signal.SIGALRM, stop)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)
