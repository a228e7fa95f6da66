"""What Oido reads in a file, said: as lines for a person, as JSON for a program."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import PurePath
from typing import Literal

from ear.formats.account import NotImported
from ear.formats.importing import Choice, OpenedFile
from ear.formats.text_file import read_text
from ear.notation.written import voices_of, write_out
from ear.notes import STANDARD_KIT, Kind, Part, Unison, spell
from ear.reader import ENGLISH, Reader
from ear.text import gettext_noop, ngettext_lazy
from ear.units import TICKS_PER_QUARTER

READ_SCHEMA: Literal["oido.read/1"] = "oido.read/1"
ASCII_SIGNS = {-2: "bb", -1: "b", 0: "", 1: "#", 2: "##"}
IN_BARS = gettext_noop("{what}: {bars}")
BAR_LIST = ngettext_lazy("bar {bars}", "bars {bars}", by="count")
BAR_RUN = gettext_noop("{first} to {last}")
TIMES = ngettext_lazy("{count} time", "{count} times", by="count")
MIN_RUN = 2
"""Bars behind the first from which a run is told by its ends."""
MAX_RUNS_SHOWN = 12
"""Runs of bars that are named one by one; the rest are counted."""
AND_MORE = ngettext_lazy("and {count} more", "and {count} more", by="count")


@dataclass(frozen=True, slots=True, kw_only=True)
class Read:
    """A file, read: the part of all that is of one kind, and what did not come in."""

    title: str
    opened: OpenedFile
    part: Part
    not_imported: tuple[NotImported, ...]


def read(opened: OpenedFile, *, file_name: str, kind: Kind | None = None, respell: bool = False) -> Read:
    """Return everything in a file that is of `kind`, or of the kind that most of it is.

    `respell` discards the file's own note names. Raises ValueOutOfRange for a file without notes, FormatError
    for an unreadable one.
    """
    kind = kind or opened.kind
    fitting = [c.key for c in opened.choices if c.kind is kind] or [c.key for c in opened.choices]
    taken = opened.take(fitting, kind=kind)
    part = taken.part
    if respell:
        part = part.with_notes(replace(n, name_fifth=None) for n in part.notes)
    return Read(
        title=title_of(opened, file_name),
        opened=opened,
        part=part,
        not_imported=opened.not_imported + taken.not_imported,
    )


def opened_text(data: bytes, *, kind: Kind | None = None) -> OpenedFile:
    """Open a part as text; `kind` is what it is for where it does not say. Raises FormatError and LineError."""
    part = read_text(data, kind=kind)
    only = Choice(key="0", name="", number=1, channel=None, is_keys=not part.instrument.has_lanes, part=part)
    return OpenedFile(format="text", title="", choices=(only,), not_imported=())


def title_of(opened: OpenedFile, file_name: str) -> str:
    """Return the title of the piece, or the file's name if the file has no title."""
    return opened.title or PurePath(file_name).stem.replace("_", " ").strip()


def read_to_json(report: Read) -> dict[str, object]:
    """Return what was read in schema oido.read/1: onsets and lengths in quarters, bars from 1, voices from 1 in
    each staff.

    `tie` says whether the note is written as several tied ones; `unison` is a second note on the same key, which is struck
    once. Names of drums are their lanes'.
    """
    part = report.part
    score = write_out(part)
    tied = {
        head.note
        for bar in score.bars for staff in bar.staves for line in staff.voices for written in line
        for head in written.heads if head.is_tied_on and not head.is_unison
    }  # fmt: skip
    return {
        "schema": READ_SCHEMA,
        "title": report.title,
        "kind": part.kind.value,
        "bars": part.last_bar,
        "meters": [
            {"bar": c.bar, "numerator": c.meter.numerator, "denominator": c.meter.denominator}
            for c in part.meters.changes
        ],
        "keys": [{"bar": bar, "fifths": fifths} for bar, fifths in _keys(part)],
        "tempos": [{"onset": c.tick / TICKS_PER_QUARTER, "bpm": c.bpm} for c in part.tempos.changes],
        "notes": [
            {
                "onset": note.onset_tick / TICKS_PER_QUARTER,
                "length": note.length_tick / TICKS_PER_QUARTER,
                "pitch": note.pitch,
                "name": name,
                "velocity": note.velocity,
                "hand": note.hand.value if note.hand else None,
                "voice": voice,
                "finger": note.finger,
                "tie": i in tied,
                **({} if note.unison is None else {"unison": _unison(note.unison)}),
            }
            for i, (note, name, voice) in enumerate(zip(part.notes, _names(part), voices_of(score), strict=True))
        ],
        "not_imported": [{"bar": row.bar, "what": row.text.singular} for row in report.not_imported],
    }  # fmt: skip


