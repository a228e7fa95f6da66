"""What a piece of the library is, and how its text becomes a part with fingers or stickings and with musical velocities."""

import math
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import groupby, pairwise

from ear.editing.edited import ALL
from ear.editing.hands import agree_to_fingers, propose_fingers
from ear.editing.pedal import ChangeAt, hold_pedal
from ear.editing.sticking import HAT_FOOT
from ear.formats.text_file import read_text
from ear.notes import FOOT_HAT, STANDARD_KIT, Hand, Kind, Meter, Note, Part
from ear.patterns.beats import HIT_TICKS, STRENGTHS, beat
from ear.patterns.lines import COMMON
from ear.patterns.modes import Mode, Tonic, key_fifths
from ear.practice.ladder import Ladder
from ear.practice.proposals import propose_ladder
from ear.reader import Reader

GRADES = (1, 2, 3, 4, 5)
LEVEL_OF_GRADE = {1: "first-steps", 2: "building", 3: "building", 4: "secure", 5: "exacting"}
FIRST_BEAT, OFF_BEAT, LEFT_HAND, PHRASE, LAST_BAR = 8, -6, -12, 5, -6
"""Velocities more or less than the piece's own; PHRASE is what four bars swell and fade by."""
PHRASE_BARS = 4
USUAL_VELOCITY = 78
CYMBALS = frozenset({"hat", "open hat", "ride", "crash", "cowbell"})
CLOSE = ("crash", "kick")
Make = Callable[[], Part]


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryPiece:
    """A graded exercise: what is said of it, and how its part is made."""

    name: str
    """What it is called in an address; it never changes."""
    title: str
    instructions: str
    grade: int
    tags: tuple[str, ...]
    make: Make
    key: str = ""
    """“A minor”, “D dorian”; none for drums."""
    closes_on: int = 1
    """The degree of its last note in the bass, or of its only voice."""

    @property
    def level(self) -> str:
        """The level by which its takes are marked."""
        return LEVEL_OF_GRADE[self.grade]

    @property
    def count_in_bars(self) -> int:
        """Beginners get a bar more."""
        return 2 if self.grade == GRADES[0] else 1

    @property
    def part(self) -> Part:
        """Made once, then kept."""
        return _made(self.make)

    def ladder(self, reader: Reader) -> Ladder:
        """Return the rungs towards it, named for `reader`. Only a beginner goes from stroke to stroke."""
        return propose_ladder(self.part, by_moves=self.grade == GRADES[0], reader=reader)

    @property
    def kind(self) -> Kind:
        """Its part's."""
        return self.part.kind


@lru_cache(maxsize=256)
def _made(make: Make) -> Part:
    return make()


def tonic_and_mode(key: str) -> tuple[Tonic, Mode]:
    """Return what a key's name says: “C” is C major, “A minor” natural. Raises UnknownName."""
    tonic, _, mode = key.partition(" ")
    modes = {"": Mode.MAJOR, "minor": Mode.NATURAL_MINOR}
    return Tonic.named(tonic), modes.get(mode) or Mode(mode)


def keys(text: str, *, key: str, bpm: float, meter: str = "4/4", pedal: bool = False) -> Make:
    """Return how a keyboard piece is made from its text, a line for each hand (`ear.formats.plain_text`)."""

    def make() -> Part:
        fifths = key_fifths(*tonic_and_mode(key))
        sign = "sharps" if fifths > 0 else "flats"
        head = f"keyboard\nmetre {meter}\ntempo {bpm:g}\nkey {abs(fifths)} {sign if fifths else ''}\nvelocity {USUAL_VELOCITY}\n"
        part = read_text((head + text.strip() + "\n").encode())
        if pedal:
            part = hold_pedal(part, first_bar=1, last_bar=len(part.bars), change_at=ChangeAt.BARS).part
        return _shaped(with_fingers(part))

    return make


def pattern(make: Make, *, bpm: float) -> Make:
    """Return how a keyboard piece of the core's own patterns is made at a tempo."""

    def at_tempo() -> Part:
        return with_fingers(make().at_tempo(bpm))

    return at_tempo


def with_fingers(part: Part) -> Part:
    """Return a part with fingers for all notes that have none, as its own."""
    return agree_to_fingers(propose_fingers(part, ALL).part, ALL).part


