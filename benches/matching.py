"""Score the matching against takes with known truth.

A case is `NAME.target.mid`, `NAME.take.mid` and `NAME.truth.json`; the truth has `kind`,
`count_in_bars`, `tags`, `pairs` and, in `injected`, `tempo_ratio`, `transpose_semitones` and
`slips`; in `observed`, `bias_ms`. It may have `alternatives`, other lists of pairs that are as true, and
`twins`, for target notes a second take note that is as good a match: what was found is held against
those that it comes nearest to.
"""

import json
import statistics
import time
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ear.formats.smf_parts import read_part, read_take
from ear.matching.match import match
from ear.matching.outcome import Match, Outcome
from ear.measuring.measure import measure
from ear.measuring.pads import find_pad_choices, kit_with
from ear.notes import Kind, Part, Take

LINKED = ("matched", "wrong_pitch")
WORST_SHOWN = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Truth:
    """A take with what is known of it."""

    name: str
    part: Part
    take: Take
    tags: tuple[str, ...]
    pairs: list[dict[str, Any]]
    alternatives: list[list[dict[str, Any]]] = field(default_factory=list)
    """Other pairs that are as true."""
    twins: Mapping[int, int] = field(default_factory=dict)
    """For target notes a second take note that is as good a match."""
    tempo_ratio: float | None
    transposition: int | None
    slips: list[dict[str, Any]]
    bias_ms: float | None


@dataclass(slots=True, kw_only=True)
class Tally:
    """Counts of links and outcomes, for one take or many."""

    right: int = 0
    reported: int = 0
    wanted: int = 0
    outcomes: dict[str, list[int]] = field(default_factory=lambda: defaultdict(lambda: [0, 0, 0]))

    def add(self, other: "Tally") -> None:
        """Add another tally's counts, in place."""
        self.right += other.right
        self.reported += other.reported
        self.wanted += other.wanted
        for name, counts in other.outcomes.items():
            mine = self.outcomes[name]
            for k in range(3):
                mine[k] += counts[k]

    @property
    def precision(self) -> float:
        """Right links among those that were found, 0 to 1."""
        return self.right / self.reported if self.reported else 1.0

    @property
    def recall(self) -> float:
        """Right links among those that there are, 0 to 1."""
        return self.right / self.wanted if self.wanted else 1.0

    @property
    def f1(self) -> float:
        """Harmonic mean of precision and recall of links, 0 to 1."""
        total = self.reported + self.wanted
        return 2 * self.right / total if total else 1.0

    def outcome_f1(self, name: str) -> float:
        """Return the F1 score of one outcome, 0 to 1; 1 if it neither occurs nor is reported."""
        right, predicted, wanted = self.outcomes[name]
        return 2 * right / (predicted + wanted) if predicted + wanted else 1.0

    @property
    def macro_f1(self) -> float:
        """Mean of the outcomes' F1, each counting alike."""
        return statistics.fmean(self.outcome_f1(o.value) for o in Outcome)


def read_truths(folder: Path) -> Iterator[Truth]:
    """Yield the labelled takes of a folder, sorted by name: target and take are Standard MIDI Files, the truth
    is JSON.
    """
    for file in sorted(folder.glob("*.truth.json")):
        data = json.loads(file.read_text())
        stem = file.name.removesuffix(".truth.json")
        part = read_part((folder / f"{stem}.target.mid").read_bytes(), kind=Kind(data["kind"]))
        take = read_take(
            (folder / f"{stem}.take.mid").read_bytes(), part=part, count_in_bars=data["count_in_bars"]
        )
        injected = data["injected"]
        yield Truth(
            name=stem, part=part, take=take, tags=tuple(data["tags"]), pairs=data["pairs"],
            tempo_ratio=injected["tempo_ratio"], transposition=injected["transpose_semitones"],
            alternatives=data.get("alternatives", []),
            twins={int(target): take for target, take in data.get("twins", {}).items()},
            slips=injected["slips"] or [], bias_ms=data["observed"]["bias_ms"],
        )  # fmt: skip


def tally(truth: Truth, match: Match) -> Tally:
    """Return counts of the links and outcomes in a match against the true story that is nearest to it."""
    tallies = [
        _counted(_with_twins(truth, pairs, match), match) for pairs in (truth.pairs, *truth.alternatives)
    ]
    return max(tallies, key=lambda truth_tally: (truth_tally.f1, truth_tally.macro_f1))


def _with_twins(truth: Truth, pairs: list[dict[str, Any]], match: Match) -> list[dict[str, Any]]:
    """The pairs, with a twin in the place of its fellow where the twin was linked."""
    chosen = {p.target: p.take for p in match.links}
    fellow = {p["target"]: p["take"] for p in pairs if p["target"] is not None}
    swapped: dict[int, int] = {}
    for target, twin in truth.twins.items():
        if chosen.get(target) == twin and fellow.get(target) is not None:
            swapped[twin], swapped[fellow[target]] = fellow[target], twin
    return [{**p, "take": swapped.get(p["take"], p["take"])} for p in pairs]


