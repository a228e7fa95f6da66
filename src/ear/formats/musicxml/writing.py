"""A part as MusicXML 4.0 (W3C Music Notation Community Group).

Written as a musician reads it; what was played otherwise stands in the attributes that the format has for
it: `attack` and `release` (divisions by which onset and end differ) and `dynamics` (velocity in per cent
of 90). So nothing of the part is lost. Where it keeps to its written form, bars are written once, with its signs.
"""

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from ear.formats.characters import without_control_characters
from ear.formats.musicxml import words
from ear.formats.musicxml.beaming import beam_numbers, tuplet_edges
from ear.formats.musicxml.making import add, add_pitched, add_unpitched, move
from ear.formats.musicxml.marks import Mark, marks_of
from ear.notation.written import WrittenBar, WrittenScore, write_out
from ear.notation.written_notes import Written, WrittenNote
from ear.notes import (  # fmt: skip
    GRACES,
    STANDARD_KIT,
    Articulation,
    Hand,
    Note,
    Ornament,
    Part,
    SignKind,
    WrittenForm,
    folded,
    spell,
)
from ear.notes.form import PLAIN_BAR
from ear.notes.note import MAX_VOICES
from ear.units import TICKS_PER_QUARTER

MAX_SLURS = 16
"""Open at once, as the format numbers them."""
DOCTYPE = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">\n'
)


def write_musicxml(part: Part, *, title: str = "") -> bytes:
    """Return the part as a MusicXML document in UTF-8."""
    written = folded(part)
    if written is None:
        return _ScoreWriter(score=write_out(part), title=title, form=None).document()
    return _ScoreWriter(score=write_out(written), title=title, form=part.form).document()


