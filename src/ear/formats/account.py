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
    UNISON = "unison"
    GRACE = "grace"
    ORNAMENTS = "ornaments"
    ARTICULATIONS = "articulations"
    VERSES = "verses"
    FINGERINGS = "fingerings"
    QUARTER_TONES = "quarter_tones"
    BEYOND = "beyond"
    HIDDEN = "hidden"
    NO_LANE = "no_lane"
    PEDALS = "pedals"
    TEMPO = "tempo"
    NO_TIME = "no_time"
    STAVES = "staves"
    OWN_METER = "own_meter"
    UNEVEN = "uneven"
    OVERFULL = "overfull"


TEXTS: dict[Lost, Text] = {
    Lost.NO_TEMPO: gettext_noop("The file has no tempo: 120 is assumed"),
    Lost.NO_METER: gettext_noop("The file has no time signature: 4/4 is assumed"),
    Lost.BENDS: gettext_noop("Pitch bends were not imported"),
    Lost.CONTROLLERS: gettext_noop("Controllers other than the pedal were not imported"),
    Lost.SOUNDS: gettext_noop("The file’s choice of sounds was not imported"),
    Lost.DEVICE: gettext_noop("Messages for one particular device were not imported"),
    Lost.AFTERTOUCH: gettext_noop("Aftertouch was not imported"),
    Lost.CUE_POINTS: gettext_noop("Cue points were not imported"),
    Lost.PROGRAM: gettext_noop("Data private to another program was not imported"),
    Lost.OTHER: gettext_noop("Messages that are not notes were not imported"),
    Lost.DOUBLED: gettext_noop("A key struck twice at the same moment became one note"),
    Lost.UNISON: gettext_noop("Two notes on the same key at once are played as one; both are kept on paper"),
    Lost.GRACE: gettext_noop("Only one grace note before each note was imported"),
    Lost.ORNAMENTS: gettext_noop("Ornaments were imported without being played"),
    Lost.ARTICULATIONS: gettext_noop("Articulations were imported without being played"),
    Lost.VERSES: gettext_noop("Only the first verse was imported"),
    Lost.FINGERINGS: gettext_noop("Fingerings other than single digits were left out"),
    Lost.QUARTER_TONES: gettext_noop("Quarter tones were moved to the nearest key"),
    Lost.BEYOND: gettext_noop("Notes outside the range of the keyboard were left out"),
    Lost.HIDDEN: gettext_noop("Notes that the score hides were left out"),
    Lost.NO_LANE: gettext_noop("Drum notes without a lane were left out"),
    Lost.PEDALS: gettext_noop("Pedals other than the sustain pedal were left out"),
    Lost.TEMPO: gettext_noop("Tempos outside the click’s range were not imported"),
    Lost.NO_TIME: gettext_noop("A bar without a time signature was given the one before it"),
    Lost.STAVES: gettext_noop("Staves below the second were read as the left hand"),
    Lost.OWN_METER: gettext_noop("Bars of irregular length were given a time signature of their own"),
    Lost.OVERFULL: gettext_noop("Notes of an overfull bar go on into the next one"),
    Lost.UNEVEN: gettext_noop("A bar that is shorter in one part than in another was filled with rests"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class NotImported:
    """One thing that did not come in as the file has it: where, counted from bar 1, and how often there."""

    feature: Lost
    bar: int | None
    """None for what concerns the whole file."""
    count: int = 1

    @property
    def text(self) -> Text:
        """In words, to be said by a reader."""
        return TEXTS[self.feature]


@dataclass(slots=True)
class ImportLosses:
    """Gathers what is lost while a file is read."""

    _counted: Counter[tuple[Lost, int | None]] = field(default_factory=Counter)

    def lose(self, feature: Lost, bar: int | None = None, count: int = 1) -> None:
        """Count one thing, or `count` things, of a kind that is not imported."""
        self._counted[feature, bar] += count

    def rows(self) -> tuple[NotImported, ...]:
        """Return what was not imported, by kind, then by bar."""
        kinds = list(Lost)
        rows = sorted(self._counted.items(), key=lambda item: (kinds.index(item[0][0]), item[0][1] or 0))
        return tuple(NotImported(feature=feature, bar=bar, count=count) for (feature, bar), count in rows)
