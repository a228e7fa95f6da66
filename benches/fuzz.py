"""Files broken by chance, and read: each is read or refused in words, within so much time and memory.

Inputs are made from the corpus beside this module by mutations in the way of B. P. Miller, L. Fredriksen and B. So, "An
empirical study of the reliability of UNIX utilities", Comm. ACM 33 (12), 1990, and of later fuzzers that know a little
of the format: bytes flipped, put in, taken out, pieces repeated or taken from another file, numbers replaced by those
that break programs. Every input has a number, and is made from that number alone.
"""

import os
import random
import re
import resource
import signal
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from multiprocessing import Process, SimpleQueue
from pathlib import Path
from types import FrameType

from ear.errors import EarError
from ear.file_report import read, read_to_json
from ear.formats.importing import open_file
from ear.formats.multi_part_import import fits
from ear.formats.sandboxed_reader import CPU_S, MEMORY_BYTES

CORPUS = Path(__file__).parent / "corpus"
PROCESSES = 2
REPORT_EVERY = 50
HOW_OFTEN = (1, 1, 1, 1, 2, 2, 3, 6)
"""Mutations of one input: those with few come far into the reading."""
REPEATS = (2, 2, 3, 3, 9, 50, 50, 2000)
NUMBERS = (
    b"0",
    b"-1",
    b"1",
    b"0.0001",
    b"1e9",
    b"999999999999",
    b"65536",
    b"2147483648",
    b"3",
    b"0.333333333333333333",
)
VARIABLE_LENGTHS = (b"\xff\xff\xff\x7f", b"\x00", b"\x81\x00", b"\xff\xff\xff\xff\xff\x7f", b"\x7f")
IN_TEXT = re.compile(rb">([^<>]{1,20})<")
ELEMENT = re.compile(rb"<(\w[\w-]*)[^<>]*>[^<>]*</\1>")


def corpus() -> list[bytes]:
    """Return the files that inputs are mutated from, sorted by name."""
    return [path.read_bytes() for path in sorted(CORPUS.iterdir())]


def mutated(number: int, files: Sequence[bytes]) -> bytes:
    """Return input `number`: one file of the corpus, changed once or several times."""
    chance = random.Random(number)
    data = chance.choice(files)
    for _ in range(chance.choice(HOW_OFTEN)):
        data = chance.choice(IN_SCORES if b"</" in data else IN_BYTES)(data, files, chance)
    return data


Mutation = Callable[[bytes, Sequence[bytes], random.Random], bytes]


