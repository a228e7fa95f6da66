"""Where things stand on the staves of a row: notes, clefs, key and meter signs, accidentals, ledger lines."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from ear.drawing.boxes import Sign, StaffBox
from ear.drawing.rows import BarBox
from ear.notes import Note, Part
from ear.staves import GAP_STAVES, LINES, SPACE, StaffNote, Staves, staves_at

CLEF_WIDTH = 38.0
KEY_SIGN_WIDTH = 8.5
METER_WIDTH = 29.0
STAFF_HEIGHT = (LINES - 1) * SPACE


ACCIDENTALS = {2: "double-sharp", 1: "sharp", 0: "natural", -1: "flat", -2: "double-flat"}


@dataclass(slots=True, kw_only=True)
class StaffPlaces:
    """Goes from row to row, so that accidentals and keys are known."""

    part: Part
    part_staves: Staves
    staves: Staves
    """Those of the row at hand: the part's, in the row's key."""
    staff_left: float
    accidentals: dict[tuple[int, int, int], int] = field(default_factory=dict)
    """(staff, step, bar start): the alteration in force."""
    written: dict[tuple[int, Any, int | None], StaffNote] = field(default_factory=dict)

    def take_up_key(self, tick: int) -> None:
        """Write in the key that holds at a tick; accidentals written before no longer hold."""
        staves = staves_at(self.part, tick, staves=self.part_staves)
        if staves is not self.staves:
            self.staves = staves
            self.written.clear()

    def written_at(self, pitch: int, hand: Any, name_fifth: int | None) -> StaffNote:
        """Return where a pitch is written before octave signs shift it.

        `name_fifth` is its name; None takes the name in the key. Each answer is worked out once.
        """
        key = (pitch, hand, name_fifth)
        if key not in self.written:
            self.written[key] = self.staves.place(pitch, hand=hand, name_fifth=name_fifth)
        return self.written[key]

    def place(self, pitch: int, hand: Any, shifts: Sequence[int], name_fifth: int | None = None) -> StaffNote:
        """Return where a pitch is drawn, with its octave sign counted in. `shifts` are steps for each staff."""
        place = self.written_at(pitch, hand, name_fifth)
        if not shifts[place.staff]:
            return place
        return StaffNote(
            staff=place.staff, step=place.step + shifts[place.staff],
            alteration=place.alteration, head=place.head,
        )  # fmt: skip

    def staff_tops(self, places: Sequence[StaffNote], top: float) -> list[float]:
        """Return the y, in px, of each staff's top line, with room for what is above and below it."""
        tops: list[float] = []
        y = top
        for k in range(len(self.staves.clefs)):
            steps = [p.step for p in places if p.staff == k]
            above = max(0.0, (max(steps, default=0) - 2 * (LINES - 1)) * SPACE / 2 - 6)
            below = max(0.0, -min(steps, default=0) * SPACE / 2 - 4)
            y += above
            tops.append(y)
            y += STAFF_HEIGHT + (GAP_STAVES if k == 0 else 0) + max(0.0, below - 14)
        return tops

    def y(self, place: StaffNote, tops: Sequence[float]) -> float:
        """Return the y of a written note, in px from the row's top; `tops` are the tops of the staves."""
        return tops[place.staff] + STAFF_HEIGHT - place.step * SPACE / 2

    def staff(self, k: int, top: float, shift: int) -> StaffBox:
        """Return staff `k` with clef and key signature, `top` px from the row's top."""
        clef = self.staves.clefs[k]
        x = self.staff_left + 6
        return StaffBox(
            y=top,
            lines=tuple(top + n * SPACE for n in range(LINES)),
            clef=Sign(glyph=f"clef-{clef.name}", x=x, y=top + STAFF_HEIGHT - clef.line * SPACE),
            key=tuple(
                Sign(
                    glyph="sharp" if alteration > 0 else "flat",
                    x=x + CLEF_WIDTH - 8 + n * KEY_SIGN_WIDTH,
                    y=top + STAFF_HEIGHT - step * SPACE / 2,
                )
                for n, (step, alteration) in enumerate(self.staves.signature(k))
            ),
            octave="" if shift == 0 else ("8va" if shift < 0 else "8vb"),
        )

    def meter(self, bar: BarBox, tops: Sequence[float]) -> list[Sign]:
        """Return the signs of a bar's time signature on each staff."""
        assert bar.meter is not None
        signs = []
        x = bar.x - METER_WIDTH
        for top in tops:
            for number, y in ((bar.meter[0], top + SPACE), (bar.meter[1], top + 3 * SPACE)):
                digits = str(number)
                start = x - (len(digits) - 1) * 4.5
                signs += [Sign(glyph=f"digit-{d}", x=start + 9 * n, y=y) for n, d in enumerate(digits)]
        return signs

    def ledgers(self, place: StaffNote, tops: Sequence[float]) -> tuple[float, ...]:
        """Return the y, in px from the row's top, of each ledger line that a note needs."""
        bottom = tops[place.staff] + STAFF_HEIGHT
        return tuple(bottom - step * SPACE / 2 for step in place.ledger_steps)

    def accidental(
        self,
        place: StaffNote,
        name_fifth: int | None,
        note: Note,
        bar_tick: int,
        tops: Sequence[float],
        x: float,
    ) -> Sign | None:
        """Return the accidental that a note needs, if neither the key nor the bar, which begins at `bar_tick`,
        has it already.
        """
        if place.head:
            return None
        key = (place.staff, place.step, bar_tick)
        by_key = self.staves.is_written_by_key(self.written_at(note.pitch, note.hand, name_fifth))
        shown_accidental = self.accidentals.get(key)
        if shown_accidental == place.alteration or (shown_accidental is None and by_key):
            return None
        self.accidentals[key] = place.alteration
        return self.sign(place, x, tops)

    def sign(self, place: StaffNote, x: float, tops: Sequence[float]) -> Sign:
        """Return the accidental drawn before a note at `x` px."""
        return Sign(glyph=ACCIDENTALS[place.alteration], x=x - 10, y=self.y(place, tops))