@dataclass(kw_only=True)
class _ScoreWriter:
    score: WrittenScore
    title: str
    form: WrittenForm | None
    """Of the bars that are written."""

    @property
    def part(self) -> Part:
        return self.score.part

    @cached_property
    def marks(self) -> list[Mark]:
        return marks_of(self.score)

    @cached_property
    def fermatas(self) -> set[int]:
        """Notes with a fermata over them."""
        heads = (
            self.score.heads_at(int(sign.is_left), sign.tick)[:1]
            for sign in self.part.signs
            if sign.kind is SignKind.FERMATA
        )
        return {head.note for first in heads for head in first}

    @cached_property
    def slurs(self) -> dict[int, list[tuple[int, str]]]:
        """By note the ends of slurs: their number, of which so many may be open at once, and which end it is."""
        by_note: dict[int, list[tuple[int, str]]] = {}
        open_until: dict[int, int] = {}
        for sign in self.part.signs:
            if sign.kind is not SignKind.SLUR:
                continue
            begins, ends = (
                self.score.heads_at(int(sign.is_left), tick) for tick in (sign.tick, sign.end_tick)
            )
            number = next((n for n in range(1, MAX_SLURS + 1) if open_until.get(n, -1) < sign.tick), None)
            if begins and ends and number is not None:
                open_until[number] = sign.end_tick
                by_note.setdefault(begins[0].note, []).append((number, "start"))
                by_note.setdefault(ends[0].note, []).insert(0, (number, "stop"))
        return by_note

    def document(self) -> bytes:
        root = Element("score-partwise", version="4.0")
        if self.title:
            add(add(root, "work"), "work-title", self.title)
        self._part_list(root)
        part = SubElement(root, "part", id="P1")
        before: WrittenBar | None = None
        for bar in self.score.bars:
            self._measure(part, bar, before)
            before = bar
        for element in root.iter():
            if element.text:
                element.text = without_control_characters(element.text)
        indent(root, space=" ")
        return (DOCTYPE + tostring(root, encoding="unicode") + "\n").encode()

    def _part_list(self, root: Element) -> None:
        has_lanes = self.part.instrument.has_lanes
        score_part = SubElement(add(root, "part-list"), "score-part", id="P1")
        hands = {n.hand for n in self.part.notes}
        hand = next(iter(hands)) if len(hands) == 1 else None
        name = "Drums" if has_lanes else f"Keyboard, {hand.value} hand" if hand else "Keyboard"
        add(score_part, "part-name", name)
        if not has_lanes:
            return
        pitches = sorted({n.pitch for n in (*self.part.notes, *self.part.cues)})
        for pitch in pitches:
            instrument = SubElement(score_part, "score-instrument", id=f"P1-I{pitch}")
            add(instrument, "instrument-name", self.part.lane_name(pitch))
        for pitch in pitches:
            midi = SubElement(score_part, "midi-instrument", id=f"P1-I{pitch}")
            add(midi, "midi-channel", 10)
            # The format counts percussion numbers from 1.
            add(midi, "midi-unpitched", pitch + 1)

    def _measure(self, parent: Element, bar: WrittenBar, before: WrittenBar | None) -> None:
        measure = SubElement(parent, "measure", number=str(bar.bar.number))
        if not bar.bar.number:
            measure.set("implicit", "yes")
        self._attributes(measure, bar, before)
        place = bar.bar.number - self.part.first_bar + 1
        self._signs_before(measure, place)
        start = bar.first_tick
        at = self._marks(measure, bar)
        for number, staff in enumerate(bar.staves, start=1):
            for voice, line in zip(staff.numbers, staff.voices, strict=True):
                move(measure, start - at)
                at = self._voice(measure, bar, line, voice=MAX_VOICES * (number - 1) + voice, staff=number)
        at = self._cues(measure, bar, at, voice=MAX_VOICES * len(bar.staves) + 1)
        move(measure, bar.bar.end_tick - at)
        self._signs_behind(measure, place, is_last=bar is self.score.bars[-1])

    def _signs_before(self, measure: Element, bar: int) -> None:
        """Where a repeat or an ending begins, and the signs that one jumps to."""
        if self.form is None:
            return
        signs, ending = self.form.at(bar), self.form.at(bar).ending
        if signs.repeats_from or (ending and ending != self.form.at(bar - 1).ending):
            line = SubElement(measure, "barline", location="left")
            if ending and ending != self.form.at(bar - 1).ending:
                SubElement(line, "ending", number=_numbers(ending), type="start")
            if signs.repeats_from:
                SubElement(line, "repeat", direction="forward")
        for name in ("segno", "coda"):
            if getattr(signs, name):
                above = SubElement(measure, "direction", placement="above")
                SubElement(add(above, "direction-type"), name)
                SubElement(above, "sound", {name: name})

    def _signs_behind(self, measure: Element, bar: int, *, is_last: bool) -> None:
        """Words that say where to go, where an ending and a repeat end, and the end."""
        signs = self.form.at(bar) if self.form is not None else PLAIN_BAR
        for name, (text, value) in words.JUMPS.items():
            if getattr(signs, name):
                above = SubElement(measure, "direction", placement="above")
                add(add(above, "direction-type"), "words", text)
                SubElement(above, "sound", {name: value})
        closes = self.form is not None and signs.ending and signs.ending != self.form.at(bar + 1).ending
        if not (is_last or signs.repeats_to or closes):
            return
        line = SubElement(measure, "barline", location="right")
        if is_last or signs.repeats_to:
            add(line, "bar-style", "light-heavy")
        if closes:
            SubElement(line, "ending", number=_numbers(signs.ending), type="stop")
        if signs.repeats_to:
            repeat = SubElement(line, "repeat", direction="backward")
            if signs.repeats_to != 2 and not signs.ending:
                repeat.set("times", str(signs.repeats_to))

    def _attributes(self, measure: Element, bar: WrittenBar, before: WrittenBar | None) -> None:
        meter = bar.bar.meter
        has_key = self.part.instrument.has_key and (before is None or before.fifths != bar.fifths)
        has_meter = before is None or before.bar.meter != meter
        if not (has_key or has_meter or before is None):
            return
        attributes = add(measure, "attributes")
        if before is None:
            add(attributes, "divisions", TICKS_PER_QUARTER)
        if has_key:
            add(add(attributes, "key"), "fifths", bar.fifths)
        if has_meter:
            time = add(attributes, "time")
            add(time, "beats", "+".join(map(str, meter.groups or (meter.numerator,))))
            add(time, "beat-type", meter.denominator)
        if before is None:
            staves = len(self.score.clefs)
            if staves > 1:
                add(attributes, "staves", staves)
            for n, name in enumerate(self.score.clefs, start=1):
                sign, line = words.CLEFS[name]
                clef = add(attributes, "clef")
                if staves > 1:
                    clef.set("number", str(n))
                add(clef, "sign", sign)
                if line:
                    add(clef, "line", line)

    def _marks(self, measure: Element, bar: WrittenBar) -> int:
        """What stands over and under the bar. Gives where it ends; at the part's end stands the last bar's."""
        start, end = bar.first_tick, bar.bar.end_tick
        is_last = bar is self.score.bars[-1]
        at = start
        for mark in self.marks[bisect_left(self.marks, start, key=_tick) :]:
            if mark.tick >= end + is_last:
                break
            move(measure, mark.tick - at)
            at = mark.tick
            measure.append(mark.element)
        return at

    def _voice(
        self, measure: Element, bar: WrittenBar, line: Sequence[Written], *, voice: int, staff: int
    ) -> int:
        beams = beam_numbers(line)
        edges = tuplet_edges(line)
        for k, written in enumerate(line):
            if written.is_whole_bar:
                note = add(measure, "note")
                add(note, "rest")
                add(note, "duration", bar.bar.meter.bar_ticks)
                add(note, "voice", voice)
                self._staff(note, staff)
                return bar.bar.end_tick
            if written.is_rest:
                note = SubElement(measure, "note", {"print-object": "no"} if written.is_hidden else {})
                add(note, "rest")
                add(note, "duration", written.end_tick - written.tick)
                self._value(note, written, voice=voice, staff=staff, head=None)
                self._notations(note, written, None, edges.get(k))
            for head in written.heads:
                self._graces(measure, head, voice=voice, staff=staff)
            for n, head in enumerate(written.heads):
                self._head(
                    measure, written, head, n, voice=voice, staff=staff, beams=beams[k], edge=edges.get(k)
                )
        return bar.bar.end_tick

    def _cues(self, measure: Element, bar: WrittenBar, at: int, *, voice: int) -> int:
        """What is heard and not played, as cue notes in a voice of its own. Gives where it ends."""
        for cue in self.part.cues:
            if not bar.bar.start_tick <= cue.onset_tick < bar.bar.end_tick:
                continue
            move(measure, cue.onset_tick - at)
            # A note ends with its bar; what a cue lasts beyond, its release says.
            written_end = min(cue.end_tick, bar.bar.end_tick)
            performed = {"dynamics": f"{cue.velocity * 100 / words.DYNAMICS_OF_FORTE:.4f}"}
            if cue.end_tick != written_end:
                performed["release"] = str(cue.end_tick - written_end)
            note = SubElement(measure, "note", performed)
            add(note, "cue")
            if self.part.instrument.has_lanes:
                add_unpitched(note, STANDARD_KIT.lane(cue.pitch).staff_step)
            else:
                spelling = spell(cue.pitch, fifths=bar.fifths, name_fifth=cue.name_fifth)
                add_pitched(note, spelling.step, spelling.alteration)
            add(note, "duration", written_end - cue.onset_tick)
            if self.part.instrument.has_lanes:
                SubElement(note, "instrument", id=f"P1-I{cue.pitch}")
            add(note, "voice", voice)
            self._staff(note, 2 if cue.hand is Hand.LEFT and len(self.score.clefs) > 1 else 1)
            at = written_end
        return at

    def _staff(self, note: Element, staff: int) -> None:
        if len(self.score.clefs) > 1:
            add(note, "staff", staff)

    def _graces(self, measure: Element, head: WrittenNote, *, voice: int, staff: int) -> None:
        """The small notes of a flam or a drag, before the stroke and its chord, or a grace note."""
        source = self._source(head)
        count = GRACES.get(source.ornament, 0) if source.ornament and not head.is_tied_from else 0
        for k in range(count):
            note = add(measure, "note")
            SubElement(note, "grace", {"slash": "yes"} if count == 1 else {})
            if head.lane is not None:
                _add_place(note, head)
                SubElement(note, "instrument", id=f"P1-I{head.pitch}")
            else:
                assert head.grace is not None
                add_pitched(note, head.grace.step, head.grace.alteration)
            add(note, "voice", voice)
            add(note, "type", "eighth" if count == 1 else "16th")
            if head.grace is not None and head.grace.shows_accidental:
                add(note, "accidental", words.ACCIDENTALS[head.grace.alteration])
            if head.lane is not None and head.lane.head in words.HEADS:
                add(note, "notehead", words.HEADS[head.lane.head])
            self._staff(note, staff)
            for number in (1, 2) if count > 1 else ():
                state = "begin" if not k else "end" if k == count - 1 else "continue"
                SubElement(note, "beam", number=str(number)).text = state

    def _head(
        self, measure: Element, written: Written, head: WrittenNote, n: int, *, voice: int, staff: int,
        beams: tuple[str, ...], edge: str | None,
    ) -> None:  # fmt: skip
        source = self._source(head)
        note = SubElement(measure, "note", self._performed(written, head, source))
        if n:
            add(note, "chord")
        _add_place(note, head)
        add(note, "duration", written.end_tick - written.tick)
        if head.is_tied_from:
            SubElement(note, "tie", type="stop")
        if head.is_tied_on:
            SubElement(note, "tie", type="start")
        if head.lane is not None:
            SubElement(note, "instrument", id=f"P1-I{head.pitch}")
        self._value(note, written, voice=voice, staff=staff, head=head)
        if n == 0:
            for number, beam in enumerate(beams, start=1):
                SubElement(note, "beam", number=str(number)).text = beam
        self._notations(note, written, head, edge if n == 0 else None)
        if source.label is not None and not head.is_tied_from:
            add(add(note, "lyric"), "text", source.label)

    def _source(self, head: WrittenNote) -> Note:
        """What a head is of."""
        note = self.part.notes[head.note]
        return (note.second() if head.is_unison else None) or note

    def _performed(self, written: Written, head: WrittenNote, source: Note) -> dict[str, str]:
        """Attributes that hold what was played: strength, and by how much it is off what is written."""
        attributes = {
            "dynamics": f"{source.velocity * 100 / words.DYNAMICS_OF_FORTE:.4f}".rstrip("0").rstrip(".")
        }
        if not head.is_tied_from and source.onset_tick != written.tick:
            attributes["attack"] = str(source.onset_tick - written.tick)
        if not head.is_tied_on and source.end_tick != written.end_tick:
            attributes["release"] = str(source.end_tick - written.end_tick)
        return attributes

    def _value(
        self, note: Element, written: Written, *, voice: int, staff: int, head: WrittenNote | None
    ) -> None:
        add(note, "voice", voice)
        add(note, "type", words.TYPES[written.value.base])
        for _ in range(written.value.dots):
            add(note, "dot")
        if head is not None and head.shows_accidental:
            sign = add(note, "accidental", words.ACCIDENTALS[head.alteration])
            if head.is_cautionary:
                sign.set("cautionary", "yes")
                sign.set("parentheses", "yes")
        if written.value.ratio is not None:
            time = add(note, "time-modification")
            add(time, "actual-notes", written.value.ratio.notes)
            add(time, "normal-notes", written.value.ratio.normal)
        if head is not None and head.lane is not None:
            add(note, "stem", "down" if head.lane.is_foot else "up")
            is_ghost = head.note in self.score.ghosts
            if head.lane.head in words.HEADS or is_ghost:
                shown = add(note, "notehead", words.HEADS.get(head.lane.head, "normal"))
                if is_ghost:
                    shown.set("parentheses", "yes")
        self._staff(note, staff)

    def _notations(self, note: Element, written: Written, head: WrittenNote | None, edge: str | None) -> None:
        notations = Element("notations")
        if head is not None and head.is_tied_from:
            SubElement(notations, "tied", type="stop")
        if head is not None and head.is_tied_on:
            SubElement(notations, "tied", type="start")
        for number, kind in (
            self.slurs.get(head.note, ())
            if head is not None and not (head.is_tied_from or head.is_unison)
            else ()
        ):
            SubElement(notations, "slur", number=str(number), type=kind)
        if written.tuplet is not None:
            has_bracket = "yes" if written.tuplet.has_bracket else "no"
            for kind in (edge or "").split():
                SubElement(notations, "tuplet", type=kind, bracket=has_bracket)
        ornament = self._source(head).ornament if head is not None and not head.is_tied_from else None
        if ornament in words.ORNAMENTS:
            sign = add(add(notations, "ornaments"), words.ORNAMENTS[ornament])
            if ornament is Ornament.ROLL:
                sign.set("type", "single")
                sign.text = str(words.ROLL_MARKS)
        if head is not None and not head.is_tied_from:
            marks = {*self._source(head).articulations}
            if head.note in self.score.accents:
                marks.add(Articulation.ACCENT)
            if marks:
                articulations = add(notations, "articulations")
                for mark in (each for each in Articulation if each in marks):
                    add(articulations, mark.value)
        if head is not None and not head.is_tied_from:
            finger = self._source(head).finger
            if finger is not None:
                add(add(notations, "technical"), "fingering", finger)
        if head is not None and not head.is_tied_from and head.note in self.fermatas:
            SubElement(notations, "fermata")
        if len(notations):
            note.append(notations)


def _numbers(ending: Iterable[int]) -> str:
    return ", ".join(map(str, sorted(ending)))


def _tick(mark: Mark) -> int:
    return mark.tick


def _add_place(note: Element, head: WrittenNote) -> None:
    if head.lane is not None:
        add_unpitched(note, head.lane.staff_step)
    else:
        add_pitched(note, head.step, head.alteration)
