"""How well music is written down: random parts, scores of a corpus, and a page of chosen bars to look at.

Random parts are written out and read back to the tick; some of them are exported, too, and read by music21. The corpus is
music21's: each of its scores is read by Oido, written and exported; bars must add up, notes must begin and end in writing
where they do in the part, and music21 must find the same onsets, names and ties in the export.
"""

import argparse
import html
import os
import time
import warnings
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from random import Random
from typing import NamedTuple

import music21

from benches.engraving_cases import CASES
from benches.random_parts import comes_back, random_part
from ear.errors import EarError
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.formats.text_file import read_text
from ear.notation.engraving import notation_svg
from ear.notation.written import WrittenScore, spans_of, write_out
from ear.notes import Part, folded
from ear.notes.pitch import LETTERS
from ear.units import TICKS_PER_QUARTER

PARTS, EXPORTED, SCORES = 2000, 200, 320
MAX_BYTES = 60_000
"""Of a score of the corpus: larger ones take another reader minutes."""
SIGNS = {0: "", 1: "#", 2: "##", -1: "b", -2: "bb"}
SHOWN = 3
STYLE = """body { font: 15px/1.4 sans-serif; margin: 1.5rem; display: grid; grid-template-columns: 1fr 1fr; gap: 1rem 3rem; }
svg { width: 36rem; height: auto; } svg ellipse, svg path, svg polygon, svg polyline, svg rect { stroke: currentColor; }
p { margin: 0; } .fing, .tempo { font-weight: bold; }"""


class Head(NamedTuple):
    """A written note as another reader finds it: onset in ticks, pitch, name, whether a tie comes and goes."""

    tick: int
    pitch: int
    name: str
    is_tied_from: bool
    is_tied_on: bool


def written_heads(score: WrittenScore) -> list[Head]:
    """Return the heads that Oido writes; a drum's has no pitch."""
    return [
        Head(
            w.tick, -1 if h.lane else h.pitch, "" if h.lane else LETTERS[h.step % 7] + SIGNS[h.alteration],
            h.is_tied_from, h.is_tied_on,
        )
        for bar in score.bars for staff in bar.staves for voice in staff.voices for w in voice for h in w.heads
    ]  # fmt: skip


def heads_read(document: bytes, *, first_tick: int) -> list[Head]:
    """Return the heads that music21 reads in an exported part, without grace notes and cues. It begins with the part's first
    note where that is a pick-up's, at `first_tick`.
    """
    heads = []
    score = music21.converter.parseData(document.decode(), format="musicxml")
    assert isinstance(score, music21.stream.Score)
    for part in score.parts:
        for measure in part.getElementsByClass(music21.stream.Measure):
            for each in measure.recurse().notes:
                if (
                    each.duration.isGrace
                    or isinstance(each, music21.harmony.Harmony)
                    or each.style.noteSize == "cue"
                ):
                    continue
                offset = float(measure.offset + each.getOffsetInHierarchy(measure))
                tick = first_tick + round(offset * TICKS_PER_QUARTER)
                for note in each.notes if hasattr(each, "notes") else [each]:
                    tie = (note.tie or each.tie).type if note.tie or each.tie else ""
                    pitch = note.pitch if hasattr(note, "pitch") else None
                    heads.append(
                        Head(
                            tick, pitch.midi if pitch else -1, pitch.name.replace("-", "b") if pitch else "",
                            tie in ("stop", "continue"), tie in ("start", "continue"),
                        )
                    )  # fmt: skip
    return heads


def differences(ours: Sequence[Head], theirs: Sequence[Head]) -> list[str]:
    """Return what two readers do not agree on; onsets may differ by a tick, to which tuplets are rounded."""
    missing, extra = Counter(ours) - Counter(theirs), list((Counter(theirs) - Counter(ours)).elements())
    told = []
    for head in missing.elements():
        near = next((e for e in extra if abs(e.tick - head.tick) <= 1 and e[1:] == head[1:]), None)
        if near is None:
            told.append(f"not found: {head}")
        else:
            extra.remove(near)
    return [*told, *(f"found: {head}" for head in extra)]


