"""How well names of notes are found: scores that are spelled, their names taken away, spelled again.

All of the MusicXML in music21's corpus, read by Oido's own reader; with the key signatures and without, beside the
implementation of ps13 in the library partitura. Printed: the share of notes that are called as in the score.
"""

import sys
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter

import numpy as np
from music21 import corpus
from numpy.typing import NDArray

from ear.errors import EarError
from ear.formats.musicxml import read_musicxml
from ear.notes import Part
from ear.notes.spelling import UNKNOWN, keys_of, spelled
from ear.units import TICKS_PER_QUARTER

Ints = NDArray[np.int64]
SHOWN = 8


@dataclass(frozen=True)
class Score:
    name: str
    onset: Ints
    pitch: Ints
    fifths: Ints
    names: Ints


def scores() -> Iterator[Score]:
    """All parts of each together, in order of (onset, pitch)."""
    for path in sorted(Path(p) for p in corpus.getPaths()):
        if path.suffix not in (".mxl", ".xml", ".musicxml"):
            continue
        try:
            read = read_musicxml(path.read_bytes())
        except EarError as problem:
            print(f"left out: {path.name}: {problem}")
            continue
        rows = sorted(row for one in read.parts if one.part.instrument.has_key for row in _rows(one.part))
        if rows:
            onset, pitch, fifths, names = np.array(rows, dtype=np.int64).T
            yield Score(f"{path.parent.name}/{path.stem}", onset, pitch, fifths, names)


def _rows(part: Part) -> Iterator[tuple[int, int, int, int]]:
    for note in part.notes:
        if note.name_fifth is not None:
            yield note.onset_tick, note.pitch, part.fifths_at(note.onset_tick), note.name_fifth


def with_key(score: Score) -> Ints:
    return spelled(score.pitch, score.fifths, np.full(len(score.pitch), UNKNOWN))


def without_key(score: Score) -> Ints:
    return spelled(score.pitch, keys_of(score.pitch), np.full(len(score.pitch), UNKNOWN))


def published(score: Score) -> Ints:
    """Only this bench needs the library: it is installed for it alone."""
    from partitura.musicanalysis import estimate_spelling

    notes = np.zeros(
        len(score.pitch), dtype=[("onset_quarter", float), ("duration_quarter", float), ("pitch", int)]
    )
    notes["onset_quarter"] = score.onset / TICKS_PER_QUARTER
    notes["duration_quarter"], notes["pitch"] = 1.0, score.pitch
    actual = estimate_spelling(notes)
    letters = dict(zip("FCGDAEB", range(-1, 6), strict=True))
    return np.array([letters[s] for s in actual["step"]]) + 7 * actual["alter"].astype(np.int64)


def main() -> int:
    warnings.simplefilter("ignore")
    read = list(scores())
    notes = sum(len(s.pitch) for s in read)
    print(f"{len(read)} scores, {notes:,} notes")
    for name, method in (
        ("with the key", with_key),
        ("without a key", without_key),
        ("ps13 (partitura)", published),
    ):
        begun = perf_counter()
        wrong = [(int((method(s) != s.names).sum()), s) for s in read]
        seconds = perf_counter() - begun
        missed = sum(count for count, _ in wrong)
        print(f"{name:18} {100 * (1 - missed / notes):6.2f} %   {seconds:5.1f} s")
        worst = sorted(wrong, key=lambda pair: -pair[0])[:SHOWN]
        print("   most missed: " + ", ".join(f"{s.name} {count} of {len(s.pitch)}" for count, s in worst))
    return 0


if __name__ == "__main__":
    sys.exit(main())