def _unison(unison: Unison) -> dict[str, object]:
    return {
        "length": unison.length_tick / TICKS_PER_QUARTER,
        "hand": unison.hand.value if unison.hand else None,
        "voice": unison.voice,
    }


def read_summary(report: Read) -> str:
    """Return what was read as a few lines of plain text."""
    return "\n".join(_lines(report))


def _lines(report: Read) -> Iterator[str]:
    part, meter = report.part, report.part.meters.first
    yield f"{report.title or 'without a title'} ({report.opened.format})"
    yield (
        f"{part.kind.value}, {part.last_bar} bars of {meter.numerator}/{meter.denominator} "
        f"at {part.tempos.first_bpm:g}, {len(part.notes)} notes"
    )
    for choice in report.opened.choices:
        where = f", channel {choice.channel}" if choice.channel else ""
        yield f"  {choice.name or f'track {choice.number}'}{where}: {choice.notes} notes, {choice.kind.value}"
    names = _names(part)
    for bar, inside in groupby(range(len(part.notes)), key=lambda i: int(part.bar_of_note[i])):
        yield f"bar {bar:<4} {' '.join(names[i] for i in inside)}"
    yield "Not imported:" if report.not_imported else "Nothing was left out."
    for line in describe_account(report.not_imported, ENGLISH):
        yield f"  {line}"


def describe_account(rows: Iterable[NotImported], reader: Reader) -> list[str]:
    """Return a phrase for each thing that was not imported, with its bars."""
    lines: list[str] = []
    by_kind: dict[str, list[NotImported]] = {}
    for row in rows:
        by_kind.setdefault(row.feature, []).append(row)
    for each in by_kind.values():
        sentence = reader.say(each[0].text, {})
        bars = sorted({row.bar for row in each if row.bar is not None})
        if bars:
            sentence = reader.say(IN_BARS, {"what": sentence, "bars": list_bars(bars, reader)})
        count = sum(row.count for row in each)
        if count > max(1, len(bars)):
            sentence += f" ({reader.say(TIMES, {'count': count})})"
        lines.append(sentence)
    return lines


def list_bars(bars: list[int], reader: Reader) -> str:
    """Return bars in words, in order: “bar 3”; “bars 3, 5 to 8, 12”."""
    runs: list[tuple[int, int]] = []
    for bar in bars:
        if runs and bar == runs[-1][1] + 1:
            runs[-1] = (runs[-1][0], bar)
        else:
            runs.append((bar, bar))
    words = [
        ", ".join(str(bar) for bar in range(first, last + 1))
        if last - first < MIN_RUN
        else reader.say(BAR_RUN, {"first": first, "last": last})
        for first, last in runs[:MAX_RUNS_SHOWN]
    ]
    more = sum(last - first + 1 for first, last in runs[MAX_RUNS_SHOWN:])
    if more:
        words.append(reader.say(AND_MORE, {"count": more}))
    return reader.say(BAR_LIST, {"bars": ", ".join(words), "count": len(bars)})


def _names(part: Part) -> list[str]:
    if part.instrument.has_lanes:
        return [STANDARD_KIT.lane(n.pitch).name for n in part.notes]
    return [
        f"{(spelling := spell(n.pitch, name_fifth=name_fifth)).letter}{ASCII_SIGNS[spelling.alteration]}{spelling.step // 7 - 1}"
        for n, name_fifth in zip(part.notes, part.names, strict=True)
    ]


def _keys(part: Part) -> Iterator[tuple[int, int]]:
    """Key signatures where they change."""
    yield part.first_bar, part.fifths_at(0)
    before = part.fifths_at(0)
    for section in part.sections:
        fifths = part.fifths if section.fifths is None else section.fifths
        if section.bar > part.first_bar and fifths != before:
            yield section.bar, fifths
        before = fifths
