"""A part as MEI, for an engraver to draw (Music Encoding Initiative, version 5)."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from xml.etree.ElementTree import Element, SubElement, tostring

from ear.labels import PLAIN, Conventions, LabelKind
from ear.labels.chosen import ON_THE_PAGE, Labels
from ear.notation.graces import WrittenGrace
from ear.notation.loudness import Loudness, loudness_of
from ear.notation.written import Written, WrittenBar, WrittenNote, WrittenScore, write_out
from ear.notes import GRACES, BarSigns, Ornament, Part, PedalMove, WrittenForm, folded, pedal_points
from ear.notes.form import PLAIN_BAR
from ear.notes.pitch import LETTERS

NAMESPACE = "http://www.music-encoding.org/ns/mei"
ID = "{http://www.w3.org/XML/1998/namespace}id"
CLEFS = {"treble": ("G", "2"), "bass": ("F", "4"), "percussion": ("perc", "3")}
HEADS = {"cross": "x", "ring": "x", "diamond": "diamond"}
ACCIDENTALS = {-2: "ff", -1: "f", 0: "n", 1: "s", 2: "x"}
PEDAL_WAYS = {PedalMove.DOWN: ("down",), PedalMove.CHANGE: ("up", "down"), PedalMove.UP: ("up",)}
"""A change is both: behind MEI's "bounce" the engraver draws no line any more."""
PEDAL_GROUP = "100"
"""All lines of the pedal stand at one height: a vertical group of their own, beyond those of the labels."""
SIGNS_OVER = {
    Ornament.TRILL: ("trill", ""), Ornament.MORDENT: ("mordent", "lower"), Ornament.UPPER_MORDENT: ("mordent", "upper"),
    Ornament.TURN: ("turn", "upper"),
}  # fmt: skip
JUMPS = {
    "segno": ("segno", "", False), "coda": ("coda", "", False), "tocoda": ("coda", "To Coda", True), "fine": ("fine", "Fine", True),
    "dacapo": ("daCapo", "D.C.", True), "dalsegno": ("dalSegno", "D.S.", True),
}  # fmt: skip
"""What it does, its words (none for a sign of its own), and whether it stands at the bar's end."""
VERSES = (
    LabelKind.NAMES, LabelKind.KEYS, LabelKind.WORDS, LabelKind.COUNT, LabelKind.MOVES,
)  # fmt: skip
"""Labels that stand under the notes, a line for each kind."""


def mei_of(
    part: Part,
    *,
    labels: Collection[LabelKind] = ON_THE_PAGE,
    conventions: Conventions = PLAIN,
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
        labels=Labels.of(drawn, frozenset(labels), conventions),
        with_tempo=with_tempo,
        form=part.form if written is not None else None,
    ).document(bars)


