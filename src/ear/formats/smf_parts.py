"""What a Standard MIDI File holds, as a part or as a take."""

from collections.abc import Callable, Collection
from dataclasses import replace

from ear.formats.smf import DEFAULT_BPM, KEY_NAMES, Contents, Voice, read_contents
from ear.notes import (
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    PedalMark,
    PedalSpan,
    Section,
    Take,
    TakeNote,
    TempoChange,
    TempoMap,
)  # fmt: skip
from ear.notes.note import LABEL_MOST
from ear.units import TICKS_PER_QUARTER

BARS_MOST = 400
SECTION_NAME_MOST = 60


def read_part(data: bytes, *, kind: Kind, voices: Collection[Voice] | None = None) -> Part:
    """Read a target part, of all voices or of some. Its notes number as the file's do, by (onset, pitch)."""
    return part_of(read_contents(data), kind=kind, voices=voices)


def part_of(contents: Contents, *, kind: Kind, voices: Collection[Voice] | None = None) -> Part:
    """A target part from what a file holds."""
    if voices is not None:
        chosen = tuple(n for n in contents.notes if (n.track, n.channel) in voices)
        contents = replace(contents, notes=chosen)
    scale = TICKS_PER_QUARTER / contents.ticks_per_quarter

    def tick(file_tick: float) -> int:
        return round(file_tick * scale)

    tempos = [TempoChange(tick=tick(at), bpm=bpm) for at, bpm in contents.tempos]
    if not tempos or tempos[0].tick != 0:
        tempos.insert(0, TempoChange(tick=0, bpm=DEFAULT_BPM))
    hands = _hands(contents, kind=kind)
    labels = _labels(contents)
    notes = [
        Note(
            onset_tick=tick(n.onset),
            length_tick=max(1, tick(n.end) - tick(n.onset)),
            pitch=n.pitch,
            velocity=n.velocity,
            hand=hands.get((n.track, n.channel)),
            label=labels.get(k),
        )
        for k, n in enumerate(contents.notes)
    ]
    meters = _meter_map([(tick(at), meter) for at, meter in contents.meters])
    return Part.of(
        notes,
        kind=kind,
        meters=meters,
        sections=_sections(contents, meters, kind=kind, scale=scale),
        tempos=TempoMap([c for c, after in zip(tempos, [*tempos[1:], None], strict=True)
                         if after is None or after.tick != c.tick]),
        fifths=contents.fifths,
        pedal=_pedal(contents, tick) if kind.instrument.has_pedal else (),
    ).lasting(_bars_said(meters, tick(contents.end)))  # fmt: skip


def _pedal(contents: Contents, tick: Callable[[float], int]) -> list[PedalMark]:
    """Stretches that last; what is shorter than a tick is none."""
    spans = [(tick(start), tick(end)) for start, end in contents.pedal]
    return [PedalMark(start_tick=start, end_tick=end) for start, end in spans if start < end]


def _labels(contents: Contents) -> dict[int, str]:
    """Words by the note, of `contents.notes`, that they are sung to: of several at once the highest."""
    found: dict[tuple[int, float], int] = {}
    for k, note in enumerate(contents.notes):
        if (note.track, note.onset) in contents.words:
            found[note.track, note.onset] = k
    return {k: contents.words[track, int(onset)][:LABEL_MOST] for (track, onset), k in found.items()}


def _sections(contents: Contents, meters: MeterMap, *, kind: Kind, scale: float) -> list[Section]:
    """Markers are sections' names; another key begins one, too."""
    names = {meters.bar_at(round(at * scale)).number: text for at, text in contents.markers if text}
    keys = {meters.bar_at(round(at * scale)).number: fifths for at, fifths in contents.keys}
    if kind.instrument.has_lanes:
        keys = {}
    found: list[Section] = []
    fifths = contents.fifths
    for bar in sorted({*names, *keys}):
        fifths = keys.get(bar, fifths)
        name = names.get(bar, KEY_NAMES[fifths + 7].replace("#", "♯").replace("b", "♭"))
        found.append(Section(bar=bar, name=name[:SECTION_NAME_MOST], fifths=fifths if keys else None))
    return found


def _bars_said(meters: MeterMap, end: int) -> int:
    """Bars that a file has by its tracks' end, if that is a bar line; else as its notes have it."""
    bar = meters.bar_at(max(0, end - 1))
    return bar.number if bar.end_tick == end and bar.number <= BARS_MOST else 1


def _meter_map(meters: list[tuple[int, Meter]]) -> MeterMap:
    """Meters at ticks as meters at bars; a change inside a bar takes effect at that bar."""
    found = MeterMap.of(4, 4)
    for tick, meter in meters:
        bar = found.bar_at(tick).number
        kept = [c for c in found.changes if c.bar < bar]
        found = MeterMap([*kept, MeterChange(bar=bar, meter=meter)])
    return found


def _hands(contents: Contents, *, kind: Kind) -> dict[Voice, Hand]:
    """Which voice is which hand: by its track's name if that says so, else two by their height."""
    voices = sorted({(n.track, n.channel) for n in contents.notes})
    if kind.instrument.has_lanes:
        return {}
    named: dict[Voice, Hand] = {}
    for voice in voices:
        name = contents.track_names[voice[0]].lower()
        for hand in Hand:
            if hand.value in name:
                named[voice] = hand
    if len(named) == len(voices):
        return named
    if len(voices) != 2:
        return {}

    def height(voice: Voice) -> float:
        pitches = [n.pitch for n in contents.notes if (n.track, n.channel) == voice]
        return sum(pitches) / len(pitches)

    low, high = sorted(voices, key=height)
    return {high: Hand.RIGHT, low: Hand.LEFT}


def read_take(data: bytes, *, part: Part, count_in_bars: int = 0) -> Take:
    """Read a take that was recorded against a part's click.

    The file begins `count_in_bars` bars (first meter, first tempo of the part) before bar 1.
    A file that names no tempo is taken to run at the click's.
    """
    contents = read_contents(data)
    bpm = [TempoChange(tick=at, bpm=bpm) for at, bpm in contents.tempos]
    if not bpm or bpm[0].tick != 0:
        bpm.insert(0, TempoChange(tick=0, bpm=DEFAULT_BPM if bpm else part.tempos.first_bpm))
    tempos = TempoMap(bpm)
    # The map counts 480 ticks to a quarter; the file's own division is put right by a factor.
    scale = TICKS_PER_QUARTER / contents.ticks_per_quarter
    scaled = TempoMap([TempoChange(tick=round(c.tick * scale), bpm=c.bpm) for c in tempos.changes])
    count_in_s = count_in_bars * part.meters.first.bar_quarters * 60.0 / part.tempos.first_bpm

    def second(file_tick: float) -> float:
        return scaled.second_at(file_tick * scale) - count_in_s

    return Take.of(
        (
            TakeNote(
                onset_s=second(n.onset), length_s=second(n.end) - second(n.onset),
                pitch=n.pitch, velocity=n.velocity,
            )
            for n in contents.notes
        ),
        pedal=(PedalSpan(start_s=second(a), end_s=second(b)) for a, b in contents.pedal),
    )  # fmt: skip
