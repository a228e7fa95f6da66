"""The Page view as data: everything that is drawn, with its place, for a template to write.

One component for all uses: a target alone, a target with a take laid over it, keyboard and
drums. Target notes are outlines, played ones fills whose depth is the velocity.
"""

from bisect import bisect_left
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any

import numpy as np

from ear.criteria.notes.scoring import TOO_MANY
from ear.criteria.score import NOT_COUNTED
from ear.drawing.boxes import (  # fmt: skip
    MIN_NOTE_WIDTH,
    NOTE_GAP,
    NOTE_HEIGHT,
    EarMark,
    Flag,
    FlagBox,
    NoteBox,
    Overlay,
    PageRow,
    PageView,
    Played,
)
from ear.drawing.brackets import BRACKET_HEIGHT, brackets_in_row
from ear.drawing.controls import played_controls
from ear.drawing.crowding import LABELS_LINE, arranged
from ear.drawing.in_words import ARTICULATIONS
from ear.drawing.lettering import LABEL_LINE, chords_line, labels_in_row, labels_of_notes, section_names
from ear.drawing.note_signs import signs_in_row
from ear.drawing.pedal import LINE_HEIGHT, pedal_lines, played_lines
from ear.drawing.rows import OverBar, RowBox, over_bars, rows_of
from ear.drawing.small_notes import cue_box, grace_box
from ear.drawing.staff_places import CLEF_WIDTH, KEY_SIGN_WIDTH, METER_WIDTH, STAFF_HEIGHT, StaffPlaces
from ear.drawing.strips import drift_strip, weight_strip
from ear.drawing.verdicts import (
    EVERYTHING,
    RowAt,
    Selection,
    is_selected,
    middle_between_hands,
    places_of_row,
    rows_at,
    ticks_per_second,
)  # fmt: skip
from ear.drawing.wheels import WHEEL_GAP, wheel_strips
from ear.labels import LabelKind
from ear.labels.chosen import ON_THE_PAGE, ORNAMENT_SIGNS, Labels
from ear.note_place import NotePlace
from ear.notes import STANDARD_KIT, KitMap, Note, Ornament, Part, SignKind
from ear.notes.controls import UNUSED, ControlLines
from ear.notes.recent import of_the_same_part
from ear.reader import ENGLISH, Reader
from ear.staves import StaffNote, octave_shifts, staves_of
from ear.words.places import BAR_AND_PLACE, BEATS

MARGIN_TOP = 36.0
OVER_STAFF = 17.0
"""From the top line up to where names of sections stand."""
LABEL_WIDTH = 44.0
"""Left of the staves, where the strips' names stand."""
NO_LABEL_WIDTH = 12.0
ROW_GAP = 34.0
STRIP_GAP = 12.0
HEAD_HALF = 5.6


