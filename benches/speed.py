"""Time the whole way from a take to its ear notes, by the length of the take; and judging stored ones.

`--against COMMIT` measures another commit of the repository in the same run: both read the same files, in turn, and the
ratio of the best times is printed. It holds on a busy machine, too.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np

from ear.assess import assess
from ear.criteria.levels import DEFAULT_LEVEL
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import extract_facts
from ear.formats.events import events_from_take
from ear.formats.smf_writing import write_part, write_recording
from ear.judging.judge import Rules, conclude, judge, score
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.matching.match import match
from ear.notes import Hand, Kind, MeterMap, Note, Part, Take, TempoMap
from ear.players.robot import Habits, Jump, play

SIZES = ((8, 125), (64, 1_000), (160, 2_500), (640, 10_000))
"""(bars, notes)"""
HARD_SIZE, LONG_SIZE = (64, 1_000), (640, 10_000)
TIMES = 7
JUDGED = 25
"""Times that a stored take is judged."""
HABITS = Habits(spread_ms=14, lead_ms=-12, wrong_keys=0.02, misses=0.02, grazes=0.01, velocity_spread=6)


def long_part(bars: int, notes: int) -> Part:
    """Return a two-hand part of so many notes, a tune over chords, spread evenly over the bars."""
    made: list[Note] = []
    steps = max(1, round(notes / bars / 2))
    for bar in range(bars):
        for k in range(steps):
            tick = bar * 1920 + k * 1920 // steps
            tune = 67 + (5 * bar + 3 * k * k + bar * k) % 17
            made.append(
                Note(onset_tick=tick, length_tick=1600 // steps, pitch=tune, velocity=84, hand=Hand.RIGHT)
            )
            bass = 40 + (7 * bar + 2 * k + bar * bar % 5) % 14
            made.append(
                Note(onset_tick=tick, length_tick=1600 // steps, pitch=bass, velocity=66, hand=Hand.LEFT)
            )
    return Part.of(made[:notes], kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(100))


HARD = (
    ("at another tempo", Habits(spread_ms=12, tempo_ratio=0.7)),
    ("with slips", Habits(spread_ms=12, jumps=(Jump(bar=20, quarters=1.5), Jump(bar=40, back_bars=2)))),
    ("many wrong, many missed", Habits(spread_ms=12, wrong_keys=0.1, misses=0.1)),
)
"""Takes of which more than the first search is asked."""


def report() -> Iterator[str]:
    """Yield the lines of the benchmark's report: the best and the median of several runs, in ms."""
    loop = fixed_loop()
    yield f"a fixed loop of this machine: {1000 * loop:.1f} ms; times over it stand behind each line"
    yield f"{'bars':>5} {'notes':>6} {'match':>9} {'in all, best':>13} {'middle':>8} {'µs a note':>10} {'loops':>6}"
    for bars, notes in SIZES:
        yield _line(bars, long_part(bars, notes), HABITS, loop=loop)
    bars, notes = HARD_SIZE
    part = long_part(bars, notes)
    for name, habits in HARD:
        yield f"{_line(bars, part, habits, loop=loop)}  {name}"
    yield f"{_line(bars, part, HABITS, played=_backwards(part), loop=loop)}  of something else"
    bars, notes = LONG_SIZE
    long = long_part(bars, notes)
    for name, habits in HARD[:1]:
        yield f"{_line(bars, long, habits, loop=loop, times=2)}  {name}"
    with ProcessPoolExecutor(1) as pool:
        yield f"memory of a match of {2 * notes} notes: {pool.submit(_memory_mb, 2 * bars, 2 * notes).result():.0f} MB at most"
    yield ""
    yield from judging(*HARD_SIZE)


def _backwards(part: Part) -> Part:
    return Part.of(
        (replace(n, onset_tick=part.end_tick - n.end_tick) for n in part.notes),
        kind=part.kind, meters=part.meters, tempos=part.tempos,
    )  # fmt: skip


ROOT = Path(__file__).resolve().parents[1]
ROUNDS = 3
"""In turn, so that a busy minute hits both."""