def _shaped(part: Part) -> Part:
    """First beats a little stronger, off-beats and the left hand softer, phrases of four bars that swell and fade."""
    has_both = {n.hand for n in part.notes} >= set(Hand)

    def velocity(i: int, note: Note) -> int:
        bar = part.bar_holding(i)
        into = note.onset_tick - bar.start_tick
        beat = FIRST_BEAT if not into else 0 if into % bar.meter.beat_ticks == 0 else OFF_BEAT
        place = ((bar.number - 1) % PHRASE_BARS + into / bar.meter.bar_ticks) / PHRASE_BARS
        phrase = PHRASE * math.sin(math.pi * place) - PHRASE / 2
        hand = LEFT_HAND if has_both and note.hand is Hand.LEFT else 0
        return round(note.velocity + beat + phrase + hand + (LAST_BAR if bar.number == part.last_bar else 0))

    return part.with_notes(replace(n, velocity=velocity(i, n)) for i, n in enumerate(part.notes))


def kit(
    rows: str, *, step: int, bpm: float, meter: Meter = COMMON, times: int = 1, ends_on: Collection[str] = CLOSE,
    leads: Collection[str] = CYMBALS,
) -> Make:  # fmt: skip
    """Return how a drum piece is made: a row for each lane, its name and its bars with spaces between them
    (`ear.patterns.beats`); `step` in ticks. All of it is played so many times, and closes on the lanes `ends_on` names.

    The right hand keeps to the lanes `leads` names.
    """

    def make() -> Part:
        lanes = {}
        for row in rows.strip().splitlines():
            lane, bars = row.strip().split("  ", 1)
            lanes[lane.strip()] = "".join(bars.split()) * times
        return with_sticking(
            _closed(beat(lanes, step_ticks=step, bpm=bpm, meter=meter), ends_on), leads=leads
        )

    return make


def drumming(make: Make, *, bpm: float, ends_on: Collection[str] = ()) -> Make:
    """Return how a drum piece is made from the core's patterns; it closes on the lanes `ends_on` names, if any."""

    def at_tempo() -> Part:
        part = make().at_tempo(bpm)
        return with_sticking(_closed(part, ends_on) if ends_on else part)

    return at_tempo


def _closed(part: Part, ends_on: Collection[str]) -> Part:
    """Return a part with a last bar, on whose first beat these lanes are struck."""
    after = part.bars[-1].start_tick + part.bars[-1].meter.bar_ticks
    pitches = [lane.pitches[0] for lane in (*STANDARD_KIT.lanes, FOOT_HAT) if lane.name in ends_on]
    close = (Note(onset_tick=after, length_tick=HIT_TICKS, pitch=p, velocity=STRENGTHS["X"]) for p in pitches)
    return part.with_notes((*part.notes, *close))


def with_sticking(part: Part, *, leads: Collection[str] = CYMBALS) -> Part:
    """Return a drum part with R and L at the strokes of the hands. What has a sticking keeps it.

    The right hand keeps to the lanes `leads` names, the left one strikes what is beside them. In beats without them the hands
    take turns on the finest division that the bar has, so that every stroke on the beat leads alike.
    """
    if any(n.label for n in part.notes):
        return part
    struck = [
        i for i, n in enumerate(part.notes) if n.pitch != HAT_FOOT and not STANDARD_KIT.lane(n.pitch).is_foot
    ]
    labels: dict[int, str] = {}
    for bar, of_bar in groupby(struck, key=part.bar_holding):
        beat_ticks = bar.meter.beat_ticks
        by_onset = {
            into: list(together)
            for into, together in groupby(of_bar, key=lambda i: part.notes[i].onset_tick - bar.start_tick)
        }
        led = {
            into // beat_ticks
            for into, together in by_onset.items()
            if any(_lane(part.notes[i]) in leads for i in together)
        }
        free = [into for into in by_onset if into // beat_ticks not in led]
        division = min((b - a for a, b in pairwise(free)), default=beat_ticks)
        for into, together in by_onset.items():
            alone = "L" if into // beat_ticks in led else "RL"[into // division % 2]
            labels |= _hands(part, together, leads, alone=alone)
    return part.with_notes(replace(n, label=labels.get(i)) for i, n in enumerate(part.notes))


def _lane(note: Note) -> str:
    return STANDARD_KIT.lane(note.pitch).name


def _hands(part: Part, together: Sequence[int], leads: Collection[str], *, alone: str) -> dict[int, str]:
    if len(together) == 1:
        return {together[0]: "R" if _lane(part.notes[together[0]]) in leads else alone}
    leading = max(together, key=lambda i: (_lane(part.notes[i]) in leads, part.notes[i].pitch))
    return {i: "R" if i == leading else "L" for i in together}