@dataclass(slots=True, kw_only=True)
class _Drawer:
    """What a page is drawn from, row by row."""

    part: Part
    overlay: Overlay | None
    ear_marks: Sequence[EarMark]
    flags: Sequence[Flag]
    kit: KitMap
    places: StaffPlaces
    labels: Labels
    with_weight: bool
    new_notes: frozenset[int]
    states: dict[int, str] = field(default_factory=dict)
    """Of each target note with a take over it: `matched`, or the fault of not being played as written."""
    played: list[RowAt] = field(default_factory=list)
    """Take notes, each with its place in the part, in order of home: where the note it was meant for stands."""
    homes: list[float] = field(default_factory=list)
    selection: Selection = EVERYTHING
    reader: Reader = ENGLISH
    """Says which note is which."""
    controls: ControlLines = UNUSED
    """The take's pedal and wheels, in ticks of the part."""
    faded: frozenset[NotePlace] = frozenset()
    """Notes that are not looked at, by their ids."""

    names: Sequence[int | None] = ()
    """How each target note is written; drums have no names."""
    over_bar: dict[int, OverBar] = field(default_factory=dict)
    """Of each bar with which a section, a tempo or a repeat begins, what stands over it."""

    def __post_init__(self) -> None:
        self.over_bar = over_bars(self.part)
        self.names = self.part.names if self.part.instrument.has_key else [None] * len(self.part.notes)
        if self.overlay is None:
            return
        self.states = {r.target: self._written_state(r) for r in self.overlay.rows if r.target is not None}
        rows = rows_at(self.part, self.overlay)
        self.played = sorted((at for at in rows if at.row.take is not None), key=self._home)
        self.homes = [self._home(at) for at in self.played]
        self.controls = played_controls(self.part, self.overlay)
        if not self.selection.is_all:
            middle = middle_between_hands(self.part)
            self.faded = frozenset(
                place
                for at in rows
                if not is_selected(
                    at, self.selection, part=self.part, overlay=self.overlay, kit=self.kit, middle=middle
                )
                for place in places_of_row(at.row)
            )

    def row(self, box: RowBox) -> PageRow:
        self.places.take_up_key(box.start_tick)
        first, last = np.searchsorted(self.part.onset_ticks, [box.start_tick, box.end_tick]).tolist()
        notes = list(enumerate(self.part.notes[first:last], start=first))
        shifts = octave_shifts(self.places.staves, (n for _, n in notes))
        played = self._played_in(box)
        written = [self.places.place(n.pitch, n.hand, shifts, self.names[i]) for i, n in notes]
        sounded = [
            self.places.place(pitch, hand, shifts, self._name_played(row, pitch))
            for row, _, pitch, hand in played
        ]
        above = LABEL_LINE if self.labels.has_chords else 0.0
        has_both = self.labels.has_chords and any(bar.number in self.over_bar for bar in box.bars)
        higher = LABEL_LINE if has_both else 0.0
        has_words = any(
            s.kind is not SignKind.SLUR and box.start_tick <= s.tick < box.end_tick for s in self.part.signs
        )
        higher += LABEL_LINE if has_words else 0.0
        lettered = labels_of_notes([n for _, n in notes], self.labels)
        stacked = LABELS_LINE * max(0, max(map(len, lettered), default=0) - 1)
        tops = self.places.staff_tops([*written, *sounded], MARGIN_TOP + above + higher + stacked)
        plain = [
            replace(self._target(i, n, place, box, tops), labels=lines)
            for (i, n), place, lines in zip(notes, written, lettered, strict=True)
        ]
        targets = arranged(plain)
        aside = {i: after.x - before.x for (i, _), before, after in zip(notes, plain, targets, strict=True)}
        cues = [
            cue_box(self.part, n, self.places, box, tops, shifts, reader=self.reader)
            for n in self.part.cues
            if box.start_tick <= n.onset_tick < box.end_tick
        ]
        if not self.part.instrument.has_lanes:
            cues += [
                grace_box(self.part, i, self.places, box, tops, shifts, reader=self.reader)
                for i, n in notes
                if n.ornament is Ornament.GRACE
            ]
        by_target = {row.target: row for row, _, _, _ in played if row.target is not None}
        takes = arranged(
            [
                self._take(
                    row,
                    tick,
                    box,
                    tops,
                    shifts,
                    pitch,
                    hand,
                    0.0 if row.target is None else aside.get(row.target, 0.0),
                )
                for row, tick, pitch, hand in played
            ]
        )
        both = [*targets, *takes]
        lowest = max([tops[-1] + STAFF_HEIGHT, *(n.y for n in both)]) + 12
        chords_y = chords_line(self.labels, box, both, staff_top=tops[0])
        names_y = (
            tops[0] - OVER_STAFF if chords_y is None else min(tops[0] - OVER_STAFF, chords_y - LABEL_LINE)
        )
        signs = signs_in_row(
            self.part, box, [(n, target) for (_, n), target in zip(notes, targets, strict=True)],
            words_y=names_y - LABEL_LINE if has_both else names_y,
        )  # fmt: skip
        labels = labels_in_row(self.labels, box, chords_y=chords_y, from_y=lowest + 6)
        lowest = max([lowest, *(label.y + 4 for label in labels)])
        pedal = pedal_lines(self.part.pedal, box, y=lowest + LINE_HEIGHT / 2)
        lowest += LINE_HEIGHT if self.part.pedal else 0.0
        played_pedal = played_lines(self.controls.pedal, box, y=lowest + 2)
        lowest += LINE_HEIGHT / 2 if self.controls.pedal else 0.0
        wheels = wheel_strips(self.controls, box, top=lowest)
        lowest = wheels[-1].bottom + WHEEL_GAP if wheels else lowest
        brackets = brackets_in_row(self.part, self.ear_marks, box, y=lowest + BRACKET_HEIGHT / 2)
        bottom = lowest + (BRACKET_HEIGHT if brackets else 0)
        drift = weight = None
        if self.overlay is not None:
            linked = [
                (self.part.notes[i], row)
                for i, row in sorted(by_target.items())
                if row.take is not None and NotePlace.target(i) not in self.faded
            ]
            drift = drift_strip(
                self.part, self.overlay.window, box, linked, top=bottom + STRIP_GAP, kit=self.kit
            )
            weight = weight_strip(
                box, [n for i, n in notes if NotePlace.target(i) not in self.faded], self._sounded(linked),
                top=drift.bottom + STRIP_GAP,
            )  # fmt: skip
            bottom = weight.bottom
        elif self.with_weight:
            weight = weight_strip(box, [n for _, n in notes], (), top=bottom + STRIP_GAP / 2)
            bottom = weight.bottom
        return PageRow(
            box=box,
            top=0.0,
            height=bottom + ROW_GAP / 2,
            first_note=first,
            staves=tuple(self.places.staff(k, y, shifts[k]) for k, y in enumerate(tops)),
            meters=tuple(s for bar in box.bars if bar.meter for s in self.places.meter(bar, tops)),
            targets=tuple(targets),
            takes=tuple(takes),
            brackets=tuple(brackets),
            flags=tuple(
                FlagBox(number=f.number, x=box.x(f.tick), y=4)
                for f in self.flags
                if box.start_tick <= f.tick < box.end_tick
            ),
            sections=section_names(self.over_bar, box, both, y=names_y),
            cues=tuple(cues),
            labels=labels,
            note_signs=signs,
            pedal=pedal,
            played_pedal=played_pedal,
            wheels=wheels,
            drift=drift,
            weight=weight,
        )

    def _sounded(self, linked: Sequence[tuple[Note, Played]]) -> list[tuple[Note, int, str]]:
        assert self.overlay is not None
        return [
            (n, self.overlay.take.notes[row.take].velocity, row.touch or "")
            for n, row in linked
            if row.take is not None
        ]

    def _target(self, i: int, note: Note, place: StaffNote, box: RowBox, tops: Sequence[float]) -> NoteBox:
        x = box.x(note.onset_tick)
        end = min(box.right, box.x(note.end_tick, is_end=True)) if note.end_tick < box.end_tick else box.right
        state = "new" if i in self.new_notes else "plain"
        if self.overlay is not None:
            state = self.states.get(i, "missed")
        return NoteBox(
            id=str(NotePlace.target(i)),
            x=x,
            y=self.places.y(place, tops),
            width=0.0 if place.head else max(MIN_NOTE_WIDTH, end - x - NOTE_GAP),
            height=NOTE_HEIGHT,
            head=place.head,
            state=state,
            pitch=note.pitch,
            velocity=note.velocity,
            accidental=self.places.accidental(
                place, self.names[i], note, self.part.bar_holding(i).start_tick, tops, x
            ),
            ledgers=self.places.ledgers(place, tops),
            # With a take over it, a note's card says more.
            words=self._target_words(i, note) if self.overlay is None else "",
            is_faded=NotePlace.target(i) in self.faded,
        )

    def _name_played(self, row: Played, pitch: int) -> int | None:
        """A note that is played as it is written is written so, too."""
        is_same = row.target is not None and self.part.notes[row.target].pitch == pitch
        return self.names[row.target] if is_same and row.target is not None else None

    @staticmethod
    def _written_state(row: Played) -> str:
        if row.outcome == "matched":
            return "matched"
        return row.outcome if row.is_fault else "not_counted"

    def _target_words(self, i: int, note: Note) -> str:
        bar, say = self.part.bar_holding(i), self.reader.say
        beat = (note.onset_tick - bar.start_tick) // bar.meter.beat_ticks + 1
        name_fifth = self.names[i]
        name = (
            self.reader.gettext(self.part.lane_name(note.pitch, self.kit))
            if name_fifth is None
            else self.reader.conventions.pitch(note.pitch, name_fifth=name_fifth)
        )
        place = say(BAR_AND_PLACE, {"bar": bar.number, "place": say(BEATS[Fraction(0)], {"beat": beat})})
        ornament = [ORNAMENT_SIGNS[note.ornament]] if note.ornament else []
        articulations = [say(ARTICULATIONS[mark], {}) for mark in note.articulations]
        return ", ".join([name, place, *ornament, *articulations])

    def _played_in(self, box: RowBox) -> list[tuple[Played, float, int, Any]]:
        """(row, tick where it was played, pitch, hand) of take notes that belong to this row."""
        if self.overlay is None:
            return []
        first = 0 if box.index == 0 else bisect_left(self.homes, box.start_tick)
        is_last = box.end_tick >= self.part.bars[-1].end_tick
        last = len(self.homes) if is_last else bisect_left(self.homes, box.end_tick)
        played = []
        for at in self.played[first:last]:
            row = at.row
            assert row.take is not None
            hand = self.part.notes[row.target].hand if row.target is not None else None
            played.append((row, at.tick, self.overlay.take.notes[row.take].pitch, hand))
        return played

    def _home(self, at: RowAt) -> float:
        return at.tick if at.row.target is None else self.part.notes[at.row.target].onset_tick

    def _take(
        self, row: Played, tick: float, box: RowBox, tops: Sequence[float],
        shifts: Sequence[int], pitch: int, hand: Any, aside: float,
    ) -> NoteBox:  # fmt: skip
        assert self.overlay is not None and row.take is not None
        note = self.overlay.take.notes[row.take]
        name_fifth = self._name_played(row, pitch)
        place = self.places.place(pitch, hand, shifts, name_fifth)
        x = min(box.x(tick) + aside, box.right + 4)
        per_second = ticks_per_second(self.part, max(0.0, tick), self.overlay)
        end = min(box.right, box.x(tick + note.length_s * per_second))
        join = accidental = None
        if row.outcome == "wrong_pitch" and row.target is not None:
            written = self.part.notes[row.target]
            there = self.places.place(written.pitch, written.hand, shifts, self.names[row.target])
            join = (box.x(written.onset_tick), self.places.y(there, tops))
            if not place.head and not self.places.staves.is_written_by_key(
                self.places.staves.place(pitch, hand=hand, name_fifth=name_fifth)
            ):
                accidental = self.places.sign(place, x, tops)
        return NoteBox(
            id=str(NotePlace.played(row.take)),
            x=x,
            y=self.places.y(place, tops),
            width=0.0 if place.head else max(MIN_NOTE_WIDTH, end - x - NOTE_GAP),
            height=NOTE_HEIGHT - 2,
            head=place.head,
            state=self._state(row),
            pitch=note.pitch,
            velocity=note.velocity,
            accidental=accidental,
            ledgers=self.places.ledgers(place, tops),
            join=join,
            is_faded=NotePlace.played(row.take) in self.faded,
        )

    def _state(self, row: Played) -> str:
        """A fault's verdict, of notes too many their sort; of others `matched`, or what costs nothing here:
        `not_counted`, `spare` where nothing is written, `abandoned`."""
        if row.is_fault:
            return row.outcome if row.verdict == TOO_MANY else row.verdict
        if row.outcome == "matched":
            return "matched"
        return "spare" if row.verdict == NOT_COUNTED and row.target is None else row.verdict


