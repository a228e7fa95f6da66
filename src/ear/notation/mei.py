"""A part as MEI, for an engraver to draw (Music Encoding Initiative, version 5)."""

from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from typing import NamedTuple
from xml.etree.ElementTree import Element, SubElement, tostring

from ear.labels import LabelKind
from ear.labels.chosen import ON_THE_PAGE, Labels
from ear.notation.loudness import Loudness, loudness_of
from ear.notation.mei_elements import (
    ACCIDENTALS,
    ARTICULATIONS,
    CLEFS,
    DOT,
    HEADS,
    ID,
    JUMPS,
    NAMESPACE,
    NOTE_ROOM,
    PEDAL_GROUP,
    PEDAL_WAYS,
    SIGNS_OVER,
    TEMPO_NOTES,
    VERSES,
    key_signature,
    nested,
    spelled,
    tuplet_in,
)
from ear.notation.octave_lines import OctaveLine
from ear.notation.tempo_marks import TempoMark, tempo_marks
from ear.notation.written import WrittenBar, WrittenScore, write_out
from ear.notation.written_notes import Written, WrittenNote
from ear.notes import (
    GRACES,
    Articulation,
    BarSigns,
    Ornament,
    Part,
    SignKind,
    StaffSign,
    WrittenForm,
    folded,
    pedal_points,
)
from ear.notes.form import PLAIN_BAR
from ear.reader import ENGLISH, Reader


def mei_of(
    part: Part,
    *,
    labels: Collection[LabelKind] = ON_THE_PAGE,
    reader: Reader = ENGLISH,
    with_tempo: bool = True,
    as_written: bool = False,
    bars: range | None = None,
) -> str:
    """Return the part as an MEI document.

    Heads have ids n<note>-<piece>, from the part's note numbers.

    Of the bars alone whose numbers are in `bars`, if they are given; they are written as in the whole.

    `as_written` its bars stand once, with signs of repetition, where it keeps to its written form; notes are numbered as
    written then.
    """
    written = folded(part) if as_written else None
    drawn = written or part
    return _MeiWriter(
        score=write_out(drawn),
        loudness=loudness_of(drawn),
        labels=Labels.of(drawn, frozenset(labels), reader),
        tempos=tempo_marks(drawn) if with_tempo else (),
        form=part.form if written is not None else None,
    ).document(bars)


class _Head(NamedTuple):
    tick: int
    id: str


