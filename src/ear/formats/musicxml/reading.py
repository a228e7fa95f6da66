"""MusicXML to parts, with an account of what was not understood.

What a score says of playing is taken: pitches as they sound, hands by staff, fingers, words, chord names,
tempos, keys, meters, repeats unfolded, cue notes as cues. What is only for the eye is left; what is for the
ear and cannot be kept (grace notes, ornaments, articulations) is counted and said.
"""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree.ElementTree import Element

from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.formats.musicxml import words
from ear.formats.musicxml.directions import read_direction, read_harmony
from ear.formats.musicxml.elements import label_of, number_of, whole_of
from ear.formats.musicxml.gathered import Gathered, Sounding
from ear.formats.musicxml.unfolding import played_order
from ear.notes import STANDARD_KIT, Kind, Meter, Part, names_of
from ear.notes.chord_names import LETTER_PLACES
from ear.notes.note import FIFTHS_MAX, FINGERS
from ear.patterns.modes import LETTER_PITCHES
from ear.units import PITCH_MAX, PITCH_MIN, TICKS_PER_QUARTER, VELOCITY_MAX, VELOCITY_MIN

NOTES_MAX = 50_000
DURATION_MOST = 1_000_000
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
        name = (score_part.findtext("part-name") if score_part is not None else "") or ""
        try:
            found = Gathered(name=name, missed=missed)
            part = _Reader(measures=measures, listed=score_part, found=found).read(order)
        except EarError as problem:
            if isinstance(problem, FormatError):
                raise
            raise FormatError(expected="a part", found=f"{problem}") from problem
        parts.append(ImportedPart(name=name.strip() or f"part {len(parts) + 1}", part=part))
    if not parts:
        raise FormatError(expected="a score with a part or more", found="none")
    return Imported(title=title, parts=tuple(parts), account=tuple(_account(missed)))


def _account(missed: Counter[str]) -> Iterator[str]:
    for what, count in sorted(missed.items()):
        yield f"{what} ({count} times)" if count > 1 else what


