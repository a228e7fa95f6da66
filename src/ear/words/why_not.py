"""Why there is no figure, in words."""

from ear.measuring.figures import WhyNot
from ear.text import Text, gettext_noop

WHY_NOT: dict[str, Text] = {
    WhyNot.NO_TOUCH: gettext_noop("this input has no touch"),
    WhyNot.NO_NOTES: gettext_noop("no note was matched"),
    WhyNot.FEW_NOTES: gettext_noop("too few notes were matched"),
    WhyNot.NO_ACCENTS: gettext_noop("the part writes no accents"),
    WhyNot.WRITTEN_FLAT: gettext_noop("every note in the part has the same velocity"),
    WhyNot.FEW_ALIKE: gettext_noop("too few notes are written at the same velocity"),
    WhyNot.FEW_OFF_BEATS: gettext_noop("too few off-beats stand alone between two beats"),
    WhyNot.STROKES_HAVE_NO_LENGTH: gettext_noop("a drum hit has no length"),
    WhyNot.FEW_JOINED: gettext_noop("too few notes are written without a gap"),
    WhyNot.ALL_PEDALLED: gettext_noop("no note was held without the pedal"),
    WhyNot.NO_CLICK: gettext_noop("recorded without a click"),
    WhyNot.FEW_BARS: gettext_noop("too few bars were played"),
    WhyNot.NO_CHORDS: gettext_noop("the part has no chords"),
    WhyNot.NO_REPEAT: gettext_noop("the exercise does not ask for a repeat"),
}
