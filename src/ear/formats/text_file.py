"""A part as a text file: a head that says metre, tempo and key, and a line for each bar (`ear.formats.plain_text`).

keyboard
metre 7/8 2+2+3
metre 4/4 from bar 5
tempo 96
key 2 sharps
1 R: C4/4 D/8 E/8 L: -/2
"""

import re
from collections.abc import Iterator

from ear.errors import FormatError, LineError, ValueOutOfRange
from ear.formats.plain_text import read_lines
from ear.formats.plain_writing import plain_lines, usual_velocity
from ear.notes import Kind, Meter, MeterChange, MeterMap, Part, Section, TempoChange, TempoMap
from ear.patterns.modes import key_name
from ear.text import term
from ear.units import MAX_VELOCITY, MIN_VELOCITY

FROM_BAR = r"(?:\s+from\s+bar\s+(?P<bar>\d{1,4})(?:\s+beat\s+(?P<beat>\d{1,2}(?:\.\d{1,3})?))?)?"
METRE = re.compile(
    r"metre\s+(?P<over>\d{1,2})/(?P<under>\d{1,2})(?:\s+(?P<groups>\d+(?:\+\d+)+))?" + FROM_BAR
)
TEMPO = re.compile(r"tempo\s+(?P<bpm>\d{1,3}(?:\.\d+)?)" + FROM_BAR)
KEY = re.compile(r"key\s+(?P<count>\d)(?:\s+(?P<sign>sharps?|flats?))?" + FROM_BAR)
VELOCITY = re.compile(r"velocity\s+(\d{1,3})")
HANDS_LINE = re.compile(r"\b[RL]:", re.IGNORECASE)


def write_text(part: Part) -> bytes:
    """Return a part as a text file in UTF-8."""
    return "".join((*_head(part), plain_lines(part))).encode()


def _head(part: Part) -> Iterator[str]:
    yield f"{part.kind.value}\n"
    for change in part.meters.changes:
        groups = f" {'+'.join(map(str, change.meter.groups))}" if change.meter.groups else ""
        from_bar = f" from bar {change.bar}" if change.bar > 1 else ""
        yield f"metre {change.meter.numerator}/{change.meter.denominator}{groups}{from_bar}\n"
    for tempo in part.tempos.changes:
        bar = part.meters.bar_at(tempo.tick)
        beat = (tempo.tick - bar.start_tick) / bar.meter.beat_ticks + 1
        place = f" from bar {bar.number}" + (f" beat {round(beat, 3):g}" if beat > 1 else "")
        yield f"tempo {tempo.bpm:g}{place if tempo.tick else ''}\n"
    if part.instrument.has_key:
        yield f"key {_key(part.fifths)}\n"
        for section in part.sections:
            if section.fifths is not None:
                yield f"key {_key(section.fifths)} from bar {section.bar}\n"

    if part.notes:
        yield f"velocity {usual_velocity(part)}\n"


def _key(fifths: int) -> str:
    if not fifths:
        return "0"
    sign = "sharp" if fifths > 0 else "flat"
    return f"{abs(fifths)} {sign}" if abs(fifths) == 1 else f"{abs(fifths)} {sign}s"


def read_text(data: bytes, *, kind: Kind | None = None) -> Part:
    """Read a text file; `kind` is what it is for where its head does not say. Raises FormatError, and LineError for a line
    that cannot be read.
    """
    try:
        lines = data.decode("utf-8-sig").splitlines()
    except UnicodeDecodeError:
        raise FormatError(expected=term("text in UTF-8"), actual=term("something else")) from None
    head = 0
    while head < len(lines) and not lines[head].strip()[:1].isdigit() and not HANDS_LINE.search(lines[head]):
        head += 1
    page, velocity = _page(lines[:head], kind)
    body = "\n" * head + "\n".join(lines[head:])
    return read_lines(page, body, velocity=velocity).part


def _page(head: list[str], kind: Kind | None) -> tuple[Part, int | None]:
    """An empty part, and how loud its notes are where they do not say."""
    meters: dict[int, Meter] = {}
    tempos: list[tuple[int, float, float]] = []
    keys: dict[int, int] = {}
    velocity: int | None = None
    for number, line in enumerate(head, start=1):
        words = " ".join(line.split()).lower()
        bar = 1
        try:
            if match := METRE.fullmatch(words):
                bar = int(match["bar"] or 1)
                groups = tuple(map(int, match["groups"].split("+"))) if match["groups"] else ()
                meters[bar] = Meter(
                    numerator=int(match["over"]), denominator=int(match["under"]), groups=groups
                )
            elif match := TEMPO.fullmatch(words):
                bpm = TempoChange(tick=0, bpm=float(match["bpm"])).bpm
                tempos.append((int(match["bar"] or 1), float(match["beat"] or 1), bpm))
            elif match := KEY.fullmatch(words):
                sharps = int(match["count"])
                keys[int(match["bar"] or 1)] = -sharps if (match["sign"] or "").startswith("flat") else sharps
            elif match := VELOCITY.fullmatch(words):
                velocity = max(MIN_VELOCITY, min(MAX_VELOCITY, int(match[1])))
            elif words in list(Kind):
                kind = Kind(words)
            elif words:
                raise ValueOutOfRange("text_head_unreadable", line=line.strip())
        except ValueOutOfRange as problem:
            raise LineError(line=number, problem=problem) from problem
    kind = kind or Kind.KEYBOARD
    meters.setdefault(1, Meter(numerator=4, denominator=4))
    meter_map = MeterMap([MeterChange(bar=bar, meter=meter) for bar, meter in sorted(meters.items())])
    by_tick = {0: kind.instrument.bpm}
    for bar, beat, bpm in tempos:
        whole = meter_map.bar(bar)
        by_tick[whole.start_tick + round((beat - 1) * whole.meter.beat_ticks)] = bpm
    page = Part(
        kind=kind, notes=(), meters=meter_map,
        tempos=TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in sorted(by_tick.items())]),
        fifths=keys.pop(1, 0),
        sections=tuple(Section(bar=bar, name=key_name(fifths), fifths=fifths) for bar, fifths in sorted(keys.items())),
    )  # fmt: skip
    return page, velocity
