"""What stands over and under the notes: tempos, dynamics, sections, the pedal, chord names."""

from fractions import Fraction
from xml.etree.ElementTree import Element

from ear.formats.account import Lost
from ear.formats.musicxml import words
from ear.formats.musicxml.elements import number_of, tonic_of
from ear.formats.musicxml.gathered import Gathered
from ear.formats.musicxml.unfolding import JUMPS
from ear.notes import PedalMark, Section, SignKind, StaffSign
from ear.notes.loudness import LOUDNESS
from ear.notes.signs import MAX_TEXT_LENGTH
from ear.units import MAX_BPM, MIN_BPM, TICKS_PER_QUARTER

BEAT_UNITS = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25, "32nd": 0.125}
QUALITY_OF_KIND = {kind: quality for quality, kind in words.KINDS.items()} | {"none": ""}


def read_direction(
    gathered: Gathered, element: Element, *, now: Fraction, number: int, divisions: Fraction
) -> None:
    """Gather one `direction` element: words, tempo, pedal. `now` is in quarters from the beginning, `number` the measure's."""
    offset = number_of(element.findtext("offset")) or Fraction(0)
    tick = max(0, round(now + offset * TICKS_PER_QUARTER / divisions))
    rehearsal = element.findtext("direction-type/rehearsal")
    if rehearsal and rehearsal.strip():
        gathered.counts.marks.add()
        gathered.sections[number] = Section(bar=number, name=rehearsal.strip()[:60])
    jumping = element.find("sound")
    has_jump = jumping is not None and any(jumping.get(name) for name in JUMPS)
    text = " ".join(
        "".join(words.itertext()).strip() for words in element.iterfind("direction-type/words")
    ).strip()
    if text and not has_jump:
        gathered.counts.marks.add()
        is_left = element.findtext("staff") not in (None, "1")
        gathered.signs.add(
            StaffSign(
                tick=tick, kind=SignKind.TEXT, end_tick=tick, text=text[:MAX_TEXT_LENGTH], is_left=is_left
            )
        )
    sound = element if element.tag == "sound" else element.find("sound")
    tempo = number_of(sound.get("tempo")) if sound is not None else None
    bpm = float(tempo) if tempo else _metronome(element)
    if bpm is not None:
        if MIN_BPM <= bpm <= MAX_BPM:
            gathered.counts.tempos.add()
            gathered.tempos[tick] = round(bpm, 3)
        else:
            gathered.lose(Lost.TEMPO)
    for mark in element.findall("direction-type/dynamics/*"):
        if mark.tag in LOUDNESS:
            gathered.counts.marks.add()
            gathered.levels.signs[tick] = LOUDNESS[mark.tag]
    for mark in element.findall("direction-type/wedge"):
        gathered.counts.marks.add()
        gathered.levels.wedge(mark.get("type"), mark.get("number", "1"), tick)
    for mark in element.findall("direction-type/pedal"):
        _pedal(gathered, mark.get("type"), tick)


def _pedal(gathered: Gathered, move: str | None, tick: int) -> None:
    """Start, change and stop of the sustain pedal; the middle pedal is another one."""
    gathered.counts.marks.add()
    if move in ("stop", "change", "discontinue") and gathered.pedal_from is not None:
        if tick > gathered.pedal_from:
            gathered.pedal.append(PedalMark(start_tick=gathered.pedal_from, end_tick=tick))
        gathered.pedal_from = None
    if move in ("start", "change", "resume"):
        gathered.pedal_from = tick
    elif move not in ("stop", "discontinue", "continue"):
        gathered.lose(Lost.PEDALS)


def _metronome(element: Element) -> float | None:
    metronome = element.find("direction-type/metronome")
    if metronome is None:
        return None
    unit, minute = BEAT_UNITS.get(metronome.findtext("beat-unit") or ""), metronome.findtext("per-minute")
    rate = number_of(minute)
    if unit is None or rate is None:
        return None
    dots = len(metronome.findall("beat-unit-dot"))
    return float(rate) * unit * (2 - 0.5**dots)


def read_harmony(gathered: Gathered, element: Element, *, now: Fraction, divisions: Fraction) -> None:
    """Gather one `harmony` element as a chord name. `now` is in quarters from the beginning."""
    root = tonic_of(element, "root")
    kind = element.find("kind")
    if root is None or kind is None or (kind.text or "").strip() == "none":
        return
    quality = QUALITY_OF_KIND.get((kind.text or "").strip())
    if quality is None:
        quality = kind.get("text") or ""
    bass = tonic_of(element, "bass")
    offset = number_of(element.findtext("offset")) or Fraction(0)
    tick = max(0, round(now + offset * TICKS_PER_QUARTER / divisions))
    gathered.counts.marks.add()
    gathered.chords[tick] = f"{root}{quality.replace('b5', '♭5')}{f'/{bass}' if bass else ''}"
