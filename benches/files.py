"""Oido's reading of a folder's files beside two independent readers': who reads what, how it differs and where, how
long it takes and how much memory.

MIDI is read by music21 and by symusic, MusicXML by music21 and by partitura. Each file is read by each reader in a
process of its own, which is stopped after a while. Notes are the same where pitch, onset and length agree to a
thirty-second of a quarter; of scores names are compared, too. Where the two witnesses differ themselves, that is said.
"""

import argparse
import json
import os
import resource
import select
import sys
import time
import warnings
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple

NEAR = 1 / 32
"""Quarters by which onsets and lengths of one note may differ."""
WAIT_S = 120
MIDI, SCORES = (".mid", ".midi"), (".xml", ".musicxml", ".mxl")


class Sound(NamedTuple):
    """A note as a reader has it: quarters, a MIDI number, a name such as “F#” or none."""

    onset: float
    length: float
    pitch: int
    name: str


@dataclass(frozen=True)
class AnalysedTake:
    """What came of one reader's attempt; `problem` is empty where it read."""

    notes: tuple[Sound, ...] = ()
    problem: str = ""
    seconds: float = 0.0
    megabytes: float = 0.0
    starts: tuple[float, ...] = ()
    """Quarters at which bars begin, where the reader is Oido."""


def by_oido(path: Path) -> dict[str, Any]:
    from ear.file_report import ASCII_SIGNS
    from ear.formats.importing import open_file
    from ear.notes import spell
    from ear.units import TICKS_PER_QUARTER

    opened = open_file(path.read_bytes())
    notes, starts = [], []
    for choice in opened.choices:
        if path.suffix in SCORES and choice.kind.instrument.has_lanes:
            continue
        starts = max(starts, [bar.start_tick / TICKS_PER_QUARTER for bar in choice.part.bars], key=len)
        for note in choice.part.notes:
            name = ""
            if note.name_fifth is not None:
                spelling = spell(note.pitch, name_fifth=note.name_fifth)
                name = f"{spelling.letter}{ASCII_SIGNS[spelling.alteration]}"
            onset, length = note.onset_tick / TICKS_PER_QUARTER, note.length_tick / TICKS_PER_QUARTER
            notes.append((onset, length, note.pitch, name))
    return {"notes": notes, "starts": starts}


def by_music21(path: Path) -> dict[str, Any]:
    return {"notes": list(_midi_by_music21(path) if path.suffix in MIDI else _score_by_music21(path))}


def _midi_by_music21(path: Path) -> Iterator[tuple[float, float, int, str]]:
    from music21 import midi
    from music21.midi.translate import getNotesFromEvents, getTimeForEvents

    file = midi.MidiFile()
    file.open(str(path))
    file.read()
    file.close()
    for track in file.tracks:
        for each in getNotesFromEvents(getTimeForEvents(track)):
            quarter = file.ticksPerQuarterNote
            yield each.onTime / quarter, (each.offTime - each.onTime) / quarter, each.event.pitch, ""


def _score_by_music21(path: Path) -> Iterator[tuple[float, float, int, str]]:
    from music21 import chord, converter, note, repeat

    score = converter.parse(path, forceSource=True)
    for part in score.parts:
        played = part
        with suppress(repeat.ExpanderException):
            played = part.expandRepeats()
        played = played.toSoundingPitch()
        for each in played.flatten().stripTies().notes:
            if each.duration.isGrace or not each.quarterLength:
                continue
            for one in each.notes if isinstance(each, chord.Chord) else [each]:
                if isinstance(one, note.Note):
                    name = one.pitch.name.replace("-", "b")
                    yield float(each.offset), float(each.quarterLength), one.pitch.midi, name


def by_symusic(path: Path) -> dict[str, Any]:
    import symusic

    score = symusic.Score(str(path))
    return {
        "notes": [
            (n.time / score.tpq, n.duration / score.tpq, n.pitch, "")
            for track in score.tracks
            for n in track.notes
        ]
    }