@dataclass(slots=True, kw_only=True)
class _MeiWriter:
    score: WrittenScore
    loudness: Loudness
    labels: Labels
    form: WrittenForm | None
    """Of the bars that are written."""
    tempos: Sequence[TempoMark] = ()
    heads: dict[int, list["_Head"]] = field(default_factory=dict)
    octave_lines: list[tuple[OctaveLine, "_Head", "_Head"]] = field(default_factory=list)
    pieces: dict[int, int] = field(default_factory=dict)
    """How many heads each note has had so far: pieces of a tie."""
    fingers: list[tuple[str, str]] = field(default_factory=list)
    """(head, finger) of the bar at hand."""
    ornaments: list[tuple[str, Ornament]] = field(default_factory=list)
    """(head, sign over it) of the bar at hand."""
    beams: list[list[str]] = field(default_factory=list)
    """Notes of the bar at hand that share a beam over small notes."""

    @property
    def part(self) -> Part:
        return self.score.part

    def document(self, bars: range | None = None) -> str:
        wanted = [bar for bar in self.score.bars if bars is None or bar.bar.number in bars]
        mei = Element("mei", {"xmlns": NAMESPACE, "meiversion": "5.0"})
        SubElement(SubElement(mei, "meiHead"), "fileDesc")
        score = SubElement(SubElement(SubElement(SubElement(mei, "music"), "body"), "mdiv"), "score")
        if self.score.octave_lines or self.part.signs:
            self.heads = self._heads(wanted)
        self.octave_lines = self._drawn_lines()
        first = wanted[0]
        self._definition(score, first)
        section = SubElement(score, "section")
        before, home, ending = first, section, frozenset[int]()
        for bar in wanted:
            signs = self._signs(bar)
            if signs.ending != ending:
                ending = signs.ending
                name = ", ".join(map(str, sorted(ending)))
                home = SubElement(section, "ending", {"n": name}) if ending else section
            if (bar.fifths, bar.bar.meter) != (before.fifths, before.bar.meter):
                SubElement(home, "scoreDef", self._key_and_meter(bar))
            self._measure(home, bar)
            before = bar
        return tostring(mei, encoding="unicode")

    def _heads(self, bars: Sequence[WrittenBar]) -> dict[int, list["_Head"]]:
        """By staff the heads that are drawn, as they are numbered, the upper voice's first at each tick."""
        heads: dict[int, list[_Head]] = {}
        pieces: Counter[int] = Counter()
        for bar in bars:
            for k, staff in enumerate(bar.staves):
                for written in (w for voice in staff.voices for w in voice):
                    for head in written.heads:
                        heads.setdefault(k, []).append(
                            _Head(written.tick, f"n{head.note}-{pieces[head.note]}")
                        )
                        pieces[head.note] += 1
        return heads

    def _drawn_lines(self) -> list[tuple[OctaveLine, "_Head", "_Head"]]:
        """Octave lines with the heads that they go from and to."""
        drawn = []
        for line in self.score.octave_lines:
            under = sorted(
                h for h in self.heads.get(line.staff, ()) if line.first_tick <= h.tick <= line.last_tick
            )
            if under:
                drawn.append((line, under[0], under[-1]))
        return drawn

    def _signs(self, bar: WrittenBar) -> BarSigns:
        return PLAIN_BAR if self.form is None else self.form.at(bar.bar.number - self.part.first_bar + 1)

    def _key_and_meter(self, bar: WrittenBar) -> dict[str, str]:
        meter = bar.bar.meter
        count = "+".join(map(str, meter.groups or (meter.numerator,)))
        attributes = {"meter.count": count, "meter.unit": str(meter.denominator)}
        if self.part.instrument.has_key:
            attributes["keysig"] = key_signature(bar.fifths)
        return attributes

    def _definition(self, score: Element, bar: WrittenBar) -> None:
        definition = SubElement(score, "scoreDef", self._key_and_meter(bar))
        group = SubElement(definition, "staffGrp")
        if len(self.score.clefs) > 1:
            group.set("symbol", "brace")
            group.set("bar.thru", "true")
        for n, clef in enumerate(self.score.clefs, start=1):
            shape, line = CLEFS[clef]
            SubElement(group, "staffDef", {"n": str(n), "lines": "5", "clef.shape": shape, "clef.line": line})

    def _measure(self, section: Element, bar: WrittenBar) -> None:
        is_last = bar is self.score.bars[-1]
        measure = SubElement(section, "measure", {"n": str(bar.bar.number)})
        if bar.first_tick > bar.bar.start_tick:
            measure.set("metcon", "false")
        signs = self._signs(bar)
        if signs.repeats_from:
            measure.set("left", "rptstart")
        if is_last or signs.repeats_to:
            measure.set("right", "rptend" if signs.repeats_to else "end")
        self.fingers, self.ornaments, self.beams = [], [], []
        for n, staff in enumerate(bar.staves, start=1):
            element = SubElement(measure, "staff", {"n": str(n)})
            for k, voice in enumerate(staff.voices, start=1):
                layer = SubElement(element, "layer", {"n": str(k)})
                self._voice(layer, voice, number=k, shows_moments=n == 1 and k == 1)
        self._over(measure, bar)

    def _over(self, measure: Element, bar: WrittenBar) -> None:
        """What stands over the bar: tempo, section, chord names, fingers."""
        self._jumps(measure, bar)
        start, end = bar.first_tick, bar.bar.end_tick
        unit = bar.bar.meter.bar_ticks / bar.bar.meter.numerator

        def beat(tick: int) -> str:
            return f"{(tick - start) / unit + 1:g}"

        for section in self.part.sections:
            if section.bar == bar.bar.number:
                SubElement(measure, "reh", {"staff": "1", "tstamp": "1"}).text = section.name
        for mark in self.tempos:
            if start <= mark.tick < end:
                tempo = SubElement(measure, "tempo", {"staff": "1", "tstamp": beat(mark.tick)})
                tempo.text = f"{TEMPO_NOTES[mark.beat.base]}{DOT * mark.beat.dots}{NOTE_ROOM} = {round(mark.per_minute, 2):g}"
        for tick, name in self.labels.chords.items():
            if start <= tick < end:
                SubElement(measure, "harm", {"staff": "1", "tstamp": beat(tick)}).text = name
        is_last = bar is self.score.bars[-1]
        for n, (kind, texts) in enumerate(
            self.labels.lines if self.part.instrument.has_lanes else (), start=1
        ):
            # Over the bar, and not under the notes of one voice: beats are counted that another voice has, or none.
            # Each kind is a group of its own, in one line over accents and beams.
            for tick, text in texts.items():
                if start <= tick < end and text:
                    harmony = SubElement(
                        measure, "dir", {"staff": "1", "tstamp": beat(tick), "place": "above", "vgrp": str(n)}
                    )
                    SubElement(harmony, "rend", {"fontstyle": "normal", "label": kind.value}).text = text
        for point in pedal_points(self.part.pedal):
            if start <= point.tick < end or (is_last and point.tick == end):
                place = {"staff": str(len(self.score.clefs)), "tstamp": beat(point.tick)}
                line = {**place, "form": "line", "place": "below", "vgrp": PEDAL_GROUP}
                for direction in PEDAL_WAYS[point.move]:
                    SubElement(measure, "pedal", {**line, "dir": direction})
        for sign in self.loudness.signs:
            if start <= sign.tick < end:
                place = {"staff": "1", "tstamp": beat(sign.tick), "place": "below"}
                SubElement(measure, "dynam", place).text = sign.sign
        for hairpin in self.loudness.hairpins:
            if start <= hairpin.start_tick < end:
                last = self.part.meters.bar_at(hairpin.end_tick)
                into = (hairpin.end_tick - last.start_tick) * last.meter.numerator / last.meter.bar_ticks
                way = {
                    "form": "cres" if hairpin.is_rising else "dim",
                    "tstamp2": f"{last.number - bar.bar.number}m+{into + 1:g}",
                }
                place = {"staff": "1", "tstamp": beat(hairpin.start_tick), "place": "below"}
                SubElement(measure, "hairpin", {**place, **way})
        for staff_sign in self.part.signs:
            if start <= staff_sign.tick < end:
                self._sign(measure, staff_sign, beat(staff_sign.tick))
        for octave_line, first_head, last_head in self.octave_lines:
            if start <= first_head.tick < end:
                over = {
                    "dis": {1: "8", 2: "15"}[abs(octave_line.octaves)],
                    "dis.place": "above" if octave_line.octaves > 0 else "below",
                }
                ends = {"startid": f"#{first_head.id}", "endid": f"#{last_head.id}"}
                SubElement(measure, "octave", {"staff": str(octave_line.staff + 1), **over, **ends})
        for beam in self.beams:
            ends = {"startid": f"#{beam[0]}", "endid": f"#{beam[-1]}"}
            SubElement(measure, "beamSpan", {**ends, "plist": " ".join(f"#{name}" for name in beam)})
        for head, ornament in self.ornaments:
            name, form = SIGNS_OVER[ornament]
            SubElement(measure, name, {"startid": f"#{head}", **({"form": form} if form else {})})
        for head, finger in self.fingers:
            SubElement(measure, "fing", {"startid": f"#{head}"}).text = finger

    def _sign(self, measure: Element, sign: StaffSign, beat: str) -> None:
        """Words, a slur or a fermata; one whose notes are not drawn is left out."""
        staff = len(self.score.clefs) if sign.is_left else 1
        heads = self.heads.get(staff - 1, ())
        begins = next((head.id for head in heads if head.tick == sign.tick), None)
        ends = next((head.id for head in heads if head.tick == sign.end_tick), None)
        match sign.kind:
            case SignKind.TEXT:
                words = SubElement(measure, "dir", {"staff": str(staff), "tstamp": beat, "place": "above"})
                words.text = sign.text
            case SignKind.SLUR if begins and ends:
                SubElement(measure, "slur", {"startid": f"#{begins}", "endid": f"#{ends}"})
            case SignKind.FERMATA:
                place = {"startid": f"#{begins}"} if begins else {"staff": str(staff), "tstamp": beat}
                SubElement(measure, "fermata", {**place, "place": "above"})

    def _jumps(self, measure: Element, bar: WrittenBar) -> None:
        """Signs that say where to go on."""
        for name, (function, text, is_behind) in JUMPS.items():
            if getattr(self._signs(bar), name):
                beat = f"{bar.bar.meter.numerator + 1 if is_behind else 1}"
                sign = SubElement(measure, "repeatMark", {"staff": "1", "tstamp": beat, "func": function})
                sign.text = text or None

    def _voice(self, layer: Element, voice: Sequence[Written], *, number: int, shows_moments: bool) -> None:
        for tuplet, inside in nested(voice):
            home = layer if tuplet is None else tuplet_in(layer, tuplet)
            for group, members in groupby(inside, key=lambda w: w.group):
                beamed = list(members)
                # The engraver would put small notes under the beam, too: it is drawn from note to note then.
                has_graces = any(
                    self._graces(head) for w in beamed for head in w.heads if not head.is_tied_from
                )
                place = SubElement(home, "beam") if group and not has_graces else home
                drawn = []
                for inner, notes in groupby(beamed, key=lambda w: w.tuplet if w.tuplet != tuplet else None):
                    innermost = place if inner is None else tuplet_in(place, inner)
                    for written in notes:
                        drawn.append(
                            self._written(innermost, written, voice=number, shows_moments=shows_moments)
                        )
                if group and has_graces:
                    self.beams.append([name for name in drawn if name])

    def _written(self, place: Element, written: Written, *, voice: int, shows_moments: bool) -> str:
        """The id of a note or a chord; empty for a rest."""
        if written.is_whole_bar:
            SubElement(place, "mRest")
            return ""
        value = {"dur": str(written.value.base)}
        if written.value.dots:
            value["dots"] = str(written.value.dots)
        if written.is_rest:
            SubElement(place, "space" if written.is_hidden else "rest", value)
            return ""
        first = [head for head in written.heads if not head.is_tied_from and not head.is_unison]
        for head in first:
            count = self._graces(head)
            home = SubElement(place, "beam") if count > 1 else place
            for _ in range(count):
                self._grace(home, head, is_alone=count == 1)
        if any(self._ornament(head) is Ornament.ROLL for head in written.heads):
            value["stem.mod"] = "3slash"
        if len(written.heads) == 1:
            note = self._head(place, written.heads[0], value)
        else:
            chord = SubElement(place, "chord", {ID: f"c{written.heads[0].note}-{written.tick}", **value})
            note = chord
            for head in written.heads:
                self._head(chord, head, {})
        marks = {mark for head in first for mark in self.part.notes[head.note].articulations}
        if any(head.note in self.score.accents for head in written.heads):
            marks.add(Articulation.ACCENT)
        is_foot = all(head.lane is not None and head.lane.is_foot for head in written.heads)
        for mark in (each for each in Articulation if each in marks):
            # Over a stroke, beside the head of a note.
            place_of = {"place": "below" if is_foot else "above"} if mark is Articulation.ACCENT else {}
            SubElement(note, "artic", {"artic": ARTICULATIONS[mark], **place_of})
        for n, text in self._verses(written, voice=voice, shows_moments=shows_moments):
            SubElement(SubElement(note, "verse", {"n": str(n)}), "syl").text = text
        return note.get(ID, "")

    def _graces(self, head: WrittenNote) -> int:
        """How many small notes stand before a note."""
        ornament = self._ornament(head)
        return GRACES.get(ornament, 0) if ornament else 0

    def _ornament(self, head: WrittenNote) -> Ornament | None:
        return None if head.is_unison else self.part.notes[head.note].ornament

    def _grace(self, place: Element, head: WrittenNote, *, is_alone: bool) -> None:
        """A small note just before a stroke, on its line and with its head; before a note the one that is written."""
        where = spelled(head.grace) if head.grace is not None else {}
        if head.lane is not None:
            where = {"loc": str(head.lane.staff_step)}
            if head.lane.head in HEADS:
                where["head.shape"] = HEADS[head.lane.head]
        kind = (
            {"grace": "unacc", "stem.mod": "1slash", "dur": "8"}
            if is_alone
            else {"grace": "unacc", "dur": "16"}
        )
        SubElement(place, "note", {**kind, "stem.dir": "up", **where})

    def _head(self, place: Element, head: WrittenNote, value: dict[str, str]) -> Element:
        piece = self.pieces.get(head.note, 0)
        self.pieces[head.note] = piece + 1
        name = f"n{head.note}-{piece}"
        attributes = {ID: name, **value}
        if head.lane is not None:
            attributes["loc"] = str(head.lane.staff_step)
            if head.lane.head in HEADS:
                attributes["head.shape"] = HEADS[head.lane.head]
            if head.note in self.score.ghosts:
                attributes["head.mod"] = "paren"
            attributes["stem.dir"] = "down" if head.lane.is_foot else "up"
        else:
            attributes |= spelled(head)
        tie = ("m" if head.is_tied_on else "t") if head.is_tied_from else ("i" if head.is_tied_on else "")
        if tie:
            attributes["tie"] = tie
        note = SubElement(place, "note", attributes)
        if head.is_cautionary:
            SubElement(
                note, "accid", {"accid": ACCIDENTALS[head.alteration], "func": "caution", "enclose": "paren"}
            )
        if head.lane is not None and head.lane.head == "ring":
            SubElement(note, "artic", {"artic": "open"})
        ornament = self._ornament(head)
        if ornament in SIGNS_OVER and not head.is_tied_from:
            self.ornaments.append((name, ornament))
        finger = self.part.notes[head.note].finger
        if (
            finger is not None
            and not head.is_tied_from
            and not head.is_unison
            and LabelKind.FINGERS in self.labels.kinds
        ):
            is_proposed = self.part.notes[head.note].is_proposed
            self.fingers.append((name, f"({finger})" if is_proposed else str(finger)))
        return note

    def _verses(self, written: Written, *, voice: int, shows_moments: bool) -> Iterator[tuple[int, str]]:
        """Labels under a note or chord, at its first piece only; each voice of a staff has lines of its own."""
        heads = [head for head in written.heads if not head.is_tied_from and not head.is_unison]
        if not heads:
            return
        has_lanes = self.part.instrument.has_lanes
        moments = dict(self.labels.lines) if shows_moments and not has_lanes else {}
        above = dict(self.labels.lines) if has_lanes else {}
        kinds = [kind for kind in VERSES if kind in self.labels.kinds and kind not in above]
        for line, kind in enumerate(kinds, start=1 + (voice - 1) * len(kinds)):
            if kind in moments:
                tick = self.part.notes[heads[0].note].onset_tick
                text = moments[kind].get(tick, "")
            else:
                texts = [
                    label.text
                    for head in heads
                    for label in self.labels.at_note(self.part.notes[head.note])
                    if label.kind is kind
                ]
                text = " ".join(texts)
            if text:
                yield line, text