def problems_of(part: Part) -> list[str]:
    """Return what is wrong with a part as it is written and exported."""
    drawn = folded(part) or part
    score = write_out(drawn)
    problems = [
        f"note {i}: {note.onset_tick} to {note.written_end_tick} is written from {span[0]} to {span[1]}"
        for i, (note, span) in enumerate(zip(drawn.notes, spans_of(score), strict=True))
        if (note.onset_tick, note.written_end_tick) != span and not drawn.instrument.has_lanes
    ]
    for bar in score.bars:
        for voice in (v for staff in bar.staves for v in staff.voices if not v[0].is_whole_bar):
            edges = [bar.first_tick, *(t for w in voice for t in (w.tick, w.end_tick)), bar.bar.end_tick]
            if edges[::2] != edges[1::2]:
                problems.append(f"bar {bar.bar.number} does not add up")
    theirs = heads_read(write_musicxml(part), first_tick=score.bars[0].first_tick)
    return [*problems, *differences(written_heads(score), theirs)]


def part_problems(seed: int) -> list[str]:
    """Return what is wrong with the random part of a seed."""
    return problems_of(random_part(seed))


def score_problems(path: Path) -> list[str] | None:
    """Return what is wrong with a score of the corpus; None where Oido cannot read it."""
    warnings.simplefilter("ignore")
    try:
        read = read_musicxml(path.read_bytes())
    except EarError:
        return None
    return [
        f"{each.name}: {problem}"
        for each in read.parts
        if each.part.notes
        for problem in problems_of(each.part)
    ]


def report(*, scores: int = SCORES) -> Iterator[str]:
    """Yield the figures, line by line."""
    begun = time.perf_counter()
    astray = [seed for seed in range(PARTS) if not comes_back(random_part(seed))]
    yield (
        f"{PARTS} random parts: {PARTS - len(astray)} come back to the tick, "
        f"{1000 * (time.perf_counter() - begun) / PARTS:.1f} ms each{f'; not {astray[:SHOWN]}' if astray else ''}"
    )
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        exported = list(pool.map(part_problems, range(EXPORTED), chunksize=10))
        yield f"{EXPORTED} of them exported: {sum(not p for p in exported)} read the same by music21"
        paths = [Path(p) for p in music21.corpus.getPaths()]
        paths = [p for p in paths if p.suffix in (".mxl", ".xml") and p.stat().st_size < MAX_BYTES]
        Random(3).shuffle(paths)
        right = read = 0
        for path, problems in zip(paths[:scores], pool.map(score_problems, paths[:scores]), strict=True):
            read += problems is not None
            right += problems == []
            if problems:
                yield f"  {path.parent.name}/{path.name}: {'; '.join(problems[:SHOWN])}"
    yield f"{read} scores of music21's corpus: {right} written and exported as they are ({100 * right / read:.1f}%)"


def page() -> str:
    """Return the chosen bars as one page, each with a sentence that says what is right."""
    drawn = []
    for number, (sentence, text) in enumerate(CASES, start=1):
        svg = notation_svg(read_text(text.encode()), width=580, seed=number)
        drawn.append(f"<div><p><b>{number}.</b> {html.escape(sentence)}</p>{svg}</div>")
    return f'<!doctype html><meta charset="utf-8"><title>Chosen bars</title><style>{STYLE}</style>{"".join(drawn)}'


def main() -> None:
    """Print the figures and write the page."""
    parser = argparse.ArgumentParser(prog="./oido bench engraving", description=__doc__)
    parser.add_argument("--scores", type=int, default=SCORES, help="how many scores of the corpus")
    parser.add_argument(
        "--page", type=Path, default=Path("build/engraving.html"), help="where the chosen bars are drawn"
    )
    options = parser.parse_args()
    options.page.parent.mkdir(parents=True, exist_ok=True)
    options.page.write_text(page())
    print(f"{len(CASES)} chosen bars: {options.page}")
    for line in report(scores=options.scores):
        print(line, flush=True)


if __name__ == "__main__":
    main()