@dataclass(slots=True, kw_only=True)
class _MeiWriter:
    score: WrittenScore
    loudness: Loudness
    labels: Labels
    with_tempo: bool
    form: WrittenForm | None
    """Of the bars that are written."""
    pieces: dict[int, int] = field(default_factory=dict)
    """How many heads each note has had so far: pieces of a tie."""
    fingers: list[tuple[str, str]] = field(default_factory=list)
    """(head, finger) of the bar at hand."""
    ornaments: list[tuple[str, Ornament]] = field(default_factory=list)
    """(head, sign over it) of the bar at hand."""

    @property
    def part(self) -> Part:
        return self.score.part

    def document(self, bars: range | None = None) -> str:
        wanted = [bar for bar in self.score.bars if bars is None or bar.bar.number in bars]
        mei = Element("mei", {"xmlns": NAMESPACE, "meiversion": "5.0"})
        SubElement(SubElement(mei, "meiHead"), "fileDesc")
        score = SubElement(SubElement(SubElement(SubElement(mei, "music"), "body"), "mdiv"), "score")
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

    def _signs(self, bar: WrittenBar) -> BarSigns:
        return PLAIN_BAR if self.form is None else self.form.at(bar.bar.number)

    def _key_and_meter(self, bar: WrittenBar) -> dict[str, str]:
        meter = bar.bar.meter
        attributes = {"meter.count": str(meter.numerator), "meter.unit": str(meter.denominator)}
        if self.part.instrument.has_key:
            attributes["keysig"] = _key(bar.fifths)
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
        signs = self._signs(bar)
        if signs.repeats_from:
            measure.set("left", "rptstart")
        if is_last or signs.repeats_to:
            measure.set("right", "rptend" if signs.repeats_to else "end")
        self.fingers, self.ornaments = [], []
        for n, staff in enumerate(bar.staves, start=1):
            element = SubElement(measure, "staff", {"n": str(n)})
            for k, voice in enumerate(staff.voices, start=1):
                layer = SubElement(element, "layer", {"n": str(k)})
                self._voice(layer, voice, number=k, shows_moments=n == 1 and k == 1)
        self._over(measure, bar)

    def _over(self, measure: Element, bar: WrittenBar) -> None:
        """What stands over the bar: tempo, section, chord names, fingers."""
        self._jumps(measure, bar)
        start, end = bar.bar.start_tick, bar.bar.end_tick
        unit = bar.bar.meter.bar_ticks / bar.bar.meter.numerator

        def beat(tick: int) -> str:
            return f"{(tick - start) / unit + 1:g}"

        for section in self.part.sections:
            if section.bar == bar.bar.number:
                SubElement(measure, "reh", {"staff": "1", "tstamp": "1"}).text = section.name
        for change in self.part.tempos.changes if self.with_tempo else ():
            if start <= change.tick < end:
                tempo = SubElement(measure, "tempo", {"staff": "1", "tstamp": beat(change.tick)})
                tempo.text = f"♩ = {change.bpm:g}"
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
        for head, ornament in self.ornaments:
            name, form = SIGNS_OVER[ornament]
            SubElement(measure, name, {"startid": f"#{head}", **({"form": form} if form else {})})
        for head, finger in self.fingers:
            SubElement(measure, "fing", {"startid": f"#{head}"}).text = finger

    def _jumps(self, measure: Element, bar: WrittenBar) -> None:
        """Signs that say where to go on."""
        for name, (function, text, is_behind) in JUMPS.items():
            if getattr(self._signs(bar), name):
                beat = f"{bar.bar.meter.numerator + 1 if is_behind else 1}"
                sign = SubElement(measure, "repeatMark", {"staff": "1", "tstamp": beat, "func": function})
                sign.text = text or None

    def _voice(self, layer: Element, voice: Sequence[Written], *, number: int, shows_moments: bool) -> None:
        for key, inside in groupby(voice, key=lambda w: w.triplet):
            home = layer
            if key:
                home = SubElement(layer, "tuplet", {"num": "3", "numbase": "2", "bracket.visible": "false"})
            for group, beamed in groupby(inside, key=lambda w: w.group):
                place = SubElement(home, "beam") if group else home
                for written in beamed:
                    self._written(place, written, voice=number, shows_moments=shows_moments)

    def _written(self, place: Element, written: Written, *, voice: int, shows_moments: bool) -> None:
        if written.is_whole_bar:
            SubElement(place, "mRest")
            return
        value = {"dur": str(written.value.base)}
        if written.value.dots:
            value["dots"] = str(written.value.dots)
        if written.is_rest:
            SubElement(place, "rest", value)
            return
        first = [head for head in written.heads if not head.is_tied_from]
        for head in first:
            ornament = self._ornament(head)
            for _ in range(GRACES.get(ornament, 0) if ornament else 0):
                self._grace(place, head)
        if any(self._ornament(head) is Ornament.ROLL for head in written.heads):
            value["stem.mod"] = "3slash"
        if len(written.heads) == 1:
            note = self._head(place, written.heads[0], value)
        else:
            chord = SubElement(place, "chord", value)
            note = chord
            for head in written.heads:
                self._head(chord, head, {})
        if any(head.note in self.score.accents for head in written.heads):
            is_foot = all(head.lane is not None and head.lane.is_foot for head in written.heads)
            SubElement(note, "artic", {"artic": "acc", "place": "below" if is_foot else "above"})
        for n, text in self._verses(written, voice=voice, shows_moments=shows_moments):
            SubElement(SubElement(note, "verse", {"n": str(n)}), "syl").text = text

    def _ornament(self, head: WrittenNote) -> Ornament | None:
        return self.part.notes[head.note].ornament

    def _grace(self, place: Element, head: WrittenNote) -> None:
        """A small note just before a stroke, on its line; before a note the one that is written."""
        where = _spelled(head.grace) if head.grace is not None else {}
        if head.lane is not None:
            where = {"loc": str(head.lane.staff_step)}
        SubElement(place, "note", {"grace": "unacc", "dur": "8", "stem.dir": "up", **where})

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
            attributes |= _spelled(head)
        tie = ("m" if head.is_tied_on else "t") if head.is_tied_from else ("i" if head.is_tied_on else "")
        if tie:
            attributes["tie"] = tie
        note = SubElement(place, "note", attributes)
        if head.lane is not None and head.lane.head == "ring":
            SubElement(note, "artic", {"artic": "open"})
        ornament = self._ornament(head)
        if ornament in SIGNS_OVER and piece == 0:
            self.ornaments.append((name, ornament))
        finger = self.part.notes[head.note].finger
        if finger is not None and piece == 0 and LabelKind.FINGERS in self.labels.kinds:
            is_proposed = self.part.notes[head.note].is_proposed
            self.fingers.append((name, f"({finger})" if is_proposed else str(finger)))
        return note

    def _verses(self, written: Written, *, voice: int, shows_moments: bool) -> Iterator[tuple[int, str]]:
        """Labels under a note or chord, at its first piece only; each voice of a staff has lines of its own."""
        heads = [head for head in written.heads if not head.is_tied_from]
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


def _spelled(sign: WrittenNote | WrittenGrace) -> dict[str, str]:
    """Name, octave and accidental of something written on a staff of pitches."""
    attributes = {"pname": LETTERS[sign.step % 7].lower(), "oct": str(sign.step // 7 - 1)}
    if sign.shows_accidental:
        attributes["accid"] = ACCIDENTALS[sign.alteration]
    elif sign.alteration:
        attributes["accid.ges"] = ACCIDENTALS[sign.alteration]
    return attributes


def _key(fifths: int) -> str:
    return f"{abs(fifths)}{'s' if fifths > 0 else 'f'}" if fifths else "0"
