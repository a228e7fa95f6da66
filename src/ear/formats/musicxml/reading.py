"""MusicXML to parts, with an account of what was not understood.

What a score says of playing is taken: pitches as they sound, hands by staff, fingers, words, chord names,
tempos, keys, meters, repeats unfolded, cue notes as cues. What is only for the eye is left; what is for the
ear and cannot be kept (grace notes, ornaments, articulations) is counted and said.
"""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from xml.etree.ElementTree import Element

from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.formats.musicxml import words
from ear.formats.musicxml.unfolding import played_order
from ear.notes import (
    STANDARD_KIT,
    ChordMark,
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    PedalMark,
    Section,
    TempoChange,
    TempoMap,
)  # fmt: skip
from ear.notes.note import FIFTHS_MAX, FINGERS, LABEL_MOST
from ear.patterns.modes import LETTER_PITCHES, key_name
from ear.units import BPM_MAX, BPM_MIN, PITCH_MAX, PITCH_MIN, TICKS_PER_QUARTER, VELOCITY_MAX, VELOCITY_MIN

NOTES_MAX = 50_000
DURATION_MOST = 1_000_000
DEFAULT_BPM = 120.0
DEFAULT_VELOCITY = 80
DYNAMICS = {"ppp": 24, "pp": 36, "p": 49, "mp": 64, "mf": 80, "f": 96, "ff": 112, "fff": 122}
BEAT_UNITS = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25, "32nd": 0.125}
QUALITY_OF_KIND = {kind: quality for quality, kind in words.KINDS.items()} | {"none": ""}
HEADS_SEEN = {"x": "cross", "circle-x": "ring", "diamond": "diamond"}


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportedPart:
    """One part of a score: its name in the file, and what it became."""

    name: str
    part: Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Imported:
    """All parts of a score, its title, and in plain words what was not understood."""

    title: str
    parts: tuple[ImportedPart, ...]
    account: tuple[str, ...]


def read_score(root: Element) -> Imported:
    """Read a parsed document. Raises FormatError where it is no score, or one too large."""
    if root.tag == "score-timewise":
        raise FormatError(expected="a partwise score", found="a timewise one")
    if root.tag != "score-partwise":
        raise FormatError(expected="a score (score-partwise)", found=f"<{root.tag}>")
    title = (root.findtext("work/work-title") or root.findtext("movement-title") or "").strip()
    listed = {element.get("id", ""): element for element in root.findall("part-list/score-part")}
    missed: Counter[str] = Counter()
    parts: list[ImportedPart] = []
    order: list[int] | None = None
    for element in root.findall("part"):
        measures = element.findall("measure")
        # Repeats stand in the first part for all of them, as the format wants it.
        if order is None:
            order = played_order(measures)
        score_part = listed.get(element.get("id", ""))
        try:
            part = _Reader(measures=measures, listed=score_part, missed=missed).read(order)
        except EarError as problem:
            if isinstance(problem, FormatError):
                raise
            raise FormatError(expected="a part", found=f"{problem}") from problem
        name = (score_part.findtext("part-name") if score_part is not None else "") or ""
        parts.append(ImportedPart(name=name.strip() or f"part {len(parts) + 1}", part=part))
    if not parts:
        raise FormatError(expected="a score with a part or more", found="none")
    return Imported(title=title, parts=tuple(parts), account=tuple(_account(missed)))


def _account(missed: Counter[str]) -> Iterator[str]:
    for what, count in sorted(missed.items()):
        yield f"{what} ({count} times)" if count > 1 else what


@dataclass(slots=True, kw_only=True)
class _Sounding:
    """A note as it is put together from its tied pieces."""

    onset: Fraction
    end: Fraction
    pitch: int
    velocity: int
    staff: int
    finger: int | None
    label: str | None
    attack: int
    release: int
    is_cue: bool


