"""MusicXML to parts, with an account of what was not understood.

What a score says of playing is taken: pitches as they sound, hands by staff, fingers, words, chord names,
tempos, keys, meters, repeats unfolded and kept as the written form, cue notes as cues. What is only for the eye is left; what is for the
ear and cannot be kept (several grace notes before a note, ornaments, articulations) is counted and said.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import chain
from typing import NamedTuple
from xml.etree.ElementTree import Element

from ear.errors import EarError, FormatError
from ear.formats import limits
from ear.formats.account import ImportLosses, Lost, NotImported
from ear.formats.musicxml import words
from ear.formats.musicxml.directions import read_direction, read_harmony
from ear.formats.musicxml.elements import label_of, number_of, whole_of
from ear.formats.musicxml.gathered import Gathered, ReadTotals, Sounding
from ear.formats.musicxml.states import AttributesState, BarForm, Surveyed, forms, surveyed, tame
from ear.formats.musicxml.unfolding import written_form
from ear.notes import STANDARD_KIT, Articulation, Kind, Ornament, Part, SignKind, StaffSign, names_of
from ear.notes.kit import FOOT_HAT
from ear.notes.note import FINGERS, MAX_GRACE
from ear.notes.part import MAX_FIFTHS
from ear.notes.pitch import LETTER_FIFTHS, key_alteration
from ear.patterns.modes import LETTER_PITCHES
from ear.text import term
from ear.units import MAX_PITCH, MAX_VELOCITY, MIN_PITCH, MIN_VELOCITY

KEPT_MARKS = {*words.ACCENTS, *words.ORNAMENTS.values(), *Articulation}
HEADS_SEEN = {"x": "cross", "circle-x": "ring", "diamond": "diamond"}


def _articulations(element: Element) -> frozenset[Articulation]:
    marks = {mark.tag for mark in element.iterfind("notations/articulations/*")}
    return frozenset(each for each in Articulation if each.value in marks)


def _step_of(element: Element) -> int | None:
    """The diatonic step of a written pitch, from C of octave 0; None for what has none."""
    octave, step = whole_of(element.findtext("pitch/octave")), element.findtext("pitch/step") or ""
    return None if octave is None or step not in words.STEPS else 7 * octave + words.STEPS.index(step)


class _Small(NamedTuple):
    """A grace note, or a small drum stroke, which has no step."""

    pitch: int
    step: int | None
    is_of_key: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportedPart:
    """One part of a score: its name in the file, and what it became."""

    name: str
    part: Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Imported:
    """All parts of a score, its title, and what did not come in."""

    title: str
    parts: tuple[ImportedPart, ...]
    not_imported: tuple[NotImported, ...]


def read_score(root: Element) -> Imported:
    """Read a parsed document. Raises FormatError where it is no score, or one too large."""
    if root.tag == "score-timewise":
        raise FormatError(expected=term("a partwise score"), actual="a timewise one")
    if root.tag != "score-partwise":
        raise FormatError(expected=term("a score (score-partwise)"), actual=f"<{root.tag}>")
    listed = {element.get("id", ""): element for element in root.findall("part-list/score-part")}
    elements = root.findall("part")
    if not elements:
        raise FormatError(expected=term("a score with a part or more"), actual="none")
    if len(elements) > limits.TRACKS:
        raise limits.too_much("parts", limits.TRACKS)
    bars = [element.findall("measure") for element in elements]
    if max(len(measures) for measures in bars) > limits.BARS:
        raise limits.too_much("bars", limits.BARS)
    # Repeats stand in the first part for all of them, as the format wants it.
    form = written_form(bars[0])
    survey = [surveyed(measures) for measures in bars]
    layout = forms(survey)
    account, counts = ImportLosses(), ReadTotals()
    parts: list[ImportedPart] = []
    for number, element in enumerate(elements):
        score_part = listed.get(element.get("id", ""))
        name = ((score_part.findtext("part-name") if score_part is not None else "") or "").strip()
        gathered = Gathered(name=name, account=account, counts=counts)
        reader = _Reader(
            measures=bars[number],
            survey=survey[number],
            listed=score_part,
            gathered=gathered,
            is_first=not number,
        )
        try:
            part = replace(
                reader.read([n - 1 for n in form.order], layout), form=form if form.signs else None
            )
        except EarError as problem:
            if isinstance(problem, FormatError):
                raise
            raise FormatError(expected=term("a part"), actual=f"{problem}") from problem
        parts.append(ImportedPart(name=name or f"part {number + 1}", part=part))
    return Imported(title=_title(root), parts=tuple(parts), not_imported=account.rows())


def _title(root: Element) -> str:
    """What the piece is called: the work's title, the movement's, or the largest words that credit it as one."""
    for path in ("work/work-title", "movement-title"):
        title = (root.findtext(path) or "").strip()
        if title and not title.lower().startswith(("untitled", "unbenannt", "sans titre")):
            return title
    for credit in root.findall("credit"):
        if credit.findtext("credit-type") == "title":
            return " ".join((credit.findtext("credit-words") or "").split())
    return ""


@dataclass(slots=True, kw_only=True)
class _Reader:
    """One part; times in ticks of ours, as fractions until all is read."""

    measures: Sequence[Element]
    survey: Sequence[Surveyed]
    listed: Element | None
    gathered: Gathered
    is_first: bool
    """What concerns all parts is told of the first."""
    state: AttributesState = field(default_factory=AttributesState)
    tied: dict[tuple[int, int], list[Sounding]] = field(default_factory=dict)
    """Notes that go on, by pitch and staff: two voices may tie one key."""
    percussion: dict[str, int] = field(default_factory=dict)
    graces: dict[str, list[_Small]] = field(default_factory=dict)
    """Small notes and drum strokes that wait for theirs, by voice."""
    graced: list[_Small] = field(default_factory=list)
    """Those of the chord that is being read."""
    chord_first: Sounding | None = None
    """The first note of the chord that is being read."""
    hides_notes: bool = False
    """Do notes that the score hides only play what others of the bar say? A bar of nothing else is meant to be heard."""

    def read(self, order: Sequence[int], layout: Sequence[BarForm]) -> Part:
        if self.listed is not None:
            for midi in self.listed.findall("midi-instrument"):
                number = whole_of(midi.findtext("midi-unpitched"))
                if number is not None:
                    self.percussion[midi.get("id", "")] = number - 1
        start = 0
        for number, index in enumerate(order, start=1):
            form = layout[index]
            is_pickup = number == 1 and form.pickup > 0
            self.gathered.has_pickup |= is_pickup and len(order) > 1
            self.gathered.bar = number - self.gathered.has_pickup
            self.gathered.meters.append(form.full if is_pickup else form.meter)
            if self.is_first and form.is_own and not is_pickup:
                self.gathered.lose(Lost.OWN_METER)
            if index < len(self.measures):
                self.state = self.survey[index].before
                surveyed_here = self.survey[index]
                if surveyed_here.plays and surveyed_here.length != form.length:
                    self.gathered.lose(Lost.UNEVEN if surveyed_here.length < form.length else Lost.OVERFULL)
                self._measure(
                    self.measures[index], start + (form.pickup if is_pickup else Fraction(0)), number
                )
            self._graces_left()
            self._lose_graces(len(list(chain.from_iterable(self.graces.values()))))
            self.graces = {}
            start += self.gathered.meters[-1].bar_ticks
        return self.gathered.part()

    # bars

    def _measure(self, measure: Element, start: Fraction, number: int) -> None:
        now = last_onset = start
        struck = [note for note in measure.iterfind("note") if note.find("rest") is None]
        self.hides_notes = any(note.get("print-object") != "no" for note in struck)
        for element in measure:
            self.gathered.counts.steps.add()
            match element.tag:
                case "attributes":
                    self._attributes(element)
                case "backup":
                    now = max(start, now - self.state.ticks(element))
                case "forward":
                    now += self.state.ticks(element)
                case "direction" | "sound":
                    read_direction(
                        self.gathered, element, now=now, number=number, divisions=self.state.divisions
                    )
                case "harmony":
                    read_harmony(self.gathered, element, now=now, divisions=self.state.divisions)
                case "note":
                    length = self.state.note_ticks(element)
                    onset = last_onset if element.find("chord") is not None else now
                    self._note(element, onset, length)
                    if element.find("chord") is None and element.find("grace") is None:
                        last_onset = now
                        now += length
            now = tame(now)
        sounding = self.state.fifths + self.state.renamed
        self.gathered.keys[number] = sounding - 12 * (sounding > MAX_FIFTHS) + 12 * (sounding < -MAX_FIFTHS)

    def _attributes(self, element: Element) -> None:
        self.state = self.state.after(element, self.gathered.account, self.gathered.bar)
        self.gathered.staves = max(self.gathered.staves, self.state.staves)
        if self.state.is_percussion:
            self.gathered.kind = Kind.DRUMS

    # notes

    def _note(self, element: Element, onset: Fraction, length: Fraction) -> None:
        if element.find("grace") is not None:
            self._grace(element)
            return
        if element.find("rest") is not None or length <= 0:
            return
        if self.hides_notes and element.get("print-object") == "no":
            self.gathered.lose(Lost.HIDDEN)
            return
        pitch = self._pitch(element)
        if pitch is None:
            return
        self._count_losses(element)
        if element.find("chord") is None:
            self._graces_left()
            self.graced = self.graces.pop(element.findtext("voice") or "", [])
        staff = whole_of(element.findtext("staff")) or 1
        ties = {tie.get("type") for tie in element.findall("tie")}
        waiting = self.tied.setdefault((pitch, staff), [])
        # Some programs write where a tie begins alone.
        before = next((n for n in waiting if n.end == onset), None)
        release = whole_of(element.get("release")) or 0
        if before is not None:
            waiting.remove(before)
            before.end += length
            before.release = release
            note = before
        else:
            note = Sounding(
                onset=onset, end=onset + length, pitch=pitch, velocity=self._velocity(element),
                louder=self._louder(element), staff=staff,
                finger=self._finger(element), label=label_of(element), attack=whole_of(element.get("attack")) or 0,
                release=release, is_cue=element.find("cue") is not None, name_fifth=self._name(element, pitch),
                voice=(element.findtext("voice") or "").strip(), articulations=_articulations(element),
            )  # fmt: skip
            self._ornament(element, note)
            self.gathered.notes.append(note)
            self.gathered.counts.notes.add()
            if element.find("chord") is None:
                self.chord_first = note
        self._signs(element, round(onset), staff)
        if "start" in ties:
            waiting.append(note)

    def _signs(self, element: Element, tick: int, staff: int) -> None:
        """Slurs, and fermatas under which no tempo says how long they are."""
        is_left = staff > 1
        for slur in element.iterfind("notations/slur"):
            number = slur.get("number", "1")
            if slur.get("type") == "start":
                self.gathered.open_slurs[number] = (tick, is_left)
            elif slur.get("type") == "stop" and number in self.gathered.open_slurs:
                start, at_left = self.gathered.open_slurs.pop(number)
                if start < tick:
                    self.gathered.counts.marks.add()
                    self.gathered.signs.add(
                        StaffSign(tick=start, kind=SignKind.SLUR, end_tick=tick, is_left=at_left)
                    )
        if element.find("notations/fermata") is not None:
            self.gathered.counts.marks.add()
            self.gathered.signs.add(
                StaffSign(tick=tick, kind=SignKind.FERMATA, end_tick=tick, is_left=is_left)
            )

    def _grace(self, element: Element) -> None:
        """Small strokes before a drum stroke make it a flam or a drag; one grace note is kept by the note just under it,
        else by the first of the chord."""
        pitch, step = self._pitch(element), _step_of(element)
        if pitch is None:
            return
        alter = whole_of(element.findtext("pitch/alter")) or 0
        is_of_key = step is not None and alter == key_alteration(step, fifths=self.state.fifths)
        small = _Small(pitch=pitch, step=step, is_of_key=is_of_key)
        self.graces.setdefault(element.findtext("voice") or "", []).append(small)

    def _graces_left(self) -> None:
        """Of grace notes of a chord that none of its notes has taken, the last is its first note's."""
        left, first = [small for small in self.graced if small.step is not None], self.chord_first
        if left and first is not None and first.ornament is None and not self.state.is_percussion:
            self._give_grace(first, left.pop())
        self._lose_graces(len(left))
        self.graced, self.chord_first = [], None

    def _give_grace(self, note: Sounding, small: _Small) -> None:
        """What is just above in the key is what a grace note is where nothing is said."""
        note.ornament = Ornament.GRACE
        semitones = small.pitch - note.pitch
        is_usual = small.is_of_key and small.step == note.step + 1 if note.step is not None else False
        note.grace_semitones = None if is_usual or abs(semitones) > MAX_GRACE else semitones

    def _lose_graces(self, count: int) -> None:
        for _ in range(count):
            self.gathered.lose(Lost.GRACE)

    def _ornament(self, element: Element, note: Sounding) -> None:
        note.step = _step_of(element)
        if note.step is None:
            strokes = sum(small.step is None and small.pitch == note.pitch for small in self.graced)
            if strokes:
                note.ornament = Ornament.FLAM if strokes == 1 else Ornament.DRAG
        else:
            above = next((small for small in self.graced if small.step == note.step + 1), None)
            if above is not None:
                self.graced.remove(above)
                self._give_grace(note, above)
        if note.ornament is None:
            marks = {mark.tag for mark in element.findall("notations/ornaments/*")}
            note.ornament = next(
                (ornament for ornament, name in words.ORNAMENTS.items() if name in marks), None
            )

    def _pitch(self, element: Element) -> int | None:
        pitch = element.find("pitch")
        if pitch is None:
            return self._percussion(element)
        step, octave = pitch.findtext("step") or "", whole_of(pitch.findtext("octave"))
        alter = number_of(pitch.findtext("alter")) or Fraction(0)
        if step not in LETTER_PITCHES or octave is None:
            raise FormatError(expected=term("a pitch with step and octave"), actual=f"{step!r}")
        if alter.denominator != 1:
            self.gathered.lose(Lost.QUARTER_TONES)
        key_number = 12 * (octave + 1) + LETTER_PITCHES[step] + round(alter) + self.state.transpose
        if not MIN_PITCH <= key_number <= MAX_PITCH:
            self.gathered.lose(Lost.BEYOND)
            return None
        return key_number

    def _name(self, element: Element, pitch: int) -> int | None:
        """The note's own name, on the line of fifths."""
        step, alter = (
            element.findtext("pitch/step"),
            number_of(element.findtext("pitch/alter")) or Fraction(0),
        )
        if step is None or alter.denominator != 1:
            return None
        name_fifth = LETTER_FIFTHS[step] + 7 * int(alter) + self.state.renamed
        return name_fifth if name_fifth in names_of(pitch) else None

    def _percussion(self, element: Element) -> int | None:
        """By the instrument's own number if the file gives one, else by its place on the staff."""
        unpitched = element.find("unpitched")
        if unpitched is None:
            return None
        self.gathered.kind = Kind.DRUMS
        instrument = element.find("instrument")
        if instrument is not None and instrument.get("id", "") in self.percussion:
            return max(MIN_PITCH, min(MAX_PITCH, self.percussion[instrument.get("id", "")]))
        step, octave = (
            unpitched.findtext("display-step") or "",
            whole_of(unpitched.findtext("display-octave")),
        )
        if step in LETTER_PITCHES and octave is not None:
            place = words.STEPS.index(step) + 7 * octave - words.STAFF_BOTTOM_STEP
            head = HEADS_SEEN.get(element.findtext("notehead") or "", "round")
            lanes = [lane for lane in (*STANDARD_KIT.lanes, FOOT_HAT) if lane.staff_step == place]
            for lane in sorted(lanes, key=lambda lane: lane.head != head):
                return lane.pitches[0]
        self.gathered.lose(Lost.NO_LANE)
        return None

    def _velocity(self, element: Element) -> int | None:
        per_cent = number_of(element.get("dynamics"))
        if per_cent is None:
            return None
        return max(MIN_VELOCITY, min(MAX_VELOCITY, round(per_cent * words.DYNAMICS_OF_FORTE / 100)))

    def _louder(self, element: Element) -> int:
        """An accent is struck harder, a head in brackets softer."""
        marks = {mark.tag for mark in element.findall("notations/articulations/*")}
        accent_steps = sum(steps for name, steps in words.ACCENTS.items() if name in marks)
        head = element.find("notehead")
        return accent_steps - (
            words.GHOST_STEPS if head is not None and head.get("parentheses") == "yes" else 0
        )

    def _finger(self, element: Element) -> int | None:
        for fingering in element.findall("notations/technical/fingering"):
            finger = whole_of((fingering.text or "").strip())
            if finger is not None and 1 <= finger <= FINGERS:
                return finger
            self.gathered.lose(Lost.FINGERINGS)
        return None

    def _count_losses(self, element: Element) -> None:
        for name, feature in (("articulations", Lost.ARTICULATIONS), ("ornaments", Lost.ORNAMENTS)):
            for group in element.findall(f"notations/{name}"):
                lost = sum(mark.tag not in KEPT_MARKS for mark in group)
                if lost:
                    self.gathered.lose(feature, lost)
        if len(element.findall("lyric")) > 1:
            self.gathered.lose(Lost.VERSES)
