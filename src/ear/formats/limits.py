"""How much of a stranger's file is read. What has more is refused *while* it is read, and says of what it has too much.

Each limit is far over any exercise and any ordinary score, and low enough that a file at all of them at once is read
within five seconds and 400 MB on two cores: `./oido bench fuzz` holds that.
"""

from dataclasses import dataclass

from ear.editing.bars import MAX_BARS
from ear.errors import FormatError

FILE_BYTES = 4_000_000
"""Of a file as it comes."""
OPENED_BYTES = 20_000_000
"""Of one file of an archive, once it is open: small archives can hold huge ones."""
ARCHIVE_FILES = 200
PART_BARS, PART_NOTES = MAX_BARS, 8_000
"""What an exercise holds. Of a longer file some bars are taken."""
TAKE_NOTES = 10_000
"""Of a recording that is measured."""
BARS = 2_000
"""As they are played, repeats and all."""
BAR_QUARTERS = 64
"""Longest bar, longest note."""
NOTES = 25_000
TRACKS = 200
"""Of a MIDI file; parts of a score."""
TEMPOS, METERS, MARKS = 5_000, 2_000, 10_000
"""Changes, each kind; marks are texts, keys, sections, pedal strokes, chord names."""
MIDI_STEPS = 300_000
"""Single bytes that the reader takes from a MIDI file: three or four for a message."""
HIGH_BYTES = 10_000
"""In a row with their highest bit set: a number or text without end."""
ELEMENTS, DEPTH = 250_000, 60
"""Of a document, and how deep they stand in one another."""
PLAYED_ELEMENTS = 200_000
"""Notes, rests and signs as they are played, over all parts and with all repeats."""


@dataclass(slots=True)
class Counted:
    """Counts one thing while it is read, and stops the reading at the one too many."""

    most: int
    counted: str
    """In the plural, as a person reads it."""
    count: int = 0

    def add(self, number: int = 1) -> None:
        """Count one more, or `count` more. Raises FormatError beyond the limit."""
        self.count += number
        if self.count > self.most:
            raise too_much(self.counted, self.most)


def too_much(counted: str, most: int) -> FormatError:
    """Return the error for a file that has more than `most` of something."""
    return FormatError(expected=f"at most {most:,} {counted}", actual="more")