def _counted(pairs: list[dict[str, Any]], match: Match) -> Tally:
    wanted = {(p["target"], p["take"]): p["outcome"] for p in pairs}
    outcome_of_pair = {(p.target, p.take): p.outcome.value for p in match.pairs}
    result = Tally()
    true_links = {k for k, v in wanted.items() if v in LINKED}
    links = {k for k, v in outcome_of_pair.items() if v in LINKED}
    result.right, result.reported, result.wanted = len(true_links & links), len(links), len(true_links)
    for key, outcome in outcome_of_pair.items():
        counts = result.outcomes[outcome]
        counts[1] += 1
        counts[0] += wanted.get(key) == outcome
    for outcome in wanted.values():
        result.outcomes[outcome][2] += 1
    return result


def report(truths: Iterable[Truth]) -> Iterator[str]:
    """Yield the lines of the benchmark's report."""
    whole, cases = Tally(), []
    by_tag: dict[str, Tally] = defaultdict(Tally)
    bias, ratio, transpositions, slips, spent = [], [], [0, 0], [0, 0, 0], 0.0
    false_slips: dict[str, int] = defaultdict(int)
    for truth in truths:
        started = time.perf_counter()
        matched = match(truth.part, truth.take)
        spent += time.perf_counter() - started
        choices = find_pad_choices(
            truth.part, truth.take, ((p.target, p.take, p.outcome) for p in matched.pairs)
        )
        if choices:
            # A kit's numbers are set-up: what is set in one step is not counted against the player.
            matched = match(truth.part, truth.take, kit=kit_with(choices))
        tallied = tally(truth, matched)
        whole.add(tallied)
        for tag in truth.tags:
            by_tag[tag].add(tallied)
        cases.append((tallied.f1, tallied.macro_f1, truth))
        if truth.tempo_ratio is None:
            continue
        measures = measure(truth.part, truth.take, matched).timing
        if measures.bias_ms.value is not None and truth.bias_ms is not None:
            bias.append((abs(measures.bias_ms.value - truth.bias_ms), truth.name))
        ratio.append(abs(matched.time_base.pace.ratio(truth.part.tempos) / truth.tempo_ratio - 1))
        transpositions[0] += matched.transposition == truth.transposition
        transpositions[1] += 1
        placed = [(_bar(truth.part, s["target"]), s["beats"]) for s in truth.slips]
        slip_places = [(_bar(truth.part, s.target), s.quarters) for s in matched.time_base.slips]
        slips[0] += sum(any(a == c and abs(b - d) < 0.25 for c, d in slip_places) for a, b in placed)
        slips[1] += len(placed)
        slips[2] += len(slip_places)
        for tag in truth.tags:
            false_slips[tag] += max(0, len(slip_places) - len(placed))
    yield f"takes {len(cases)}, {1000 * spent / max(1, len(cases)):.1f} ms each"
    yield f"links: precision {whole.precision:.4f}, recall {whole.recall:.4f}, F1 {whole.f1:.4f}"
    each = ", ".join(f"{o.value} {whole.outcome_f1(o.value):.3f}" for o in Outcome)
    yield f"outcomes: macro F1 {whole.macro_f1:.4f} ({each})"
    if bias:
        yield f"bias: median error {statistics.median(b for b, _ in bias):.2f} ms, worst " + ", ".join(
            f"{name} {size:.1f}" for size, name in sorted(bias, reverse=True)[:4]
        )
    if ratio:
        yield f"tempo ratio: median error {100 * statistics.median(ratio):.3f}%, worst {100 * max(ratio):.2f}%"
        yield f"transposition: {transpositions[0]} of {transpositions[1]} right"
        yield f"slips: {slips[0]} of {slips[1]} found with their bar and size; {slips[2]} said"
    for tag, tallied in sorted(by_tag.items(), key=lambda item: item[1].f1):
        yield f"  {tag:18} links F1 {tallied.f1:.4f}  outcomes {tallied.macro_f1:.4f}  {_slips_too_many(false_slips[tag])}".rstrip()
    for f1, macro, truth in sorted(cases, key=lambda c: (c[0], c[1]))[:WORST_SHOWN]:
        yield f"  {truth.name:16} links F1 {f1:.3f}  outcomes {macro:.3f}  {', '.join(truth.tags)}"


def _slips_too_many(count: int) -> str:
    return f"{count} slips too many" if count else ""


def _bar(part: Part, target: int) -> int:
    return part.meters.bar_at(part.notes[target].onset_tick).number