def by_partitura(path: Path) -> dict[str, Any]:
    import partitura
    from partitura.score import unfold_part_maximal

    score = partitura.load_musicxml(str(path))
    notes = []
    for part in score.parts:
        played = unfold_part_maximal(part, ignore_leaps=False)
        for row in played.note_array(include_pitch_spelling=True):
            if row["duration_quarter"] > 0:
                name = f"{row['step']}{'#' * max(0, row['alter'])}{'b' * max(0, -row['alter'])}"
                notes.append(
                    (float(row["onset_quarter"]), float(row["duration_quarter"]), int(row["pitch"]), name)
                )
    return {"notes": notes}


def apart(read: Callable[[Path], dict[str, Any]], path: Path) -> AnalysedTake:
    """Read in a process of its own, so that time and memory are that reading's alone."""
    out, into = os.pipe()
    began = time.perf_counter()
    child = os.fork()
    if not child:
        os.close(out)
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, 1)
        os.dup2(nowhere, 2)
        try:
            told = read(path)
        except BaseException as problem:
            told = {"problem": f"{type(problem).__name__}: {problem}"[:160]}
        with os.fdopen(into, "w") as pipe:
            json.dump(told, pipe)
        os._exit(0)
    os.close(into)
    text = b""
    while select.select([out], [], [], max(0.0, began + WAIT_S - time.perf_counter()))[0]:
        piece = os.read(out, 1 << 20)
        if not piece:
            break
        text += piece
    else:
        os.kill(child, 9)
    os.close(out)
    _, _, used = os.wait4(child, 0)
    seconds, megabytes = used.ru_utime + used.ru_stime, used.ru_maxrss / 1024
    try:
        told = json.loads(text)
    except ValueError:
        told = {"problem": f"stopped after {WAIT_S} s"}
    return AnalysedTake(
        notes=tuple(Sound(*row) for row in told.get("notes", ())), problem=told.get("problem", ""),
        starts=tuple(told.get("starts", ())), seconds=seconds, megabytes=megabytes,
    )  # fmt: skip


@dataclass(frozen=True)
class Difference:
    """How two readings differ: notes that only one has, pairs with other lengths, pairs with other names."""

    only_first: tuple[Sound, ...]
    only_second: tuple[Sound, ...]
    lengths: int
    names: tuple[tuple[Sound, Sound], ...]
    both: int

    @property
    def is_none(self) -> bool:
        return not (self.only_first or self.only_second or self.lengths or self.names)

    @property
    def share(self) -> float:
        """Of all notes of both, those that both have."""
        return self.both / max(1, self.both + len(self.only_first) + len(self.only_second))


def compare(first: Sequence[Sound], second: Sequence[Sound]) -> Difference:
    by_pitch: dict[int, tuple[list[Sound], list[Sound]]] = defaultdict(lambda: ([], []))
    for side, notes in enumerate((first, second)):
        for note in notes:
            by_pitch[note.pitch][side].append(note)
    only: tuple[list[Sound], list[Sound]] = ([], [])
    lengths = both = 0
    names = []
    for left, right in by_pitch.values():
        left[:], right[:] = struck_once(left), struck_once(right)
        i = j = 0
        while i < len(left) and j < len(right):
            gap = left[i].onset - right[j].onset
            if abs(gap) > NEAR:
                only[0 if gap < 0 else 1].append((left if gap < 0 else right)[i if gap < 0 else j])
                i, j = i + (gap < 0), j + (gap > 0)
                continue
            both += 1
            lengths += abs(left[i].length - right[j].length) > NEAR
            if left[i].name and right[j].name and left[i].name != right[j].name:
                names.append((left[i], right[j]))
            i, j = i + 1, j + 1
        only[0].extend(left[i:])
        only[1].extend(right[j:])
    return Difference(
        only_first=tuple(sorted(only[0])), only_second=tuple(sorted(only[1])), lengths=lengths,
        names=tuple(names), both=both,
    )  # fmt: skip


def struck_once(notes: Sequence[Sound]) -> list[Sound]:
    """One key is struck once at one moment, whoever reads: the longest of what stands there."""
    actual: list[Sound] = []
    for note in sorted(notes):
        if actual and note.onset - actual[-1].onset <= NEAR:
            actual[-1] = actual[-1]._replace(length=max(actual[-1].length, note.length))
        else:
            actual.append(note)
    return actual


