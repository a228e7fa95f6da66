"""Notes as a part writes them."""

from dataclasses import dataclass, replace
from enum import StrEnum
from operator import attrgetter

from ear.errors import ValueOutOfRange
from ear.notes.ornament import Ornament
from ear.notes.pitch import names_of
from ear.notes.signs import STACCATO_TIMES, Articulation
from ear.notes.values import check_pitch_and_velocity

FINGERS = 5
MAX_VOICES = 4
"""Lines of one staff that can be read."""
MAX_GRACE = 24
"""Semitones from a note to its grace note."""
MAX_LABEL_LENGTH = 40
"""Characters of a word at a note."""


class Hand(StrEnum):
    """By which hand a note is played."""

    RIGHT = "right"
    LEFT = "left"


HANDS = (None, Hand.RIGHT, Hand.LEFT)
"""Hands by number; 0 for none."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Unison:
    """A second note on a key that is struck once: another voice, or the other hand, has it too, with a length of its own."""

    length_tick: int
    hand: Hand | None = None
    voice: int | None = None

    def __post_init__(self) -> None:
        if self.length_tick < 1:
            raise ValueOutOfRange("note_empty")


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One note of a target part, in ticks from the start of bar 1."""

    onset_tick: int
    length_tick: int
    pitch: int
    velocity: int
    hand: Hand | None = None
    finger: int | None = None
    """1 thumb to 5 little finger."""
    label: str | None = None
    """A word of the note's own: a syllable of the song, a count."""
    name_fifth: int | None = None
    """How it is written, where that was said: its name on the line of fifths (C 0, G 1, F -1, F sharp 6)."""
    is_proposed: bool = False
    """Its finger is a proposal that nobody has agreed to yet."""
    voice: int | None = None
    """Which line of its staff it is written in, from 1, where that was said."""
    ornament: Ornament | None = None
    grace_semitones: int | None = None
    """How far above the note its grace note is; where that was not said, it is the next step of the key."""
    articulations: tuple[Articulation, ...] = ()
    """In the order of their kinds, each once."""
    unison: Unison | None = None
    """What else is written for this one stroke."""

    def __post_init__(self) -> None:
        check_pitch_and_velocity(self.pitch, self.velocity)
        if self.onset_tick < 0 or self.length_tick < 1:
            raise ValueOutOfRange("note_empty")
        if self.finger is not None and not 1 <= self.finger <= FINGERS:
            raise ValueOutOfRange("finger_out_of_range", fingers=FINGERS, finger=self.finger)
        if self.is_proposed and self.finger is None:
            raise ValueOutOfRange("proposal_without_finger")
        if self.label is not None and not 1 <= len(self.label) <= MAX_LABEL_LENGTH:
            raise ValueOutOfRange("note_word_length", label_most=MAX_LABEL_LENGTH)
        if self.name_fifth is not None and self.name_fifth not in names_of(self.pitch):
            raise ValueOutOfRange("spelling_wrong_for_pitch", field="fifth")
        if self.voice is not None and not 1 <= self.voice <= MAX_VOICES:
            raise ValueOutOfRange("voice_out_of_range", voices=MAX_VOICES, voice=self.voice)
        if self.articulations and self.articulations != tuple(
            a for a in Articulation if a in self.articulations
        ):
            raise ValueOutOfRange("articulations_not_sorted")
        if self.grace_semitones is not None and abs(self.grace_semitones) > MAX_GRACE:
            raise ValueOutOfRange("grace_note_too_far", most=MAX_GRACE)

    def second(self) -> "Note | None":
        """Return its unison as a note of its own, without what is written at the first."""
        if self.unison is None:
            return None
        return replace(
            self, length_tick=self.unison.length_tick, hand=self.unison.hand, voice=self.unison.voice, finger=None, label=None,
            is_proposed=False, ornament=None, grace_semitones=None, articulations=(), unison=None,
        )  # fmt: skip

    def at_pitch(self, pitch: int, name_fifth: int | None = None) -> "Note":
        """Return the note at another pitch. Its written name stays only if that pitch can have it."""
        return (
            self
            if pitch == self.pitch and name_fifth is None
            else replace(self, pitch=pitch, name_fifth=name_fifth)
        )

    def moved(self, *, ticks: int, semitones: int) -> "Note":
        """Return the note moved in time and pitch; whole octaves away it keeps its name.

        Raises ValueOutOfRange.

        Written out: a part of thousands is moved at once, and `replace` takes twice as long.
        """
        return Note(
            onset_tick=self.onset_tick + ticks, length_tick=self.length_tick, pitch=self.pitch + semitones,
            velocity=self.velocity, hand=self.hand, finger=self.finger, label=self.label,
            name_fifth=None if semitones % 12 else self.name_fifth, is_proposed=self.is_proposed, voice=self.voice,
            ornament=self.ornament, grace_semitones=self.grace_semitones, articulations=self.articulations, unison=self.unison,
        )  # fmt: skip

    @property
    def end_tick(self) -> int:
        """Where the note ends, in ticks from the beginning."""
        return self.onset_tick + self.length_tick

    @property
    def written_end_tick(self) -> int:
        """Where it ends on paper: a staccato note sounds half as long as it is written."""
        times = STACCATO_TIMES if Articulation.STACCATO in self.articulations else 1
        return self.onset_tick + times * self.length_tick


place_of = attrgetter("onset_tick", "pitch")
"""Where a note stands: notes of a part are in order of it."""