def page_view(
    part: Part,
    *,
    width: float,
    overlay: Overlay | None = None,
    ear_marks: Sequence[EarMark] = (),
    flags: Sequence[Flag] = (),
    kit: KitMap = STANDARD_KIT,
    labels: Collection[LabelKind] = ON_THE_PAGE,
    reader: Reader = ENGLISH,
    with_weight: bool = False,
    new_notes: Collection[int] = (),
    only: Collection[int] | None = None,
    selection: Selection = EVERYTHING,
) -> PageView:
    """Return a part laid out on a page, with a take over it if one is given. An empty part gives one empty bar.

    Labels are those of a part that is shown alone; `new_notes` are marked as new, in a variation. `with_weight` gives it its Weight strip. `only`
    lays out just those rows, by index: the page's height is theirs. Notes outside the `selection` are faded,
    and the strips leave them out.
    """
    staves = staves_of(part, kit=kit)
    has_strips = overlay is not None or with_weight
    drawer = _Drawer(
        part=part, overlay=overlay, ear_marks=ear_marks, flags=flags, kit=kit,
        places=StaffPlaces(part=part, part_staves=staves, staves=staves, staff_left=LABEL_WIDTH if has_strips else NO_LABEL_WIDTH),
        with_weight=with_weight, new_notes=frozenset(new_notes), selection=selection, reader=reader,
        labels=Labels.of(part, frozenset(labels) if overlay is None else frozenset(), reader),
    )  # fmt: skip
    rows: list[PageRow] = []
    top = 0.0
    for box in page_rows(part, width=width, has_strips=has_strips):
        if only is None or box.index in only:
            rows.append(replace(drawer.row(box), top=top))
            top = rows[-1].bottom
    return PageView(
        width=width, height=top, staff_left=drawer.places.staff_left, rows=tuple(rows), kind=part.kind
    )


@of_the_same_part
def page_rows(part: Part, *, width: float, has_strips: bool = False) -> list[RowBox]:
    """Return the rows of a part's page, still empty."""
    keys = {part.fifths, *(s.fifths for s in part.sections if s.fifths is not None)}
    signs = max(map(abs, keys)) if part.instrument.has_key else 0
    staff_left = LABEL_WIDTH if has_strips else NO_LABEL_WIDTH
    left = staff_left + CLEF_WIDTH + signs * KEY_SIGN_WIDTH + METER_WIDTH
    return rows_of(part, left=left, right=width - 10)