def begun_together(oido: AnalysedTake, other: AnalysedTake) -> AnalysedTake:
    """The other's notes moved so that the first notes fall together: a pick-up is counted from its own beginning by
    some, and Oido writes rests before it."""
    if not oido.notes or not other.notes:
        return other
    by = min(n.onset for n in oido.notes) - min(n.onset for n in other.notes)
    return AnalysedTake(notes=tuple(n._replace(onset=n.onset + by) for n in other.notes))


def bar_of(oido: AnalysedTake, onset: float) -> int:
    return max(1, sum(start <= onset + NEAR for start in oido.starts))


def said(difference: Difference, oido: AnalysedTake) -> str:
    words = []
    for notes, who in ((difference.only_first, "only Oido"), (difference.only_second, "only it")):
        if notes:
            words.append(
                f"{who} has {len(notes)}, first {notes[0].pitch} in bar {bar_of(oido, notes[0].onset)}"
            )
    if difference.lengths:
        words.append(f"{difference.lengths} lengths differ")
    if difference.names:
        ours, theirs = difference.names[0]
        words.append(
            f"{len(difference.names)} names differ, first {ours.name}/{theirs.name} in bar {bar_of(oido, ours.onset)}"
        )
    return "; ".join(words) or "the same"


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="oido bench files", description=__doc__)
    parser.add_argument("folder", type=Path)
    folder = parser.parse_args(arguments).folder
    if not folder.is_dir():
        print(f"oido: {folder}: no such folder", file=sys.stderr)
        return 2
    warnings.simplefilter("ignore")
    # Loaded once: each reading is forked from here.
    import music21
    import partitura
    import symusic

    import ear.file_report
    import ear.formats.importing

    loaded = (music21, partitura, symusic, ear.formats.importing, ear.file_report)
    print(
        f"{len(loaded) - 2} readers and Oido; base memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"
    )
    paths = sorted(p for p in folder.rglob("*") if p.suffix.lower() in (*MIDI, *SCORES))
    counts: Counter[str] = Counter()
    shares: list[float] = []
    slowest: list[tuple[float, str]] = []
    largest: list[tuple[float, str]] = []
    for path in paths:
        is_midi = path.suffix.lower() in MIDI
        witnesses = (
            ("music21", by_music21),
            ("symusic", by_symusic) if is_midi else ("partitura", by_partitura),
        )
        name = str(path.relative_to(folder))
        oido = apart(by_oido, path)
        slowest.append((oido.seconds, name))
        largest.append((oido.megabytes, name))
        others = [(who, apart(read, path)) for who, read in witnesses]
        if oido.problem:
            counts["refused by Oido"] += 1
            reads = [who for who, other in others if not other.problem]
            print(f"{name}: refused: {oido.problem}; read by {' and '.join(reads) or 'nobody'}", flush=True)
            continue
        counts["read by Oido"] += 1
        actual = [
            (who, other.problem, compare(oido.notes, begun_together(oido, other).notes))
            for who, other in others
        ]
        same = [who for who, problem, difference in actual if not problem and difference.is_none]
        readable = [who for who, problem, _ in actual if not problem]
        shares += [max((d.share for _, problem, d in actual if not problem), default=1.0)]
        if len(same) == 2:
            counts["as both witnesses"] += 1
            continue
        counts[
            "as one of them" if same else "as the only one that reads it" if not readable else "as neither"
        ] += 1
        if not same:
            tale = " | ".join(f"{who}: {problem or said(d, oido)}" for who, problem, d in actual)
            print(f"{name}: {len(oido.notes)} notes: {tale}", flush=True)
    print(f"\n{len(paths)} files")
    for what, count in counts.most_common():
        print(f"  {count:5} {what}")
    if shares:
        print(f"notes in common with the nearer witness: {100 * sum(shares) / len(shares):.2f} % on average")
    for title, rows, unit in (("slowest", slowest, "s"), ("largest", largest, "MB")):
        print(
            f"{title}: " + ", ".join(f"{n} {value:.1f} {unit}" for value, n in sorted(rows, reverse=True)[:5])
        )
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
