"""What of a file did not come in, and in which bar: counted while it is read, said by whoever shows it."""

from collections import Counter
from dataclasses import dataclass, field
from enum import StrEnum

from ear.text import Text, gettext_noop


class Lost(StrEnum):
    """What a file may say that a part does not hold, or says otherwise."""

    NO_TEMPO = "no_tempo"
    NO_METER = "no_meter"
    BENDS = "bends"
    CONTROLLERS = "controllers"
    SOUNDS = "sounds"
    DEVICE = "device"
    AFTERTOUCH = "aftertouch"
    CUE_POINTS = "cue_points"
    PROGRAM = "program"
    OTHER = "other"
    DOUBLED = "doubled"
    GRACE = "grace"
    ORNAMENTS = "ornaments"
    ARTICULATIONS = "articulations"
    VERSES = "verses"
    FINGERINGS = "fingerings"
    QUARTER_TONES = "quarter_tones"
    BEYOND = "beyond"
    NO_LANE = "no_lane"
    PEDALS = "pedals"
    TEMPO = "tempo"
    NO_TIME = "no_time"
    STAVES = "staves"
    PICKUP = "pickup"
    OWN_METER = "own_meter"
    UNEVEN = "uneven"
    OVERFULL = "overfull"


TEXTS: dict[Lost, Text] = {
    Lost.NO_TEMPO: gettext_noop("The file names no tempo: 120 is taken, as its format says"),
    Lost.NO_METER: gettext_noop("The file names no meter: four-four is taken"),
    Lost.BENDS: gettext_noop("Pitch bends are not kept"),
    Lost.CONTROLLERS: gettext_noop("Controllers other than the pedal are not kept"),
    Lost.SOUNDS: gettext_noop("The sounds that the file asks for are not kept"),
    Lost.DEVICE: gettext_noop("Messages to one device are not kept"),
    Lost.AFTERTOUCH: gettext_noop("Aftertouch is not kept"),
    Lost.CUE_POINTS: gettext_noop("Cue points are not kept"),
    Lost.PROGRAM: gettext_noop("What one program wrote for itself is not kept"),
    Lost.OTHER: gettext_noop("Messages that say nothing of notes are not kept"),
    Lost.DOUBLED: gettext_noop("A key that is struck twice at one moment is struck once"),
    Lost.GRACE: gettext_noop("Only one grace note before each note is kept"),
    Lost.ORNAMENTS: gettext_noop("Ornaments are not played"),
    Lost.ARTICULATIONS: gettext_noop("Articulations are not played"),
    Lost.VERSES: gettext_noop("Only the first verse is kept"),
    Lost.FINGERINGS: gettext_noop("Fingerings that are not one finger are left out"),
    Lost.QUARTER_TONES: gettext_noop("Quarter tones are taken to the nearest key"),
    Lost.BEYOND: gettext_noop("Notes beyond the keys are left out"),
    Lost.NO_LANE: gettext_noop("Drum notes that no lane stands for are left out"),
    Lost.PEDALS: gettext_noop("Pedals other than the sustain pedal are left out"),
    Lost.TEMPO: gettext_noop("A tempo that no click has is not taken"),
    Lost.NO_TIME: gettext_noop("A bar without meter is read in the meter before it"),
    Lost.STAVES: gettext_noop("Staves below the second are read as the left hand"),
    Lost.PICKUP: gettext_noop("The pick-up has become a whole bar, with rests before it"),
    Lost.OWN_METER: gettext_noop("Bars shorter or longer than their meter have one of their own"),
    Lost.OVERFULL: gettext_noop("Notes of a bar that is longer than its meter go on into the next one"),
    Lost.UNEVEN: gettext_noop("A bar that is shorter in one part than in another has rests at its end"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class NotImported:
    """One thing that did not come in as the file has it: where, counted from bar 1, and how often there."""

    what: Lost
    bar: int | None
    """None for what concerns the whole file."""
    count: int = 1

    @property
    def text(self) -> Text:
        """In words, to be said by a reader."""
        return TEXTS[self.what]


@dataclass(slots=True)
class Account:
    """Gathers what is lost while a file is read."""

    _counted: Counter[tuple[Lost, int | None]] = field(default_factory=Counter)

    def lose(self, what: Lost, bar: int | None = None, count: int = 1) -> None:
        """One more, or `count` more, of what does not come in."""
        self._counted[what, bar] += count

    def rows(self) -> tuple[NotImported, ...]:
        """By kind, then by bar."""
        kinds = list(Lost)
        rows = sorted(self._counted.items(), key=lambda item: (kinds.index(item[0][0]), item[0][1] or 0))
        return tuple(NotImported(what=what, bar=bar, count=count) for (what, bar), count in rows)
