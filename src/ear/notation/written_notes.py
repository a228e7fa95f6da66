"""What stands in the bars of a written part: heads, values, tuplets."""

from dataclasses import dataclass

from ear.notation.graces import WrittenGrace
from ear.notation.values import Ratio, Value
from ear.notes import Lane


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenNote:
    """One head: which note of the part it is, how it is spelled, whether ties come and go."""

    note: int
    pitch: int
    step: int
    """Diatonic step from C of MIDI octave -1."""
    alteration: int
    is_tied_from: bool
    is_tied_on: bool
    shows_accidental: bool = False
    is_cautionary: bool = False
    """Its accidental only reminds of what holds anyway."""
    lane: Lane | None = None
    octaves: int = 0
    """How many octaves above what is written it sounds, under a line that says so."""
    grace: WrittenGrace | None = None
    """The small note before it."""
    is_unison: bool = False
    """The second head of a key that is struck once."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuplet:
    """So many notes in the time of so many, from one tick to another."""

    start: int
    ticks: int
    ratio: Ratio
    has_bracket: bool = True
    """No beam shows what belongs together."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Written:
    """A chord, a note or a rest (no heads) of one value."""

    tick: int
    end_tick: int
    value: Value
    heads: tuple[WrittenNote, ...] = ()
    is_whole_bar: bool = False
    """A rest that fills its bar, whatever the meter."""
    is_hidden: bool = False
    """A rest that says nothing: another voice plays meanwhile, and this one plays elsewhere in the bar."""
    group: int = 0
    """What is beamed together has one number; 0 for what has no beam."""
    tuplet: Tuplet | None = None

    @property
    def is_rest(self) -> bool:
        """Is nothing sounded?"""
        return not self.heads
