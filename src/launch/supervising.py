"""Keep processes running: one that ends is started again, after a delay that grows while it does not stay up."""

import socket
import subprocess
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from launch.say import GiveUp, complain

FIRST_DELAY_S, LONGEST_DELAY_S = 1.0, 60.0
STEADY_S = 60.0
"""A process that was up for so long begins with the first delay again."""
RETRY_AFTER_S = 5
READ_BYTES = 65_536
LOOPBACK = "127.0.0.1"
UNAVAILABLE = (
    "HTTP/1.1 503 Service Unavailable\r\n"
    f"Retry-After: {RETRY_AFTER_S}\r\n"
    "Content-Type: text/plain; charset=utf-8\r\n"
    "Connection: close\r\n\r\n"
    "Oido is starting again. Try again in a few seconds.\n"
).encode()

Process = subprocess.Popen[bytes]


@dataclass(slots=True, kw_only=True)
class Kept:
    """A process that is to run all the time. `begin` starts it, and may raise GiveUp."""

    name: str
    begin: Callable[[], Process]
    process: Process | None = None
    delay_s: float = FIRST_DELAY_S
    began_at: float = 0.0
    due_at: float | None = None
    """When it is started again; None while it runs."""
    clock: Callable[[], float] = field(default=time.monotonic)

    def start(self) -> None:
        """Start it. Raises GiveUp."""
        self.process, self.began_at, self.due_at = self.begin(), self.clock(), None

    @property
    def is_up(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def look(self) -> bool:
        """Start it again if it has ended and its delay is over; return whether another process runs now."""
        if self.is_up:
            return False
        now = self.clock()
        if self.due_at is None:
            if now - self.began_at >= STEADY_S:
                self.delay_s = FIRST_DELAY_S
            complain(f"{self.name} stopped; it is started again in {self.delay_s:.0f} s")
            self.due_at = now + self.delay_s
            self.delay_s = min(LONGEST_DELAY_S, 2 * self.delay_s)
        if now < self.due_at:
            return False
        try:
            self.start()
        except GiveUp as problem:
            complain(str(problem))
            self.process, self.began_at, self.due_at = None, now, None
            return False
        complain(f"{self.name} runs again")
        return True


def listen(port: int, address: str = LOOPBACK) -> socket.socket:
    """Return a socket that pages are asked for at: the launcher has it, so that somebody answers while no server runs."""
    listener = socket.create_server((address, port), backlog=512)
    listener.set_inheritable(True)
    return listener


def answer_unavailable(listener: socket.socket, seconds: float) -> None:
    """Answer requests for so long that the server is away and when to ask again."""
    ends = time.monotonic() + seconds
    while (left := ends - time.monotonic()) > 0:
        listener.settimeout(left)
        try:
            connection, _address = listener.accept()
        except TimeoutError:
            break
        with connection:
            connection.settimeout(1.0)
            try:
                connection.recv(READ_BYTES)
                connection.sendall(UNAVAILABLE)
            except OSError:
                continue
    listener.settimeout(None)
