"""Staves: which ones a part needs, and where a note stands on them."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ear.notes import STANDARD_KIT, Hand, Kind, KitMap, Note, Part, key_alteration, spell

SPACE = 9.0
"""Between two staff lines, in px."""
LINES = 5
GAP_STAVES = 52.0
"""Between the two staves of a keyboard part, at least."""
SPLIT_PITCH = 60
"""Notes of no hand: from here up on the upper staff."""
ALONE_LOW, ALONE_HIGH = 55, 65
"""A part that stays above, or below, needs one staff only."""
OCTAVE_STEPS = 7
STEP_PITCHES = (0, 2, 4, 5, 7, 9, 11)
"""Semitones over C of each step, unaltered."""
HIGH_STEPS, LOW_STEPS = 16, -8
"""Steps from the bottom line past which a row is written an octave nearer."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Clef:
    """A clef and what it makes of the staff lines."""

    name: str
    bottom_step: int
    """Diatonic step of the bottom line, counted from C of MIDI octave -1."""
    line: int
    """Staff line on which the symbol stands, from the bottom, 0 to 4."""
    key_shift: int
    """Steps by which key signatures stand below those of the treble clef."""


TREBLE = Clef(name="treble", bottom_step=37, line=1, key_shift=0)
BASS = Clef(name="bass", bottom_step=25, line=3, key_shift=2)
PERCUSSION = Clef(name="percussion", bottom_step=0, line=2, key_shift=0)

SHARP_PLACES = (8, 5, 9, 6, 3, 7, 4)
FLAT_PLACES = (4, 7, 3, 6, 2, 5, 1)
"""Steps above the bottom line of the treble staff, in the order of the signature."""


@dataclass(frozen=True, slots=True, kw_only=True)
class StaffNote:
    """A pitch on a staff, in steps above the staff's bottom line."""

    staff: int
    step: int
    alteration: int
    head: str | None = None

    @property
    def ledger_steps(self) -> tuple[int, ...]:
        """Ledger lines that the note needs."""
        if self.step > 9:
            return tuple(range(10, self.step + 1, 2))
        return tuple(range(-2, self.step - 1, -2))


@dataclass(frozen=True, slots=True, kw_only=True)
class Staves:
    """The staves of a part, from the top."""

    kind: Kind
    clefs: tuple[Clef, ...]
    fifths: int
    kit: KitMap

    def place(self, pitch: int, *, hand: Hand | None = None, name_fifth: int | None = None) -> StaffNote:
        """Return the staff, step and accidental of a pitch, by its name on the line of fifths if that is known;
        for drums, the lane's place and head.
        """
        if self.kind.instrument.has_lanes:
            lane = self.kit.lane(pitch)
            return StaffNote(staff=0, step=lane.staff_step, alteration=0, head=lane.head)
        staff = self.staff_of(pitch, hand)
        spelling = spell(pitch, fifths=self.fifths, name_fifth=name_fifth)
        return StaffNote(
            staff=staff,
            step=spelling.step - self.clefs[staff].bottom_step,
            alteration=spelling.alteration,
        )

    def staff_of(self, pitch: int, hand: Hand | None) -> int:
        """Return the staff that a note is on, counted from the top."""
        if len(self.clefs) == 1:
            return 0
        if hand is not None:
            return 0 if hand is Hand.RIGHT else 1
        return 0 if pitch >= SPLIT_PITCH else 1

    def signature(self, staff: int) -> list[tuple[int, int]]:
        """Return (step above the bottom line, alteration) for each sign of the key signature."""
        shift = self.clefs[staff].key_shift
        if self.kind.instrument.has_lanes:
            return []
        if self.fifths >= 0:
            return [(step - shift, 1) for step in SHARP_PLACES[: self.fifths]]
        return [(step - shift, -1) for step in FLAT_PLACES[: -self.fifths]]

    def is_written_by_key(self, note: StaffNote) -> bool:
        """Return whether the key signature alone gives the note its accidental."""
        step = note.step + self.clefs[note.staff].bottom_step
        return key_alteration(step, fifths=self.fifths) == note.alteration


def staves_of(part: Part, *, kit: KitMap) -> Staves:
    """Return the staves that a part is written on at its beginning."""
    return Staves(kind=part.kind, clefs=_clefs(part), fifths=part.fifths, kit=kit)


def staves_at(part: Part, tick: int, *, staves: Staves) -> Staves:
    """Return the part's staves with the key signature in force at a tick."""
    fifths = part.fifths_at(tick)
    return staves if fifths == staves.fifths else replace(staves, fifths=fifths)


def _clefs(part: Part) -> tuple[Clef, ...]:
    if part.instrument.has_lanes:
        return (PERCUSSION,)
    hands = {n.hand for n in part.notes}
    pitches = [n.pitch for n in part.notes]
    if hands >= {Hand.RIGHT, Hand.LEFT}:
        return (TREBLE, BASS)
    alone = [TREBLE] if min(pitches, default=ALONE_LOW) >= ALONE_LOW else []
    if max(pitches, default=ALONE_HIGH) <= ALONE_HIGH:
        alone.append(BASS)
    # Of two clefs that would do, the one that is read with fewer ledger lines.
    return (min(alone, key=lambda clef: _count_ledger_lines(part, clef)),) if alone else (TREBLE, BASS)


def _count_ledger_lines(part: Part, clef: Clef) -> int:
    staff = Staves(kind=part.kind, clefs=(clef,), fifths=part.fifths, kit=STANDARD_KIT)
    return sum(
        len(staff.place(note.pitch, name_fifth=name_fifth).ledger_steps)
        for note, name_fifth in zip(part.notes, part.names, strict=True)
    )


def octave_shifts(staves: Staves, notes: Iterable[Note]) -> list[int]:
    """Return the steps to move a row's notes by on each staff, so that few ledger lines are needed: 0, 7 or -7."""
    if staves.kind.instrument.has_lanes:
        return [0 for _ in staves.clefs]
    steps: list[list[int]] = [[] for _ in staves.clefs]
    for note in notes:
        place = staves.place(note.pitch, hand=note.hand)
        steps[place.staff].append(place.step)
    return [_octave_shift(own) for own in steps]


def _octave_shift(steps: list[int]) -> int:
    if not steps:
        return 0
    if max(steps) > HIGH_STEPS and min(steps) >= 4:
        return -OCTAVE_STEPS
    if min(steps) < LOW_STEPS and max(steps) <= 4:
        return OCTAVE_STEPS
    return 0
