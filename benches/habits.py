"""Score marks and first ear notes against takes with one habit each, of which a teacher's mark and first words are known.

A case is `NAME.target.mid`, `NAME.take.mid` and `NAME.truth.json`; the truth has `kind`, `count_in` (bars), `habit`,
`mark` (least and most of 100 at the default level by the default rubric), `first` (codes of which a teacher says one
first; "-" where no fault is told) and `never` (codes that would be untrue).

A habit is held where 8 of 10 marks lie inside, 8 of 10 first notes are right, and at most 1 take in 10 says what is untrue.
"""

import json
import os
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from ear.assess import Assessment, assess
from ear.formats.smf_parts import read_part, read_take
from ear.notes import Kind, Part, Take

NO_FAULT = "-"
HELD_SHARE, UNTRUE_SHARE = 0.8, 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class HabitCase:
    """A take with what a fair teacher says of it."""

    name: str
    habit: str
    part: Part
    take: Take
    mark: tuple[float, float]
    first: frozenset[str]
    never: frozenset[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class HabitResult:
    """What Oido said of a case: the mark, the codes of its ear notes, and how these compare with the teacher's."""

    name: str
    habit: str
    total: float
    codes: tuple[str, ...]
    mark_fits: bool
    first_fits: bool
    untrue: tuple[str, ...]


def read_case(file: Path) -> HabitCase:
    """Return the case whose truth is in a file."""
    truth = json.loads(file.read_text())
    stem = file.with_name(file.name.removesuffix(".truth.json"))
    part = read_part(Path(f"{stem}.target.mid").read_bytes(), kind=Kind(truth["kind"]))
    take = read_take(Path(f"{stem}.take.mid").read_bytes(), part=part, count_in_bars=truth["count_in"])
    least, most = truth["mark"]
    return HabitCase(
        name=stem.name, habit=truth["habit"], part=part, take=take, mark=(least, most),
        first=frozenset(truth["first"]), never=frozenset(truth["never"]),
    )  # fmt: skip


def held_against(case: HabitCase, assessment: Assessment) -> HabitResult:
    """Return how the mark and the ear notes of a case compare with the teacher's."""
    judgement = assessment.judgement
    codes = tuple(fault.finding.code for fault in judgement.faults)
    least, most = case.mark
    return HabitResult(
        name=case.name, habit=case.habit, total=judgement.total, codes=codes,
        mark_fits=least <= judgement.total <= most,
        first_fits=(codes[0] if codes else NO_FAULT) in case.first,
        untrue=tuple(sorted(case.never & {*codes})),
    )  # fmt: skip


def _result(file: Path) -> HabitResult:
    case = read_case(file)
    return held_against(case, assess(case.part, case.take))


def report(folder: Path) -> Iterator[str]:
    """Yield a line for each habit, and how many are held."""
    files = sorted(folder.glob("*.truth.json"))
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        results = list(pool.map(_result, files, chunksize=4))
    habits: dict[str, list[HabitResult]] = {}
    for result in results:
        habits.setdefault(result.habit, []).append(result)
    yield f"{'habit':24} {'takes':>5} {'mark':>5} {'first':>6} {'untrue':>7}  marks; first notes"
    held = 0
    for habit, takes in habits.items():
        is_held = holds(takes)
        held += is_held
        yield _line(habit, takes, is_held=is_held)
    yield f"{held} of {len(habits)} habits held"


def holds(takes: Sequence[HabitResult]) -> bool:
    """Return whether Oido says of a habit what a fair teacher says."""
    count = len(takes)
    return (
        sum(t.mark_fits for t in takes) >= HELD_SHARE * count
        and sum(t.first_fits for t in takes) >= HELD_SHARE * count
        and sum(bool(t.untrue) for t in takes) <= UNTRUE_SHARE * count
    )


def _line(habit: str, takes: Sequence[HabitResult], *, is_held: bool) -> str:
    first = Counter(t.codes[0] if t.codes else NO_FAULT for t in takes)
    told = ", ".join(f"{code} {count}" for code, count in first.most_common(3))
    marks = " ".join(f"{t.total:.0f}" for t in takes)
    return (
        f"{habit:24} {len(takes):5} {sum(t.mark_fits for t in takes):5} {sum(t.first_fits for t in takes):6} "
        f"{sum(bool(t.untrue) for t in takes):7}  {'held' if is_held else '    '}  {marks}; {told}"
    )