@dataclass(slots=True, kw_only=True)
class _Reader:
    """One part; times in ticks of ours, as fractions until all is read."""

    measures: Sequence[Element]
    listed: Element | None
    found: Gathered
    divisions: Fraction = Fraction(1)
    fifths: int = 0
    transpose: int = 0
    renamed: int = 0
    """Fifths from what is written to what sounds, of instruments that transpose."""
    tied: dict[tuple[int, int], list[Sounding]] = field(default_factory=dict)
    """Notes that go on, by pitch and staff: two voices may tie one key."""
    percussion: dict[str, int] = field(default_factory=dict)

    def read(self, order: Sequence[int]) -> Part:
        if self.listed is not None:
            for midi in self.listed.findall("midi-instrument"):
                number = whole_of(midi.findtext("midi-unpitched"))
                if number is not None:
                    self.percussion[midi.get("id", "")] = number - 1
        at = Fraction(0)
        for number, index in enumerate(order, start=1):
            if index < len(self.measures):
                at = self._measure(self.measures[index], at, number)
        return self.found.part()

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
                    read_direction(self.found, element, now=now, number=number, divisions=self.divisions)
                case "harmony":
                    read_harmony(self.found, element, now=now, divisions=self.divisions)
                case "note":
                    length = self._duration(element)
                    onset = last_onset if element.find("chord") is not None else now
                    self._note(element, onset, length)
                    if element.find("chord") is None:
                        last_onset = now
                        now += length
            furthest = max(furthest, now)
        sounding = self.fifths + self.renamed
        self.found.keys[number] = sounding - 12 * (sounding > FIFTHS_MAX) + 12 * (sounding < -FIFTHS_MAX)
        self.found.meters.append(self._meter_of(furthest - start))
        return start + self.found.meters[-1].bar_ticks

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
        if 0 < length < self.found.meter.bar_ticks:
            self.found.missed["The pick-up has become a whole bar, with rests before it"] += 1
            return self.found.meter.bar_ticks - length
        return Fraction(0)

    def _meter_of(self, length: Fraction) -> Meter:
        """The meter of a bar that is so long: the one that is written, unless it is plainly another."""
        if length in (0, self.found.meter.bar_ticks):
            return self.found.meter
        unit = Fraction(4 * TICKS_PER_QUARTER, self.found.meter.denominator)
        for denominator in (self.found.meter.denominator, 8, 16):
            unit = Fraction(4 * TICKS_PER_QUARTER, denominator)
            count = length / unit
            if count.denominator == 1 and 1 <= count <= 32:
                self.found.missed["Bars shorter or longer than their meter have one of their own"] += 1
                return Meter(numerator=int(count), denominator=denominator)
        return self.found.meter

    def _attributes(self, element: Element) -> None:
        divisions = number_of(element.findtext("divisions"))
        if divisions is not None and divisions > 0:
            self.divisions = divisions
        fifths = whole_of(element.findtext("key/fifths"))
        if fifths is not None:
            if abs(fifths) > FIFTHS_MAX:
                raise FormatError(expected="a key of up to 7 signs", found=f"{fifths}")
            self.fifths = fifths
        self.found.staves = whole_of(element.findtext("staves")) or self.found.staves
        time = element.find("time")
        if time is not None:
            self._time(time)
        transpose = element.find("transpose")
        if transpose is not None:
            chromatic = whole_of(transpose.findtext("chromatic")) or 0
            self.transpose = chromatic + 12 * (whole_of(transpose.findtext("octave-change")) or 0)
            self.renamed = (7 * chromatic + 6) % 12 - 6
        if element.findtext("clef/sign") == "percussion":
            self.found.kind = Kind.DRUMS

    def _time(self, time: Element) -> None:
        beats, unit = time.findtext("beats"), whole_of(time.findtext("beat-type"))
        if beats is None or unit is None:
            self.found.missed["A bar without meter is read in the meter before it"] += 1
            return
        over = sum(whole_of(word) or 0 for word in beats.split("+"))
        try:
            self.found.meter = Meter(numerator=over, denominator=unit)
        except ValueOutOfRange:
            raise FormatError(expected="a meter over 2, 4, 8 or 16", found=f"{beats}/{unit}") from None

    def _duration(self, element: Element) -> Fraction:
        found = number_of(element.findtext("duration"))
        if found is not None and not 0 <= found <= DURATION_MOST:
            raise FormatError(expected=f"durations up to {DURATION_MOST:,}", found=f"{float(found):g}")
        return (found or Fraction(0)) * TICKS_PER_QUARTER / self.divisions

    # notes

    def _note(self, element: Element, onset: Fraction, length: Fraction) -> None:
        if element.find("grace") is not None:
            self.found.missed["Grace notes are left out"] += 1
            return
        if element.find("rest") is not None or length <= 0:
            return
        pitch = self._pitch(element)
        if pitch is None:
            return
        self._count_what_is_lost(element)
        staff = whole_of(element.findtext("staff")) or 1
        ties = {tie.get("type") for tie in element.findall("tie")}
        waiting = self.tied.setdefault((pitch, staff), [])
        before = next((n for n in waiting if n.end == onset), None) if "stop" in ties else None
        release = whole_of(element.get("release")) or 0
        if before is not None:
            waiting.remove(before)
            before.end += length
            before.release = release
            note = before
        else:
            note = Sounding(
                onset=onset, end=onset + length, pitch=pitch, velocity=self._velocity(element), staff=staff,
                finger=self._finger(element), label=label_of(element), attack=whole_of(element.get("attack")) or 0,
                release=release, is_cue=element.find("cue") is not None, fifth=self._name(element, pitch),
            )  # fmt: skip
            self.found.notes.append(note)
            if len(self.found.notes) > NOTES_MAX:
                raise FormatError(expected=f"at most {NOTES_MAX:,} notes", found="more")
        if "start" in ties:
            waiting.append(note)

    def _pitch(self, element: Element) -> int | None:
        pitch = element.find("pitch")
        if pitch is None:
            return self._percussion(element)
        step, octave = pitch.findtext("step") or "", whole_of(pitch.findtext("octave"))
        alter = number_of(pitch.findtext("alter")) or Fraction(0)
        if step not in LETTER_PITCHES or octave is None:
            raise FormatError(expected="a pitch with step and octave", found=f"{step!r}")
        if alter.denominator != 1:
            self.found.missed["Quarter tones are taken to the nearest key"] += 1
        found = 12 * (octave + 1) + LETTER_PITCHES[step] + round(alter) + self.transpose
        if not PITCH_MIN <= found <= PITCH_MAX:
            self.found.missed["Notes beyond the keys are left out"] += 1
            return None
        return found

    def _name(self, element: Element, pitch: int) -> int | None:
        """The note's own name, on the line of fifths."""
        step, alter = (
            element.findtext("pitch/step"),
            number_of(element.findtext("pitch/alter")) or Fraction(0),
        )
        if step is None or alter.denominator != 1:
            return None
        fifth = LETTER_PLACES[step] + 7 * int(alter) + self.renamed
        return fifth if fifth in names_of(pitch) else None

    def _percussion(self, element: Element) -> int | None:
        """By the instrument's own number if the file gives one, else by its place on the staff."""
        unpitched = element.find("unpitched")
        if unpitched is None:
            return None
        self.found.kind = Kind.DRUMS
        instrument = element.find("instrument")
        if instrument is not None and instrument.get("id", "") in self.percussion:
            return max(PITCH_MIN, min(PITCH_MAX, self.percussion[instrument.get("id", "")]))
        step, octave = (
            unpitched.findtext("display-step") or "",
            whole_of(unpitched.findtext("display-octave")),
        )
        if step in LETTER_PITCHES and octave is not None:
            place = words.STEPS.index(step) + 7 * octave - words.STAFF_BOTTOM_STEP
            head = HEADS_SEEN.get(element.findtext("notehead") or "", "round")
            lanes = [lane for lane in STANDARD_KIT.lanes if lane.staff_step == place]
            for lane in sorted(lanes, key=lambda lane: lane.head != head):
                return lane.pitches[0]
        self.found.missed["Drum notes that no lane stands for are left out"] += 1
        return None

    def _velocity(self, element: Element) -> int:
        per_cent = number_of(element.get("dynamics"))
        found = self.found.velocity if per_cent is None else round(per_cent * words.DYNAMICS_OF_FORTE / 100)
        return max(VELOCITY_MIN, min(VELOCITY_MAX, found))

    def _finger(self, element: Element) -> int | None:
        for fingering in element.findall("notations/technical/fingering"):
            finger = whole_of((fingering.text or "").strip())
            if finger is not None and 1 <= finger <= FINGERS:
                return finger
            self.found.missed["Fingerings that are not one finger are left out"] += 1
        return None

    def _count_what_is_lost(self, element: Element) -> None:
        for name, words_ in (
            ("articulations", "Articulations are not played"),
            ("ornaments", "Ornaments are not played"),
        ):
            for group in element.findall(f"notations/{name}"):
                self.found.missed[words_] += len(group)
        if len(element.findall("lyric")) > 1:
            self.found.missed["Only the first verse is kept"] += 1
