"""From a place on the page back to the music: what a click on the staff means."""

from collections.abc import Iterable
from dataclasses import dataclass

from ear.drawing.boxes import PageRow, PageView
from ear.notes import STANDARD_KIT, Hand, KitMap, Part, key_alteration
from ear.staves import SPACE, STEP_PITCHES, Staves, octave_shifts, staves_at, staves_of
from ear.units import MAX_PITCH, MIN_PITCH


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A tick and a pitch, and the hand of the staff where the part is written for hands."""

    tick: int
    pitch: int
    hand: Hand | None


def place_at(
    part: Part, page: PageView, *, x: float, y: float, grid_ticks: int, kit: KitMap = STANDARD_KIT
) -> Place | None:
    """Return what is at x, y on a part's page: the grid cell there, counted in the bar, and the pitch that the
    key gives to that line or space; for drums, the lane.

    None outside the bars, or on a line without a lane.
    """
    row = next((r for r in page.rows if r.top <= y < r.bottom), None)
    if row is None or not row.bars[0].x <= x < row.box.right:
        return None
    bar = next(b for b in reversed(row.bars) if x >= b.x)
    into = (x - bar.x) / bar.width * (bar.end_tick - bar.start_tick)
    tick = bar.start_tick + int(into // grid_ticks) * grid_ticks
    staves = staves_at(part, row.box.start_tick, staves=staves_of(part, kit=kit))
    y -= row.top
    staff = min(range(len(row.staves)), key=lambda k: abs(y - _middle(row, k)))
    inside = [n for n in part.notes if row.box.start_tick <= n.onset_tick < row.box.end_tick]
    step = round((row.staves[staff].lines[-1] - y) / (SPACE / 2)) - octave_shifts(staves, inside)[staff]
    pitch = _lane_pitch(part, kit, step) if part.instrument.has_lanes else _key_pitch(staves, staff, step)
    if pitch is None or not MIN_PITCH <= pitch <= MAX_PITCH:
        return None
    has_hands = any(n.hand is not None for n in part.notes)
    hand = (Hand.RIGHT if staff == 0 else Hand.LEFT) if has_hands and len(row.staves) > 1 else None
    if hand is None and has_hands:
        hand = part.notes[0].hand
    return Place(tick=tick, pitch=pitch, hand=hand)


def heights(
    part: Part, row: PageRow, pitches: Iterable[int], *, kit: KitMap = STANDARD_KIT
) -> dict[int, float]:
    """Return the heights, in px from the row's top, of pitches in a row of a part's page: a lane's height, or
    the line or space of the key on the staff whose range it is in.
    """
    staves = staves_at(part, row.box.start_tick, staves=staves_of(part, kit=kit))
    inside = [n for n in part.notes if row.box.start_tick <= n.onset_tick < row.box.end_tick]
    shifts = octave_shifts(staves, inside)
    heights = {}
    for pitch in pitches:
        place = staves.place(pitch, hand=None)
        step = place.step + shifts[place.staff]
        heights[pitch] = row.staves[place.staff].lines[-1] - step * SPACE / 2
    return heights


def _middle(row: PageRow, staff: int) -> float:
    lines = row.staves[staff].lines
    return (lines[0] + lines[-1]) / 2.0


def _key_pitch(staves: Staves, staff: int, step: int) -> int:
    written = step + staves.clefs[staff].bottom_step
    octave, letter = divmod(written, len(STEP_PITCHES))
    return 12 * octave + STEP_PITCHES[letter] + key_alteration(written, fifths=staves.fifths)


def _lane_pitch(part: Part, kit: KitMap, step: int) -> int | None:
    """The lane on a line or space, or right beside it; of several one that the part uses, else the kit's
    first."""
    used = {kit.lane(n.pitch).name for n in part.notes}
    there = [lane for lane in kit.lanes if abs(lane.staff_step - step) <= 1]
    lane = min(there, key=lambda lane: (lane.staff_step != step, lane.name not in used), default=None)
    return lane.pitches[0] if lane else None