def _flip(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    flipped = bytearray(data)
    for _ in range(chance.randint(1, 8)):
        if flipped:
            flipped[chance.randrange(len(flipped))] = chance.randrange(256)
    return bytes(flipped)


def _cut(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    start, end = sorted(chance.randrange(len(data) + 1) for _ in range(2))
    return data[:start] + data[min(end, start + 200) :]


def _end(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    return data[: chance.randrange(len(data) + 1)]


def _repeat(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    start = chance.randrange(len(data) + 1)
    piece = data[start : start + chance.randint(1, 400)]
    return data[:start] + piece * chance.choice(REPEATS) + data[start:]


def _splice(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    other = chance.choice(files)
    return data[: chance.randrange(len(data) + 1)] + other[chance.randrange(len(other) + 1) :]


def _number(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    places = list(IN_TEXT.finditer(data))
    if places:
        place = chance.choice(places)
        return data[: place.start(1)] + chance.choice(NUMBERS) + data[place.end(1) :]
    at = chance.randrange(len(data) + 1)
    return data[:at] + chance.choice(VARIABLE_LENGTHS) + data[at + 1 :]


def _element(data: bytes, files: Sequence[bytes], chance: random.Random) -> bytes:
    """An element of a score a second time, somewhere else, or many times."""
    places = list(ELEMENT.finditer(data))
    if not places:
        return _repeat(data, files, chance)
    swap, other = chance.choice(places), chance.choice(places)
    return data[: other.end()] + swap.group() * chance.choice(REPEATS) + data[other.end() :]


IN_BYTES: tuple[Mutation, ...] = (_flip, _flip, _flip, _cut, _end, _repeat, _splice, _number)
IN_SCORES: tuple[Mutation, ...] = (
    _number,
    _number,
    _number,
    _number,
    _element,
    _element,
    _element,
    _flip,
    _repeat,
    _splice,
)
"""A score is soon none any more: what keeps it one is tried most."""


@dataclass(frozen=True, slots=True)
class FuzzOutcome:
    """What came of some inputs: how many were read, and how many refused; what broke, with its number."""

    read: int
    refused: int
    broken: tuple[tuple[int, str], ...]
    slowest: tuple[float, int]
    """Seconds of one input, and its number."""
    megabytes: float


class TooLong(Exception):
    """An input that is not over after the time that a file has."""


def _stop(_signal: int, _frame: FrameType | None) -> None:
    raise TooLong(f"not over after {CPU_S} s")


def attempt(data: bytes) -> bool:
    """Read a file as pages and the command line do. True if it was read, False if refused."""
    try:
        opened = open_file(data)
        if not any(choice.notes for choice in opened.choices):
            return True
        opened_file = read(opened, file_name="file")
        if fits(opened_file.part):
            read_to_json(opened_file)
    except EarError:
        return False
    return True


def try_some(numbers: Iterable[int], files: Sequence[bytes]) -> FuzzOutcome:
    """Read the inputs of these numbers, each for `CPU_S` seconds of the processor at most."""
    read_count = refused = 0
    broken: list[tuple[int, str]] = []
    slowest = (0.0, 0)
    handler = signal.signal(signal.SIGPROF, _stop)
    for number in numbers:
        data = mutated(number, files)
        began = time.process_time()
        signal.setitimer(signal.ITIMER_PROF, CPU_S)
        try:
            was_read = attempt(data)
            read_count += was_read
            refused += not was_read
        except Exception as problem:
            broken.append((number, f"{type(problem).__name__}: {problem}"[:200]))
        finally:
            signal.setitimer(signal.ITIMER_PROF, 0)
        slowest = max(slowest, (time.process_time() - began, number))
    signal.signal(signal.SIGPROF, handler)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return FuzzOutcome(read_count, refused, tuple(broken), slowest, peak)


def _work(first: int, step: int, until: float, outcomes: "SimpleQueue[FuzzOutcome | None]") -> None:
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_BYTES, MEMORY_BYTES))
    files = corpus()
    number = first
    while time.monotonic() < until:
        outcomes.put(try_some(range(number, number + REPORT_EVERY * step, step), files))
        number += REPORT_EVERY * step
    outcomes.put(None)


@dataclass(slots=True)
class Total:
    """All that was tried so far."""

    read: int = 0
    refused: int = 0
    broken: list[tuple[int, str]] = field(default_factory=list)
    slowest: tuple[float, int] = (0.0, 0)
    megabytes: float = 0.0

    def add(self, some: FuzzOutcome) -> None:
        """Add the counts of another run, in place."""
        self.read += some.read
        self.refused += some.refused
        self.broken += some.broken
        self.slowest = max(self.slowest, some.slowest)
        self.megabytes = max(self.megabytes, some.megabytes)


def report(minutes: float, *, seed: int = 0) -> Iterator[str]:
    """Try inputs from number `seed` on for `seconds`, and yield the lines to print."""
    outcomes: SimpleQueue[FuzzOutcome | None] = SimpleQueue()
    until = time.monotonic() + 60.0 * minutes
    workers = [Process(target=_work, args=(seed + k, PROCESSES, until, outcomes)) for k in range(PROCESSES)]
    began = time.monotonic()
    for worker in workers:
        worker.start()
    total, running = Total(), len(workers)
    while running:
        some = outcomes.get()
        if some is None:
            running -= 1
            continue
        total.add(some)
        for number, problem in some.broken:
            yield f"input {number}: {problem}"
    for worker in workers:
        worker.join()
    count = total.read + total.refused + len(total.broken)
    seconds = time.monotonic() - began
    yield (
        f"{count:,} inputs of {len(corpus())} files in {seconds / 60:.1f} minutes on {os.cpu_count()} cores: {total.read:,} read, "
        f"{total.refused:,} refused in words, {len(total.broken)} broken"
    )
    yield f"slowest {total.slowest[0]:.2f} s (input {total.slowest[1]}); peak memory {total.megabytes:.0f} MB"
