"""Sounds to play with: by category, those that an exercise allows."""

from typing import Any

from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.practice.rules import SoundChoice
from oido.exercises.models import Exercise

CATEGORIES: tuple[tuple[Any, tuple[SoundChoice, ...]], ...] = (
    (_("pianos"), (SoundChoice.PIANO, SoundChoice.ELECTRIC_PIANO)),
    (_("organs"), (SoundChoice.ORGAN,)),
    (_("strings and bass"), (SoundChoice.STRINGS, SoundChoice.BASS)),
)
NAMES: dict[SoundChoice, Any] = {
    SoundChoice.PIANO: pgettext_lazy("label", "piano"), SoundChoice.ELECTRIC_PIANO: _("electric piano"), SoundChoice.ORGAN: pgettext_lazy("label", "organ"),
    SoundChoice.STRINGS: pgettext_lazy("label", "strings"), SoundChoice.BASS: pgettext_lazy("label", "bass"),
}  # fmt: skip
PROGRAMS = {
    SoundChoice.PIANO: 0, SoundChoice.ELECTRIC_PIANO: 4, SoundChoice.ORGAN: 19, SoundChoice.STRINGS: 48,
    SoundChoice.BASS: 32,
}  # fmt: skip
"""General MIDI's program numbers, counted from 0: the sounds of the pages' bank."""


def sounds_of(exercise: Exercise) -> list[tuple[Any, list[tuple[int, Any]]]]:
    """Return categories with their sounds as (program, name); nothing for drums or where there is only one
    sound.
    """
    if not exercise.instrument.has_key:
        return []
    allowed = exercise.recording_rules.sounds or tuple(SoundChoice)
    groups = [
        (title, [(PROGRAMS[sound], NAMES[sound]) for sound in sounds if sound in allowed])
        for title, sounds in CATEGORIES
    ]
    return [(title, sounds) for title, sounds in groups if sounds]