def report_against(commit: str) -> Iterator[str]:
    """Yield what 1,000 notes take now and took at a commit: clean, and of each hard sort; in ms, and as a ratio."""
    part = long_part(*HARD_SIZE)
    takes: dict[str, Take] = {
        "clean": play(part, HABITS, seed=1),
        **{name: play(part, habits, seed=1) for name, habits in HARD},
        "of something else": play(_backwards(part), HABITS, seed=1),
    }
    with tempfile.TemporaryDirectory(prefix="oido-against-") as name:
        folder = Path(name)
        _check_out(commit, folder / "then")
        (folder / "target.mid").write_bytes(write_part(part))
        yield f"{'1,000 notes':26} {'now':>9} {commit[:10]:>11} {'now / then':>11}"
        for which, take in takes.items():
            (folder / "take.mid").write_bytes(write_recording([events_from_take(take)], part=part))
            now, then = [], []
            for _ in range(ROUNDS):
                now.append(_best_of_assess(ROOT / "src", folder))
                then.append(_best_of_assess(folder / "then" / "src", folder))
            a, b = 1000 * min(now), 1000 * min(then)
            yield f"{which:26} {a:7.1f}ms {b:9.1f}ms {a / b:11.2f}"


def _check_out(commit: str, folder: Path) -> None:
    folder.mkdir()
    archive = subprocess.run(["git", "archive", commit, "src"], cwd=ROOT, capture_output=True, check=True)
    subprocess.run(["tar", "-x", "-C", str(folder)], input=archive.stdout, check=True)


ASSESSED = f"""
import sys, time
from importlib import import_module
from pathlib import Path
from ear.assess import assess
from ear.notes import Kind
try:
    files = import_module("ear.formats.smf_parts")
except ImportError:
    files = import_module("ear.formats.smf")
folder, best = Path(sys.argv[1]), 1e9
for _ in range({TIMES}):
    part = files.read_part((folder / "target.mid").read_bytes(), kind=Kind.KEYBOARD)
    take = files.read_take((folder / "take.mid").read_bytes(), part=part)
    started = time.perf_counter()
    assess(part, take)
    best = min(best, time.perf_counter() - started)
print(best)
"""
"""Reads with the names that a commit has: files are read anew each time, so that nothing is remembered."""


def _best_of_assess(source: Path, folder: Path) -> float:
    """The least time from a take that is read to its ear notes, in seconds, by the code in a folder."""
    env = {**os.environ, "PYTHONPATH": str(source), "PYTHONDONTWRITEBYTECODE": "1"}
    done = subprocess.run(
        [sys.executable, "-c", ASSESSED, str(folder)], env=env, capture_output=True, text=True, check=True
    )
    return float(done.stdout)


def fixed_loop() -> float:
    """Return how long, in seconds, a fixed amount of Python and numpy work takes.

    Times are compared with it, because machines differ and are busy.
    """
    row = np.linspace(0.0, 1.0, 2_000)
    spent = []
    for _ in range(TIMES):
        started = time.perf_counter()
        total = 0.0
        for k in range(2_000):
            total += float(np.maximum(row, row[::-1]).sum()) + sum(range(k % 40))
        spent.append(time.perf_counter() - started)
    return min(spent)


def _memory_mb(bars: int, notes: int) -> float:
    """The most memory of a process that matches a take of so many notes."""
    part = long_part(bars, notes)
    match(part, play(part, HABITS, seed=1))
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0


def _line(
    bars: int, part: Part, habits: Habits, *, loop: float, played: Part | None = None, times: int = TIMES
) -> str:
    take = play(played or part, habits, seed=1)
    matching, whole = [], []
    for _ in range(times):
        # Values of their own each time: what they remember of themselves counts, too.
        part, take = replace(part), replace(take)
        started = time.perf_counter()
        match(part, take)
        between = time.perf_counter()
        assess(replace(part), replace(take))
        whole.append(time.perf_counter() - between)
        matching.append(between - started)
    best, middle = 1000 * min(whole), 1000 * statistics.median(whole)
    return (
        f"{bars:5} {len(part.notes):6} {1000 * min(matching):7.1f}ms {best:11.1f}ms {middle:6.1f}ms "
        f"{1000 * best / len(part.notes):10.1f} {best / 1000 / loop:6.1f}"
    )


def judging(bars: int, notes: int) -> Iterator[str]:
    """Yield the steps of judging a stored take: read its facts, judge them, read and conclude its scores."""
    part = long_part(bars, notes)
    facts = extract_facts(part, play(part, HABITS, seed=1))
    rules = Rules(rubric=DEFAULT_RUBRICS[part.kind], level=DEFAULT_LEVEL)
    stored, scores = facts_to_json(facts), score(facts, rules)
    for name, act in (
        ("facts read", lambda: facts_from_json(stored)),
        ("judged", lambda: judge(facts, rules)),
        ("concluded from stored scores", lambda: conclude(facts, scores, rules.rubric)),
    ):
        spent = []
        for _ in range(JUDGED):
            started = time.perf_counter()
            act()
            spent.append(1000 * (time.perf_counter() - started))
        yield f"{bars:5} {notes:6} {min(spent):7.1f}ms best {statistics.median(spent):7.1f}ms middle  {name}"
