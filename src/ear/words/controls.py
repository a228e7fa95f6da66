"""Pedal and wheels in words."""

from ear.notes.controls import Controls
from ear.reader import Reader
from ear.text import gettext_noop
from ear.words.phrases import half_up

PEDAL = gettext_noop("sustain pedal down")
BENT_UP = gettext_noop("pitch bend up by as much as {percent}%")
BENT_DOWN = gettext_noop("pitch bend down by as much as {percent}%")
MODULATED = gettext_noop("modulation up to {percent}%")


def describe_controls(controls: Controls, reader: Reader) -> list[str]:
    """Return one phrase for each of pedal and wheels that was used: “sustain pedal down”, “modulation up to 40%”."""
    phrases = [reader.say(PEDAL, {})] if controls.is_pedal_down else []
    wheels = ((BENT_UP, controls.bend_up), (BENT_DOWN, controls.bend_down), (MODULATED, controls.modulation))
    return phrases + [reader.say(text, {"percent": half_up(100 * way)}) for text, way in wheels if way]