@dataclass(slots=True, kw_only=True)
class _Reader:
    """One part; times in ticks of ours, as fractions until all is read."""

    measures: Sequence[Element]
    listed: Element | None
    missed: Counter[str]
    divisions: Fraction = Fraction(1)
    fifths: int = 0
    meter: Meter = field(default_factory=lambda: Meter(numerator=4, denominator=4))
    transpose: int = 0
    velocity: int = DEFAULT_VELOCITY
    staves: int = 1
    kind: Kind = Kind.KEYBOARD
    notes: list[_Sounding] = field(default_factory=list)
    tied: dict[tuple[int, int], list[_Sounding]] = field(default_factory=dict)
    """Notes that go on, by pitch and staff: two voices may tie one key."""
    tempos: dict[int, float] = field(default_factory=dict)
    chords: dict[int, str] = field(default_factory=dict)
    pedal: list[PedalMark] = field(default_factory=list)
    pedal_from: int | None = None
    """Where the pedal that is down went down."""
    sections: dict[int, Section] = field(default_factory=dict)
    keys: dict[int, int] = field(default_factory=dict)
    meters: list[Meter] = field(default_factory=list)
    percussion: dict[str, int] = field(default_factory=dict)

    def read(self, order: Sequence[int]) -> Part:
        if self.listed is not None:
            for midi in self.listed.findall("midi-instrument"):
                number = _whole(midi.findtext("midi-unpitched"))
                if number is not None:
                    self.percussion[midi.get("id", "")] = number - 1
        at = Fraction(0)
        for number, index in enumerate(order, start=1):
            if index < len(self.measures):
                at = self._measure(self.measures[index], at, number)
        return self._part()

    # bars

    def _measure(self, measure: Element, start: Fraction, number: int) -> Fraction:
        shift = self._pickup(measure) if number == 1 else Fraction(0)
        now = start + shift
        furthest = now
        last_onset = now
        for element in measure:
            match element.tag:
                case "attributes":
                    self._attributes(element)
                case "backup":
                    now -= self._duration(element)
                case "forward":
                    now += self._duration(element)
                case "direction" | "sound":
                    self._direction(element, now, number)
                case "harmony":
                    self._harmony(element, now)
                case "note":
                    length = self._duration(element)
                    onset = last_onset if element.find("chord") is not None else now
                    self._note(element, onset, length)
                    if element.find("chord") is None:
                        last_onset = now
                        now += length
            furthest = max(furthest, now)
        self.keys[number] = self.fifths
        self.meters.append(self._meter_of(furthest - start))
        return start + self.meters[-1].bar_ticks

    def _pickup(self, measure: Element) -> Fraction:
        """A first bar that is not full is a pick-up: it stands at the end of bar 1, rests before it."""
        for attributes in measure.findall("attributes"):
            self._attributes(attributes)
        length = now = Fraction(0)
        for element in measure:
            if element.tag == "note" and element.find("chord") is None and element.find("grace") is None:
                now += self._duration(element)
            elif element.tag in ("backup", "forward"):
                now += self._duration(element) * (1 if element.tag == "forward" else -1)
            length = max(length, now)
        if 0 < length < self.meter.bar_ticks:
            self.missed["The pick-up has become a whole bar, with rests before it"] += 1
            return self.meter.bar_ticks - length
        return Fraction(0)

    def _meter_of(self, length: Fraction) -> Meter:
        """The meter of a bar that is so long: the one that is written, unless it is plainly another."""
        if length in (0, self.meter.bar_ticks):
            return self.meter
        unit = Fraction(4 * TICKS_PER_QUARTER, self.meter.denominator)
        for denominator in (self.meter.denominator, 8, 16):
            unit = Fraction(4 * TICKS_PER_QUARTER, denominator)
            count = length / unit
            if count.denominator == 1 and 1 <= count <= 32:
                self.missed["Bars shorter or longer than their meter have one of their own"] += 1
                return Meter(numerator=int(count), denominator=denominator)
        return self.meter

    def _attributes(self, element: Element) -> None:
        divisions = _number(element.findtext("divisions"))
        if divisions is not None and divisions > 0:
            self.divisions = divisions
        fifths = _whole(element.findtext("key/fifths"))
        if fifths is not None:
            if abs(fifths) > FIFTHS_MAX:
                raise FormatError(expected="a key of up to 7 signs", found=f"{fifths}")
            self.fifths = fifths
        self.staves = _whole(element.findtext("staves")) or self.staves
        time = element.find("time")
        if time is not None:
            self._time(time)
        transpose = element.find("transpose")
        if transpose is not None:
            chromatic = _whole(transpose.findtext("chromatic")) or 0
            self.transpose = chromatic + 12 * (_whole(transpose.findtext("octave-change")) or 0)
        if element.findtext("clef/sign") == "percussion":
            self.kind = Kind.DRUMS

    def _time(self, time: Element) -> None:
        beats, unit = time.findtext("beats"), _whole(time.findtext("beat-type"))
        if beats is None or unit is None:
            self.missed["A bar without meter is read in the meter before it"] += 1
            return
        over = sum(_whole(word) or 0 for word in beats.split("+"))
        try:
            self.meter = Meter(numerator=over, denominator=unit)
        except ValueOutOfRange:
            raise FormatError(expected="a meter over 2, 4, 8 or 16", found=f"{beats}/{unit}") from None

    def _duration(self, element: Element) -> Fraction:
        found = _number(element.findtext("duration"))
        if found is not None and not 0 <= found <= DURATION_MOST:
            raise FormatError(expected=f"durations up to {DURATION_MOST:,}", found=f"{float(found):g}")
        return (found or Fraction(0)) * TICKS_PER_QUARTER / self.divisions

    # what stands over the notes

    def _direction(self, element: Element, now: Fraction, number: int) -> None:
        offset = _number(element.findtext("offset")) or Fraction(0)
        tick = max(0, round(now + offset * TICKS_PER_QUARTER / self.divisions))
        rehearsal = element.findtext("direction-type/rehearsal")
        if rehearsal and rehearsal.strip():
            self.sections[number] = Section(bar=number, name=rehearsal.strip()[:60])
        sound = element if element.tag == "sound" else element.find("sound")
        tempo = _number(sound.get("tempo")) if sound is not None else None
        bpm = float(tempo) if tempo else self._metronome(element)
        if bpm is not None:
            if BPM_MIN <= bpm <= BPM_MAX:
                self.tempos[tick] = round(bpm, 3)
            else:
                self.missed[f"A tempo of {bpm:g} is not taken"] += 1
        for mark in element.findall("direction-type/dynamics/*"):
            self.velocity = DYNAMICS.get(mark.tag, self.velocity)
        if element.find("direction-type/wedge") is not None:
            self.missed["Hairpins are not played"] += 1
        for mark in element.findall("direction-type/pedal"):
            self._pedal(mark.get("type"), tick)

    def _pedal(self, move: str | None, tick: int) -> None:
        """Start, change and stop of the sustain pedal; the middle pedal is another one."""
        if move in ("stop", "change", "discontinue") and self.pedal_from is not None:
            if tick > self.pedal_from:
                self.pedal.append(PedalMark(start_tick=self.pedal_from, end_tick=tick))
            self.pedal_from = None
        if move in ("start", "change", "resume"):
            self.pedal_from = tick
        elif move not in ("stop", "discontinue", "continue"):
            self.missed["Pedals other than the sustain pedal are left out"] += 1

    def _metronome(self, element: Element) -> float | None:
        metronome = element.find("direction-type/metronome")
        if metronome is None:
            return None
        unit, minute = BEAT_UNITS.get(metronome.findtext("beat-unit") or ""), metronome.findtext("per-minute")
        rate = _number(minute)
        if unit is None or rate is None:
            return None
        dots = len(metronome.findall("beat-unit-dot"))
        return float(rate) * unit * (2 - 0.5**dots)

    def _harmony(self, element: Element, now: Fraction) -> None:
        root = _tonic(element, "root")
        kind = element.find("kind")
        if root is None or kind is None or (kind.text or "").strip() == "none":
            return
        quality = QUALITY_OF_KIND.get((kind.text or "").strip())
        if quality is None:
            quality = kind.get("text") or ""
        bass = _tonic(element, "bass")
        offset = _number(element.findtext("offset")) or Fraction(0)
        tick = max(0, round(now + offset * TICKS_PER_QUARTER / self.divisions))
        self.chords[tick] = f"{root}{quality.replace('b5', '♭5')}{f'/{bass}' if bass else ''}"

    # notes

    def _note(self, element: Element, onset: Fraction, length: Fraction) -> None:
        if element.find("grace") is not None:
            self.missed["Grace notes are left out"] += 1
            return
        if element.find("rest") is not None or length <= 0:
            return
        pitch = self._pitch(element)
        if pitch is None:
            return
        self._count_what_is_lost(element)
        staff = _whole(element.findtext("staff")) or 1
        ties = {tie.get("type") for tie in element.findall("tie")}
        waiting = self.tied.setdefault((pitch, staff), [])
        before = next((n for n in waiting if n.end == onset), None) if "stop" in ties else None
        release = _whole(element.get("release")) or 0
        if before is not None:
            waiting.remove(before)
            before.end += length
            before.release = release
            note = before
        else:
            note = _Sounding(
                onset=onset, end=onset + length, pitch=pitch, velocity=self._velocity(element), staff=staff,
                finger=self._finger(element), label=_label(element), attack=_whole(element.get("attack")) or 0,
                release=release, is_cue=element.find("cue") is not None,
            )  # fmt: skip
            self.notes.append(note)
            if len(self.notes) > NOTES_MAX:
                raise FormatError(expected=f"at most {NOTES_MAX:,} notes", found="more")
        if "start" in ties:
            waiting.append(note)

    def _pitch(self, element: Element) -> int | None:
        pitch = element.find("pitch")
        if pitch is None:
            return self._percussion(element)
        step, octave = pitch.findtext("step") or "", _whole(pitch.findtext("octave"))
        alter = _number(pitch.findtext("alter")) or Fraction(0)
        if step not in LETTER_PITCHES or octave is None:
            raise FormatError(expected="a pitch with step and octave", found=f"{step!r}")
        if alter.denominator != 1:
            self.missed["Quarter tones are taken to the nearest key"] += 1
        found = 12 * (octave + 1) + LETTER_PITCHES[step] + round(alter) + self.transpose
        if not PITCH_MIN <= found <= PITCH_MAX:
            self.missed["Notes beyond the keys are left out"] += 1
            return None
        return found

    def _percussion(self, element: Element) -> int | None:
        """By the instrument's own number if the file gives one, else by its place on the staff."""
        unpitched = element.find("unpitched")
        if unpitched is None:
            return None
        self.kind = Kind.DRUMS
        instrument = element.find("instrument")
        if instrument is not None and instrument.get("id", "") in self.percussion:
            return max(PITCH_MIN, min(PITCH_MAX, self.percussion[instrument.get("id", "")]))
        step, octave = unpitched.findtext("display-step") or "", _whole(unpitched.findtext("display-octave"))
        if step in LETTER_PITCHES and octave is not None:
            place = words.STEPS.index(step) + 7 * octave - words.STAFF_BOTTOM_STEP
            head = HEADS_SEEN.get(element.findtext("notehead") or "", "round")
            lanes = [lane for lane in STANDARD_KIT.lanes if lane.staff_step == place]
            for lane in sorted(lanes, key=lambda lane: lane.head != head):
                return lane.pitches[0]
        self.missed["Drum notes that no lane stands for are left out"] += 1
        return None

    def _velocity(self, element: Element) -> int:
        per_cent = _number(element.get("dynamics"))
        found = self.velocity if per_cent is None else round(per_cent * words.DYNAMICS_OF_FORTE / 100)
        return max(VELOCITY_MIN, min(VELOCITY_MAX, found))

    def _finger(self, element: Element) -> int | None:
        for fingering in element.findall("notations/technical/fingering"):
            finger = _whole((fingering.text or "").strip())
            if finger is not None and 1 <= finger <= FINGERS:
                return finger
            self.missed["Fingerings that are not one finger are left out"] += 1
        return None

    def _count_what_is_lost(self, element: Element) -> None:
        for name, words_ in (
            ("articulations", "Articulations are not played"),
            ("ornaments", "Ornaments are not played"),
        ):
            for group in element.findall(f"notations/{name}"):
                self.missed[words_] += len(group)
        if len(element.findall("lyric")) > 1:
            self.missed["Only the first verse is kept"] += 1

    # all together

    def _part(self) -> Part:
        if self.staves > 2:
            self.missed["Staves below the second are read as the left hand"] += 1
        name = ((self.listed.findtext("part-name") if self.listed is not None else "") or "").lower()
        whole = {hand for hand in Hand if f"{hand.value} hand" in name}
        only = next(iter(whole)) if len(whole) == 1 and self.staves == 1 else None

        def made(note: _Sounding) -> Note:
            onset = max(0, round(note.onset) + note.attack)
            hand = only
            if self.kind.instrument.has_hands and self.staves > 1:
                hand = Hand.RIGHT if note.staff == 1 else Hand.LEFT
            return Note(
                onset_tick=onset, length_tick=max(1, round(note.end) + note.release - onset), pitch=note.pitch,
                velocity=note.velocity, hand=hand if self.kind.instrument.has_hands else None, finger=note.finger,
                label=note.label,
            )  # fmt: skip

        keys = self.keys or {1: 0}
        first = keys[1]
        return Part.of(
            _one_each(made(n) for n in self.notes if not n.is_cue),
            kind=self.kind,
            meters=_meter_map(self.meters or [self.meter]),
            tempos=self._tempo_map(),
            fifths=first,
            sections=self._with_keys(first) if self.kind.instrument.has_key else self.sections.values(),
            cues=(made(n) for n in self.notes if n.is_cue),
            chords=(ChordMark(tick=tick, name=name) for tick, name in sorted(self.chords.items())),
            pedal=self._held() if self.kind.instrument.has_pedal else (),
        ).lasting(max(1, len(self.meters)))

    def _held(self) -> list[PedalMark]:
        """The pedal in order; one that is never lifted is held to the last note's end. Two staves may each
        write the one foot: what overlaps is told once."""
        marks = list(self.pedal)
        end = max((round(note.end) for note in self.notes), default=0)
        if self.pedal_from is not None and self.pedal_from < end:
            marks.append(PedalMark(start_tick=self.pedal_from, end_tick=end))
        found: list[PedalMark] = []
        for mark in sorted(marks, key=lambda m: m.start_tick):
            if not found or mark.start_tick >= found[-1].end_tick:
                found.append(mark)
        return found

    def _tempo_map(self) -> TempoMap:
        found = sorted(self.tempos.items())
        if not found or found[0][0] != 0:
            found.insert(0, (0, found[0][1] if found else DEFAULT_BPM))
        return TempoMap([TempoChange(tick=tick, bpm=bpm) for tick, bpm in found])

    def _with_keys(self, first: int) -> list[Section]:
        """Sections, with one more at each change of key that none begins at."""
        if set(self.keys.values()) <= {first}:
            return list(self.sections.values())
        found: list[Section] = []
        before = first
        for bar, fifths in sorted(self.keys.items()):
            section = self.sections.get(bar)
            if section is None and fifths != before:
                section = Section(bar=bar, name=key_name(fifths))
            if section is not None:
                found.append(replace(section, fifths=fifths))
            before = fifths
        return found


def _one_each(notes: Iterator[Note]) -> list[Note]:
    """Of notes of one pitch at one place the strongest: two voices may share a key."""
    found: dict[tuple[int, int], Note] = {}
    for note in notes:
        place = (note.onset_tick, note.pitch)
        if place not in found or found[place].velocity < note.velocity:
            found[place] = note
    return list(found.values())


def _meter_map(meters: Sequence[Meter]) -> MeterMap:
    changes = [
        MeterChange(bar=number, meter=meter)
        for number, meter in enumerate(meters, start=1)
        if number == 1 or meters[number - 2] != meter
    ]
    return MeterMap(changes)


def _label(element: Element) -> str | None:
    """The words of the first verse at a note."""
    lyric = element.find("lyric")
    if lyric is None:
        return None
    text = "".join((t.text or "") for t in lyric.findall("text")).strip()
    return text[:LABEL_MOST] or None


def _tonic(element: Element, what: str) -> str | None:
    step = (element.findtext(f"{what}/{what}-step") or "").strip()
    if step not in LETTER_PITCHES:
        return None
    alter = _whole(element.findtext(f"{what}/{what}-alter")) or 0
    return step + {1: "♯", -1: "♭"}.get(alter, "")


def _number(text: str | None) -> Fraction | None:
    """A decimal number, exactly; None for what is none. Huge ones are none: they would never end."""
    if text is None or len(text) > 40 or "e" in text.lower() or "/" in text:
        return None
    try:
        return Fraction(text.strip())
    except (ValueError, ZeroDivisionError):
        return None


def _whole(text: str | None) -> int | None:
    found = _number(text)
    return int(found) if found is not None and found.denominator == 1 and abs(found) < 1_000_000 else None
